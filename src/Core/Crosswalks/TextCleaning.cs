using System.Text;
using System.Text.RegularExpressions;

namespace ClearLexicon.Core.Crosswalks;

/// <summary>Repairs of text. Each gives the same when applied twice.</summary>
public static partial class TextCleaning
{
    /// <summary>Makes every run of white space one blank and trims the ends.</summary>
    public static string SqueezeBlanks(string text)
    {
        var previous = ' ';
        var needed = false;
        foreach (var c in text)
        {
            if (char.IsWhiteSpace(c) && (c != ' ' || previous == ' ')) { needed = true; break; }
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
        if (phrases.Length == 0) return static text => text;
        // Longest first: “IMO number” before “IMO”.
        var any = string.Join('|', phrases.OrderByDescending(p => p.Length).Select(p => Regex.Escape(p).Replace(@"\ ", @"\s+")));
        var pattern = new Regex($@"(?:^|(?<=[^\p{{L}}\p{{Nd}}]))(?:{any})(?:\s?[:.]|(?=[^\p{{L}}\p{{Nd}}])|$)",
            RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, TimeSpan.FromMilliseconds(50));
        return text =>
        {
            // Dropping may bring two halves of a phrase together; repeat until nothing changes.
            for (var before = ""; text != before;)
            {
                before = text;
                text = SqueezeBlanks(pattern.Replace(text, " "));
            }
            return text;
        };
    }

    /// <summary>Keeps the digits 0–9 only.</summary>
    public static string KeepDigits(string text) => string.Concat(text.Where(char.IsAsciiDigit));

    /// <summary>
    /// Reads a number as people print it and writes it with a point: <c>1.234,50</c> → <c>1234.50</c>. A currency sign or
    /// code beside it is dropped. What is not a number stays as it is.
    /// </summary>
    /// <param name="text">The printed number.</param>
    /// <param name="decimalSign"><c>.</c> or <c>,</c>; the other one, blanks and apostrophes separate thousands.</param>
    public static string ReadNumber(string text, char decimalSign)
    {
        if (PlainNumber().IsMatch(text)) return text;
        var bare = Currency().Replace(text.Trim(), "");
        var thousands = decimalSign == ',' ? '.' : ',';
        var number = new StringBuilder(bare.Length);
        foreach (var c in bare)
        {
            if (c == thousands || char.IsWhiteSpace(c) || c is '\'' or '’') continue;
            number.Append(c == decimalSign ? '.' : c);
        }
        var read = number.ToString();
        return PlainNumber().IsMatch(read) ? read : text;
    }

    /// <summary>Capitalises each word: <c>GREY HERON</c> → <c>Grey Heron</c>. Words with digits stay as they are.</summary>
    public static string Capitalise(string text) =>
        Words().Replace(text, m => m.Value.Any(char.IsDigit) ? m.Value : char.ToUpperInvariant(m.Value[0]) + m.Value[1..].ToLowerInvariant());

    [GeneratedRegex(@"\s+")]
    private static partial Regex Blanks();

    [GeneratedRegex(@"^-?[0-9]+(\.[0-9]+)?$")]
    private static partial Regex PlainNumber();

    [GeneratedRegex(@"^(?:[€$£]|[A-Z]{3}\b)\s*|\s*(?:[€$£]|\b[A-Z]{3})$")]
    private static partial Regex Currency();

    [GeneratedRegex(@"[\p{L}\p{Nd}']+")]
    private static partial Regex Words();
}
