using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Readers;

/// <summary>Reads one document again, by its kept pages or those of its file; nothing is changed.</summary>
internal sealed class DocumentRereading(Database database, DataFolder folder, Designs designs, IFileReader files)
{
    /// <summary>Pages of a filed document without kept pages that are read for it.</summary>
    private const int MostPages = 20;

    /// <summary>What a reader reads of a document that it claims better than every other; nothing when it does not.</summary>
    /// <param name="document">The document.</param>
    /// <param name="reader">The reader.</param>
    /// <param name="others">All other published readers.</param>
    /// <param name="cancel">Stops between pages.</param>
    public async Task<List<(string Field, string Text, Evidence? Evidence)>> ReadAsync(
        StoredDocument document,
        Reader reader,
        IReadOnlyList<Reader> others,
        CancellationToken cancel
    )
    {
        var stored = database.Read(c => DocumentStore.PagesAndSheet(c, document.Id));
        List<(int Number, PageText Text, string Image)> pages = [.. stored.Select(p => (p.Number, p.Text, folder.Absolute(p.Image)))];
        var drawn = Path.Combine(folder.Drafts, $"again-{document.Id}");
        try
        {
            if (pages.Count == 0)
                pages = await PagesOfFileAsync(document, drawn, cancel);
            if (reader.Languages is not null)
                for (var i = 0; i < pages.Count; i++)
                    if (pages[i] is { Image: { } image } page)
                    {
                        var text = await InLanguages.ReadAsync(files, image, page.Text, [reader, .. others], cancel);
                        pages[i] = page with { Text = text };
                    }
            using var ink = new PagePictures(n => pages.Find(p => p.Number == n) is { Image: not null } page ? page.Image : null);
            foreach (var (number, text, _) in pages.Where(p => p.Number > 0))
            {
                if (Recognition.Recognise(text, [reader, .. others], ink, number) is not { } claim)
                    continue;
                if (claim.Reader != reader || !designs.Published.TryGetValue(reader.TypeCode, out var published))
                    return [];
                var read = DocumentReading.Read(
                    [.. pages.Select(p => (p.Number, p.Text))],
                    number,
                    claim,
                    published.Type.Type,
                    designs.Finders(ink, document)
                );
                var places = ZoneReading.Places(read.Values, number);
                // Pages that are not kept give no place that could be shown.
                return [.. read.Record.Select(r => (r.Key, r.Value, stored.Count == 0 ? null : places.GetValueOrDefault(r.Key)))];
            }
            return [];
        }
        finally
        {
            if (Directory.Exists(drawn))
                Directory.Delete(drawn, recursive: true);
        }
    }

    // A document that a migration brought has a file and no pages yet.
    private async Task<List<(int Number, PageText Text, string Image)>> PagesOfFileAsync(
        StoredDocument document,
        string drawn,
        CancellationToken cancel
    )
    {
        if (document is not { Folder: { } at, Name: { } name })
            return [];
        var path = Path.Combine(folder.Repository, at, name);
        if (!File.Exists(path) || IntakeCheck.Sniff(path, name) is not null)
            return [];
        try
        {
            var check = await files.CheckAsync(path, name, cancel);
            return check.Problem is not null
                ? []
                :
                [
                    .. (
                        await files.PagesAsync(path, name, check.Kind, new WantedPages(1, Math.Min(check.Pages, MostPages)), drawn, cancel)
                    ).Select(p => (p.Number, p.Text, p.ImagePath)),
                ];
        }
        catch (FileRefusedException)
        {
            return [];
        }
    }
}
