using System.Globalization;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
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
    /// <param name="records">The records, with their values; their places are written.</param>
    /// <param name="now">What surrounds them.</param>
    /// <param name="folders">Folders that have been asked for.</param>
    public static void FindAll(
        SqliteConnection c,
        CompiledConvention convention,
        IReadOnlyList<JudgedRecord> records,
        CheckContext now,
        SpelledFolders folders
    )
    {
        var numbers = new Dictionary<string, int>(StringComparer.Ordinal);
        var keys = new string?[records.Count];
        for (var i = 0; i < keys.Length; i++)
        {
            var record = records[i];
            record.Placement = convention.Render(record.Values, now);
            if (record.Placement.Problem is null && convention.AlwaysCounts)
            {
                var counter = convention.CounterKey(record.Values, now);
                if (!numbers.TryGetValue(counter, out var last))
                    numbers[counter] = last = CounterStore.Last(c, counter);
                record.Placement = convention.Render(record.Values, now, last + 1);
            }
            if (record.Placement.Problem is not null)
                continue;
            record.Placement = record.Placement with { Folder = folders.Of(c, record.Placement.Folder) };
            keys[i] = Database.PlaceKey(record.Placement.Folder, record.Placement.Name + CompiledConvention.Extension);
        }
        var taken = RepositoryStore.TakenPlaces(c, keys);
        if (taken.Count == 0)
            return;
        for (var i = 0; i < keys.Length; i++)
            if (keys[i] is { } key && taken.Contains(key))
                records[i].Placement = Find(c, convention, records[i].Values, now, Placed.Anew).At;
    }

    /// <summary>The places that documents of the desk would get, each as if it were the only one; what is taken is asked once.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="convention">The convention.</param>
    /// <param name="judged">What the engine says of them, their surroundings among it.</param>
    /// <param name="desk">The documents.</param>
    /// <param name="folders">Folders that have been asked for.</param>
    internal static Placement[] FindOnDesk(
        SqliteConnection c,
        CompiledConvention convention,
        Judgement[] judged,
        StoredDocument[] desk,
        SpelledFolders folders
    )
    {
        var (places, keys) = (new Placement[judged.Length], new string?[judged.Length]);
        for (var i = 0; i < places.Length; i++)
        {
            places[i] = judged[i].Placement;
            if (places[i].Problem is not null || convention.AlwaysCounts || desk[i].Number > 0)
                continue;
            places[i] = convention.Render(judged[i].Values, judged[i].Now, 1);
            if (places[i].Problem is not null)
                continue;
            places[i] = places[i] with { Folder = folders.Of(c, places[i].Folder) };
            keys[i] = Database.PlaceKey(places[i].Folder, places[i].Name + CompiledConvention.Extension);
        }
        var taken = RepositoryStore.TakenPlaces(c, keys);
        for (var i = 0; i < places.Length; i++)
            // One that is taken, or that needs a number, is found alone.
            if (judged[i].Placement.Problem is null && (keys[i] is { } key ? taken.Contains(key) : places[i].Problem is null))
                places[i] = Find(
                    c,
                    convention,
                    judged[i].Values,
                    judged[i].Now,
                    new Placed(desk[i].Id, CompiledConvention.Extension, desk[i].Number)
                ).At;
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
