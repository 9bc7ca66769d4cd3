using System.Security.Cryptography;
using System.Text;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Desk;

/// <summary>What filing everything that is ready would do.</summary>
/// <param name="Ready">The documents, with their paths.</param>
/// <param name="Tree">The folders they go to, as they are and as they would be.</param>
/// <param name="Mark">What the act must carry, so that it files what the person saw.</param>
public sealed record FilingLook(IReadOnlyList<JudgedDocument> Ready, PathTree Tree, string Mark);

/// <summary>
/// Files everything that is ready as one act: looked at first, then filed one by one in the background, then, if wanted, taken back as a
/// whole, but for what somebody has touched since.
/// </summary>
public sealed class FilingRuns(Database database, DeskDocuments desk, Filer filer, Withdrawals withdrawals, Jobs jobs, TimeProvider clock)
    : IWorksInJobs
{
    private sealed record OfRun(long Run);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [JobKind.Of("filing", "Filing what is ready", "desk", File), JobKind.Of("filing-undo", "Undoing a filing", "desk", Undo)];

    /// <summary>What its jobs have as their subject.</summary>
    public const string Subject = "ready documents";

    private static string Address(long run) => $"/Desk/Filing/{run}";

    /// <summary>What filing would do, of a batch or of the whole desk.</summary>
    public FilingLook Look(string who, long? batch)
    {
        var ready = desk.Waiting(who, batch).Where(d => d.State == "ready").ToList();
        var tree = new PathTree();
        var folders = ready.Select(d => d.Judged!.Placement.Folder).ToList();
        foreach (var (folder, here) in database.Read(c => folders.Distinct().Select(f => (f, FolderStore.Here(c, f))).ToList()))
            tree.Has(folder, (int)here);
        foreach (var folder in folders)
            tree.Adds(folder);
        var seen = string.Join('\n', ready.Select(d => $"{d.Document.Id} {d.Judged!.Placement.Path}"));
        return new FilingLook(ready, tree, Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(seen)))[..16]);
    }

    /// <summary>A run with those of its documents that the person sees; null when there is none.</summary>
    public (FilingRun Run, List<FilingRunDocument> Documents)? Find(long run, string who) =>
        database.Read(c =>
            FilingRunStore.Find(c, run) is { } found
                ? (
                    found,
                    FilingRunStore
                        .Documents(c, run)
                        .Where(d => d.State == "filed" || DeskDocuments.Find(c, d.Document, who) is not null)
                        .ToList()
                )
                : ((FilingRun, List<FilingRunDocument>)?)null
        );

    /// <summary>The newest runs.</summary>
    public List<FilingRun> Newest(int most) => database.Read(c => FilingRunStore.Newest(c, most));

    /// <summary>Files what is ready.</summary>
    /// <param name="who">Who files.</param>
    /// <param name="batch">Only of this batch.</param>
    /// <param name="mark">What the person saw; null for whoever files what is ready by now.</param>
    /// <returns>The run and its job.</returns>
    public Result<(long Run, Job Job)> Start(string who, long? batch, string? mark)
    {
        var look = Look(who, batch);
        if (look.Ready.Count == 0)
            return Result<(long, Job)>.Not("Nothing is ready to be filed.");
        if (mark is not null && mark != look.Mark)
            return Result<(long, Job)>.Not("What is ready has changed in the meantime; look again.");
        var run = 0L;
        var started = jobs.Start(
            "filing",
            Subject,
            "/Desk",
            new OfRun(0),
            who,
            c =>
            {
                run = FilingRunStore.Begin(
                    c,
                    batch,
                    look.Ready.Select(d => (d.Document.Id, d.Document.SourceName, d.Judged!.Placement.Path + CompiledConvention.Extension)),
                    clock.GetUtcNow(),
                    who
                );
                return new OfRun(run);
            }
        );
        if (started.Value is not { } job)
            return Result<(long, Job)>.Not(started.Problem!);
        return (job.Given<OfRun>().Run, job);
    }

    /// <summary>Goes on with a run that was stopped.</summary>
    public Result<Job> Resume(long run, string who) => Again(run, "filing", "filing", who);

    /// <summary>Takes back what a run has filed.</summary>
    public Result<Job> StartUndo(long run, string who) => Again(run, "filing-undo", "undoing", who);

    private Result<Job> Again(long run, string kind, string state, string who) =>
        database.Read(c => FilingRunStore.Find(c, run)) is null
            ? Result<Job>.Not("There is no such filing.")
            : jobs.Resume(kind, Subject, Address(run), new OfRun(run), who, c => FilingRunStore.SetState(c, run, state));

    private void File(Job job, CancellationToken cancel)
    {
        var run = job.Given<OfRun>().Run;
        var documents = database.Read(c => FilingRunStore.Documents(c, run));
        (job.Total, job.Done) = (documents.Count, documents.Count(d => d.State != "planned"));
        var (left, first) = (0, "");
        foreach (var document in documents.Where(d => d.State == "planned"))
        {
            cancel.ThrowIfCancellationRequested();
            // That it is filed and that this run has filed it are one transaction.
            var result = filer.File(document.Document, job.Who, also: (c, path) => FilingRunStore.Filed(c, run, document.Document, path));
            if (result.Problem is { } problem)
            {
                (left, first) = (left + 1, first.Length == 0 ? problem : first);
                database.Write(c => FilingRunStore.Set(c, run, document.Document, "left", problem));
            }
            jobs.Step(job);
        }
        if (left > 0)
            throw new RefusedException($"{documents.Count - left} filed, {left} not: {first}");
    }

    private void Undo(Job job, CancellationToken cancel)
    {
        var run = job.Given<OfRun>().Run;
        var documents = database.Read(c => FilingRunStore.Documents(c, run)).Where(d => d.State == "filed").ToList();
        job.Total = documents.Count;
        foreach (var document in documents)
        {
            cancel.ThrowIfCancellationRequested();
            // One that a stop has met between its two steps is on the desk already.
            var onDesk = database.Read(c => DocumentStore.Find(c, document.Document)) is { Filed: false };
            var problem =
                onDesk ? null
                : !database.Read(c => FilingRunStore.IsUntouched(c, document)) ? "Somebody has worked on it since."
                : withdrawals.Withdraw(document.Document, isOut: false, "The filing was undone", job.Who).Problem;
            database.Write(c => FilingRunStore.Set(c, run, document.Document, problem is null ? "back" : "stays", problem ?? ""));
            jobs.Step(job);
        }
    }
}
