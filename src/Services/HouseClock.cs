using System.Globalization;

namespace ClearLexicon.Services;

/// <summary>The clock of the installation: moments are the system's, days are those of its time zone.</summary>
public class HouseClock : TimeProvider
{
    private volatile TimeZoneInfo _zone = TimeZoneInfo.Local;

    /// <summary>The zone of the installation (IANA).</summary>
    public override TimeZoneInfo LocalTimeZone => _zone;

    internal void Set(TimeZoneInfo zone) => _zone = zone;
}

/// <summary>Moments as they are kept, <c>yyyy-MM-dd HH:mm</c> or longer in UTC, and days as people have them.</summary>
public static class Moments
{
    private const int ToTheMinute = 16;

    /// <summary>Today, in the zone of the installation.</summary>
    public static DateOnly Today(this TimeProvider clock) => DateOnly.FromDateTime(clock.GetLocalNow().Date);

    /// <summary>The moment at which a day begins in the zone of the installation.</summary>
    public static DateTimeOffset Begins(this TimeProvider clock, DateOnly day)
    {
        var midnight = day.ToDateTime(TimeOnly.MinValue);
        var zone = clock.LocalTimeZone;
        // Where clocks go forward at midnight, the day begins an hour later.
        while (zone.IsInvalidTime(midnight))
            midnight = midnight.AddMinutes(15);
        return new DateTimeOffset(
            midnight,
            zone.IsAmbiguousTime(midnight) ? zone.GetAmbiguousTimeOffsets(midnight).Max() : zone.GetUtcOffset(midnight)
        );
    }

    /// <summary>A moment that is kept, as it is in a zone; null when the text is none.</summary>
    public static DateTime? In(string? stamp, TimeZoneInfo zone) =>
        stamp is { Length: >= ToTheMinute }
        && DateTime.TryParseExact(
            stamp[..ToTheMinute].Replace('T', ' '),
            "yyyy-MM-dd HH:mm",
            CultureInfo.InvariantCulture,
            DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
            out var at
        )
            ? TimeZoneInfo.ConvertTimeFromUtc(at, zone)
            : null;

    /// <summary>The day of a moment that is kept, in the zone of the installation.</summary>
    public static DateOnly? DayOf(this TimeProvider clock, string? stamp) =>
        In(stamp, clock.LocalTimeZone) is { } at ? DateOnly.FromDateTime(at) : null;
}
