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

/// <summary>What is filed together.</summary>
/// <param name="Batch">The batch; null for the whole desk.</param>
public sealed record FilingOrder(long? Batch);

/// <summary>
/// Files everything that is ready as one act: looked at first, then filed one by one in the background, then, if wanted, taken back as a
/// whole, but for what somebody has touched since.
/// </summary>
public sealed class FilingRuns(Database database, DeskDocuments desk, Filer filer, Withdrawals withdrawals, Jobs jobs, TimeProvider clock)
    : IWorksInJobs
{
    private Runs<FilingOrder, DocumentAlone> Runs =>
        field ??= new(
            database,
            jobs,
            clock,
            new("filing", "desk", run => $"/Desk/Filing/{run.Id}", ("", "Filing what is ready", "Undoing a filing"))
            {
                DoAlone = File,
                UndoAlone = TakeBack,
                Shortfall = Shortfall,
            }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => Runs.Kinds;

    /// <summary>What its jobs have as their subject.</summary>
    public const string Subject = "ready documents";

    /// <summary>What filing would do, of a batch or of the whole desk.</summary>
    public FilingLook Look(string who, long? batch)
    {
        var ready = desk.Waiting(who, batch).Where(d => d.State == Readiness.Ready).ToList();
        var tree = new PathTree();
        var folders = ready.Select(d => d.Judged!.Placement.Folder).ToList();
        foreach (var (folder, here) in database.Read(c => folders.Distinct().Select(f => (f, FolderStore.Here(c, f))).ToList()))
            tree.Has(folder, (int)here);
        foreach (var folder in folders)
            tree.Adds(folder);
        var seen = string.Join('\n', ready.Select(d => $"{d.Document.Id} {d.Judged!.Placement.Path}"));
        return new FilingLook(ready, tree, Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(seen)))[..16]);
    }

    /// <summary>A run with those of its documents that the person sees, by where they belong; null when there is none.</summary>
    public (Run<FilingOrder> Run, List<RunStep<DocumentAlone>> Documents)? Find(long run, string who)
    {
        if (Runs.Find(run) is not { } found)
            return null;
        var steps = Runs.Steps(found, int.MaxValue, Enum.GetValues<StepState>());
        return (
            found,
            database.Read(c =>
                steps
                    .Where(d => d.State == StepState.Done || DeskDocuments.Find(c, d.Document, who) is not null)
                    .OrderBy(d => d.ToPath, StringComparer.Ordinal)
                    .ToList()
            )
        );
    }

    /// <summary>The newest runs.</summary>
    public List<Run<FilingOrder>> Newest(int most) => Runs.Newest(most);

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
        var begun = Runs.Begin(
            Subject,
            new FilingOrder(batch),
            who,
            (c, run) =>
            {
                foreach (var ready in look.Ready)
                    RunStore.Add(
                        c,
                        run.Key,
                        new RunStep<DocumentAlone>(ready.Document.Id, new DocumentAlone())
                        {
                            Name = ready.Document.SourceName,
                            ToPath = ready.Judged!.Placement.Path + CompiledConvention.Extension,
                        }
                    );
            }
        );
        return begun.With(b => (b.Run.Id, b.Job));
    }

    /// <summary>Goes on with a run that was stopped.</summary>
    public Result<Job> Resume(long run, string who) => Runs.Apply(run, who);

    /// <summary>Takes back what a run has filed.</summary>
    public Result<Job> StartUndo(long run, string who) => Runs.Undo(run, who);

    private RunStep<DocumentAlone> File(Run<FilingOrder> run, RunStep<DocumentAlone> step, string who)
    {
        var filed = step;
        // That it is filed and that this run has filed it are one transaction.
        var result = filer.File(
            step.Document,
            who,
            also: (c, path) =>
                RunStore.Set(c, filed = step.As(StepState.Done) with { ToPath = path, LastChange = RunStore.LastChange(c, step.Document) })
        );
        return result.Problem is { } problem ? step.As(StepState.Skipped, problem) : filed;
    }

    private string? Shortfall(Run<FilingOrder> run)
    {
        var counts = Runs.Counts(run);
        return Runs.Steps(run, 1, StepState.Skipped) is [var first, ..]
            ? $"{counts.GetValueOrDefault(StepState.Done).Number} filed, {counts[StepState.Skipped].Number} not: {first.Message}"
            : null;
    }

    private RunStep<DocumentAlone> TakeBack(Run<FilingOrder> run, RunStep<DocumentAlone> step, string who)
    {
        var document = database.Read(c => DocumentStore.Find(c, step.Document));
        // One that a stop has met between its two steps is on the desk already.
        var problem =
            document is { Filed: false } ? null
            : $"{document!.Folder}/{document.Name}" != step.ToPath
            || database.Read(c => RunStore.LastChange(c, step.Document)) != step.LastChange
                ? "Somebody has worked on it since."
            : withdrawals.Withdraw(step.Document, isOut: false, "The filing was undone", who).Problem;
        return problem is null ? step.As(StepState.Undone) : step.As(StepState.Stays, problem);
    }
}
