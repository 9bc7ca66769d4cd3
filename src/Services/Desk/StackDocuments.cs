using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>Documents of a stack that is cut: read, then kept.</summary>
public sealed class StackDocuments(
    Database database,
    DataFolder folder,
    Designs designs,
    Sheets sheets,
    DocumentWriter writer,
    TimeProvider clock
)
{
    /// <summary>A document of a stack, not kept yet.</summary>
    /// <param name="Document">What was read of it.</param>
    /// <param name="Pages">Its pages, before them as page 0 the sheet that it came with.</param>
    /// <param name="Keys">Keys of its pages in the stack.</param>
    internal sealed record MadeDocument(StoredDocument Document, IReadOnlyList<StoredPage> Pages, IReadOnlyList<string> Keys);

    /// <summary>Recognises and reads every planned document; nothing is kept yet.</summary>
    internal List<MadeDocument> Read(StackView view, IReadOnlyList<ReaderVersion> readers)
    {
        var reading = new StackReading(readers, designs.Published, view.Way, designs.Finders);
        var pages = view.Pages.ToDictionary(p => p.Key);
        var several = view.Plan.Documents.GroupBy(d => pages[d.Pages[0]].FileId).Where(g => g.Count() > 1).Select(g => g.Key).ToHashSet();
        var made = new List<MadeDocument>();
        var arrival = database.Read(c => designs.ArrivalOf(c, "", view.Batch.Id));
        foreach (var planned in view.Plan.Documents)
        {
            var own = planned.Pages.Select((key, i) => Stored(pages[key], i + 1)).ToList();
            var sheet = planned.Sheet is { } sheetKey ? Stored(pages[sheetKey], 0) : null;
            List<StoredPage> all = sheet is null ? own : [sheet, .. own];
            var file = view.Files[own[0].FileId!.Value];
            using var ink = folder.PicturesOf(all);
            var (document, notices) = reading.Read(
                [.. all.Select(p => (p.Number, p.Text))],
                sheet is null ? null : sheets.Values(sheet),
                arrival with
                {
                    Path = file.Name,
                },
                ink
            );
            var doubts = planned.Doubts.Select(d => $"The separation is doubtful: {d}.").Concat(notices).ToList();
            var first = own[0] with
            {
                Notice = string.Join(' ', new[] { own[0].Notice }.Concat(doubts).OfType<string>()) is { Length: > 0 } n ? n : null,
            };
            made.Add(
                new MadeDocument(
                    document with
                    {
                        BatchId = view.Batch.Id,
                        SourceName = several.Contains(file.Id) ? $"{file.Name}, {Range(own)}" : file.Name,
                        SourceFile = file.Stored,
                    },
                    [.. all.Select(p => p.Number == 1 ? first : p)],
                    planned.Pages
                )
            );
        }
        return made;
    }

    internal static StoredPage Stored(StackedPage page, int number) =>
        new(number, page.Image, page.Text, page.Notice) { FileId = page.FileId, FilePage = page.Number };

    /// <summary>Which pages of their first file they are, in words.</summary>
    internal static string Range(IReadOnlyList<StoredPage> pages)
    {
        var file = pages.TakeWhile(p => p.FileId == pages[0].FileId).ToList();
        return file.Count == 1 ? $"page {file[0].FilePage}" : $"pages {file[0].FilePage}–{file[^1].FilePage}";
    }

    /// <summary>Keeps them; those that are on the desk and stay the same are left as they are.</summary>
    internal void Put(SqliteConnection c, StackView view, List<MadeDocument> made)
    {
        var before = view
            .Pages.Where(p => p.DocumentId is not null)
            .GroupBy(p => p.DocumentId!.Value)
            .ToDictionary(Stacks.Pages, g => g.Key);
        var same = made.Select(m => string.Join(' ', m.Keys)).Where(before.ContainsKey).ToHashSet();
        foreach (var (pages, id) in before.Where(b => !same.Contains(b.Key)))
            DocumentStore.RemoveFromDesk(c, id);
        foreach (var document in made.Where(m => !same.Contains(string.Join(' ', m.Keys))))
        {
            var id = Add(c, document);
            foreach (var page in document.Pages.Where(p => p.Number > 0))
                StackStore.SetDocument(c, page.FileId!.Value, page.FilePage!.Value, id);
            Park(c, id, view);
        }
        foreach (var file in view.Files.Values.Where(f => !f.Separated && f.State == FileState.Taken))
            BatchStore.SetSeparated(c, file.Id, true);
        BatchStore.SetState(c, view.Batch.Id, BatchState.Open);
    }

    // What the way in says is set aside at once: a field holds nothing, or something that must hold stands against it.
    private void Park(SqliteConnection c, long id, StackView view)
    {
        if (
            view.Way.Parks.Count == 0
            || DocumentStore.Find(c, id) is not { } document
            || JudgedDocument.Of(c, designs, document, view.Batch.BroughtBy) is not { Judged: { } judged, Published: { } published }
        )
            return;
        bool Fits(ParkRule rule) =>
            published.Type.OrdinalOf(rule.Field) is >= 0 and var at
            && (judged.Values[at].IsEmpty || judged.Problems.Any(p => p.Field == rule.Field && p.Level == Core.Fields.Level.Must));
        if (view.Way.Parks.FirstOrDefault(Fits) is not { } rule)
            return;
        ParkingStore.Park(c, new Parking(id, rule.Reason, rule.ForWhom, null, clock.Moment(), view.Way.Name));
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            view.Batch.BroughtBy,
            "parked",
            LedgerSubject.Document(id),
            $"{rule.Reason} (by the way in {view.Way.Name})"
        );
    }

    private long Add(SqliteConnection c, MadeDocument made)
    {
        var document = made.Document;
        string? How(string field) =>
            document.Evidence.GetValueOrDefault(field) is not { } evidence ? "from the way in"
            : evidence.Raw.Length == 0 ? null
            : evidence.Method switch
            {
                "recognised" => "read by text recognition",
                "text layer" => "read from the text layer",
                "brought" => "read from the text that was brought beside it",
                SheetValue.Typed => "typed when the cover sheet was printed",
                SheetValue.Box => "marked on the cover sheet",
                var kind => $"read from a code ({kind})",
            };
        return writer.Add(c, document, made.Pages, How).Id;
    }
}
