using System.Security.Cryptography;
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
            if (System.IO.File.Exists(filing.FinalFile) && Hash(filing.FinalFile) == filing.FileHash && !Recorded(filing)) System.IO.File.Delete(filing.FinalFile);
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
        var hash = Hash(draft);

        // The name proposed is free in the records; a stray file on disk may still stand in its way.
        var (place, final) = FreeOnDisk(judged);
        if (place.Problem is { } problem) return Result<string>.Not(problem.Message);
        Directory.CreateDirectory(Path.GetDirectoryName(final)!);
        var journal = database.Write(c => FilingJournal.Begin(c, document.Id, draft, final, hash));
        Checkpoint("journaled");
        System.IO.File.Move(draft, final, overwrite: false);
        Checkpoint("moved");
        var name = Path.GetFileName(final);
        database.Write(c =>
        {
            var now = clock.GetUtcNow();
            var cleaned = type.Type.Fields.Select((f, i) => (f.Key, judged.Judged!.Values[i])).Where(v => v.Item2.IsGood).ToDictionary(v => v.Key, v => v.Item2.Text);
            var filed = document with { Record = cleaned, Version = judged.Published.Version, Name = name, Folder = place.Folder };
            DocumentStore.Save(c, filed);
            DocumentStore.MarkFiled(c, document.Id, place.Folder, name, hash, now, who);
            RecordJudge.KeepKeys(c, filed, type);
            FullText.Index(c, filed, type.Type, pages);
            vocabularies.Grow(c, type.NewTerms(judged.Judged!.Values), who);
            FilingJournal.End(c, journal);
            LedgerStore.Append(c, now, who, "filed", $"document {document.Id}", $"{place.Folder}/{name}");
            Checkpoint("recording");
        });
        if (type.NewTerms(judged.Judged!.Values).Any()) designs.Forget();
        return $"{place.Folder}/{name}";
    }

    private (Placement Place, string Final) FreeOnDisk(JudgedDocument judged)
    {
        var placement = judged.Judged!.Placement;
        var convention = judged.Published!.Type.Convention;
        for (var counter = 1; ; counter++)
        {
            if (counter > 1) placement = convention.Render(judged.Judged.Values, counter);
            if (placement.Problem is not null || counter > 10_000) return (placement, "");
            var final = folder.InRepository(placement.Folder, placement.Name + CompiledConvention.Extension);
            if (!System.IO.File.Exists(final) && (counter == 1 || !database.Read(c => RepositoryStore.IsTaken(c, placement.Folder, placement.Name + CompiledConvention.Extension))))
                return (placement, final);
        }
    }

    private static string Hash(string path)
    {
        using var file = System.IO.File.OpenRead(path);
        return Convert.ToHexStringLower(SHA256.HashData(file));
    }
}
