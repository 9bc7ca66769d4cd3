using ClearLexicon.Core.Conventions;
using ClearLexicon.Formats;
using ClearLexicon.Storage;

namespace ClearLexicon.Services;

/// <summary>
/// Files documents: a searchable PDF in the repository's folders and its record, both or neither, also when the process
/// is killed at any moment. The intention is journaled, the file moves without ever overwriting, then record and end of the
/// intention are one transaction; <see cref="Recover"/> takes back what was left between.
/// </summary>
public sealed class Filer(Database database, DataFolder folder, Desk desk, Designs designs, Vocabularies vocabularies, TimeProvider clock)
{
    private readonly Lock _oneAtATime = new();

    /// <summary>Called between the steps with their names; tests stop the process here.</summary>
    internal Action<string> Checkpoint { get; set; } = _ => { };

    /// <summary>Files one document and returns its path in the repository.</summary>
    public Result<string> File(long id, string who)
    {
        lock (_oneAtATime)
        {
            if (desk.Find(id, who) is not { Document.Filed: false } judged) return Result<string>.Not("This document is no longer on the desk.");
            if (judged.Judged is null) return Result<string>.Not($"“{judged.Document.SourceName}”: say first what kind of document this is.");
            if (!judged.Judged.Ready(judged.Overridden))
                return Result<string>.Not($"“{judged.Document.SourceName}”: {judged.Judged.All.First(p => !judged.Overridden.Contains(p.Id)).Message}");
            return Write(judged, who);
        }
    }

    /// <summary>Files every ready document of a batch, or of the whole desk.</summary>
    public (int Filed, List<string> Problems) FileReady(long? batchId, string who, Job? job = null, CancellationToken cancel = default)
    {
        var ready = desk.Waiting(who, batchId).Where(d => d.State == "ready").ToList();
        var problems = new List<string>();
        var filed = 0;
        if (job is not null) job.Total = ready.Count;
        foreach (var document in ready)
        {
            cancel.ThrowIfCancellationRequested();
            var result = File(document.Document.Id, who);
            if (result.Ok) filed++;
            else problems.Add(result.Problem!);
            job?.Step();
        }
        return (filed, problems);
    }

    /// <summary>Takes back filings that a stop left half done. Call once at start.</summary>
    public int Recover()
    {
        var unfinished = database.Read(FilingJournal.Unfinished);
        foreach (var filing in unfinished)
        {
            // The record was not written, or this line would be gone with it: remove the file if it is the one we moved there.
            if (System.IO.File.Exists(filing.FinalFile) && DataFolder.HashOf(filing.FinalFile) == filing.FileHash && !Recorded(filing)) System.IO.File.Delete(filing.FinalFile);
            database.Write(c =>
            {
                FilingJournal.End(c, filing.Id);
                LedgerStore.Append(c, clock.GetUtcNow(), "start-up", "took back an interrupted filing", $"document {filing.DocumentId}");
            });
        }
        foreach (var draft in Directory.GetFiles(folder.Drafts)) System.IO.File.Delete(draft);
        return unfinished.Count;
    }

    private bool Recorded(Filing filing) => database.Read(c => DocumentStore.Find(c, filing.DocumentId)) is { Filed: true } d
        && folder.InRepository(d.Folder!, d.Name!) == filing.FinalFile;

