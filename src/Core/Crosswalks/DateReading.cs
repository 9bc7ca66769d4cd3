using System.Globalization;

namespace ClearLexicon.Core.Crosswalks;

/// <summary>
/// Reads dates in stated formats and writes them as ISO 8601. Only the formats given are tried, in order, so that an
/// ambiguous day and month is never guessed. Two-digit years up to the pivot belong to this century.
/// </summary>
public static class DateReading
{
    /// <summary>Two-digit years 00–49 are 2000–2049, 50–99 are 1950–1999.</summary>
    public const int Pivot = 49;

    private static readonly CultureInfo Culture = MakeCulture();

    /// <summary>Makes a reader for formats separated by <c>|</c>. What fits none stays as it is; an ISO date stays too.</summary>
    public static Func<string, string> Reader(string formats)
    {
        var all = Split(formats);
        return text =>
        {
            if (text.Length == 0 || Core.Schemas.FieldParsing.TryDate(text, out _) && text[4..5] == "-") return text;
            foreach (var format in all)
                if (DateOnly.TryParseExact(text, format, Culture, DateTimeStyles.AllowWhiteSpaces, out var date))
                    return date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
            return text;
        };
    }

    /// <summary>Why formats cannot be used, in one sentence; null when they can.</summary>
    public static string? Fault(string formats)
    {
        foreach (var format in Split(formats))
        {
            if (!format.Contains('y') || !format.Contains('M') || !format.Contains('d'))
                return $"The date format “{format}” needs a day (d), a month (M) and a year (y).";
            try { _ = new DateOnly(2024, 3, 5).ToString(format, Culture); }
            catch (FormatException) { return $"“{format}” is not a date format; write for example d-MMM-yy."; }
        }
        return null;
    }

    private static string[] Split(string formats) =>
        formats.Split('|', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    private static CultureInfo MakeCulture()
    {
        var culture = (CultureInfo)CultureInfo.InvariantCulture.Clone();
        culture.DateTimeFormat.Calendar = new GregorianCalendar { TwoDigitYearMax = 2000 + Pivot };
        return CultureInfo.ReadOnly(culture);
    }
}
