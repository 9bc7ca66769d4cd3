using ClearLexicon.Core.Migration;
using ClearLexicon.Formats;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using nietras.SeparatedValues;

namespace ClearLexicon.Services.Migration;

/// <summary>Bulk tagging up to the dry run: inventories, profiles, plans.</summary>
public sealed class Migrations(Database database, DataFolder folder, Designs designs, Jobs jobs, TimeProvider clock) : IWorksInJobs
{
    private const int CountEvery = 1_000;
    private const int LeftChunk = 1_000;
    private const string Upload = ".upload";
    private const string ProfileKind = "profile";

    private sealed record ImportArguments(string Name, string Stored);

    internal sealed record OfInventory(long Id);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            JobKind.Of("inventory", "Importing an inventory", "design", Import),
            JobKind.Of(ProfileKind, "Profiling the columns", "design", Profile),
            JobKind.Of("dry-run", "Dry run", "design", DryRun),
        ];

    /// <summary>All inventories, newest first.</summary>
    public List<Inventory> All() => database.Read(InventoryStore.All);

    /// <summary>One inventory, or null.</summary>
    public Inventory? Find(long id) => database.Read(c => InventoryStore.Find(c, id));

    /// <summary>Paths that an inventory lists, from the first row on.</summary>
    public List<string> Paths(long id, int most)
    {
        if (Find(id) is not { } inventory)
            return [];
        return [.. InventoryRows.Of(inventory, folder).Take(most).Select(r => r.Cells[inventory.Shape.PathColumn])];
    }

    /// <summary>Rows that the last dry run or wave left.</summary>
    public List<LeftRow> Left(long id, int take, int after = 0) => database.Read(c => InventoryStore.LeftRows(c, id, take, after));

    /// <summary>
    /// Takes an inventory in: it is checked as a whole in the background; nothing is kept when anything is wrong with it.
    /// </summary>
    public async Task<Result<Job>> StartImportAsync(BroughtFile file, string who, CancellationToken cancel = default)
    {
        var stored = Path.Combine(folder.Inventories, $"{Guid.NewGuid():N}.csv");
        try
        {
            await using (var from = file.Open())
            await using (var to = File.Create(stored + Upload))
                await from.CopyToAsync(to, cancel);
        }
        catch
        {
            File.Delete(stored + Upload);
            throw;
        }
        return jobs.Start(
            "inventory",
            $"file {Path.GetFileName(stored)}",
            "/Migration",
            new ImportArguments(file.Name, folder.Relative(stored)),
            who
        );
    }

    /// <summary>What became of an import: the inventory, or why it was refused.</summary>
    public Result<long> Imported(Job job) =>
        database.Read(c => InventoryStore.OfFile(c, job.Given<ImportArguments>().Stored)) is { } inventory
            ? inventory.Id
            : Result<long>.Not(job.Problem ?? "It is still being read.");

    /// <summary>Takes an inventory in and waits for it.</summary>
    public async Task<Result<long>> ImportAsync(BroughtFile file, string who)
    {
        var started = await StartImportAsync(file, who);
        if (!started.Ok)
            return Result<long>.Not(started.Problem!);
        await started.Value!.Completion;
        return Imported(started.Value);
    }

    private void Import(Job job, CancellationToken cancel)
    {
        var given = job.Given<ImportArguments>();
        var stored = folder.Absolute(given.Stored);
        if (!File.Exists(stored + Upload))
            throw new RefusedException($"“{given.Name}” is no longer there; choose it again.");
        var (shape, problem) = InventoryCsv.Import(stored + Upload, given.Name, stored, cancel);
        if (shape is null)
        {
            File.Delete(stored + Upload);
            throw new RefusedException(problem!);
        }
        var id = database.Write(c =>
        {
            var added = InventoryStore.Add(
                c,
                given.Name,
                given.Stored,
                new StoredShape(shape.Encoding, shape.Separator, shape.Columns, shape.Rows),
                job.Who,
                clock.GetUtcNow()
            );
            var detail = $"{given.Name}: {Counted.Of(shape.Rows, "row")}";
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                job.Who,
                "imported an inventory",
                new LedgerSubject(SubjectKind.Inventory, added),
                detail
            );
            return added;
        });
        File.Delete(stored + Upload);
        StartProfile(id, job.Who);
    }

    /// <summary>Profiles every column.</summary>
    public Result<Job> StartProfile(long id, string who = "") =>
        jobs.Start(ProfileKind, Subject(id), Address(id), new OfInventory(id), who);

    private void Profile(Job job, CancellationToken cancel)
    {
        var id = job.Given<OfInventory>().Id;
        var inventory = Find(id)!;
        job.Total = inventory.Shape.Rows;
        var profile = Profile(folder.Absolute(inventory.File), inventory.Shape, job, cancel);
        database.Write(c => InventoryStore.SetProfile(c, id, profile));
    }

    /// <summary>Suggests a crosswalk for a document type.</summary>
    public IReadOnlyList<CrosswalkSuggestion> Suggest(Inventory inventory, string typeCode) =>
        inventory.Profile is { } profile && designs.Published.TryGetValue(typeCode, out var published)
            ? CrosswalkSuggestion.For(profile, published.Type)
            : [];

    /// <summary>Saves a changed plan.</summary>
    public Result SetPlan(long id, MigrationPlan plan, string who)
    {
        if (!designs.Published.TryGetValue(plan.TypeCode, out var published))
            return $"There is no published document type “{plan.TypeCode}”.";
        if (Find(id) is not { } inventory)
            return "There is no such inventory.";
        if (inventory.Plan is { } was && Sql.AreSame(was, plan))
            return Result.Done;
        if (jobs.Running(Subject(id)) is { Kind: not ProfileKind } running)
            return $"“{running.Title}” is under way; change the plan when it has ended.";
        foreach (var (pass, number) in plan.Passes.Select((p, i) => (p, i + 1)))
            if (PassKinds.Finding(pass, published.Type.Type, inventory.Shape.Columns) is { } finding)
                return $"Pass {number}: {finding}";
        if (
            plan.Crosswalk.SelectMany(l => l.Steps).Select(Core.Cleaning.CleaningSteps.Finding).FirstOrDefault(f => f is not null) is
            { } wrong
        )
            return wrong;
        database.Write(c =>
        {
            InventoryStore.SetPlan(c, id, plan);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "changed a migration plan",
                new LedgerSubject(SubjectKind.Inventory, inventory.Id),
                inventory.Name
            );
        });
        return Result.Done;
    }

    /// <summary>Works out what would happen; nothing is changed.</summary>
    public Result<Job> StartDryRun(long id, string who) => jobs.Start("dry-run", Subject(id), Address(id), new OfInventory(id), who);

    private void DryRun(Job job, CancellationToken cancel)
    {
        var id = job.Given<OfInventory>().Id;
        var inventory = Find(id)!;
        if (inventory.Plan is not { } plan || !designs.Published.TryGetValue(plan.TypeCode, out var published))
            throw new RefusedException("Choose first what the rows become.");
        job.Total = inventory.Shape.Rows;
        var run = new InventoryRun(database, folder, designs, inventory, published, job.Who);
        var tally = new DryRunTally(run.Plan.Type);
        var left = new List<LeftRow>(LeftChunk);
        ClearLeft(id);
        foreach (var row in run.Rows())
        {
            if (row is { Judged: true, Verdict: { } verdict })
                tally.Add(row.Cells, row.Number, verdict, run.Judge);
            else if (row.Verdict is null)
                tally.Pass();
            else if (row.Left is { } twice)
                tally.Hold("named-before", row.Number, twice.Reasons[0]);
            if (row.Left is { } why)
                left.Add(why);
            if (left.Count == LeftChunk)
                Keep();
            if (row.Number % CountEvery != 0)
                continue;
            cancel.ThrowIfCancellationRequested();
            job.Done = row.Number;
        }
        Keep();
        job.Done = job.Total;
        database.Write(c => InventoryStore.SetDryRun(c, id, tally.Finish()));

        void Keep()
        {
            database.Write(c => InventoryStore.AddLeftRows(c, id, left));
            left.Clear();
        }
    }

    /// <summary>Removes, chunk by chunk, the rows that an earlier run has left.</summary>
    internal void ClearLeft(long id)
    {
        while (database.Write(c => InventoryStore.RemoveLeftRows(c, id, LeftChunk)) > 0) { }
    }

    /// <summary>What the jobs of an inventory have as their subject.</summary>
    public static string Subject(long id) => $"inventory {id}";

    internal static string Address(long id) => $"/Migration/Inventory/{id}";

    private static List<ColumnProfile> Profile(string file, StoredShape shape, Job job, CancellationToken cancel)
    {
        var profilers = shape.Columns.Select(name => new ColumnProfiler(name)).ToArray();
        var number = 0;
        using var reader = InventoryCsv.Open(file, shape.Separator);
        foreach (var line in reader)
        {
            for (var i = 0; i < profilers.Length; i++)
                profilers[i].Add(line[i].Span);
            if (++number % CountEvery != 0)
                continue;
            cancel.ThrowIfCancellationRequested();
            job.Done = number;
        }
        job.Done = number;
        return [.. profilers.Select(p => p.Finish())];
    }
}
