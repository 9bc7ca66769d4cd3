using System.Globalization;
using System.Security.Claims;
using ClearLexicon.Services;
using ClearLexicon.Services.People;

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

    /// <summary>Day and time; what is no moment stays as it is.</summary>
    public string Of(string? stamp) => Shown(stamp, "yyyy-MM-dd HH:mm");

    /// <summary>The day.</summary>
    public string Day(string? stamp) => Shown(stamp, "yyyy-MM-dd");

    /// <summary>The time of what was today, the day of what is older.</summary>
    public string Short(string? stamp) =>
        Moments.In(stamp, Zone) is not { } at ? ""
        : at.Date == TimeZoneInfo.ConvertTime(clock.GetUtcNow(), Zone).Date ? at.ToString("HH:mm", CultureInfo.InvariantCulture)
        : at.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    /// <summary>The time of a moment.</summary>
    public string Time(DateTimeOffset at) => TimeZoneInfo.ConvertTime(at, Zone).ToString("HH:mm", CultureInfo.InvariantCulture);

    private string Shown(string? stamp, string shape) =>
        Moments.In(stamp, Zone)?.ToString(shape, CultureInfo.InvariantCulture) ?? stamp ?? "";
}
