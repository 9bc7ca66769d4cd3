using System.Globalization;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>A place that is free, or why there is none.</summary>
/// <param name="At">Folder and name.</param>
/// <param name="Number">Number of the counter, from 1.</param>
/// <param name="VersionOf">The document of which this would be a later version; null for none.</param>
public sealed record FreePlace(Placement At, int Number, long? VersionOf)
{
    /// <summary>Whether the number was given by a counter and is gone once used.</summary>
    public bool TakesNumber(CompiledConvention convention) => convention.AlwaysCounts || Number > 1;
}

/// <summary>Folders as the repository spells them, asked for again when that was more than a second ago.</summary>
public sealed class SpelledFolders
{
    private const int Fresh = 1_000;

    private readonly Dictionary<string, string> _known = new(StringComparer.Ordinal);
    private long _since;

    /// <summary>A folder as it is spelled already.</summary>
    internal string Of(SqliteConnection c, string folder)
    {
        if (Environment.TickCount64 - _since > Fresh)
        {
            _known.Clear();
            _since = Environment.TickCount64;
        }
        if (!_known.TryGetValue(folder, out var spelled))
            _known[folder] = spelled = RepositoryStore.Spelled(c, folder);
        return spelled;
    }
}

/// <summary>For which document a place is looked for.</summary>
/// <param name="Document">The document itself, in whose way its own place does not stand; 0 for one that is not stored.</param>
/// <param name="Extension">Extension of its file, with its dot.</param>
/// <param name="Number">The number of a counter that it has already, which it keeps where it can; 0 for none.</param>
public sealed record Placed(long Document, string Extension = CompiledConvention.Extension, int Number = 0)
{
    /// <summary>One that is not stored.</summary>
    public static Placed Anew { get; } = new(0);

    /// <summary>Whether something besides the records stands in a folder under a name, such as a stray file.</summary>
    internal Func<string, string, bool>? InTheWay { get; init; }
}

/// <summary>Finds the place of a document among what is filed: counters, versions, what is taken.</summary>
public static class Placing
{
    private const int MostTries = 100_000;

    /// <summary>What surrounds a document, for system values: as it is now on the desk, as it was kept for a filed one.</summary>
    public static CheckContext Around(SqliteConnection c, StoredDocument document, CheckContext now)
    {
        if (document.Naming is { } n)
            return now with
            {
                Today = DateOnly.ParseExact(n.Today, DateForms.Iso, CultureInfo.InvariantCulture),
                Person = n.Person,
                Batch = n.Batch,
                NumberInBatch = n.NumberInBatch,
                Pages = n.Pages,
                Original = n.Original,
            };
        return OnDesk(
            document,
            now,
            DocumentStore.PageCount(c, document.Id),
            document.BatchId is { } batch ? (BatchStore.NameOf(c, batch), DocumentStore.NumberInBatch(c, batch, document.Id)) : null
        );
    }

    /// <summary>What surrounds a document that has not been named, of which pages and batch have been asked for.</summary>
    internal static CheckContext OnDesk(StoredDocument document, CheckContext now, int pages, (string Name, int Number)? batch) =>
        now with
        {
            Original = document.LegacyPath ?? document.SourceName,
            Pages = pages,
            Batch = batch?.Name ?? now.Batch,
            NumberInBatch = batch?.Number ?? 0,
        };

    /// <summary>All places and numbers that are taken, for naming many records at once.</summary>
    /// <param name="c">An open connection.</param>
    public static TakenNames Taken(SqliteConnection c)
    {
        var taken = new TakenNames();
        RepositoryStore.EachPlace(c, (f, n) => taken.TakePath(taken.Spelled(f), Path.GetFileNameWithoutExtension(n)));
        CounterStore.Each(c, taken.SetNumber);
        return taken;
    }

