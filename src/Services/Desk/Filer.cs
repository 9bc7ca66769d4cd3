using ClearLexicon.Core.Conventions;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>
/// Files documents: a searchable PDF in the repository's folders and its record, both or neither, also when the process
/// is killed at any moment. The intention is journaled, the file moves without ever overwriting, then record and end of the
/// intention are one transaction; <see cref="Recover"/> takes back what was left between.
/// </summary>
public sealed class Filer(Database database, DataFolder folder, DeskDocuments desk, DocumentWriter writer, TimeProvider clock)
{
    private readonly Lock _oneAtATime = new();

    /// <summary>Called between the steps with their names; tests stop the process here.</summary>
    internal Action<string> Checkpoint { get; set; } = _ => { };

    /// <summary>
    /// Files one document and returns its path in the repository. A disk that takes nothing more is a problem, and leaves the document on
    /// the desk.
    /// </summary>
    /// <param name="id">The document.</param>
    /// <param name="who">Who files it.</param>
    /// <param name="withHeld">Whether the person looks at it, so that what they hold goes into it.</param>
    /// <param name="also">What else is written in the transaction that files it, given its path.</param>
    public Result<string> File(long id, string who, bool withHeld = false, Action<SqliteConnection, string>? also = null)
    {
        try
        {
            if (withHeld)
                desk.KeepHeld(id, who);
            return FileNow(id, who, also);
        }
        catch (Exception e) when (Failures.IsFromOutside(e))
        {
            TryUndoUnfinished();
            return Result<string>.Not($"It could not be filed, and stays on the desk: {Failures.InWords(e)}");
        }
    }

    private Result<string> FileNow(long id, string who, Action<SqliteConnection, string>? also)
    {
        for (var tries = MostJudged; tries > 0; tries--)
        {
            try
            {
                return FileOnce(id, who, also);
            }
            // Judged, drawn and moved, it is no longer what it was: it is taken back and judged again.
            catch (ChangedMeanwhileException)
            {
                TryUndoUnfinished();
            }
        }
        return Result<string>.Not("Somebody else is changing this document; file it when they are done.");
    }

    private const int MostJudged = 3;

    private Result<string> FileOnce(long id, string who, Action<SqliteConnection, string>? also)
    {
        lock (_oneAtATime)
        {
            if (desk.Find(id, who) is not { Document.Filed: false } judged)
                return Result<string>.Not("This document is no longer on the desk.");
            if (judged.Judged is null)
                return Result<string>.Not($"“{judged.Document.SourceName}”: say first what kind of document this is.");
            if (judged.Judged.AgainstFiling(judged.Overridden) is { } against)
                return Result<string>.Not($"“{judged.Document.SourceName}”: {against.Message}");
            return Write(judged, who, also);
        }
    }

    /// <summary>Files every ready document of a batch, or of the whole desk.</summary>
    public (int Filed, List<string> Problems) FileReady(long? batchId, string who)
    {
        var filed = desk.Waiting(who, batchId).Where(d => d.State == Readiness.Ready).Select(d => File(d.Document.Id, who)).ToList();
        return (filed.Count(f => f.Ok), [.. filed.Select(f => f.Problem).OfType<string>()]);
    }

    // What a failure left between is taken back at once, or at the next start when the disk takes not even that.
    private void TryUndoUnfinished()
    {
        lock (_oneAtATime)
        {
            try
            {
                UndoUnfinished();
            }
            catch (Exception e) when (Failures.IsFromOutside(e)) { }
        }
    }

    /// <summary>Takes back filings that a stop left half done, and removes files that were being written. Call once at start.</summary>
    public int Recover()
    {
        var taken = UndoUnfinished();
        foreach (var draft in Directory.GetFiles(folder.Drafts))
            System.IO.File.Delete(draft);
        return taken;
    }

