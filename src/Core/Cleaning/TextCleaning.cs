using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Cleaning;

/// <summary>Repairs of text. Each gives the same when applied twice.</summary>
public static partial class TextCleaning
{
    /// <summary>Puts a text in front of what holds anything, unless it begins with it already.</summary>
    public static Func<string, string> PutBefore(string argument) =>
        text => text.Length == 0 || text.StartsWith(argument, StringComparison.Ordinal) ? text : argument + text;

    /// <summary>A number without zeros in front, e.g. <c>00420</c> as <c>420</c>; one zero stays when there is nothing else.</summary>
    public static string DropZeros(string text)
    {
        var bare = text.TrimStart('0');
        return bare.Length > 0 && char.IsAsciiDigit(bare[0]) || text.Length == bare.Length ? bare : "0" + bare;
    }

    /// <summary>Makes every run of white space one blank and trims the ends.</summary>
    public static string SqueezeBlanks(string text)
    {
        var previous = ' ';
        var needed = false;
        foreach (var c in text)
        {
            if (char.IsWhiteSpace(c) && (c != ' ' || previous == ' '))
            {
                needed = true;
                break;
            }
            previous = c;
        }
        return needed || text.EndsWith(' ') ? Blanks().Replace(text, " ").Trim() : text;
    }

