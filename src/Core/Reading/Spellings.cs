using System.Globalization;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading;

/// <summary>How a spelling must stand in a text to be taken for the value.</summary>
internal enum Hold
{
    /// <summary>As whole words: “12” is not in “1260”.</summary>
    Whole,

    /// <summary>As whole words, perhaps with an s behind.</summary>
    Ending,

    /// <summary>At the beginning or the end of a word: “Pike” in “Pikeson”, “McPike”.</summary>
    Edge,

    /// <summary>Anywhere, glued to whatever.</summary>
    Anywhere,
}

/// <summary>
/// Every way in which a value may be written, folded and without blanks: dates in all orders and with the names of months in the languages
/// read here, numbers with and without separators and decimals, terms by all their labels, texts as a whole and in their parts.
/// </summary>
internal sealed class Spellings
{
    // Joining words are not masked by themselves.
    private static readonly HashSet<string> Joining =
    [
        "a",
        "an",
        "and",
        "at",
        "by",
        "d",
        "da",
        "de",
        "del",
        "den",
        "der",
        "des",
        "di",
        "du",
        "et",
        "for",
        "in",
        "la",
        "le",
        "of",
        "on",
        "or",
        "the",
        "to",
        "und",
        "van",
        "von",
        "y",
    ];

    // Months are looked for in the languages that are read here, and in those of their neighbours.
    private static readonly string[] Languages =
    [
        .. DateReading.Languages.Select(l => l.Code),
        .. "it es pt fi pl cs sk hu ro hr sl et lv lt is ga cy tr ca el ru uk bg".Split(' '),
    ];

    // The days of a month in words, from the first.
    private static readonly string[][] DaysInWords =
    [
        .. Enumerable
            .Range(1, 31)
            .Select(d => new[] { English(d), $"{German(d)}r", $"{German(d)}n", German(d), French(d) }.Select(Glued).ToArray()),
    ];

    private static string English(int day)
    {
        string[] small =
        [
            "",
            "first",
            "second",
            "third",
            "fourth",
            "fifth",
            "sixth",
            "seventh",
            "eighth",
            "ninth",
            "tenth",
            "eleventh",
            "twelfth",
            "thirteenth",
            "fourteenth",
            "fifteenth",
            "sixteenth",
            "seventeenth",
            "eighteenth",
            "nineteenth",
            "twentieth",
        ];
        return day <= 20 ? small[day]
            : day == 30 ? "thirtieth"
            : (day < 30 ? "twenty" : "thirty") + small[day % 10];
    }

    private static string German(int day)
    {
        string[] ones = ["", "ein", "zwei", "drei", "vier", "fünf", "sechs", "sieben", "acht", "neun"];
        return day switch
        {
            1 => "erste",
            3 => "dritte",
            7 => "siebte",
            8 => "achte",
            11 => "elfte",
            12 => "zwölfte",
            16 => "sechzehnte",
            17 => "siebzehnte",
            < 10 => $"{ones[day]}te",
            10 => "zehnte",
            < 20 => $"{ones[day % 10]}zehnte",
            20 => "zwanzigste",
            30 => "dreißigste",
            _ => $"{ones[day % 10]}und{(day < 30 ? "zwanzig" : "dreißig")}ste",
        };
    }

    private static string French(int day)
    {
        string[] small =
        [
            "",
            "premier",
            "deux",
            "trois",
            "quatre",
            "cinq",
            "six",
            "sept",
            "huit",
            "neuf",
            "dix",
            "onze",
            "douze",
            "treize",
            "quatorze",
            "quinze",
            "seize",
            "dixsept",
            "dixhuit",
            "dixneuf",
            "vingt",
        ];
        return day <= 20 ? small[day]
            : day == 30 ? "trente"
            : day % 10 == 1 ? $"{(day < 30 ? "vingt" : "trente")}etun"
            : "vingt" + small[day % 10];
    }

    private static readonly string[] Roman = ["i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x", "xi", "xii"];

