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
        var around = new Surroundings(c, designs, who);
        if (around.Of(document) is not { Type: var type } published)
            return new JudgedDocument(document, null, null);
        var extension = document.Filed ? Path.GetExtension(document.Name!) : CompiledConvention.Extension;
        var judged = RecordJudge.Judge(
            c,
            type,
            RecordJudge.Texts(type, document.Record),
            around.Around(document, type),
            new Placed(document.Id, extension, document.Number)
        );
        return new JudgedDocument(document, published, judged);
    }

    /// <summary>
    /// Judges documents of the desk as they stand, each as if it were alone, in the order that is given; what all of them need is asked
    /// once.
    /// </summary>
    internal static List<JudgedDocument> OfDesk(SqliteConnection c, Designs designs, IEnumerable<StoredDocument> desk, string who)
    {
        var (around, folders) = (new Surroundings(c, designs, who), new SpelledFolders());
        var documents = desk.Select(d => new JudgedDocument(d, around.Of(d), null)).ToArray();
        foreach (var ofType in documents.Select((d, i) => (d, i)).Where(d => d.d.Published is not null).GroupBy(d => d.d.Published!))
        {
            var type = ofType.Key.Type;
            var places = ofType.Select(d => d.i).ToArray();
            var judged = RecordJudge.JudgeDesk(
                c,
                type,
                [.. places.Select(i => (documents[i].Document, around.AroundOneOfMany(documents[i].Document, type)))],
                folders
            );
            for (var i = 0; i < places.Length; i++)
                documents[places[i]] = documents[places[i]] with { Judged = judged[i] };
        }
        return [.. documents];
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
