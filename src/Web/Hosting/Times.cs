using System.Globalization;
using System.Security.Claims;
using ClearLexicon.Services;
using ClearLexicon.Services.People;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Hosting;

/// <summary>Moments that are kept in UTC, as the person who looks at a page has them; for views.</summary>
public sealed class Times(TimeZones zones, TimeProvider clock, IHttpContextAccessor http)
{
    private TimeZoneInfo Zone => field ??= zones.Of(http.HttpContext?.User.FindFirstValue(ClaimTypes.Name) ?? "");

    /// <summary>The zone, as it is named on each page: “Berlin time”.</summary>
    public string Called => Zone.Id is "UTC" or "Etc/UTC" ? "UTC" : $"{TimeZones.Place(Zone)} time";

    /// <summary>Name of the zone (IANA) and how far it is from UTC now.</summary>
    public string InFull =>
        Zone.GetUtcOffset(clock.GetUtcNow()) is var off && off == TimeSpan.Zero
            ? Zone.Id
            : $"{Zone.Id}, UTC{(off < TimeSpan.Zero ? '−' : '+')}{off:h\\:mm}";

    /// <summary>Day and time; empty where there is no moment.</summary>
    public string Of(Instant? at) => Shown(at, "yyyy-MM-dd HH:mm");

    /// <summary>Day and time of a line of the ledger, which is kept as it was signed.</summary>
    public string Of(LedgerEntry line) => line.Moment is { } at ? Of(at) : line.At;

    /// <summary>The day.</summary>
    public string Day(Instant? at) => Shown(at, "yyyy-MM-dd");

    /// <summary>The time of what was today, the day of what is older.</summary>
    public string Short(Instant? at) =>
        Shown(at, at?.In(Zone).Date == TimeZoneInfo.ConvertTime(clock.GetUtcNow(), Zone).Date ? "HH:mm" : "yyyy-MM-dd");

    /// <summary>The time of a moment.</summary>
    public string Time(DateTimeOffset at) => TimeZoneInfo.ConvertTime(at, Zone).ToString("HH:mm", CultureInfo.InvariantCulture);

    private string Shown(Instant? at, string shape) => at?.In(Zone).ToString(shape, CultureInfo.InvariantCulture) ?? "";
}
