using System.Globalization;

namespace ClearLexicon.Core.Fields;

/// <summary>The forms in which days, times and several terms are written.</summary>
public static class FieldParsing
{
    private static readonly string[] SpokenDates = ["d MMM yyyy", "d MMMM yyyy"];

    /// <summary>The terms of a text that holds several, separated by semicolons.</summary>
    public static string[] Terms(string text) => text.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    /// <summary>Reads <c>yyyy-MM-dd</c> (ISO 8601), and <c>3 March 2024</c> as people type it.</summary>
    public static bool TryDate(string text, out DateOnly date)
    {
        date = default;
        if (IsIso(text))
        {
            int year = Two(text, 0) * 100 + Two(text, 2),
                month = Two(text, 5),
                day = Two(text, 8);
            if (year < 1 || month is < 1 or > 12 || day < 1 || day > DateTime.DaysInMonth(year, month))
                return false;
            date = new DateOnly(year, month, day);
            return true;
        }
        return DateOnly.TryParseExact(text, SpokenDates, CultureInfo.InvariantCulture, DateTimeStyles.AllowInnerWhite, out date);
    }

    /// <summary>Reads <c>HH:mm</c> (ISO 8601) or <c>H:mm</c>, also with full seconds of <c>:00</c>.</summary>
    /// <param name="text">The text.</param>
    /// <param name="minutes">Minutes since midnight, 0 to 1,439.</param>
    public static bool TryTime(string text, out int minutes)
    {
        minutes = 0;
        if (text.Length > 5 && text.EndsWith(":00", StringComparison.Ordinal))
            text = text[..^3];
        if (
            text.Length is not (4 or 5)
            || text[^3] != ':'
            // Numbers are read with what stands behind a NUL left out.
            || text.Contains('\0', StringComparison.Ordinal)
            || !int.TryParse(text.AsSpan(0, text.Length - 3), NumberStyles.None, CultureInfo.InvariantCulture, out var hour)
            || !int.TryParse(text.AsSpan(text.Length - 2), NumberStyles.None, CultureInfo.InvariantCulture, out var minute)
            || hour > 23
            || minute > 59
        )
            return false;
        minutes = hour * 60 + minute;
        return true;
    }

    /// <summary>Whether a text has the form of a date in ISO 8601; the day may not exist.</summary>
    internal static bool IsIso(string text)
    {
        if (text.Length != 10 || text[4] != '-' || text[7] != '-')
            return false;
        for (var i = 0; i < 10; i++)
            if (i is not (4 or 7) && !char.IsAsciiDigit(text[i]))
                return false;
        return true;
    }

    private static int Two(string text, int at) => (text[at] - '0') * 10 + text[at + 1] - '0';
}
