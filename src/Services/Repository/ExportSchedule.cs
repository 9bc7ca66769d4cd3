using System.Globalization;

namespace ClearLexicon.Services.Repository;

/// <summary>When an export plan is run by itself: every day, on Mondays, or on the first of each month, at a time of day.</summary>
public static class ExportSchedule
{
    /// <summary>How often, by the words in plans, with what a person reads.</summary>
    public static IReadOnlyList<(string Word, string Says)> All { get; } =
    [("", "only by hand"), ("day", "every day"), ("week", "every Monday"), ("month", "on the 1st of each month")];

    /// <summary>The time of day as a plan has it, such as <c>02:30</c>; null when it is none.</summary>
    public static TimeOnly? Time(string at) =>
        TimeOnly.TryParseExact(at, "HH:mm", CultureInfo.InvariantCulture, DateTimeStyles.None, out var time) ? time : null;

    /// <summary>The first moment after another one; null when it is run by hand only. Both are in one zone.</summary>
    /// <param name="every">How often.</param>
    /// <param name="at">At what time of day.</param>
    /// <param name="after">The moment after which.</param>
    public static DateTime? Next(string every, TimeOnly at, DateTime after)
    {
        if (every is not ("day" or "week" or "month"))
            return null;
        for (var day = DateOnly.FromDateTime(after); ; day = day.AddDays(1))
            if (
                (every == "day" || every == "week" && day.DayOfWeek == DayOfWeek.Monday || every == "month" && day.Day == 1)
                && day.ToDateTime(at) is var moment
                && moment > after
            )
                return moment;
    }
}
