using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>Keeps restricted values apart: in the full text, on page pictures and in copies.</summary>
public static class FullText
{
    /// <summary>What of a document is restricted.</summary>
    public static Redaction Redaction(StoredDocument document, CompiledType type) => type.Restricted(document.Record, document.Evidence);

    /// <summary>
    /// Whether anything of a document may be restricted. A field of which a value was read and that is no longer in the type counts as if
    /// it were, as it does for redaction.
    /// </summary>
    public static bool HasRestricted(StoredDocument document, CompiledType type) =>
        type.Type.Fields.Any(f => f.Restricted || f is TableField table && table.Columns.Any(c => c.Restricted))
        || document.Record.Keys.Concat(document.Evidence.Keys).Any(k => type.Type.Find(k) is null);

    /// <summary>Puts a document's words into the index; what is restricted goes into a column that searchers never look in.</summary>
    public static void Index(SqliteConnection c, StoredDocument document, CompiledType type, IReadOnlyList<StoredPage> pages)
    {
        var redaction = Redaction(document, type);
        List<string> open = [document.Name ?? ""],
            closed = [];
        (redaction.Hides(document.SourceName) ? closed : open).Add(document.SourceName);
        foreach (var (key, text) in document.Record)
        {
            // What a field held that is no longer in the type is looked for by those who see everything.
            if (type.Type.Find(key) is not { } field)
                closed.Add(text);
            else if (!field.NotSearched)
                (field.Restricted ? closed : open).Add(Words(field, text));
        }
        foreach (var page in pages)
        {
            var masks = redaction.Masks(page.Text, page.Number);
            foreach (var word in page.Text.Words)
                (masks.Any(m => m.Overlaps(word.Box)) ? closed : open).Add(word.Text);
        }
        DocumentStore.IndexText(c, document.Id, string.Join(' ', open), string.Join(' ', closed));
    }

    // A table's cells without the marks that hold them together.
    internal static string Words(Field field, string text) =>
        field.Kind.HasRows ? string.Join(' ', (TableText.Rows(text) ?? []).SelectMany(r => r.Values)) : text;
}
