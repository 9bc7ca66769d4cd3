using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>A record among others that are judged together. Its arrays are used again for the next one.</summary>
/// <param name="width">Number of fields of its type.</param>
public sealed class JudgedRecord(int width)
{
    /// <summary>Texts by field ordinal.</summary>
    public string?[] Texts { get; } = new string?[width];

    /// <summary>Values by field ordinal.</summary>
    public FieldValue[] Values { get; } = new FieldValue[width];

    /// <summary>What does not hold.</summary>
    public List<Problem> Problems { get; } = [];

    /// <summary>Folder and name, or why there is none.</summary>
    public Placement Placement { get; internal set; } = new("", "", null);
}

/// <summary>
/// Judges records together with what already exists: the same compiled design for desk, repository edits and the API,
/// plus uniqueness and the first free name.
/// </summary>
public static class RecordJudge
{
    // Documents with one combination that are looked at for whether the rule applies to them.
    private const int MostAsked = 100;

    /// <summary>Judges a record.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="type">The compiled type.</param>
    /// <param name="texts">Texts by field ordinal.</param>
    /// <param name="now">What surrounds the record.</param>
    /// <param name="of">Whose it is; of a document that is not stored when null.</param>
    public static Judgement Judge(SqliteConnection c, CompiledType type, ReadOnlySpan<string?> texts, CheckContext now, Placed? of = null)
    {
        of ??= Placed.Anew;
        var judged = type.Judge(texts, now);
        var problems = judged.Problems.ToList();
        foreach (var unique in type.Uniques)
            if (
                unique.Applies(judged.Values, now)
                && unique.KeyOf(judged.Values) is { } key
                && Other(c, type, unique, key, of.Document, now) is { } other
            )
                problems.Add(Unique.Found(unique.Rule, type.Type, other.Name, other.Id));
        var placement = judged.Placement.Problem is null ? Placing.Find(c, type.Convention, judged.Values, now, of).At : judged.Placement;
        return judged with { Problems = problems, Placement = placement };
    }

    /// <summary>
    /// Judges records that are not stored, each as if it were the only one; the database is asked once for all of them, and once more for
    /// those that something stands against.
    /// </summary>
    /// <param name="c">An open connection.</param>
    /// <param name="type">The compiled type.</param>
    /// <param name="records">The records, with their texts; the rest is written.</param>
    /// <param name="now">What surrounds them.</param>
    /// <param name="folders">Folders that have been asked for.</param>
    public static void JudgeAll(
        SqliteConnection c,
        CompiledType type,
        IReadOnlyList<JudgedRecord> records,
        CheckContext now,
        SpelledFolders folders
    )
    {
        using var snapshot = c.BeginTransaction(deferred: true);
        foreach (var record in records)
        {
            type.Parse(record.Texts, record.Values, now);
            record.Problems.Clear();
            type.CollectProblems(record.Values, now, record.Problems);
        }
        CollectTwins(c, type, [.. records.Select(r => (0L, r.Values, now, r.Problems))]);
        var places = Placing.FindAll(
            c,
            type.Convention,
            [.. records.Select(r => (r.Values, now, type.Convention.Render(r.Values, now), Placed.Anew))],
            folders
        );
        for (var i = 0; i < places.Length; i++)
            records[i].Placement = places[i];
    }

    /// <summary>
    /// Judges documents of one type that wait on the desk, each as it would be judged alone; the database is asked once for all of them,
    /// and once more for those that something stands against.
    /// </summary>
    /// <param name="c">An open connection.</param>
    /// <param name="type">Their compiled type.</param>
    /// <param name="desk">The documents, each with what surrounds it.</param>
    /// <param name="folders">Folders that have been asked for.</param>
    internal static Judgement[] JudgeDesk(
        SqliteConnection c,
        CompiledType type,
        IReadOnlyList<(StoredDocument Document, CheckContext Now)> desk,
        SpelledFolders folders
    )
    {
        var judged = desk.Select(d => type.Judge(Texts(type, d.Document.Record), d.Now)).ToArray();
        var problems = judged.Select(j => j.Problems.ToList()).ToArray();
        CollectTwins(c, type, [.. judged.Select((j, i) => (desk[i].Document.Id, j.Values, j.Now, problems[i]))]);
        var places = Placing.FindAll(
            c,
            type.Convention,
            [.. judged.Select((j, i) => (j.Values, j.Now, j.Placement, new Placed(desk[i].Document.Id, Number: desk[i].Document.Number)))],
            folders
        );
        return [.. judged.Select((j, i) => j with { Problems = problems[i], Placement = places[i] })];
    }

    // Which of many have a combination that another document has: asked once a rule, and once more for those of which it may be so.
    private static void CollectTwins(
        SqliteConnection c,
        CompiledType type,
        (long Document, FieldValue[] Values, CheckContext Now, List<Problem> Problems)[] records
    )
    {
        foreach (var unique in type.Uniques)
        {
            var keys = Array.ConvertAll(records, r => unique.Applies(r.Values, r.Now) ? unique.KeyOf(r.Values) : null);
            var owners = UniqueKeyStore.Owners(c, type.Type.Code, unique.Rule.Id, keys);
            foreach (var (record, key) in records.Zip(keys))
                if (
                    key is not null
                    && owners.TryGetValue(key, out var owner)
                    && owner != record.Document
                    && Other(c, type, unique, key, record.Document, record.Now) is { } other
                )
                    record.Problems.Add(Unique.Found(unique.Rule, type.Type, other.Name, other.Id));
        }
    }

    /// <summary>
    /// Another document with the same combination, to which the rule applies in the same context; null when there is none.
    /// </summary>
    public static (string Name, long Id)? Other(
        SqliteConnection c,
        CompiledType type,
        UniqueTogether unique,
        string key,
        long exceptId,
        CheckContext now
    )
    {
        foreach (
            var other in UniqueKeyStore.OthersWith(c, type.Type.Code, unique.Rule.Id, key, exceptId, unique.When is null ? 1 : MostAsked)
        )
            if (
                unique.When is null
                || DocumentStore.Find(c, other.Id) is { } document && unique.Applies(type.Read(Texts(type, document.Record), now), now)
            )
                return other;
        return null;
    }

    /// <summary>Texts by ordinal from texts by key.</summary>
    public static string?[] Texts(CompiledType type, IReadOnlyDictionary<string, string> record) =>
        [.. type.Type.Fields.Select(f => record.GetValueOrDefault(f.Key))];

    /// <summary>Keeps the unique combinations of a document as it is now.</summary>
    public static void KeepKeys(SqliteConnection c, StoredDocument document, CompiledType type)
    {
        if (type.Uniques.Count == 0)
        {
            UniqueKeyStore.Set(c, document.Id, document.TypeCode!, []);
            return;
        }
        // As kept: what a default would fill later is no part of the combination yet.
        var values = new FieldValue[type.Width];
        var texts = Texts(type, document.Record);
        for (var i = 0; i < values.Length; i++)
            values[i] = type.ReaderOf(i).Read(texts[i]);
        UniqueKeyStore.Set(c, document.Id, document.TypeCode!, type.UniqueKeys(values));
    }
}