    /// <summary>
    /// Drops words or phrases wherever they stand as whole words, with a colon or full stop right behind them; regardless of case.
    /// </summary>
    /// <param name="words">Separated by <c>|</c>.</param>
    public static Func<string, string> DropWords(string words)
    {
        var phrases = words.Split('|', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        if (phrases.Length == 0)
            return static text => text;
        // Longest first: “IMO number” before “IMO”.
        var longestFirst = phrases.OrderByDescending(p => p.Length).Select(p => Blanks().Replace(p, " ")).ToArray();
        return text =>
        {
            // Dropping may bring two halves of a phrase together; a few rounds are enough for anything but a riddle.
            for (var round = 0; round < MostRounds; round++)
            {
                var dropped = SqueezeBlanks(DropOnce(text, longestFirst));
                if (dropped == text)
                    break;
                text = dropped;
            }
            return text;
        };
    }

    private const int MostRounds = 8;

    // One walk from left to right; each place is compared with each phrase, so that the time is bounded by the text times the phrases.
    private static string DropOnce(string text, string[] phrases)
    {
        StringBuilder? kept = null;
        var from = 0;
        for (var i = 0; i < text.Length; )
        {
            var end = i == 0 || !IsWord(text[i - 1]) ? phrases.Select(p => EndOf(text, i, p)).FirstOrDefault(e => e > 0) : 0;
            if (end == 0)
            {
                i++;
                continue;
            }
            (kept ??= new StringBuilder(text.Length)).Append(text, from, i - from).Append(' ');
            from = i = end;
        }
        return kept is null ? text : kept.Append(text, from, text.Length - from).ToString();
    }

    // Where a phrase that begins here ends, with a colon or full stop right behind it; 0 when it does not stand here as whole words.
    private static int EndOf(string text, int at, string phrase)
    {
        foreach (var c in phrase)
        {
            if (c == ' ')
            {
                var blanks = at;
                while (at < text.Length && char.IsWhiteSpace(text[at]))
                    at++;
                if (at == blanks)
                    return 0;
                continue;
            }
            if (at >= text.Length || char.ToUpperInvariant(text[at]) != char.ToUpperInvariant(c))
                return 0;
            at++;
        }
        if (at < text.Length && text[at] is ':' or '.')
            return at + 1;
        if (at + 1 < text.Length && char.IsWhiteSpace(text[at]) && text[at + 1] is ':' or '.')
            return at + 2;
        return at == text.Length || !IsWord(text[at]) ? at : 0;
    }

    private static bool IsWord(char c) => char.IsLetter(c) || char.IsDigit(c);

    /// <summary>Keeps the digits 0–9 only.</summary>
    public static string KeepDigits(string text) => string.Concat(text.Where(char.IsAsciiDigit));

    /// <summary>
    /// Reads a number as people print it and writes it with a point: <c>1.234,50</c> → <c>1234.50</c>, <c>(5)</c> → <c>-5</c>. The sign
    /// that was
    /// chosen decides, also where the other reading would be a number: with a comma, <c>1.234</c> is 1234. What is not a number stays as
    /// it is.
    /// </summary>
    /// <param name="text">The printed number.</param>
    /// <param name="decimalSign"><c>.</c> or <c>,</c>; the other one, blanks and apostrophes separate thousands.</param>
    /// <param name="amount">
    /// The amount field that it is for, which keeps the currency that is printed, by its code or a sign that can mean one of its currencies
    /// only; null for other fields, for which a currency is dropped.
    /// </param>
    public static string ReadNumber(string text, char decimalSign, AmountField? amount = null)
    {
        var (bare, currency) = Currencies.Divided(text);
        if (currency is null && Signed(bare) is var (sign, number) && sign.Length > 0)
        {
            bare = number;
            currency = amount is null ? sign : Currencies.OfSign(sign, amount.Currencies);
            if (currency is null)
                return text;
        }
        else if (currency is not null && Currencies.PlacesOf(currency) is null)
            return text;
        if (Numbers.Plain(bare, decimalSign, decimalSign == ',' ? '.' : ',') is not { } plain)
            return Written(bare) ? With(bare) : text;
        // With a comma, “1.234” would be read as thousands the next time: a zero behind it says that these are decimals.
        if (decimalSign == ',' && Numbers.Plain(plain, ',', '.') is not null && plain.Contains('.', StringComparison.Ordinal))
            plain += "0";
        return With(plain);

        string With(string n) => amount is null || currency is null ? n : $"{n} {currency}";
    }

    // A number that this step has written already.
    private static bool Written(string text) => Numbers.Kept(text) is not null && PlainNumber().IsMatch(text);

    // A currency sign before or behind a number, within a minus or parentheses too.
    private static (string Sign, string Number) Signed(string text) =>
        CurrencySign().Match(text) is { Success: true } sign ? (sign.Value, text.Remove(sign.Index, sign.Length)) : ("", text);

    /// <summary>
    /// A time of day as <c>HH:mm</c>, however clerks write it: 14.30, 1430, 14 h 30, 2.30 pm, 2 p.m., 14:30 Uhr; seconds are left out.
    /// What is none stays as it is.
    /// </summary>
    public static string ReadTime(string text)
    {
        if (SpokenTime().Match(text) is not { Success: true } time)
            return text;
        var (half, said) = (time.Groups["half"].Value, time.Groups["said"].Success);
        // A number alone is not yet a time; four digits are.
        if (!time.Groups["minute"].Success && half.Length == 0 && !said)
            return text;
        var hour = int.Parse(time.Groups["hour"].ValueSpan, CultureInfo.InvariantCulture);
        var minute = time.Groups["minute"] is { Success: true } m ? int.Parse(m.ValueSpan, CultureInfo.InvariantCulture) : 0;
        if (half.Length > 0)
            hour = hour is < 1 or > 12 ? 24 : hour % 12 + (half is "p" or "P" ? 12 : 0);
        return hour > 23 || minute > 59 ? text : $"{hour:00}:{minute:00}";
    }

    [GeneratedRegex(
        @"^\s*(?<hour>[0-9]{1,2})(?:\s?[:.hH]?\s?(?<minute>[0-9]{2})(?:[:.][0-5][0-9])?)?\s?"
            + @"(?:(?<half>[AaPp])\.?\s?[Mm]\.?|(?<said>[Uu]hr|[Hh](?:rs?|ours)?))?\s*$",
        RegexOptions.NonBacktracking
    )]
    private static partial Regex SpokenTime();

    /// <summary>Capitalises each word: <c>GREY HERON</c> → <c>Grey Heron</c>. Words with digits stay as they are.</summary>
    public static string Capitalise(string text) =>
        Words()
            .Replace(text, m => m.Value.Any(char.IsDigit) ? m.Value : char.ToUpperInvariant(m.Value[0]) + m.Value[1..].ToLowerInvariant());

    /// <summary>Writes letters without their accents: <c>Höfnvik</c> → <c>Hofnvik</c>.</summary>
    public static string DropAccents(string text)
    {
        if (Ascii.IsValid(text))
            return text;
        var bare = new StringBuilder(text.Length);
        foreach (var c in Vocabularies.CodePoints.Normal(text, NormalizationForm.FormD))
            if (System.Globalization.CharUnicodeInfo.GetUnicodeCategory(c) != System.Globalization.UnicodeCategory.NonSpacingMark)
                bare.Append(c);
        return bare.ToString().Normalize(NormalizationForm.FormC);
    }

    /// <summary>Takes the n-th part of a text that a separator divides, counted from 1; a text with fewer parts stays as it is.</summary>
    /// <param name="argument">Separator, blank, number; a separator of a blank is written <c>blank</c>.</param>
    public static Func<string, string> TakePart(string argument)
    {
        if (Part(argument) is not { } part)
            return static text => text;
        return text =>
        {
            var parts = text.Split(part.Separator, StringSplitOptions.TrimEntries);
            return parts.Length > 1 && parts.Length >= part.Number ? parts[part.Number - 1] : text;
        };
    }

    internal static string? PartFinding(string argument) =>
        Part(argument) is null ? "Write the separator, a blank and the number of the part, such as / 2." : null;

    private static (string Separator, int Number)? Part(string argument)
    {
        var at = argument.TrimEnd().LastIndexOf(' ');
        return
            at > 0
            && int.TryParse(argument.AsSpan(at + 1), out var number)
            && number is > 0 and < 100
            && argument[..at].Trim() is { Length: > 0 } separator
            ? (separator == "blank" ? " " : separator, number)
            : null;
    }

    /// <summary>
    /// Divides texts of a fixed width: of one with so many characters (Unicode code points) takes those from one place to another. A text
    /// of another length stays as it is, and so does what was taken when it is cleaned again.
    /// </summary>
    /// <param name="argument"><c>1-2 of 6</c>, places counted from 1; <c>3 of 6</c> for one character.</param>
    public static Func<string, string> TakeCharacters(string argument) =>
        Span(argument) is not var (first, last, width)
            ? static text => text
            : text =>
                text.Length < width || text.Length > 2 * width || CodePoints.Count(text) != width
                    ? text
                    : string.Concat(text.EnumerateRunes().Skip(first - 1).Take(last - first + 1)).Trim();

    internal static string? CharactersFinding(string argument) =>
        Span(argument) is null ? "Write the first and the last character and how many there are in all, such as 1-2 of 6." : null;

    private static (int First, int Last, int Width)? Span(string argument)
    {
        var found = FixedWidth().Match(argument);
        if (!found.Success)
            return null;
        int Number(int group) => int.Parse(found.Groups[group].ValueSpan, NumberStyles.None, CultureInfo.InvariantCulture);
        var (first, last, width) = (Number(1), Number(found.Groups[2].Success ? 2 : 1), Number(3));
        return first >= 1 && first <= last && last <= width ? (first, last, width) : null;
    }

    [GeneratedRegex(@"^\s*([0-9]{1,4})(?:\s*[-–]\s*([0-9]{1,4}))?\s+of\s+([0-9]{1,4})\s*$")]
    private static partial Regex FixedWidth();

    /// <summary>Takes the first part of a text that has a form; a text without one stays as it is.</summary>
    /// <param name="argument">A pattern (<see cref="SafePattern"/>).</param>
    public static Func<string, string> TakeForm(string argument) =>
        SafePattern.TryAnywhere(argument, out var form, out _)
            ? text => SafePattern.First(form!, text)?.Trim() is { Length: > 0 } taken ? taken : text
            : static text => text;

    internal static string? FormFinding(string argument) => SafePattern.TryAnywhere(argument, out _, out var problem) ? null : problem;

    /// <summary>Replaces a whole value that a list names, regardless of case and accents.</summary>
    /// <param name="argument">Pairs <c>old=new</c>, separated by <c>|</c>.</param>
    public static Func<string, string> Replace(string argument)
    {
        var list = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var (old, now) in Pairs(argument))
            list.TryAdd(Vocabularies.Folding.Fold(old), now);
        return text => list.TryGetValue(Vocabularies.Folding.Fold(text), out var now) ? now : text;
    }

