using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services;

/// <summary>Keeps restricted values apart: in the full text, on page pictures and in copies.</summary>
public static class FullText
{
    /// <summary>Puts a document's words into the index; what is restricted goes into a column that searchers never look in.</summary>
    public static void Index(SqliteConnection c, StoredDocument document, DocumentType type, IReadOnlyList<StoredPage> pages)
    {
        List<string> open = [document.Name ?? "", document.SourceName], closed = [];
        foreach (var field in type.Fields)
            if (document.Record.TryGetValue(field.Key, out var text)) (field.Restricted ? closed : open).Add(field.NotSearched ? "" : Words(field, text));
        foreach (var page in pages)
        {
            var masks = Masks(document, type, page);
            foreach (var word in page.Text.Words) (masks.Any(m => m.Overlaps(word.Box)) ? closed : open).Add(word.Text);
        }
        DocumentStore.IndexText(c, document.Id, string.Join(' ', open), string.Join(' ', closed));
    }

    // A table's cells without the marks that hold them together.
    internal static string Words(Field field, string text) =>
        field.Kind == FieldKind.Table ? string.Join(' ', (FieldReader.ParseRows(text) ?? []).SelectMany(r => r.Values)) : text;

    /// <summary>
    /// Regions of a page that show restricted values: where they were read, and wherever else on the page their words stand. Of a field that
    /// is no longer in the type nobody knows whether it was restricted, so it counts as if it were.
    /// </summary>
    public static IReadOnlyList<Box> Masks(StoredDocument document, DocumentType type, StoredPage page)
    {
        var masks = new List<Box>();
        foreach (var key in document.Evidence.Keys.Union(document.Record.Keys).Where(k => type.Find(k) is not { Restricted: false }))
        {
            if (document.Evidence.TryGetValue(key, out var evidence) && evidence.Page == page.Number) masks.Add(evidence.Box);
            var words = Folding.Fold($"{document.Record.GetValueOrDefault(key)} {evidence?.Raw}").Split(' ').Where(w => w.Length > 2).ToHashSet(StringComparer.Ordinal);
            masks.AddRange(page.Text.Words.Where(w => words.Contains(Folding.Fold(w.Text))).Select(w => w.Box));
        }
        return masks;
    }
}