    private static readonly string[][] Months =
    [
        .. Enumerable
            .Range(1, 12)
            .Select(m =>
                Languages
                    .Select(l => CultureInfo.GetCultureInfo(l).DateTimeFormat)
                    .SelectMany(f => new[] { f.GetMonthName(m), f.GetAbbreviatedMonthName(m), f.MonthGenitiveNames[m - 1] })
                    .Select(Glued)
                    .Where(n => n.Length > 0 && !char.IsDigit(n[0]))
                    .Append(Roman[m - 1])
                    .Distinct()
                    .ToArray()
            ),
    ];

    private readonly Dictionary<string, Hold> _all = new(StringComparer.Ordinal);

    /// <summary>All, each with how it must stand.</summary>
    public IEnumerable<KeyValuePair<string, Hold>> All => _all;

    /// <summary>How many there are.</summary>
    public int Count => _all.Count;

    /// <summary>Whether there is none.</summary>
    public bool IsEmpty => _all.Count == 0;

    /// <summary>Adds a stored value.</summary>
    /// <param name="field">Its field; null when it is no longer in the type.</param>
    /// <param name="text">As it is stored.</param>
    /// <param name="terms">The vocabulary of a term field.</param>
    public void Add(Field? field, string text, VocabularyIndex? terms = null)
    {
        if (field?.Kind.Measure == Measure.Truth)
            // A yes says nothing without its place.
            return;
        if (field?.Kind.HasRows == true)
            foreach (var row in TableText.Rows(text) ?? [])
            foreach (var (column, cell) in row)
                Add(field.Columns.FirstOrDefault(c => c.Key == column), cell);
        else if (field?.Kind.HasTerms == true && terms is not null)
            foreach (var name in field.Kind.IsMultiple ? text.Split(';', StringSplitOptions.TrimEntries) : [text])
                AddTerm(name, terms);
        else
            AddPlain(field, text);
    }

    private void AddTerm(string name, VocabularyIndex terms)
    {
        AddText(name, inParts: false);
        if (terms.IndexOfAny(name) is not (>= 0 and var i))
            return;
        var term = terms.Vocabulary.Terms[i];
        string[] spellings =
        [
            term.Label,
            term.Code ?? "",
            .. term.Variants,
            .. term.Words.Values.SelectMany(w => w.Variants.Prepend(w.Label)),
        ];
        foreach (var word in spellings)
            AddText(word, inParts: false);
    }

    private void AddPlain(Field? field, string text)
    {
        if (FieldParsing.TryDate(text.Trim(), out var date))
            AddDate(date);
        else if (Numbers.Kept(text.Split(' ')[0]) is { } value && field?.Kind.IsWritten != true)
            AddNumber(value);
        else
            AddText(text, inParts: field is not IdentifierField);
        if (field is IdentifierField { Scheme: "iban" })
            AddAccount(text);
    }

    /// <summary>Adds what stood on the page where a value was read.</summary>
    public void AddRaw(Field? field, string raw)
    {
        if (field?.Kind.Measure != Measure.Truth)
            AddText(raw, inParts: field is null or TextField);
    }

    private void AddText(string text, bool inParts)
    {
        foreach (var written in Umlauts(text))
        {
            var parts = Folding.Letters(written).Split(' ', StringSplitOptions.RemoveEmptyEntries);
            Put(string.Concat(parts));
            if (!inParts)
                continue;
            if (parts.Length == 2)
                Put(parts[1] + parts[0]);
            foreach (var part in parts)
                if ((part.Length > 1 || parts.Length == 1) && !Joining.Contains(part))
                    Put(part);
        }
    }

    // Two spellings of one letter: “Mueller” for “Müller” and the other way round.
    private static IEnumerable<string> Umlauts(string text)
    {
        yield return text;
        var lower = CodePoints.Normal(text, System.Text.NormalizationForm.FormC).ToLowerInvariant();
        var spread = lower
            .Replace("ä", "ae", StringComparison.Ordinal)
            .Replace("ö", "oe", StringComparison.Ordinal)
            .Replace("ü", "ue", StringComparison.Ordinal)
            .Replace("å", "aa", StringComparison.Ordinal)
            .Replace("ø", "oe", StringComparison.Ordinal);
        if (spread != lower)
            yield return spread;
        var drawn = lower
            .Replace("ae", "a", StringComparison.Ordinal)
            .Replace("oe", "o", StringComparison.Ordinal)
            .Replace("ue", "u", StringComparison.Ordinal)
            .Replace("aa", "a", StringComparison.Ordinal);
        if (drawn != lower)
            yield return drawn;
    }