    private int UndoUnfinished()
    {
        var unfinished = database.Read(FilingJournal.Unfinished);
        foreach (var filing in unfinished)
        {
            // The record was not written, or this line would be gone with it: remove the file if it is the one we moved there. A path that
            // leads out of this data folder is that of another one, which was copied here.
            var final = folder.Absolute(filing.FinalFile);
            if (
                folder.Holds(filing.FinalFile)
                && System.IO.File.Exists(final)
                && DataFolder.HashOf(final) == filing.FileHash
                && !Recorded(filing)
            )
                System.IO.File.Delete(final);
            if (folder.Holds(filing.DraftFile))
                System.IO.File.Delete(folder.Absolute(filing.DraftFile));
            database.Write(c =>
            {
                FilingJournal.End(c, filing.Id);
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    "start-up",
                    "undid an interrupted filing",
                    LedgerSubject.Document(filing.DocumentId)
                );
            });
        }
        return unfinished.Count;
    }

    private bool Recorded(Filing filing) =>
        database.Read(c => DocumentStore.Find(c, filing.DocumentId)) is { Filed: true } d
        && folder.InRepository(d.Folder!, d.Name!) == folder.Absolute(filing.FinalFile);

    private Result<string> Write(JudgedDocument judged, string who, Action<SqliteConnection, string>? also)
    {
        var draft = Path.Combine(folder.Drafts, $"{judged.Document.Id}-{Guid.NewGuid():N}.pdf");
        try
        {
            return Write(judged, draft, who, also);
        }
        catch (Exception e) when (Failures.IsFromOutside(e) || e is ChangedMeanwhileException)
        {
            System.IO.File.Delete(draft);
            throw;
        }
    }

    // The document, and the design by which it was judged: another version may ask for more, restrict a field, name a term otherwise.
    private static void MustBeAsJudged(SqliteConnection c, JudgedDocument judged)
    {
        var seen = judged.Document;
        if (
            DocumentStore.Find(c, seen.Id) is not { Filed: false } now
            || now.Revision != seen.Revision
            || DesignStore.Revision(c) != judged.Published!.Revision
        )
            throw new ChangedMeanwhileException(seen.Id);
    }

    private Result<string> Write(JudgedDocument judged, string draft, string who, Action<SqliteConnection, string>? also)
    {
        var document = judged.Document;
        var type = judged.Published!.Type;
        var pages = desk.Pages(document.Id);
        Draw(document, pages, draft, judged.Judged!.Placement.Name);
        folder.Disk.FlushFile(draft);
        var hash = DataFolder.HashOf(draft);
        var sourceHash = SourceHash(document, pages);
        var convention = type.Convention;
        var now = judged.Judged!.Now;
        if (convention.Convention.Collision == Collision.SkipIdentical && Same(judged, sourceHash) is { } same)
            return Skip(judged, same, draft, who);

        Checkpoint("drawn");
        // Number and intention are taken in one transaction, so that nobody else gets the name; a stray file on disk may stand in its way
        // too.
        var (place, journal, final) = database.Write(c =>
        {
            MustBeAsJudged(c, judged);
            var found = Placing.Find(
                c,
                convention,
                judged.Judged.Values,
                now,
                new Placed(document.Id) { InTheWay = (f, n) => System.IO.File.Exists(folder.InRepository(f, n)) }
            );
            if (found.At.Problem is not null)
                return (found, 0L, "");
            if (found.TakesNumber(convention))
                CounterStore.Take(c, convention.CounterKey(judged.Judged.Values, now), found.Number);
            var target = folder.InRepository(found.At.Folder, found.At.Name + CompiledConvention.Extension);
            return (found, FilingJournal.Begin(c, document.Id, folder.Relative(draft), folder.Relative(target), hash), target);
        });
        if (place.At.Problem is { } problem)
        {
            System.IO.File.Delete(draft);
            return Result<string>.Not(problem.Message);
        }
        Checkpoint("journaled");
        folder.Disk.Move(draft, final);
        folder.Disk.FlushFolders(Path.GetDirectoryName(final)!, folder.Root);
        Checkpoint("moved");
        var name = Path.GetFileName(final);
        database.Write(c =>
        {
            MustBeAsJudged(c, judged);
            var cleaned = type
                .Type.Fields.Select((f, i) => (f.Key, judged.Judged.Values[i]))
                .Where(v => v.Item2.IsGood)
                .ToDictionary(v => v.Key, v => v.Item2.Text);
            var filed = document with
            {
                Filed = true,
                Record = cleaned,
                Version = judged.Published.Version,
                Name = name,
                Folder = place.At.Folder,
                FileHash = hash,
                SourceHash = sourceHash,
                Naming = Placing.Kept(Placing.Around(c, document, now), place.TakesNumber(convention) ? place.Number : 0),
                VersionOf = place.VersionOf,
            };
            writer.Write(
                c,
                new DocumentChange(document, filed, null, who)
                {
                    Type = type,
                    Judged = judged.Judged,
                    Pages = pages,
                }
            );
            FilingJournal.End(c, journal);
            also?.Invoke(c, $"{place.At.Folder}/{name}");
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                place.VersionOf is { } before ? $"filed as a later version of document {before}" : "filed",
                LedgerSubject.Document(document.Id),
                $"{place.At.Folder}/{name}",
                LedgerEvent.Filed
            );
            Checkpoint("recording");
        });
        return $"{place.At.Folder}/{name}";
    }

    // The pages as they came: the file itself when it is the whole document and holds its words, else its pages with words over them.
    // Only what is damaged beyond that is drawn anew from the page pictures.
    private void Draw(StoredDocument document, List<StoredPage> pages, string draft, string title)
    {
        var source = document.SourceFile is { } brought ? folder.Absolute(brought) : null;
        if (
            source is not null
            && source.EndsWith(".pdf", StringComparison.OrdinalIgnoreCase)
            && pages.All(p => p.Text is { Method: "text layer", Lay.Turned: 0 })
            && IsWholeFile(pages)
        )
        {
            folder.Disk.Copy(source, draft);
            return;
        }
        var filed = pages.Select(p => AsCame(p, document)).ToList();
        if (filed.All(p => p is not null) && FiledPdf.WriteAsync(filed!, draft, CancellationToken.None).GetAwaiter().GetResult())
            return;
        SearchablePdf.Write(draft, [.. pages.Select(p => new PdfPage(folder.Absolute(p.Image), p.Text, []))], title);
    }

    // All pages of one file, in its order.
    private static bool IsWholeFile(List<StoredPage> pages) =>
        pages.All(p => p.FileId is null)
        || pages.Select(p => p.FileId).Distinct().Count() == 1 && pages[0].IsWholeFile && pages.All(p => p.FilePage == p.Number);

    // Null for pages that were read before it was noted where they came from.
    private FiledPage? AsCame(StoredPage page, StoredDocument document)
    {
        var picture = PageReading.PageOf(folder.Absolute(page.Image));
        if (System.IO.File.Exists(picture))
            return new FiledPage(picture, 1, page.Text);
        if (page.FilePage is not { } number || page.Text.Size is null)
            return null;
        var source = folder.Absolute(page.FileStored ?? document.SourceFile!);
        return System.IO.File.Exists(source) && source.EndsWith(".pdf", StringComparison.OrdinalIgnoreCase)
            ? new FiledPage(source, number, page.Text)
            : null;
    }

    // Of a part of a file its pages are told too: two parts are not the same.
    private string? SourceHash(StoredDocument document, List<StoredPage> pages)
    {
        if (document.SourceFile is not { } brought || !System.IO.File.Exists(folder.Absolute(brought)))
            return null;
        var whole = DataFolder.HashOf(folder.Absolute(brought));
        if (IsWholeFile(pages))
            return whole;
        var part = string.Join(' ', pages.Select(p => $"{p.FileId}/{p.FilePage}"));
        return Convert.ToHexStringLower(
            System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes($"{whole} {part}"))
        );
    }

    // The same file, filed before in the place that this one would have.
    private StoredDocument? Same(JudgedDocument judged, string? sourceHash)
    {
        if (sourceHash is null)
            return null;
        var convention = judged.Published!.Type.Convention;
        var plain = convention.CounterKey(judged.Judged!.Values, judged.Judged.Now);
        var type = judged.Published.Type;
        return database.Read(c =>
            DocumentStore
                .WithSource(c, judged.Document.TypeCode!, sourceHash)
                .FirstOrDefault(d =>
                {
                    var then = Placing.Around(c, d, judged.Judged.Now);
                    return convention.CounterKey(type.Read(RecordJudge.Texts(type, d.Record), then), then) == plain;
                })
        );
    }

    private Result<string> Skip(JudgedDocument judged, StoredDocument same, string draft, string who)
    {
        var document = judged.Document;
        System.IO.File.Delete(draft);
        database.Write(c =>
        {
            MustBeAsJudged(c, judged);
            DocumentStore.RemoveFromDesk(c, document.Id);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "did not file the same file again",
                LedgerSubject.Document(document.Id),
                $"it is document {same.Id}, {same.Folder}/{same.Name}"
            );
        });
        return $"{same.Folder}/{same.Name}";
    }
}