    private Result<string> Write(JudgedDocument judged, string who)
    {
        var document = judged.Document;
        var type = judged.Published!.Type;
        var pages = desk.Pages(document.Id);
        var draft = Path.Combine(folder.Drafts, $"{document.Id}-{Guid.NewGuid():N}.pdf");
        if (document.SourceFile is { } source && source.EndsWith(".pdf", StringComparison.OrdinalIgnoreCase) && pages.All(p => p.Text.Method == "text layer"))
            System.IO.File.Copy(folder.Absolute(source), draft);
        else
            SearchablePdf.Write(draft, [.. pages.Select(p => new PdfPage(folder.Absolute(p.Image), p.Text, []))], judged.Judged!.Placement.Name);
        var hash = DataFolder.HashOf(draft);
        var sourceHash = document.SourceFile is { } brought && System.IO.File.Exists(folder.Absolute(brought)) ? DataFolder.HashOf(folder.Absolute(brought)) : null;
        var convention = type.Convention;
        var now = judged.Judged!.Now;
        if (convention.Convention.Collision == Collision.SkipIdentical && Same(judged, sourceHash) is { } same) return Skip(document, same, draft, who);

        // Number and intention are taken in one transaction, so that nobody else gets the name; a stray file on disk may stand in its way too.
        var (place, journal, final) = database.Write(c =>
        {
            var found = Placing.Find(c, convention, judged.Judged.Values, now, document.Id, CompiledConvention.Extension, inTheWay: (f, n) => System.IO.File.Exists(folder.InRepository(f, n)));
            if (found.At.Problem is not null) return (found, 0L, "");
            if (found.TakesNumber(convention)) CounterStore.Take(c, convention.CounterKey(judged.Judged.Values, now), found.Number);
            var target = folder.InRepository(found.At.Folder, found.At.Name + CompiledConvention.Extension);
            return (found, FilingJournal.Begin(c, document.Id, draft, target, hash), target);
        });
        if (place.At.Problem is { } problem) { System.IO.File.Delete(draft); return Result<string>.Not(problem.Message); }
        Directory.CreateDirectory(Path.GetDirectoryName(final)!);
        Checkpoint("journaled");
        System.IO.File.Move(draft, final, overwrite: false);
        Checkpoint("moved");
        var name = Path.GetFileName(final);
        database.Write(c =>
        {
            var cleaned = type.Type.Fields.Select((f, i) => (f.Key, judged.Judged.Values[i])).Where(v => v.Item2.IsGood).ToDictionary(v => v.Key, v => v.Item2.Text);
            var filed = document with
            {
                Record = cleaned,
                Version = judged.Published.Version,
                Name = name,
                Folder = place.At.Folder,
                FileHash = hash,
                SourceHash = sourceHash,
                Naming = Placing.Kept(Placing.Around(c, document, now), place.Number),
                VersionOf = place.VersionOf,
            };
            DocumentStore.Save(c, filed);
            DocumentStore.MarkFiled(c, filed, clock.GetUtcNow(), who);
            RecordJudge.KeepKeys(c, filed, type);
            FullText.Index(c, filed, type.Type, pages);
            vocabularies.Grow(c, type.NewTerms(judged.Judged.Values), who);
            FilingJournal.End(c, journal);
            LedgerStore.Append(c, clock.GetUtcNow(), who, place.VersionOf is { } before ? $"filed as a later version of document {before}" : "filed", $"document {document.Id}", $"{place.At.Folder}/{name}");
            Checkpoint("recording");
        });
        if (type.NewTerms(judged.Judged.Values).Any()) designs.Forget();
        return $"{place.At.Folder}/{name}";
    }

    // The same file, filed before in the place that this one would have.
    private StoredDocument? Same(JudgedDocument judged, string? sourceHash)
    {
        if (sourceHash is null) return null;
        var convention = judged.Published!.Type.Convention;
        var plain = convention.CounterKey(judged.Judged!.Values, judged.Judged.Now);
        var type = judged.Published.Type;
        return database.Read(c => DocumentStore.WithSource(c, judged.Document.TypeCode!, sourceHash).FirstOrDefault(d =>
        {
            var then = Placing.Around(c, d, judged.Judged.Now);
            return convention.CounterKey(type.Read(RecordJudge.Texts(type, d.Record), then), then) == plain;
        }));
    }

    private Result<string> Skip(StoredDocument document, StoredDocument same, string draft, string who)
    {
        System.IO.File.Delete(draft);
        database.Write(c =>
        {
            DocumentStore.RemoveFromDesk(c, document.Id);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "did not file the same file again", $"document {document.Id}", $"it is document {same.Id}, {same.Folder}/{same.Name}");
        });
        return $"{same.Folder}/{same.Name}";
    }
}
