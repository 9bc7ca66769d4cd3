using ClearLexicon.Storage;

namespace ClearLexicon.Services;

/// <summary>The clock of the installation: moments are the system's, days are those of its time zone.</summary>
public class HouseClock : TimeProvider
{
    private volatile TimeZoneInfo _zone = TimeZoneInfo.Local;

    /// <summary>The zone of the installation (IANA).</summary>
    public override TimeZoneInfo LocalTimeZone => _zone;

    internal void Set(TimeZoneInfo zone) => _zone = zone;
}

/// <summary>Moments as they are kept, and days as people have them.</summary>
public static class Moments
{
    /// <summary>Now, as it is kept.</summary>
    public static Instant Moment(this TimeProvider clock) => new(clock.GetUtcNow());

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

    /// <summary>A moment that is kept, as clocks show it in a zone.</summary>
    public static DateTime In(this Instant at, TimeZoneInfo zone) => TimeZoneInfo.ConvertTimeFromUtc(at.Utc.UtcDateTime, zone);

    /// <summary>The day of a moment that is kept, in the zone of the installation.</summary>
    public static DateOnly DayOf(this TimeProvider clock, Instant at) => DateOnly.FromDateTime(at.In(clock.LocalTimeZone));
}