    /// <summary>
    /// What is to be kept of the surroundings with a document that is named now, and of the number that a counter gave it, 0 for none.
    /// </summary>
    public static Naming Kept(CheckContext now, int number) =>
        new(
            now.Today.ToString(DateForms.Iso, CultureInfo.InvariantCulture),
            now.Person,
            now.Batch,
            now.NumberInBatch,
            now.Pages,
            now.Original,
            number
        );

    /// <summary>The places that records would get, each as if it were the only one; what is taken is asked once for all of them.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="convention">The convention.</param>
    /// <param name="records">The records, none of which is filed: their values, what surrounds them, their places as the convention alone
    /// has them, and whose they are.</param>
    /// <param name="folders">Folders that have been asked for.</param>
    internal static Placement[] FindAll(
        SqliteConnection c,
        CompiledConvention convention,
        (FieldValue[] Values, CheckContext Now, Placement Rendered, Placed Of)[] records,
        SpelledFolders folders
    )
    {
        var numbers = new Dictionary<string, int>(StringComparer.Ordinal);
        var (places, keys) = (Array.ConvertAll(records, r => r.Rendered), new string?[records.Length]);
        for (var i = 0; i < keys.Length; i++)
        {
            var (values, now, _, of) = records[i];
            if (places[i].Problem is null && of.Number > 0)
            {
                places[i] = Find(c, convention, values, now, of).At;
                continue;
            }
            if (places[i].Problem is null && convention.AlwaysCounts)
            {
                var counter = convention.CounterKey(values, now);
                if (!numbers.TryGetValue(counter, out var last))
                    numbers[counter] = last = CounterStore.Last(c, counter);
                places[i] = convention.Render(values, now, last + 1);
            }
            if (places[i].Problem is not null)
                continue;
            places[i] = places[i] with { Folder = folders.Of(c, places[i].Folder) };
            keys[i] = Database.PlaceKey(places[i].Folder, places[i].Name + CompiledConvention.Extension);
        }
        var taken = RepositoryStore.TakenPlaces(c, keys);
        for (var i = 0; taken.Count > 0 && i < keys.Length; i++)
            if (keys[i] is { } key && taken.Contains(key))
                places[i] = Find(c, convention, records[i].Values, records[i].Now, records[i].Of).At;
        return places;
    }

    /// <summary>The place a record gets.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="convention">The convention.</param>
    /// <param name="values">Values by ordinal.</param>
    /// <param name="now">What surrounds it.</param>
    /// <param name="of">Whose it is.</param>
    public static FreePlace Find(SqliteConnection c, CompiledConvention convention, FieldValue[] values, CheckContext now, Placed of)
    {
        var (id, extension, number) = of;
        Placement Render(int n)
        {
            var place = convention.Render(values, now, n);
            return place.Problem is null ? place with { Folder = RepositoryStore.Spelled(c, place.Folder, id) } : place;
        }
        bool Free(Placement place) =>
            place.Problem is not null
            || RepositoryStore.At(c, place.Folder, place.Name + extension, id) is null
                && of.InTheWay?.Invoke(place.Folder, place.Name + extension) != true;

        var first = number > 0 ? number : 1;
        var plain = Render(first);
        if ((number > 0 || !convention.AlwaysCounts) && Free(plain))
            return new FreePlace(plain, first, null);
        if (convention.Convention.Collision == Collision.Refuse && !convention.AlwaysCounts)
            return new FreePlace(plain with { Problem = new Problem(new PathTaken(plain.Name + extension), Level.Must, null) }, 1, null);
        var versionOf =
            convention.Convention.Collision == Collision.Version ? RepositoryStore.At(c, plain.Folder, plain.Name + extension, id) : null;
        var from = Math.Max(CounterStore.Last(c, convention.CounterKey(values, now)), convention.AlwaysCounts ? 0 : 1) + 1;
        for (var next = from; next < from + MostTries; next++)
            if (Render(next) is var place && Free(place))
                return new FreePlace(place, next, versionOf);
        return new FreePlace(plain with { Problem = new Problem(new PathTaken(plain.Name + extension), Level.Must, null) }, 1, null);
    }
}
