using System.Collections.Concurrent;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>Makes documents of stacks: by the way they came, or as a person decides who looks at them first or later.</summary>
public sealed class Stacks(
    Database database,
    DataFolder folder,
    Designs designs,
    StackDocuments making,
    DocumentWriter writer,
    TimeProvider clock
)
{
    /// <summary>Most steps that are kept for undo.</summary>
    public const int MostSteps = 500;

    private const string Changed = "Somebody else has changed this stack in the meantime; look again.";

    private readonly Lock _making = new();
    private readonly ConcurrentDictionary<long, byte> _coming = [];

    /// <summary>Files of a batch come until this is disposed of; until then no document is made that may go on in the next.</summary>
    internal IDisposable Coming(long batchId)
    {
        _coming[batchId] = 0;
        return new Ending(() => _coming.TryRemove(batchId, out _));
    }

    private sealed class Ending(Action end) : IDisposable
    {
        public void Dispose() => end();
    }

    /// <summary>Batches that have come, whose files were all read, and of some of which no documents were made yet.</summary>
    internal List<long> ToSettle(SqliteConnection c) => BatchStore.ToSeparate(c).FindAll(b => !_coming.ContainsKey(b));

    /// <summary>A batch's stack, or null when there is no such batch or the person does not see it.</summary>
    /// <param name="batchId">The batch.</param>
    /// <param name="who">Who looks.</param>
    /// <param name="tried">Another separation to look at; nothing of it is kept.</param>
    public StackView? Look(long batchId, string who, Separation? tried = null) =>
        database.Read(c =>
            BatchStore.Find(c, batchId) is { } batch && WaysIn.Of(c, batch.WayIn).SeenBy(who) ? View(c, batch, tried) : null
        );

    /// <summary>Decides something about a stack; documents are made of it by <see cref="Make"/>.</summary>
    public Result Decide(long batchId, CuttingStep step, string who) =>
        Change(
            batchId,
            who,
            (c, view, steps) =>
            {
                if (step.Separation?.Finding is { } finding)
                    return finding;
                if (step.Edit is { } edit && (!HandEdit.Acts.Contains(edit.Act) || view.Pages.All(p => p.Key != edit.Page)))
                    return "This stack has no such page.";
                if (steps.Count >= MostSteps)
                    return $"More than {MostSteps} steps cannot be kept; make the documents, or undo some.";
                BatchStore.SetCutting(c, batchId, Sql.ToJson((List<CuttingStep>)[.. steps, step]));
                return Result.Done;
            }
        );

    /// <summary>Takes the last decision back.</summary>
    public Result Undo(long batchId, string who) =>
        Change(
            batchId,
            who,
            (c, _, steps) =>
            {
                if (steps.Count == 0)
                    return "There is nothing to undo.";
                BatchStore.SetCutting(c, batchId, steps.Count == 1 ? null : Sql.ToJson(steps.SkipLast(1).ToList()));
                return Result.Done;
            }
        );

    /// <summary>
    /// Makes documents as planned. Those that are on the desk and stay the same are left as they are, with what was typed; the others are
    /// taken off it and made anew.
    /// </summary>
    public Result Make(long batchId, string who)
    {
        lock (_making)
        {
            if (Look(batchId, who) is not { } view)
                return "There is no such batch.";
            if (view.Fixed is { } why)
                return why;
            if (view.Plan.Documents.Count == 0)
                return "No page of this stack would stay; keep at least one.";
            var made = Read(view);
            return database.Write<Result>(c =>
            {
                if (BatchStore.Find(c, batchId) is not { } now || now.Cutting != view.Batch.Cutting || now.State == BatchState.GivenUp)
                    return Changed;
                making.Put(c, view, made);
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    who,
                    "separated a batch",
                    new LedgerSubject(SubjectKind.Batch, view.Batch.Id),
                    $"{view.Batch.Name}: {Counted.Of(made.Count, "document")}"
                );
                return Result.Done;
            });
        }
    }

    /// <summary>
    /// Gives a batch up: its documents leave the desk, its files that wait are no longer read. What is filed stays, and what was.
    /// </summary>
    public Result GiveUp(long batchId, string who)
    {
        lock (_making)
            return database.Write<Result>(c =>
            {
                if (BatchStore.Find(c, batchId) is not { } batch || !WaysIn.Of(c, batch.WayIn).SeenBy(who))
                    return "There is no such batch.";
                if (batch.State == BatchState.GivenUp)
                    return "This batch was given up before.";
                var onDesk = DocumentStore.OnDesk(c, batchId).FindAll(d => !WithdrawalStore.WasFiled(c, d.Id));
                foreach (var document in onDesk)
                    DocumentStore.RemoveFromDesk(c, document.Id);
                foreach (var file in BatchStore.FilesOf(c, batchId).Where(f => f.State == FileState.Waiting))
                    BatchStore.SetFile(c, file.Id, "The batch was given up before this file was read.");
                BatchStore.SetState(c, batchId, BatchState.GivenUp);
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    who,
                    "gave a batch up",
                    new LedgerSubject(SubjectKind.Batch, batch.Id),
                    $"{batch.Name}: {Counted.Of(onDesk.Count, "document")}"
                );
                return Result.Done;
            });
    }

    /// <summary>
    /// What follows when a file of a batch was read or refused: documents are made of what is complete, or the batch waits for a person.
    /// </summary>
    internal void Settle(long batchId, BatchFile? file = null)
    {
        lock (_making)
        {
            if (Joined(batchId))
                return;
            var view = database.Read(c =>
            {
                if (BatchStore.Find(c, batchId) is not { State: BatchState.Open } batch)
                    return null;
                var way = WaysIn.Of(c, batch.WayIn);
                // Where each file is one document, none waits for the others.
                var alone = way.Separation is { Method: "file", EndsWithFile: true } && way.LookFirst != LookFirst.Always;
                var files = BatchStore.FilesOf(c, batchId);
                if (!alone && IsComing(batchId, files))
                    return null;
                var ready = files
                    .Where(f => f is { State: FileState.Taken, Separated: false } && (!alone || file is null || f.Id == file.Id))
                    .ToList();
                return ready.Count == 0 ? null : View(c, batch, null, ready);
            });
            if (view is null)
                return;
            var looks = view.Way.LookFirst switch
            {
                LookFirst.Always => true,
                LookFirst.WhenDoubtful => view.Plan.IsDoubtful,
                _ => false,
            };
            if (looks || view.Plan.Documents.Count == 0)
            {
                database.Write(c => BatchStore.SetState(c, batchId, BatchState.Look));
                return;
            }
            var made = Read(view);
            database.Write(c =>
            {
                // Given up, or made by a person, meanwhile.
                if (BatchStore.Find(c, batchId) is { State: BatchState.Open })
                    making.Put(c, view, made);
            });
        }
    }

    // Pages that were brought for a document on the desk go to its end; when it is there no longer they become documents of their own.
    private bool Joined(long batchId)
    {
        // Read without the writer, which many pages would hold.
        var (batch, files, pages) = database.Read(c =>
        {
            var found = BatchStore.Find(c, batchId);
            List<BatchFile> own = found is { State: BatchState.Open, Joins: not null } ? BatchStore.FilesOf(c, batchId) : [];
            var taken = own.Where(f => f is { State: FileState.Taken, Separated: false }).ToList();
            List<StoredPage> read = IsComing(batchId, own)
                ? []
                : [.. taken.SelectMany(f => StackStore.OfFile(c, f.Id)).Select(p => StackDocuments.Stored(p, 0))];
            return (found, own, read);
        });
        if (batch is not { State: BatchState.Open, Joins: { } document })
            return false;
        if (IsComing(batchId, files))
            return true;
        return database.Write(c =>
        {
            if (
                BatchStore.Find(c, batchId) is not { State: BatchState.Open }
                || !DocumentPages.Append(c, designs, document, pages, batch.BroughtBy, writer, clock)
            )
                return false;
            foreach (var page in pages)
                StackStore.SetDocument(c, page.FileId!.Value, page.FilePage!.Value, document);
            foreach (var file in files.Where(f => f is { State: FileState.Taken, Separated: false }))
                BatchStore.SetSeparated(c, file.Id, true);
            return true;
        });
    }

    private bool IsComing(long batchId, IReadOnlyList<BatchFile> files) =>
        _coming.ContainsKey(batchId) || files.Any(f => f.State == FileState.Waiting);

    /// <summary>Batches whose files were read and of which nothing was made yet, as after a stop.</summary>
    internal void SettleAll()
    {
        foreach (var batch in database.Read(ToSettle))
            Settle(batch);
    }

    // Looked at without the writer, which a stack of a thousand pages would hold for a second.
    private Result Change(long batchId, string who, Func<SqliteConnection, StackView, List<CuttingStep>, Result> change)
    {
        if (Look(batchId, who) is not { } view)
            return "There is no such batch.";
        if (view.Fixed is { } why)
            return why;
        return database.Write<Result>(c =>
            BatchStore.Find(c, batchId) is not { } now || now.Cutting != view.Batch.Cutting || now.State != view.Batch.State
                ? Changed
                : change(c, view, Steps(now))
        );
    }

    private static List<CuttingStep> Steps(OneBatch batch) =>
        batch.Cutting is { } cutting ? System.Text.Json.JsonSerializer.Deserialize<List<CuttingStep>>(cutting, Sql.Json)! : [];

    private StackView View(SqliteConnection c, OneBatch batch, Separation? tried, IReadOnlyList<BatchFile>? only = null)
    {
        var way = WaysIn.Of(c, batch.WayIn);
        var files = only ?? BatchStore.FilesOf(c, batch.Id);
        var steps = Steps(batch);
        var last = steps.FindLastIndex(s => s.Separation is not null);
        var separation = tried ?? (last < 0 ? way.Separation : steps[last].Separation!);
        var pages = files.Where(f => f.State == FileState.Taken).SelectMany(f => StackStore.OfFile(c, f.Id)).ToList();
        var edits = tried is null ? steps.Skip(last + 1).Select(s => s.Edit!).ToList() : [];
        var plan = Separator.Plan(StackPages(c, pages, separation, way), separation, edits);
        var documents = pages.Where(p => p.DocumentId is not null).GroupBy(p => p.DocumentId!.Value).ToDictionary(g => g.Key, Pages);
        var filed = documents.Keys.Count(id => DocumentStore.Find(c, id) is { Filed: true } || WithdrawalStore.WasFiled(c, id));
        var reading = files.Count(f => f.State == FileState.Waiting);
        return new StackView(
            batch,
            way,
            separation,
            pages,
            files.ToDictionary(f => f.Id),
            plan,
            documents.Values.Order(StringComparer.Ordinal).SequenceEqual(plan.Documents.Select(Pages).Order(StringComparer.Ordinal)),
            batch.State == BatchState.GivenUp ? "This batch was given up."
                : filed > 0
                    ? filed == 1 ? "A document of this stack is filed, or was, so it can no longer be separated again."
                        : $"{filed} documents of this stack are filed, or were, so it can no longer be separated again."
                : IsComing(batch.Id, files) ? "Its pages are still being read."
                : null,
            steps.Count,
            reading
        );
    }

    internal static string Pages(IEnumerable<StackedPage> pages) => string.Join(' ', pages.Select(p => p.Key));

    private static string Pages(PlannedDocument document) => string.Join(' ', document.Pages);

    private List<StackPage> StackPages(SqliteConnection c, List<StackedPage> pages, Separation separation, WayIn way)
    {
        var readers = separation.Method == "reader" ? Readers(c, way) : [];
        return
        [
            .. pages.Select(p =>
            {
                // One page at a time: a stack of a thousand does not fit into memory as pictures.
                using var ink = new PagePictures(_ => folder.Absolute(p.Image));
                var claims = readers.ConvertAll(v => Recognition.Try(p.Text, v.Reader, ink));
                var claim = claims.Where(k => k.Holds).MaxBy(k => k.Score);
                var nearly = claim is null ? claims.Find(k => k.NearlyHolds) : null;
                return new StackPage(p.Key, p.Text, p.Number == 1)
                {
                    Claim = claim?.Reader.Name,
                    NearClaim = nearly is null ? null : $"{nearly.Reader.Name} nearly claims it: {nearly.Failing!.Says}",
                    Roles = claims
                        .Select(k => (k.Reader.Name, Roles: PageRoles.Of(k)))
                        .Where(r => r.Roles is not null)
                        .DistinctBy(r => r.Name)
                        .ToDictionary(r => r.Name, r => r.Roles!),
                    Sheet = Sheets.Recognise(c, p),
                };
            }),
        ];
    }

    /// <summary>Readers of published types that may claim what comes in so.</summary>
    internal List<Reader> Readers(WayIn way) => database.Read(c => Readers(c, way)).ConvertAll(v => v.Reader);

    private List<StackDocuments.MadeDocument> Read(StackView view) => making.Read(view, database.Read(c => Readers(c, view.Way)));

    private List<ReaderVersion> Readers(SqliteConnection c, WayIn way) =>
        [
            .. ReaderStore
                .Published(c)
                .Where(v =>
                    designs.Published.ContainsKey(v.Reader.TypeCode) && (way.Readers.Count == 0 || way.Readers.Contains(v.Reader.Key))
                ),
        ];
}
