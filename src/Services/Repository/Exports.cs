using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// Runs export plans. A run is written into a folder of its own beside its target and moved there as a whole when it is complete, so that
/// what stands in the target is never half. Each file is noted with its hash when it is written; a run that was stopped or killed goes on
/// behind what it has.
/// </summary>
public sealed class Exports
{
    private sealed record OfRun(long Run);

    private const int AtOnce = 100;

    private readonly Database database;
    private readonly DataFolder folder;
    private readonly Designs designs;
    private readonly Asking asking;
    private readonly ExportPlans plans;
    private readonly Jobs jobs;
    private readonly TimeProvider clock;

    /// <summary>Makes the kind of its job known.</summary>
    public Exports(Database database, DataFolder folder, Designs designs, Asking asking, ExportPlans plans, Jobs jobs, TimeProvider clock)
    {
        (this.database, this.folder, this.designs, this.asking) = (database, folder, designs, asking);
        (this.plans, this.jobs, this.clock) = (plans, jobs, clock);
        jobs.Add(
            JobKind.Of("export", "Exporting", "desk", Run) with
            {
                WhenUnfinished = (c, job) =>
                {
                    if (ExportStore.FindRun(c, job.Given<OfRun>().Run) is { State: "running" } run)
                        ExportStore.SetState(c, run.Id, "stopped", 0);
                },
            }
        );
    }

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
    public Result<Job> GoOn(long run, string who) =>
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
        var asked = asking.For(what.Asks, rights);
        var leaving = Leaving.Of(what, asked.Type!, designs, folder);
        var payload = what.Package ? Path.Combine(work, "data") : work;
        Directory.CreateDirectory(payload);
        (job.Total, job.Done) = (database.Read(c => RepositorySearch.Count(c, asked.Query)).Number * (IsEach(what) ? 2 : 1), 0);
        if (IsEach(what))
            WriteEach(run, asked.Query, leaving, payload, job, cancel);
        if (what.FileEach)
            job.Done *= 2;
        else
            WriteRecords(run, asked.Query, leaving, payload, job, cancel);
        WriteSchemas(run, leaving, asked.Type!.Code, payload);
        CheckAllThere(run, payload, cancel);
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

    private void WriteEach(ExportRun run, RepositoryQuery query, Leaving leaving, string payload, Job job, CancellationToken cancel)
    {
        var what = run.What;
        // Names alone may be equal; folders with names never are.
        var names = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        for (long? after = null; ; )
        {
            var page = database.Read(c => RepositorySearch.Find(c, query, AtOnce, after));
            foreach (var document in page.Documents)
            {
                cancel.ThrowIfCancellationRequested();
                var path = leaving.PathOf(document);
                if (!names.Add(path))
                    names.Add(
                        path = $"{CodePoints.First(Path.GetFileNameWithoutExtension(path), 50)} ({document.Id}){Path.GetExtension(path)}"
                    );
                if (!database.Read(c => ExportStore.IsSettled(c, run.Id, document.Id)))
                    WriteOne(run, what, document, path, leaving, payload);
                jobs.Step(job);
            }
            if (!page.After)
                return;
            after = page.Documents[^1].Id;
        }
    }

    private void WriteOne(ExportRun run, ExportDefinition what, StoredDocument document, string path, Leaving leaving, string payload)
    {
        var pages = database.Read(c => DocumentStore.Pages(c, document.Id));
        var files = new List<ExportedFile>();
        if (leaving.WhyNot(document, pages) is { } reason)
        {
            database.Write(c => ExportStore.AddLeft(c, run.Id, document.Id, reason));
            return;
        }
        try
        {
            if (what.Files != "none")
                using (var copies = new DocumentCopies(what, leaving, folder, document, pages))
                    foreach (var (name, write) in copies.Of(path))
                        files.Add(Written(payload, what.Package ? $"files/{name}" : name, document.Id, write));
        }
        catch (RefusedException e)
        {
            // All of its files, or none.
            foreach (var file in files)
                File.Delete(Path.Combine(payload, file.Path));
            database.Write(c => ExportStore.AddLeft(c, run.Id, document.Id, e.Message));
            return;
        }
        if (what.FileEach)
            files.Add(
                Written(
                    payload,
                    Path.ChangeExtension(path, RecordFiles.Extension(ExportPlans.Formats[what.Format])),
                    document.Id,
                    target =>
                        RecordFiles.Write(
                            target,
                            ExportPlans.Formats[what.Format],
                            document.TypeCode!,
                            leaving.Columns,
                            leaving.Shape,
                            [leaving.Row(document)]
                        )
                )
            );
        database.Write(c => files.ForEach(f => ExportStore.AddFile(c, run.Id, f)));
    }