    /// <summary>A value that is replaced and itself replaces another would give another result the second time.</summary>
    internal static string? ReplaceFinding(string argument)
    {
        var pairs = Pairs(argument);
        if (pairs.Count == 0)
            return "Write pairs such as N. Quay 1=North Quay 1, separated by |.";
        var olds = pairs.Select(p => Vocabularies.Folding.Fold(p.Old)).ToHashSet(StringComparer.Ordinal);
        return
            pairs.FirstOrDefault(p =>
                olds.Contains(Vocabularies.Folding.Fold(p.New)) && Vocabularies.Folding.Fold(p.New) != Vocabularies.Folding.Fold(p.Old)
            )
                is { New: { } chained }
            ? $"“{chained}” is both a new value and an old one; one replacement must be enough."
            : null;
    }

    private static List<(string Old, string New)> Pairs(string argument) =>
        [
            .. argument
                .Split('|', StringSplitOptions.RemoveEmptyEntries)
                .Select(p => p.Split('=', 2, StringSplitOptions.TrimEntries))
                .Where(p => p.Length == 2 && p[0].Length > 0)
                .Select(p => (p[0], p[1])),
        ];

    [GeneratedRegex(@"\s+")]
    private static partial Regex Blanks();

    [GeneratedRegex(@"^-?[0-9]+(\.[0-9]+)?$")]
    private static partial Regex PlainNumber();

    [GeneratedRegex(@"[€$£¥]")]
    private static partial Regex CurrencySign();

    [GeneratedRegex(@"[\p{L}\p{Nd}']+")]
    private static partial Regex Words();
}
