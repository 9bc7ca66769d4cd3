using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// Copies of documents that hold nothing of some of their values: pages drawn anew with the places blacked out, words of the text layer
/// left out with them, and nothing else of the file.
/// </summary>
public static class RedactedCopy
{
    /// <summary>A published type with more of its fields restricted than its design says.</summary>
    public static CompiledType Hiding(CompiledType type, IReadOnlyCollection<string> fields, Designs designs) =>
        fields.Count == 0
            ? type
            : new CompiledType(
                type.Type with
                {
                    Fields = [.. type.Type.Fields.Select(f => fields.Contains(f.Key) ? f with { Restricted = true } : f)],
                },
                designs.Vocabularies,
                designs.Tables
            );

    /// <summary>Why no copy of a document can be made that surely hides what it must; null when one can.</summary>
    public static string? WhyNot(Redaction redaction, IReadOnlyList<StoredPage> pages, DocumentType type)
    {
        if (pages.Count == 0)
            return "Its pages are not kept here, so nobody knows where its values are.";
        // A file's own text holds all that it shows; of what was recognised nobody knows what was missed.
        var unknown = pages.All(p => p.Text.Method == "text layer") ? redaction.Unplaced : [.. redaction.Unplaced, .. redaction.Unread];
        return unknown.Count > 0
            ? $"{type.LabelsOf(unknown)}: nobody has said where on the pages it is. Mark the place, or say that no page shows it."
            : null;
    }

    /// <summary>The pages of a copy, with what is blacked out on each.</summary>
    public static List<PdfPage> Pages(IReadOnlyList<StoredPage> pages, Redaction redaction, DataFolder folder) =>
        [.. pages.Select(p => new PdfPage(folder.Absolute(p.Image), p.Text, redaction.Masks(p.Text, p.Number)))];

    /// <summary>Writes a copy.</summary>
    /// <param name="target">The file; it is made or replaced.</param>
    /// <param name="pages">Its <see cref="Pages"/>.</param>
    /// <param name="redaction">What is hidden.</param>
    /// <param name="title">Title of the copy.</param>
    public static void Write(string target, IReadOnlyList<PdfPage> pages, Redaction redaction, string title) =>
        SearchablePdf.Write(target, pages, redaction.Hides(title) ? "Document" : title);
}
