using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using ClearLexicon.Core.Fields;
using ClearLexicon.Formats;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

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
    private sealed record OfRun(long Run);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            JobKind.Of("export", "Exporting", "desk", Run) with
            {
                WhenUnfinished = (c, job) =>
                {
                    if (ExportStore.FindRun(c, job.Given<OfRun>().Run) is { State: "running" } run)
                        ExportStore.SetState(c, run.Id, "stopped", 0);
                },
            },
        ];

    /// <summary>What its jobs have as their subject.</summary>
    public static string Subject(long plan) => $"export {plan}";

    private static string Address(long plan) => $"/Repository/Export/{plan}";

    // Where a run is written until it is complete.
    private string Work(long run) => Path.Combine(folder.Exports, $".run-{run}");

    /// <summary>The folder of a run that is complete; null when it is not, or is gone.</summary>
    public string? FolderOf(ExportRun run) =>
        run.State == "done" && Path.Combine(folder.Exports, run.Folder) is var path && Directory.Exists(path) ? path : null;

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
                    LedgerStore.Append(c, clock.GetUtcNow(), plan.Owner, "could not export by itself", plan.Name, run.Problem!);
                });
        }
        return started;
    }

    /// <summary>Starts a run of a plan, with the rights of the person who starts it.</summary>
    public Result<Job> Start(long plan, string who, Rights rights) => Start(plan, who, rights, static _ => { });

    private Result<Job> Start(long plan, string who, Rights rights, Action<Microsoft.Data.Sqlite.SqliteConnection> also)
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
        return jobs.Start(
            "export",
            Subject(plan),
            Address(plan),
            new OfRun(0),
            who,
            c =>
            {
                also(c);
                return new OfRun(ExportStore.Begin(c, found, target, clock.GetUtcNow(), who));
            }
        );
    }

    /// <summary>Goes on with a run that was stopped.</summary>
    public Result<Job> Resume(long run, string who) =>
        database.Read(c => ExportStore.FindRun(c, run)) is not { State: "stopped" or "moving" } found
            ? Result<Job>.Not("This run is complete, or under way.")
            : jobs.Start(
                "export",
                Subject(found.Plan),
                Address(found.Plan),
                new OfRun(run),
                who,
                c =>
                {
                    if (found.State == "stopped")
                        ExportStore.SetState(c, run, "running", 0);
                    return new OfRun(run);
                }
            );

    private void Run(Job job, CancellationToken cancel)
    {
        if (database.Read(c => ExportStore.FindRun(c, job.Given<OfRun>().Run)) is not { State: "running" or "moving" } run)
            return;
        var work = Work(run.Id);
        if (run.State == "running")
        {
            Fill(run, work, job, cancel);
            var documents = job.Done / (IsEach(run.What) ? 2 : 1);
            database.Write(c => ExportStore.SetState(c, run.Id, "moving", documents));
        }
        // After a kill in between, the folder that is complete stands in its place already.
        if (Directory.Exists(work))
            Replace(work, Path.Combine(folder.Exports, run.Folder));
        database.Write(c =>
        {
            var (files, _) = ExportStore.Size(c, run.Id);
            ExportStore.SetState(c, run.Id, "done", ExportStore.FindRun(c, run.Id)!.Documents);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                run.Who,
                $"exported {Counted.Of(files, "file")} to exports/{run.Folder}",
                $"export run {run.Id}",
                HashOfAll(c, run.Id)
            );
        });
    }

    // Whether documents are gone through one by one before their records are written.
    private static bool IsEach(ExportDefinition what) => what.Files != "none" || what.FileEach;

    private void Fill(ExportRun run, string work, Job job, CancellationToken cancel)
    {
        // What its owner may see leaves, and nothing besides.
        var rights = new Rights(database.Read(c => PeopleStore.Find(c, run.Who)?.Roles ?? []));
        var what = run.What;
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
                    ("External-Identifier", run.Folder),
                    ("Bagging-Date", run.At[..10]),
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
    private static string HashOfAll(Microsoft.Data.Sqlite.SqliteConnection c, long run)
    {
        using var sum = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        for (var after = ""; ExportStore.Files(c, run, after, 1_000) is { Count: > 0 } files; after = files[^1].Path)
            foreach (var file in files)
                sum.AppendData(Encoding.UTF8.GetBytes($"{file.Sha256}  {file.Path}\n"));
        return $"sha256 {Convert.ToHexStringLower(sum.GetHashAndReset())}";
    }
}