    private void WriteRecords(ExportRun run, RepositoryQuery query, Leaving leaving, string payload, Job job, CancellationToken cancel)
    {
        void Records(string format)
        {
            using var c = database.Connect();
            var begun = job.Done;
            var file = Written(
                payload,
                "records" + RecordFiles.Extension(ExportPlans.Formats[format]),
                null,
                target =>
                    RecordFiles.Write(
                        target,
                        ExportPlans.Formats[format],
                        query.TypeCode!,
                        leaving.Columns,
                        leaving.Shape,
                        RepositorySearch
                            .All(c, query)
                            .Select(d =>
                            {
                                cancel.ThrowIfCancellationRequested();
                                job.Step();
                                return leaving.Row(d);
                            })
                    )
            );
            job.Total = Math.Max(job.Total, job.Done);
            database.Write(w => ExportStore.AddFile(w, run.Id, file));
            if (format != run.What.Format)
                job.Done = begun;
        }
        // A package is taken up by other programs: both of the formats that they read.
        foreach (var also in run.What.Package ? new[] { "jsonl", "csv" }.Where(f => f != run.What.Format) : [])
            Records(also);
        Records(run.What.Format);
    }

    private void WriteSchemas(ExportRun run, Leaving leaving, string type, string payload)
    {
        void Beside(string name, Action<string> write)
        {
            var file = Written(payload, name, null, write);
            database.Write(c => ExportStore.AddFile(c, run.Id, file));
        }
        if (run.What.Files == "strips")
            Beside("strips.csv", target => WriteIndex(run, leaving, target));
        if (run.What.Format == "xml")
            Beside("records.xsd", target => RecordSchema.Write(target, type, leaving.Columns));
        if (run.What.Package)
            Beside("records.csv-metadata.json", target => File.WriteAllText(target, CsvMetadata(leaving.Columns).ToJsonString()));
    }

    // Which strip shows what: a line each, by the names that the strips bear.
    private void WriteIndex(ExportRun run, Leaving leaving, string target)
    {
        using var writer = new StreamWriter(target);
        SafeCsv.WriteLine(writer, ["file", "document", "field", "page", "value"]);
        for (var after = ""; database.Read(c => ExportStore.Files(c, run.Id, after, 1_000)) is { Count: > 0 } files; after = files[^1].Path)
            foreach (var file in files.Where(f => f.Document is not null && f.Path.EndsWith(".png", StringComparison.Ordinal)))
            {
                var (field, page) = DocumentCopies.StripOf(file.Path);
                var value = database.Read(c => DocumentStore.Find(c, file.Document!.Value))?.Record.GetValueOrDefault(field, "") ?? "";
                SafeCsv.WriteLine(writer, [file.Path, $"{file.Document}", leaving.LabelOf(field), page, value]);
            }
    }

    // W3C Recommendation “Metadata Vocabulary for Tabular Data”.
    private static JsonObject CsvMetadata(IReadOnlyList<RecordColumn> columns) =>
        new()
        {
            ["@context"] = "http://www.w3.org/ns/csvw",
            ["url"] = "records.csv",
            ["tableSchema"] = new JsonObject
            {
                ["columns"] = new JsonArray([
                    .. columns.Select(c =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["name"] = c.Key.TrimStart('@').Replace('-', '_'),
                                ["titles"] = c.Heading,
                                ["datatype"] = c.Kind switch
                                {
                                    FieldKind.Date => JsonValue.Create("date"),
                                    // Without seconds, which the recommendation has unless it is told.
                                    FieldKind.Time => new JsonObject { ["base"] = "time", ["format"] = "HH:mm" },
                                    FieldKind.WholeNumber => JsonValue.Create("integer"),
                                    FieldKind.Decimal => JsonValue.Create("decimal"),
                                    _ => JsonValue.Create("string"),
                                },
                            }
                    ),
                ]),
            },
        };

    // A file is written under another name, and bears its own when it is whole.
    private ExportedFile Written(string payload, string path, long? document, Action<string> write)
    {
        var target = Path.GetFullPath(Path.Combine(payload, path));
        if (!target.StartsWith(payload + Path.DirectorySeparatorChar, StringComparison.Ordinal))
            throw new RefusedException($"“{path}” leads out of the export.");
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var part = Path.Combine(payload, ".part");
        if (File.Exists(part))
            File.Delete(part);
        write(part);
        folder.Disk.FlushFile(part);
        File.Move(part, target, overwrite: true);
        return new ExportedFile(path, document, new FileInfo(target).Length, DataFolder.HashOf(target));
    }

    private void CheckAllThere(ExportRun run, string payload, CancellationToken cancel)
    {
        for (var after = ""; ; )
        {
            cancel.ThrowIfCancellationRequested();
            var files = database.Read(c => ExportStore.Files(c, run.Id, after, 1_000));
            if (files.Count == 0)
                return;
            foreach (var file in files)
                if (new FileInfo(Path.Combine(payload, file.Path)) is not { Exists: true } there || there.Length != file.Bytes)
                    throw new RefusedException($"“{file.Path}” is no longer there, or was changed. Start a new run.");
            after = files[^1].Path;
        }
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
