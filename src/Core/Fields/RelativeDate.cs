using System.Globalization;

namespace ClearLexicon.Core.Fields;

/// <summary>Days said from today on: <c>today</c>, <c>yesterday</c>, <c>tomorrow</c>, <c>30 days ago</c>, <c>in 2 weeks</c>.</summary>
public static class RelativeDate
{
    private const int Most = 100_000;

    /// <summary>The day that a text means; null when it means none.</summary>
    /// <param name="text">The text; days, weeks, months and years are counted up to 100,000.</param>
    /// <param name="today">Today.</param>
    public static DateOnly? On(string text, DateOnly today)
    {
        var words = text.Trim().ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return words switch
        {
            ["today"] => today,
            ["yesterday"] => Moved(today, -1, "day"),
            ["tomorrow"] => Moved(today, 1, "day"),
            [var number, var unit, "ago"] when Number(number) is { } n => Moved(today, -n, unit),
            ["in", var number, var unit] when Number(number) is { } n => Moved(today, n, unit),
            _ => null,
        };
    }

    private static int? Number(string text) =>
        text is "a" or "an" or "one" ? 1
        : int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n <= Most ? n
        : null;

    // The calendar ends; a day beyond its ends is its end.
    private static DateOnly? Moved(DateOnly from, int by, string unit)
    {
        try
        {
            return unit.TrimEnd('s') switch
            {
                "day" => from.AddDays(by),
                "week" => from.AddDays(7 * by),
                "month" => from.AddMonths(by),
                "year" => from.AddYears(by),
                _ => null,
            };
        }
        catch (ArgumentOutOfRangeException)
        {
            return by < 0 ? DateOnly.MinValue : DateOnly.MaxValue;
        }
    }
}
