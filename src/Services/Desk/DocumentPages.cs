using System.Security.Cryptography;
using System.Text;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>The pages of a document on the desk as a person arranges them.</summary>
/// <param name="Document">The document.</param>
/// <param name="Pages">Its pages, the sheet before them among them.</param>
/// <param name="Aside">Pages that were taken out.</param>
/// <param name="Mark">What an act must carry, so that it meets the pages that the person saw.</param>
/// <param name="Last">What was done last, and can be undone; null for nothing.</param>
public sealed record PageSet(
    StoredDocument Document,
    IReadOnlyList<SmallPage> Pages,
    IReadOnlyList<SmallPage> Aside,
    string Mark,
    PageAct? Last
);

/// <summary>
/// Moves, turns, takes out, cuts and joins pages of documents on the desk. Files as they came are never touched; evidence follows its page,
/// and what a reader read on a page leaves with it. Each act is one transaction and can be undone while nobody has gone on from it.
/// </summary>
public sealed class DocumentPages(
    Database database,
    DataFolder folder,
    Designs designs,
    DeskDocuments desk,
    IFileReader files,
    Jobs jobs,
    DocumentWriter writer,
    TimeProvider clock
) : IWorksInJobs
{
    private const string Gone = "This document is no longer on the desk.";
    private const string Changed = "Somebody has changed these pages in the meantime; look again.";

    private readonly PageTurning _turning = new(folder, files);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => [new JobKind("turning", "Turning pages", "desk", TurnAsync)];

    private sealed record OfTurn(long Document, string Mark, List<int> Pages, int Degrees);

    /// <summary>What the job that turns pages has as its subject.</summary>
    public static string Subject(long document) => $"pages of document {document}";

    /// <summary>The pages of a document on the desk; null when it is not there, or not seen.</summary>
    public PageSet? Look(long id, string who) =>
        database.Read(c =>
            Find(c, id, who) is not { } document
                ? null
                : new PageSet(document, PageStore.Small(c, id), PageStore.Aside(c, id), MarkOf(c, id), PageStore.NewestAct(c, id))
        );

    /// <summary>Documents that pages can go to: those that wait on the desk, of the same batch first, without this one.</summary>
    public List<StoredDocument> Others(long id, string who, int most) =>
        database.Read(c =>
        {
            if (Find(c, id, who) is not { } document)
                return [];
            var queue = desk.Queue(who);
            var at = queue.IndexOf(id);
            return queue
                .Select((other, i) => (Id: other, Far: Math.Abs(i - at)))
                .Where(o => o.Id != id)
                .OrderBy(o => o.Far)
                .Take(most)
                .Select(o => DocumentStore.Find(c, o.Id)!)
                .OrderByDescending(d => d.BatchId == document.BatchId)
                .ToList();
        });

    /// <summary>Moves pages before another one, or to the end.</summary>
    /// <param name="id">The document.</param>
    /// <param name="mark">What the person saw; see <see cref="PageSet.Mark"/>.</param>
    /// <param name="pages">Numbers of the pages, from 1; they keep their order.</param>
    /// <param name="before">Number of the page before which they go; one more than there are for the end.</param>
    /// <param name="who">Who moves them.</param>
    public Result Move(long id, string mark, IReadOnlyCollection<int> pages, int before, string who) =>
        Act(
            id,
            mark,
            who,
            pages.Count == 1 ? $"page {pages.First()} was moved" : $"{pages.Count} pages were moved",
            act =>
            {
                var own = act.Of(id);
                if (Chosen(own, pages) is not { } chosen)
                    return "Choose the pages first.";
                var at = own.Take(Math.Clamp(before, 1, own.Count + 1) - 1).Count(p => !chosen.Contains(p));
                own.RemoveAll(chosen.Contains);
                own.InsertRange(at, chosen);
                return null;
            }
        );

    /// <summary>Takes pages out of a document; one at least stays.</summary>
    public Result TakeOut(long id, string mark, IReadOnlyCollection<int> pages, string who) =>
        Act(
            id,
            mark,
            who,
            pages.Count == 1 ? $"page {pages.First()} was taken out" : $"{pages.Count} pages were taken out",
            act =>
            {
                var own = act.Of(id);
                if (Chosen(own, pages) is not { } chosen)
                    return "Choose the pages first.";
                if (chosen.Count == own.Count)
                    return "At least one page has to stay. To remove them all, remove the document from the desk.";
                own.RemoveAll(chosen.Contains);
                return null;
            }
        );

    /// <summary>Puts a page that was taken out back, behind the others.</summary>
    public Result PutBack(long id, string mark, long aside, string who) =>
        Act(
            id,
            mark,
            who,
            "a page was put back",
            act =>
            {
                if (PageStore.FindAside(act.Connection, aside) is not { } found || found.Document != id)
                    return "This page is not among those taken out.";
                act.Of(id).Add(found.Image);
                return null;
            }
        );

    /// <summary>Moves pages to the end of another document on the desk; when none is left, the document goes.</summary>
    public Result Send(long id, string mark, IReadOnlyCollection<int> pages, long to, string who) =>
        Act(
            id,
            mark,
            who,
            pages.Count == 1 ? $"page {pages.First()} went to document {to}" : $"{pages.Count} pages went to document {to}",
            act =>
            {
                var own = act.Of(id);
                if (Chosen(own, pages) is not { } chosen)
                    return "Choose the pages first.";
                if (to == id || Find(act.Connection, to, who) is not { } other)
                    return "Choose another document on the desk.";
                act.Take(other);
                own.RemoveAll(chosen.Contains);
                act.Of(to).AddRange(chosen);
                return null;
            }
        );

    /// <summary>Adds the pages of another document on the desk behind those of this one; the other one goes.</summary>
    public Result Join(long id, string mark, long other, string who) =>
        Act(
            id,
            mark,
            who,
            $"document {other} was added",
            act =>
            {
                if (other == id || Find(act.Connection, other, who) is not { } joined)
                    return "Choose another document on the desk.";
                act.Take(joined);
                act.Of(id).AddRange(act.Of(other));
                act.Of(other).Clear();
                return null;
            }
        );

    /// <summary>Begins another document at a page; it is read as one that came by the same way.</summary>
    /// <returns>The new document.</returns>
    public Result<long> Cut(long id, string mark, int page, string who)
    {
        var (document, pages, way, readers) = database.Read(c =>
        {
            var found = Find(c, id, who);
            var wayIn = WaysIn.Of(c, found?.BatchId is { } batch ? BatchStore.Find(c, batch)?.WayIn : null);
            return (
                found,
                DocumentStore.Pages(c, id),
                wayIn,
                ReaderStore.Published(c).Where(v => designs.Published.ContainsKey(v.Reader.TypeCode)).ToList()
            );
        });
        if (document is null)
            return Result<long>.Not(Gone);
        if (page < 2 || page > pages.Count)
            return Result<long>.Not("A document begins at its first page already; choose a later one.");
        List<StoredPage> from = [.. pages.Skip(page - 1).Select((p, i) => p with { Number = i + 1 })];
        using var ink = folder.PicturesOf(from);
        var able = readers.Where(v => way.Readers.Count == 0 || way.Readers.Contains(v.Reader.Key)).ToList();
        var (read, _) = new StackReading(able, designs.Published, way, designs.Finders).Read(
            [.. from.Select(p => (p.Number, p.Text))],
            null,
            database.Read(c => designs.ArrivalOf(c, document.SourceName, document.BatchId)),
            ink
        );
        var made = 0L;
        var cut = Act(
            id,
            mark,
            who,
            $"another document was begun at page {page}",
            act =>
            {
                var c = act.Connection;
                var begun = read with
                {
                    TypeCode = read.TypeCode ?? document.TypeCode,
                    Version = read.Version ?? document.Version,
                    BatchId = document.BatchId,
                    SourceName =
                        from[0].FileId is { } file && BatchStore.FindFile(c, file) is { } brought
                            ? $"{brought.Name}, {StackDocuments.Range(from)}"
                            : $"{document.SourceName}, from page {page}",
                    SourceFile = from[0].FileStored ?? document.SourceFile,
                };
                begun = writer.Add(c, begun, [], static _ => "read when it was cut off");
                made = begun.Id;
                act.Begin(begun);
                var own = act.Of(id);
                act.Of(made).AddRange(own[(page - 1)..]);
                own.RemoveRange(page - 1, own.Count - page + 1);
                return null;
            }
        );
        return cut.Ok ? made : Result<long>.Not(cut.Problem!);
    }

    /// <summary>
    /// Turns pages by quarters, in the background: pictures are written anew and what was recognised is recognised again.
    /// </summary>
    /// <param name="id">The document.</param>
    /// <param name="mark">What the person saw.</param>
    /// <param name="pages">Numbers of the pages, from 1.</param>
    /// <param name="degrees">Clockwise: 90, 180 or 270.</param>
    /// <param name="who">Who turns them.</param>
    public Result<Job> Turn(long id, string mark, IReadOnlyCollection<int> pages, int degrees, string who)
    {
        if (degrees is not (90 or 180 or 270))
            return Result<Job>.Not("Pages are turned by quarters.");
        if (database.Read(c => Find(c, id, who) is null ? null : MarkOf(c, id)) is not { } now)
            return Result<Job>.Not(Gone);
        if (now != mark)
            return Result<Job>.Not(Changed);
        return pages.Count == 0
            ? Result<Job>.Not("Choose the pages first.")
            : jobs.Start("turning", Subject(id), $"/Desk/Pages/{id}", new OfTurn(id, mark, [.. pages.Order()], degrees), who);
    }

    private async Task TurnAsync(Job job, CancellationToken cancel)
    {
        var (id, mark, numbers, degrees) = job.Given<OfTurn>();
        var pages = database.Read(c => DocumentStore.Pages(c, id)).Where(p => numbers.Contains(p.Number)).ToList();
        job.Total = pages.Count;
        var turned = new Dictionary<string, StoredPage>(StringComparer.Ordinal);
        foreach (var page in pages)
        {
            cancel.ThrowIfCancellationRequested();
            turned[page.Image] = await _turning.TurnedAsync(page, degrees, cancel);
            jobs.Step(job);
        }
        // All or none, so that a stop between leaves the pages as they lay.
        var done = Act(
            id,
            mark,
            job.Who,
            numbers.Count == 1 ? $"page {numbers[0]} was turned" : $"{numbers.Count} pages were turned",
            act =>
            {
                var own = act.Of(id);
                var document = act.Document(id);
                for (var at = 0; at < own.Count; at++)
                    if (turned.TryGetValue(own[at], out var now))
                    {
                        PageStore.PutAside(act.Connection, id, now);
                        act.Replace(own[at], now.Image);
                        var number = at + 1;
                        document = document with
                        {
                            Evidence = document.Evidence.ToDictionary(
                                e => e.Key,
                                e => PageMoves.Turned(e.Value, number, degrees),
                                StringComparer.Ordinal
                            ),
                        };
                        own[at] = now.Image;
                    }
                act.Change(document);
                return null;
            }
        );
        if (done.Problem is { } problem)
            throw new RefusedException(problem);
    }

    /// <summary>Adds pages that were brought for a document behind its own; false when it is not on the desk any more.</summary>
    internal static bool Append(
        SqliteConnection c,
        Designs designs,
        long id,
        IReadOnlyList<StoredPage> pages,
        string who,
        DocumentWriter writer,
        TimeProvider clock
    )
    {
        if (DocumentStore.Find(c, id) is not { Filed: false } document)
            return false;
        if (pages.Count == 0)
            return true;
        foreach (var page in pages)
            PageStore.PutAside(c, id, page);
        var act = new Arrangement(c, designs, writer, clock, who);
        act.Take(document);
        act.Of(id).AddRange(pages.Select(p => p.Image));
        var says = pages.Count == 1 ? "a page was added" : $"{pages.Count} pages were added";
        act.Keep(id, says);
        LedgerStore.Append(c, clock.GetUtcNow(), who, "changed the pages of a document", LedgerSubject.Document(id), says);
        return true;
    }

    /// <summary>Takes back what was done last with a document's pages. What somebody has set since stays.</summary>
    public Result Undo(long id, string who) =>
        database.WriteIf<Result>(
            c =>
            {
                if (Find(c, id, who) is null)
                    return Gone;
                if (PageStore.NewestAct(c, id) is not { } act)
                    return "There is nothing to undo.";
                var arrangement = new Arrangement(c, designs, writer, clock, who);
                if (arrangement.GoBack(act) is { } problem)
                    return problem;
                PageStore.RemoveAct(c, act.Id);
                LedgerStore.Append(c, clock.GetUtcNow(), who, "undid what was done with pages", LedgerSubject.Document(id), act.Says);
                return Result.Done;
            },
            r => r.Ok
        );

    private Result Act(long id, string mark, string who, string says, Func<Arrangement, string?> change) =>
        database.WriteIf<Result>(
            c =>
            {
                if (Find(c, id, who) is not { } document)
                    return Gone;
                if (MarkOf(c, id) != mark)
                    return Changed;
                var act = new Arrangement(c, designs, writer, clock, who);
                act.Take(document);
                if (change(act) is { } problem)
                    return problem;
                act.Keep(id, says);
                LedgerStore.Append(c, clock.GetUtcNow(), who, "changed the pages of a document", LedgerSubject.Document(id), says);
                return Result.Done;
            },
            r => r.Ok
        );

    private static List<string>? Chosen(List<string> own, IReadOnlyCollection<int> pages) =>
        pages.Count == 0 || pages.Any(p => p < 1 || p > own.Count) ? null : [.. pages.Distinct().Order().Select(p => own[p - 1])];

    // What was taken out of the repository for good has its pages as they were filed.
    private static StoredDocument? Find(SqliteConnection c, long id, string who) =>
        DeskDocuments.Find(c, id, who) is { Filed: false } document
        && WithdrawalStore.Of(c, id) is not { State: WithdrawalState.Done, IsOut: true }
            ? document
            : null;

    private static string MarkOf(SqliteConnection c, long id) =>
        Convert.ToHexStringLower(
            SHA256.HashData(Encoding.UTF8.GetBytes(string.Join('\n', PageStore.Of(c, id).Select(p => $"{p.Number} {p.Image}"))))
        )[..16];
}
