using System.Globalization;
using ClearLexicon.Core.Reading;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Readers;

/// <summary>A field of a reader, week by week.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Shares">Share of values that were accepted as they were read, 0 to 1, the oldest week first; null for a week without
/// any.</param>
/// <param name="Fall">By how much the last seven days are below the weeks before, 0 to 1; null while that is no more than chance.</param>
/// <param name="Documents">Documents of the last seven days in which it was changed.</param>
public sealed record WatchedField(string Field, IReadOnlyList<double?> Shares, double? Fall, int Documents);

/// <summary>Watches how much of what readers read people accept unchanged, from the desk's own history.</summary>
public sealed class ReaderWatch(Database database, TimeProvider clock)
{
    /// <summary>Weeks that are looked at, the last seven days included.</summary>
    public const int Weeks = 8;

    /// <summary>Fewest documents of a week, and least fall, of which something is said.</summary>
    private const int Telling = 5;
    private const double Falls = 0.15;

    /// <summary>Fields of a reader, those that fall first; empty when nothing was filed that it read.</summary>
    public List<WatchedField> Of(string reader) => database.Read(c => Of(c, reader, Today));

    /// <summary>Documents of the last seven days in which a field was changed, with what was read and what a person made of it.</summary>
    public List<(long Id, string Name, string Before, string After)> Behind(string reader, string field, int most) =>
        database.Read(c => ReaderWatchStore.Changed(c, reader, field, Day(Today.AddDays(-6)), most));

    private DateOnly Today => clock.Today();

    private static string Day(DateOnly day) => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    internal static List<WatchedField> Of(SqliteConnection c, string reader, DateOnly today) =>
        [
            .. ReaderWatchStore
                .Weeks(c, reader, Day(today), Day(today.AddDays(1 - 7 * Weeks)))
                .GroupBy(w => w.Field, StringComparer.Ordinal)
                .Select(Watched)
                .OrderByDescending(f => f.Fall ?? 0)
                .ThenBy(f => f.Field, StringComparer.Ordinal),
        ];

    private static WatchedField Watched(IGrouping<string, WatchedWeek> field)
    {
        var shares = new double?[Weeks];
        foreach (var week in field.Where(w => w.Week is >= 0 and < Weeks))
            shares[Weeks - 1 - week.Week] = 1 - (double)week.Changed / week.Of;
        var last = field.FirstOrDefault(w => w.Week == 0);
        var (of, changed) = (field.Where(w => w.Week > 0).Sum(w => w.Of), field.Where(w => w.Week > 0).Sum(w => w.Changed));
        double? fall =
            last is { Of: >= Telling } && of >= Telling && (double)last.Changed / last.Of - (double)changed / of is var by and >= Falls
                ? by
                : null;
        return new WatchedField(field.Key, shares, fall, last?.Changed ?? 0);
    }

    private static readonly TimeSpan Kept = TimeSpan.FromHours(1);
    private volatile Tuple<DateTimeOffset, List<(Reader, WatchedField)>>? _falling;

    /// <summary>
    /// Fields of all published readers that fall, as they were within the last hour: the history of eight weeks is not walked at each look.
    /// </summary>
    internal List<(Reader Reader, WatchedField Field)> Falling(SqliteConnection c)
    {
        var now = clock.GetUtcNow();
        if (_falling is { } kept && now - kept.Item1 < Kept)
            return kept.Item2;
        var falling = ReaderStore
            .Published(c)
            .SelectMany(v => Of(c, v.Reader.Key, Today).Where(f => f.Fall is not null).Select(f => (v.Reader, f)))
            .ToList();
        _falling = Tuple.Create(now, falling);
        return falling;
    }
}
