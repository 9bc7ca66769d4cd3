using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>How far a document is from being filed; lists show it as a mark and a word.</summary>
public enum Readiness
{
    /// <summary>Its type is not known.</summary>
    Unknown,

    /// <summary>A rule that must hold stands against it.</summary>
    Must,

    /// <summary>A rule that should hold stands against it, without a reason why it need not.</summary>
    Should,

    /// <summary>It can be filed.</summary>
    Ready,
}

/// <summary>A document with what the engine says of it now.</summary>
/// <param name="Document">The document.</param>
/// <param name="Published">The design it is judged by; null while its type is unknown.</param>
/// <param name="Judged">The verdict; null while its type is unknown.</param>
public sealed record JudgedDocument(StoredDocument Document, PublishedType? Published, Judgement? Judged)
{
    /// <summary>How far it is from being filed.</summary>
    public Readiness State =>
        Judged is null ? Readiness.Unknown
        : Judged.All.Any(p => p.Level == Level.Must) ? Readiness.Must
        : Judged.Ready(Overridden) ? Readiness.Ready
        : Readiness.Should;

    /// <summary>Ids of problems that a person has overridden.</summary>
    public IReadOnlySet<string> Overridden => Document.Overrides.Keys.ToHashSet(StringComparer.Ordinal);

    /// <summary>Judges a document as it stands.</summary>
    internal static JudgedDocument Of(SqliteConnection c, Designs designs, StoredDocument document, string who)
    {
        if (document.TypeCode is not { } code || !designs.Published.TryGetValue(code, out var published))
            return new JudgedDocument(document, null, null);
        var now = designs.Now(c, document.Filed ? EntryChannel.Edit : EntryChannel.Desk, who);
        var fields = published.Type.Type.Fields;
        if (published.Type.Convention.UsesSystemValues)
            now = Placing.Around(c, document, now);
        if (document.BatchId is { } batch)
        {
            if (fields.Any(f => f.DefaultFrom == DefaultSource.Batch) && now.Batch.Length == 0)
                now = now with { Batch = BatchStore.NameOf(c, batch) };
            if (fields.Any(f => f.DefaultFrom == DefaultSource.Previous))
                now = now with
                {
                    Previous = DocumentStore.Before(c, batch, document.Id) is { } before && before.TypeCode == code ? before.Record : null,
                };
        }
        var texts = RecordJudge.Texts(published.Type, document.Record);
        var extension = document.Filed ? Path.GetExtension(document.Name!) : CompiledConvention.Extension;
        return new JudgedDocument(
            document,
            published,
            RecordJudge.Judge(c, published.Type, texts, document.Id, now, extension, document.Number)
        );
    }

    /// <summary>A record with another text in one field; an empty one takes the field out.</summary>
    internal static Dictionary<string, string> With(IReadOnlyDictionary<string, string> record, string key, string text)
    {
        var changed = record.ToDictionary(StringComparer.Ordinal);
        if (text.Trim().Length == 0)
            changed.Remove(key);
        else
            changed[key] = text.Trim();
        return changed;
    }
}
