using ClearLexicon.Storage;

namespace ClearLexicon.Services.People;

/// <summary>
/// Time zones by their IANA names, as the system knows them. The installation has one, by which its days are reckoned; a person may have
/// another, in which times are shown to them.
/// </summary>
public sealed class TimeZones
{
    private const string Setting = "time zone";

    private readonly Database database;
    private readonly HouseClock clock;

    /// <summary>Sets the clock of the installation as it was kept.</summary>
    public TimeZones(Database database, HouseClock clock)
    {
        (this.database, this.clock) = (database, clock);
        if (House is { Length: > 0 } kept && Find(kept) is { } zone)
            clock.Set(zone);
    }

    /// <summary>All that can be chosen, by name.</summary>
    public static IReadOnlyList<string> All { get; } =
    [
        "UTC",
        .. TimeZoneInfo
            .GetSystemTimeZones()
            .Where(z => z.HasIanaId && z.Id.Contains('/', StringComparison.Ordinal) && !z.Id.StartsWith("Etc/", StringComparison.Ordinal))
            .Select(z => z.Id)
            .Order(StringComparer.Ordinal),
    ];

    /// <summary>A zone by its name; null when the system knows none.</summary>
    public static TimeZoneInfo? Find(string id) => TimeZoneInfo.TryFindSystemTimeZoneById(id, out var zone) ? zone : null;

    /// <summary>A zone by the place that stands for it: <c>Berlin</c> for <c>Europe/Berlin</c>.</summary>
    public static string Place(TimeZoneInfo zone) => zone.Id[(zone.Id.LastIndexOf('/') + 1)..].Replace('_', ' ');

    /// <summary>The zone of the installation as it was chosen; empty for that of the server.</summary>
    public string House => database.Read(c => SettingStore.Find(c, Setting)) ?? "";

    /// <summary>The zone in which a person sees times.</summary>
    public TimeZoneInfo Of(string person) =>
        database.Read(c => PeopleStore.Find(c, person)) is { Zone.Length: > 0 } own && Find(own.Zone) is { } zone
            ? zone
            : clock.LocalTimeZone;

    /// <summary>Chooses the zone of the installation.</summary>
    /// <param name="id">Its name; empty for that of the server.</param>
    /// <param name="who">Who chooses it.</param>
    public Result SetHouse(string id, string who)
    {
        if ((id.Length == 0 ? TimeZoneInfo.Local : Find(id)) is not { } zone)
            return Unknown(id);
        if (id == House)
            return Result.Done;
        database.Write(c =>
        {
            SettingStore.Set(c, Setting, id);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "changed the time zone", new LedgerSubject(SubjectKind.Settings), zone.Id);
        });
        clock.Set(zone);
        return Result.Done;
    }

    /// <summary>Chooses the zone of a person; empty for that of the installation.</summary>
    public Result Set(string person, string id)
    {
        if (id.Length > 0 && Find(id) is null)
            return Unknown(id);
        database.Write(c => PeopleStore.SetZone(c, person, id));
        return Result.Done;
    }

    private static Result Unknown(string id) => $"The system knows no time zone “{id}”.";
}
