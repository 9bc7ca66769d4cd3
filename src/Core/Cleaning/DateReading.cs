using System.Globalization;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Cleaning;

/// <summary>
/// Reads dates in stated formats and writes them as ISO 8601. Only the formats given are tried. A text that two of them read
/// as different dates stays as it is: an ambiguous day and month is flagged, never guessed.
/// </summary>
public static class DateReading
{
    /// <summary>Two-digit years up to this one are 2000 and later, the others 1900 and later, unless a pivot is stated.</summary>
    public const int Pivot = 49;

    /// <summary>Languages whose month names are read and written.</summary>
    public static IReadOnlyList<(string Code, string Name)> Languages { get; } =
    [("en", "English"), ("de", "German"), ("fr", "French"), ("nl", "Dutch"), ("da", "Danish"), ("sv", "Swedish"), ("nb", "Norwegian")];

    /// <summary>
    /// Makes a reader for formats separated by <c>|</c>, perhaps with <c>lang=de</c> and <c>pivot=30</c> among them. What fits
    /// none stays as it is; an ISO date stays too.
    /// </summary>
    public static Func<string, string> Reader(string argument)
    {
        var (formats, culture) = Read(argument);
        return text =>
        {
            if (text.Length == 0 || FieldParsing.TryDate(text, out _) && text[4..5] == "-")
                return text;
            var dates = Dates(text, formats, culture);
            return dates is [var only] ? only.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) : text;
        };
    }

    /// <summary>The first two dates that a text can be by the formats, in words; null when it is not ambiguous.</summary>
    public static (string First, string Second)? Ambiguous(string text, string argument)
    {
        var (formats, culture) = Read(argument);
        return Dates(text, formats, culture) is [var a, var b, ..] ? (Spoken(a), Spoken(b)) : null;
        static string Spoken(DateOnly date) => date.ToString("d MMMM yyyy", CultureInfo.InvariantCulture);
    }

    /// <summary>Why formats cannot be used, in one sentence; null when they can.</summary>
    public static string? Finding(string argument)
    {
        foreach (var part in Split(argument))
            if (part.StartsWith("lang=", StringComparison.Ordinal))
            {
                if (Languages.All(l => l.Code != part[5..]))
                    return $"“{part[5..]}” is not one of the languages {string.Join(", ", Languages.Select(l => l.Code))}.";
            }
            else if (part.StartsWith("pivot=", StringComparison.Ordinal))
            {
                if (!int.TryParse(part[6..], out var pivot) || pivot is < 0 or > 99)
                    return "The pivot is a two-digit year from 0 to 99.";
            }
            else if (!part.Contains('y') || !part.Contains('M') || !part.Contains('d'))
                return $"The date format “{part}” needs a day (d), a month (M) and a year (y).";
            else
                try
                {
                    _ = new DateOnly(2024, 3, 5).ToString(part, CultureInfo.InvariantCulture);
                }
                catch (FormatException)
                {
                    return $"“{part}” is not a date format; write for example d-MMM-yy.";
                }
        return Read(argument).Formats.Length == 0 ? "Write at least one date format, for example d-MMM-yy." : null;
    }

    private static List<DateOnly> Dates(string text, string[] formats, CultureInfo culture)
    {
        var dates = new List<DateOnly>(1);
        text = Vocabularies.CodePoints.Normal(text, System.Text.NormalizationForm.FormC);
        foreach (var format in formats)
            if (
                (
                    DateOnly.TryParseExact(text, format, culture, DateTimeStyles.AllowWhiteSpaces, out var date)
                    || MonthNames.InDigits(text, format, culture.Name) is var (plain, digits)
                        && DateOnly.TryParseExact(plain, digits, culture, DateTimeStyles.AllowWhiteSpaces, out date)
                ) && !dates.Contains(date)
            )
                dates.Add(date);
        return dates;
    }

    private static (string[] Formats, CultureInfo Culture) Read(string argument)
    {
        var parts = Split(argument);
        var pivot =
            parts.FirstOrDefault(p => p.StartsWith("pivot=", StringComparison.Ordinal)) is { } p && int.TryParse(p[6..], out var year)
                ? year
                : Pivot;
        var language = parts.FirstOrDefault(l => l.StartsWith("lang=", StringComparison.Ordinal))?[5..];
        var culture = (CultureInfo)(language is null ? CultureInfo.InvariantCulture : CultureInfo.GetCultureInfo(language)).Clone();
        culture.DateTimeFormat.Calendar = new GregorianCalendar { TwoDigitYearMax = 2000 + pivot };
        return ([.. parts.Where(f => !f.Contains('='))], culture);
    }

    private static string[] Split(string argument) =>
        argument.Split('|', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
}
