using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services;

/// <summary>
/// Judges one record together with what already exists: the same compiled design for desk, repository edits and the API,
/// plus uniqueness and the first free name.
/// </summary>
public static class RecordJudge
{
    /// <summary>Judges a record.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="type">The compiled type.</param>
    /// <param name="texts">Texts by field ordinal.</param>
    /// <param name="documentId">The document itself, which is never its own duplicate; 0 for one that is not stored.</param>
    /// <param name="now">What surrounds the record.</param>
    /// <param name="extension">Extension with its dot.</param>
    /// <param name="number">The number of the counter that it has already; 0 for none.</param>
    public static Judgement Judge(SqliteConnection c, CompiledType type, ReadOnlySpan<string?> texts, long documentId, Circumstances now, string extension = CompiledConvention.Extension, int number = 0)
    {
        var judged = type.Judge(texts, now);
        var problems = judged.Problems.ToList();
        foreach (var unique in type.Uniques)
            if (unique.When?.Invoke(judged.Values, now) != false && Unique.Key(judged.Values, unique.Ordinals) is { } key && DocumentStore.OtherWith(c, type.Type.Code, unique.Rule.Id, key, documentId) is { } other)
                problems.Add(Unique.Found(unique.Rule, type.Type, other.Name, other.Id));
        return judged with { Problems = problems, Placement = judged.Placement.Problem is null ? Placing.Find(c, type.Convention, judged.Values, now, documentId, extension, number).At : judged.Placement };
    }

    /// <summary>Texts by ordinal from texts by key.</summary>
    public static string?[] Texts(CompiledType type, IReadOnlyDictionary<string, string> record) =>
        [.. type.Type.Fields.Select(f => record.GetValueOrDefault(f.Key))];

    /// <summary>Keeps the unique combinations of a document as it is now.</summary>
    public static void KeepKeys(SqliteConnection c, StoredDocument document, CompiledType type)
    {
        var now = new Circumstances(default, Door.Desk);
        var values = type.Read(Texts(type, document.Record), now);
        DocumentStore.SetUniqueKeys(c, document.Id, document.TypeCode!, type.UniqueKeys(values, now));
    }
}