    private void Put(string glued)
    {
        if (glued.Length == 0)
            return;
        Put(
            glued,
            glued.All(char.IsDigit) && glued.Length < 7
                ? Hold.Whole
                : glued.Length switch
                {
                    >= 5 => Hold.Anywhere,
                    4 => Hold.Edge,
                    _ => Hold.Ending,
                }
        );
    }

    private void Put(string spelling, Hold hold)
    {
        // The loosest that was asked for holds.
        if (spelling.Length > 0 && (!_all.TryGetValue(spelling, out var known) || known < hold))
            _all[spelling] = hold;
    }

    private void AddNumber(decimal value)
    {
        var text = Math.Abs(value).ToString("0.############################", CultureInfo.InvariantCulture);
        var point = text.IndexOf('.', StringComparison.Ordinal);
        var digits = text.Replace(".", "", StringComparison.Ordinal);
        var decimals = point < 0 ? 0 : text.Length - point - 1;
        Put(digits, Hold.Whole);
        for (var d = decimals + 1; d <= 4; d++)
            Put(digits + new string('0', d - decimals), Hold.Whole);
    }

    // The number of the account, of the bank and of both stand in an IBAN (ISO 13616) and without it; where each begins differs by country.
    private void AddAccount(string iban)
    {
        var own = Glued(iban);
        if (own.Length < 12)
            return;
        var inside = own[4..];
        for (var length = Math.Min(inside.Length, MostOfAccount); length >= LeastOfAccount; length--)
        for (var at = 0; at + length <= inside.Length; at++)
            if (inside.AsSpan(at, length).IndexOfAnyExceptInRange('0', '9') < 0)
                Put(inside.Substring(at, length).TrimStart('0'), Hold.Whole);
    }

    private const int LeastOfAccount = 7,
        MostOfAccount = 26;

    // As machine-readable lines of travel papers have a day (ICAO 9303): yymmdd and a check digit with the weights 7, 3, 1.
    private void AddMachineReadable(DateOnly date)
    {
        var six = date.ToString("yyMMdd", CultureInfo.InvariantCulture);
        int[] weights = [7, 3, 1];
        var check = six.Select((digit, i) => (digit - '0') * weights[i % 3]).Sum() % 10;
        Put($"{six}{check}", Hold.Anywhere);
        // The check digit may be misread.
        for (var digit = 0; digit <= 9; digit++)
            Put($"{six}{digit}", Hold.Whole);
    }

    private void AddDate(DateOnly date)
    {
        AddMachineReadable(date);
        string[] years =
        [
            date.Year.ToString("0000", CultureInfo.InvariantCulture),
            (date.Year % 100).ToString("00", CultureInfo.InvariantCulture),
        ];
        string[] days = [$"{date.Day}", $"{date.Day:00}"],
            numbers = [$"{date.Month}", $"{date.Month:00}"];
        foreach (var y in years)
        foreach (var d in days)
        {
            foreach (var m in numbers)
            foreach (var form in (string[])[y + m + d, d + m + y, m + d + y])
                Put(form, form.Length >= 8 ? Hold.Anywhere : Hold.Whole);
            foreach (var m in Months[date.Month - 1])
            foreach (var ending in (string[])["", "st", "nd", "rd", "th", "er", "e", "te", "of", "stof", "ndof", "rdof", "thof"])
            foreach (var form in (string[])[d + ending + m + y, m + d + ending + y, y + m + d + ending])
                Put(form, Hold.Whole);
            // “3 de mayo de 1970”.
            foreach (var m in Months[date.Month - 1])
            foreach (var form in (string[])[$"{d}de{m}de{y}", $"{d}de{m}{y}"])
                Put(form, Hold.Whole);
        }
        foreach (var y in years)
        foreach (var word in DaysInWords[date.Day - 1])
        foreach (var m in Months[date.Month - 1])
        foreach (var form in (string[])[word + m + y, word + "of" + m + y, m + word + y, m + "the" + word + y])
            Put(form, Hold.Whole);
        Put(years[0] + $"{date.DayOfYear:000}", Hold.Whole);
    }

    private static string Glued(string text) => Folding.Letters(text).Replace(" ", "", StringComparison.Ordinal);
}
