using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using ClearLexicon.Core.Fields;
using ClearLexicon.Formats;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>What leaves by a run of a plan, as the plan was then.</summary>
/// <param name="Plan">The plan.</param>
/// <param name="What">What leaves.</param>
/// <param name="Folder">Where it goes, below <c>exports/</c>.</param>
public sealed record ExportOrder(long Plan, ExportDefinition What, string Folder);

/// <summary>
/// Runs export plans. A run is written into a folder of its own beside its target and moved there as a whole when it is complete, so that
/// what stands in the target is never half. Each file is noted with its hash when it is written; a run that was stopped or killed goes on
/// behind what it has.
/// </summary>
public sealed class Exports(
    Database database,
    DataFolder folder,
    Designs designs,
    SearchRequests requests,
    ExportPlans plans,
    Jobs jobs,
    TimeProvider clock
) : IWorksInJobs
{
    private const int MostRuns = 20;

    // How far a run has come: what it writes is complete, and on its way to its folder.
    private const long Complete = 1;

    private Runs<ExportOrder, DocumentAlone> Runs =>
        field ??= new(
            database,
            jobs,
            clock,
            new("export", "desk", run => $"/Repository/Export/{run.Order.Plan}", ("", "Exporting", "")) { DoAll = Write, Ended = End }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => Runs.Kinds;

    /// <summary>What its jobs have as their subject.</summary>
    public static string Subject(long plan) => $"export {plan}";

    // Where a run is written until it is complete.
    private string Work(long run) => Path.Combine(folder.Exports, $".run-{run}");

    /// <summary>Runs of a plan, newest first.</summary>
    public List<Run<ExportOrder>> Of(long plan) => Runs.Of(Subject(plan), MostRuns);

    /// <summary>Documents that did not leave by a run, each with its reason as its message.</summary>
    public List<RunStep<DocumentAlone>> Left(Run<ExportOrder> run, int most) => Runs.Steps(run, most, StepState.Skipped);

    /// <summary>How many files a run wrote, and how many bytes they have.</summary>
    public (long Files, long Bytes) Size(Run<ExportOrder> run) => database.Read(c => ExportStore.Size(c, run.Key));

    /// <summary>Whether what a run wrote has given place to what a later one wrote into the same folder.</summary>
    public bool IsReplaced(Run<ExportOrder> run) => database.Read(c => ExportStore.IsReplaced(c, run.Id, run.Order.Folder));

    /// <summary>The folder of a run that is complete; null when it is not, is gone, or holds what a later run wrote.</summary>
    public string? FolderOf(Run<ExportOrder> run) =>
        run.State == RunState.Applied
        && !IsReplaced(run)
        && Path.Combine(folder.Exports, run.Order.Folder) is var path
        && Directory.Exists(path)
            ? path
            : null;

    /// <summary>
    /// Starts what is to be run by itself by now, with the rights that its owner has today; what cannot be run is told in the ledger and
    /// waits for its next time.
    /// </summary>
    /// <returns>How many runs were started.</returns>
    public int StartDue()
    {
        var started = 0;
        foreach (var plan in database.Read(c => ExportStore.Due(c, clock.GetUtcNow())))
        {
            var next = plans.Next(plan.What);
            var owner = database.Read(c => PeopleStore.Find(c, plan.Owner));
            // That it is run and when it is run next are one transaction: a stop neither loses nor doubles a run.
            var run =
                owner is null ? Result<Job>.Not($"{plan.Owner}, who owns this plan, no longer has an account.")
                : jobs.Running(Subject(plan.Id)) is not null ? Result<Job>.Not("This plan is still running.")
                : Start(plan.Id, owner.Name, new Rights(owner.Roles), c => ExportStore.SetNext(c, plan.Id, next));
            if (run.Ok)
                started++;
            else
                database.Write(c =>
                {
                    ExportStore.SetNext(c, plan.Id, next);
                    LedgerStore.Append(
                        c,
                        clock.GetUtcNow(),
                        plan.Owner,
                        "could not export by itself",
                        new LedgerSubject(SubjectKind.ExportPlan, plan.Name),
                        run.Problem!
                    );
                });
        }
        return started;
    }

    /// <summary>Starts a run of a plan, with the rights of the person who starts it.</summary>
    public Result<Job> Start(long plan, string who, Rights rights) => Start(plan, who, rights, static _ => { });

    private Result<Job> Start(long plan, string who, Rights rights, Action<SqliteConnection> also)
    {
        if (plans.Find(plan) is not { } found)
            return Result<Job>.Not("This plan no longer exists.");
        if (plans.WhyNot(found.What, rights) is { } problem)
            return Result<Job>.Not(problem);
        var target = found.What.Folder;
        if (Directory.Exists(Path.Combine(folder.Exports, target)))
            if (found.What.Taken == "stop")
                return Result<Job>.Not(
                    $"The folder exports/{target} is there already. Choose another name, or say in the plan what happens to it."
                );
            else if (found.What.Taken == "beside")
                for (var n = 2; Directory.Exists(Path.Combine(folder.Exports, target)); n++)
                    target = string.Create(CultureInfo.InvariantCulture, $"{found.What.Folder} ({n})");
        return Runs.Begin(Subject(plan), new ExportOrder(plan, found.What, target), who, (c, _) => also(c)).With(b => b.Job);
    }

    /// <summary>Goes on with a run that was stopped.</summary>
    public Result<Job> Resume(long run, string who) => Runs.Apply(run, who);

    private void Write(Run<ExportOrder> run, Job job, CancellationToken cancel)
    {
        var work = Work(run.Id);
        if (run.Reached < Complete)
        {
            Fill(run, work, job, cancel);
            var documents = job.Done / (IsEach(run.Order.What) ? 2 : 1);
            database.Write(c => RunStore.Reach(c, run.Key, Complete, (int)documents));
        }
        // After a kill in between, the folder that is complete stands in its place already.
        if (Directory.Exists(work))
            Replace(work, Path.Combine(folder.Exports, run.Order.Folder));
    }

    private void End(SqliteConnection c, Run<ExportOrder> run, Job job) =>
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            run.Who,
            $"exported {Counted.Of(ExportStore.Size(c, run.Key).Files, "file")} to exports/{run.Order.Folder}",
            new LedgerSubject(SubjectKind.ExportRun, run.Id),
            HashOfAll(c, run.Key)
        );

    // Whether documents are gone through one by one before their records are written.
    private static bool IsEach(ExportDefinition what) => what.Files != "none" || what.FileEach;

    private void Fill(Run<ExportOrder> run, string work, Job job, CancellationToken cancel)
    {
        // What its owner may see leaves, and nothing besides.
        var rights = new Rights(database.Read(c => PeopleStore.Find(c, run.Who)?.Roles ?? []));
        var what = run.Order.What;
        if (plans.WhyNot(what, rights) is { } problem)
            throw new RefusedException(problem);
        var asked = requests.For(what.Asks, rights);
        var leaving = Leaving.Of(what, asked.Type!, designs, folder);
        var payload = what.Package ? Path.Combine(work, "data") : work;
        Directory.CreateDirectory(payload);
        (job.Total, job.Done) = (database.Read(c => RepositorySearch.Count(c, asked.Query)).Number * (IsEach(what) ? 2 : 1), 0);
        var writing = new ExportWriting(database, folder, jobs, run, asked.Query, leaving, payload, job, cancel);
        if (IsEach(what))
            writing.EachDocument();
        if (what.FileEach)
            job.Done *= 2;
        else
            writing.Records();
        writing.Beside(asked.Type!.Code);
        writing.CheckAllThere();
        if (what.Package)
            BagItPackage.Close(
                work,
                [
                    ("Source-Organization", "Clear Lexicon"),
                    ("External-Identifier", run.Order.Folder),
                    ("Bagging-Date", clock.DayOf(run.At).ToString("O", CultureInfo.InvariantCulture)),
                    ("Internal-Sender-Description", QuestionText.Write(asked.Question, asked.Fields)),
                ],
                cancel
            );
    }

    // The new folder takes the place of the old one; at any moment one of them stands there or beside it.
    private static void Replace(string work, string final)
    {
        var old = final + ".old";
        if (Directory.Exists(final))
        {
            if (Directory.Exists(old))
                Directory.Delete(old, recursive: true);
            Directory.Move(final, old);
        }
        Directory.Move(work, final);
        if (Directory.Exists(old))
            Directory.Delete(old, recursive: true);
    }

    // One hash that stands for all files of a run, in the order of their paths.
    private static string HashOfAll(SqliteConnection c, long run)
    {
        using var sum = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        for (var after = ""; ExportStore.Files(c, run, after, 1_000) is { Count: > 0 } files; after = files[^1].Path)
            foreach (var file in files)
                sum.AppendData(Encoding.UTF8.GetBytes($"{file.Sha256}  {file.Path}\n"));
        return $"sha256 {Convert.ToHexStringLower(sum.GetHashAndReset())}";
    }
}
