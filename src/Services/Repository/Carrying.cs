using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>
/// Carries documents, filed and on the desk, from one version of their type to the next by a mapping. Each document changes in one
/// transaction with its history and with what undo needs; a run that was stopped goes on where it was.
/// </summary>
public sealed class Carrying(Database database, Designs designs, Jobs jobs, DocumentWriter writer, TimeProvider clock) : IWorksInJobs
{
    private const int SampledFrom = 200;

    private sealed record OfRun(long Id);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            JobKind.Of("carry", "Carrying documents through", "design", CarryAll) with
            {
                WhenUnfinished = (c, job) =>
                {
                    if (CarryStore.Run(c, job.Given<OfRun>().Id) is { State: "running" } run)
                        End(c, run, "stopped", [], job.Who);
                },
            },
            JobKind.Of("carry-undo", "Undoing what was carried through", "design", Undo),
        ];

    private static string Address(string code) => $"/Design/Publish/{code}";

    /// <summary>Called before each chunk of a run; tests stop the process here.</summary>
    internal Action Checkpoint { get; set; } = () => { };

    /// <summary>The mapping of a type, and lines that are likely when there is none.</summary>
    public (List<CarryLine> Lines, IReadOnlyList<CarryLine> Suggested) Mapping(string code, DocumentType before, DocumentType after)
    {
        var lines = database.Read(c => CarryStore.Lines(c, code));
        return (
            lines,
            [.. CompiledCarrying.Suggest(before, after).Where(s => lines.All(l => l.Field != s.Field && !l.From.Contains(s.From[0])))]
        );
    }

    /// <summary>Keeps a line, which replaces the one of the same field.</summary>
    public Result SetLine(string code, CarryLine line, DocumentType before, DocumentType after, string who)
    {
        if (CompiledCarrying.Finding(line, before, after) is { } finding)
            return finding;
        Write(code, lines => [.. lines.Where(l => l.Field != line.Field), line], CompiledCarrying.InWords(line, before, after), who);
        return Result.Done;
    }

    /// <summary>Removes the line of a field.</summary>
    public void RemoveLine(string code, string field, string who) =>
        Write(code, lines => [.. lines.Where(l => l.Field != field)], $"removed the line of {field}", who);

    private void Write(string code, Func<List<CarryLine>, List<CarryLine>> change, string what, string who) =>
        database.Write(c =>
        {
            CarryStore.SetLines(c, code, change(CarryStore.Lines(c, code)));
            LedgerStore.Append(c, clock.GetUtcNow(), who, "changed the mapping to the next version", code, what);
        });

    /// <summary>
    /// What the mapping would make of the first documents it changes: their names, and what each field held and would hold.
    /// </summary>
    public List<(string Name, List<(string Field, string Before, string After)> Changes)> Samples(
        string code,
        DocumentType before,
        DocumentType after,
        int most
    )
    {
        var carrying = new CompiledCarrying(database.Read(c => CarryStore.Lines(c, code)), before, after);
        return
        [
            .. database
                .Read(c => DocumentStore.After(c, code, 0, SampledFrom))
                .Select(d => (d.Name ?? d.SourceName, Changes: Differences(d.Record, carrying.Carry(d.Record), after).ToList()))
                .Where(d => d.Changes.Count > 0)
                .Take(most),
        ];
    }

    private static IEnumerable<(string, string, string)> Differences(
        IReadOnlyDictionary<string, string> was,
        IReadOnlyDictionary<string, string> now,
        DocumentType after
    ) =>
        from field in after.Fields
        let text = now.GetValueOrDefault(field.Key, "")
        where text != was.GetValueOrDefault(field.Key, "")
        select (field.Label, was.GetValueOrDefault(field.Key, ""), text);

    /// <summary>Runs that a stop of the process has left can be gone on with. Call once at start.</summary>
    public void Recover() => database.Write(CarryStore.StopRunning);

    /// <summary>Runs of a type, newest first.</summary>
    public List<CarryRun> Runs(string code) => database.Read(c => CarryStore.Runs(c, code));

    /// <summary>
    /// Begins a run in the transaction that publishes: readers and migration plans follow renamed fields at once, documents in the job
    /// whose id this returns.
    /// </summary>
    internal string Begin(SqliteConnection c, string code, int versionBefore, int version, string who)
    {
        var lines = CarryStore.Lines(c, code);
        var versions = DesignStore.Versions(c, code);
        var carrying = new CompiledCarrying(
            lines,
            versions.First(v => v.Version == versionBefore).Design,
            versions.First(v => v.Version == version).Design
        );
        foreach (var reader in ReaderStore.All(c).Where(r => r.TypeCode == code))
            ReaderStore.Save(c, carrying.Follow(reader));
        foreach (var (reader, _, _, _) in ReaderStore.Published(c).Where(v => v.Reader.TypeCode == code))
            ReaderStore.Publish(c, carrying.Follow(reader), clock.GetUtcNow(), who);
        foreach (var inventory in InventoryStore.All(c).Where(i => i.Plan?.TypeCode == code))
            if (inventory.Plan!.Carried(carrying) is var plan && Sql.ToJson(plan) != Sql.ToJson(inventory.Plan))
                InventoryStore.SetPlan(c, inventory.Id, plan);
        var run = CarryStore.Begin(c, code, versionBefore, version, lines, who, clock.GetUtcNow());
        return jobs.Enlist(c, "carry", Designs.Subject(code), Address(code), new OfRun(run), who);
    }

    /// <summary>Starts a run, or goes on with one that was stopped, in the background.</summary>
    public Result<Job> Start(long runId, string who)
    {
        if (database.Read(c => CarryStore.Run(c, runId)) is not { State: "running" or "stopped" } run)
            return Result<Job>.Not("This run has ended; it cannot be continued.");
        return jobs.Start(
            "carry",
            Designs.Subject(run.TypeCode),
            Address(run.TypeCode),
            new OfRun(runId),
            who,
            c =>
            {
                CarryStore.SetState(c, runId, "running", run.Left);
                return new OfRun(runId);
            }
        );
    }

    private void CarryAll(Job job, CancellationToken cancel)
    {
        if (database.Read(c => CarryStore.Run(c, job.Given<OfRun>().Id)) is not { State: "running" } run)
            return;
        var versions = designs.Versions(run.TypeCode);
        if (
            versions.FirstOrDefault(v => v.Version == run.VersionBefore) is not { } before
            || versions.FirstOrDefault(v => v.Version == run.Version) is not { } after
        )
            throw new RefusedException("Its versions are no longer there.");
        var type = new CompiledType(after.Design, designs.Vocabularies, designs.Tables);
        var carrying = new CompiledCarrying(run.Lines, before.Design, after.Design);
        (job.Total, job.Done) = (run.Carried + database.Read(c => DocumentStore.CountAfter(c, run.TypeCode, run.LastId)), run.Carried);
        var size = new ChunkSize();
        for (var last = run.LastId; ; )
        {
            cancel.ThrowIfCancellationRequested();
            Checkpoint();
            var done = jobs.Chunk(
                job,
                size,
                c =>
                {
                    var chunk = DocumentStore.After(c, run.TypeCode, last, size.Now);
                    foreach (var document in chunk)
                        Carry(c, run, document, type, carrying, job.Who);
                    if (chunk.Count > 0)
                        CarryStore.Reach(c, run.Id, last = chunk[^1].Id);
                    job.Done += chunk.Count;
                    return chunk.Count;
                }
            );
            if (done == 0)
                break;
        }
        database.Write(c => End(c, run, "carried", [], job.Who));
    }

    private void Carry(SqliteConnection c, CarryRun run, StoredDocument document, CompiledType type, CompiledCarrying carrying, string who)
    {
        var carried = document with
        {
            Record = carrying.Carry(document.Record, isThere: document.Version >= run.Version),
            Evidence = carrying.Carry(document.Evidence),
            Version = run.Version,
        };
        // A document on the desk is checked there.
        var against = document.Filed
            ? string.Join(
                ' ',
                ChangePolicy
                    .Carrying.AllAgainst(type.Judge(RecordJudge.Texts(type, carried.Record), Moves.Around(c, carried)).All)
                    .Select(p => p.Message)
            )
            : "";
        if (against.Length > 0)
            carried = carried with { Version = document.Version };
        CarryStore.Keep(c, run.Id, document, carried.Record);
        Put(c, document, carried, against.Length > 0 ? against : null, type, $"carried through to version {run.Version}", who);
    }

    // Saves a document with everything that hangs on its values.
    private void Put(
        SqliteConnection c,
        StoredDocument before,
        StoredDocument now,
        string? parked,
        CompiledType type,
        string how,
        string who
    )
    {
        writer.Write(c, new DocumentChange(before, now, how, who) { Type = type });
        DocumentStore.Park(c, now.Id, parked);
    }

    /// <summary>
    /// Takes a run back in the background: documents hold again what they held. One that was edited since is left as it is.
    /// </summary>
    public Result<Job> StartUndo(long runId, string who)
    {
        if (database.Read(c => CarryStore.Run(c, runId)) is not { State: "carried" or "stopped" } run)
            return Result<Job>.Not("This run cannot be undone.");
        return jobs.Start("carry-undo", Designs.Subject(run.TypeCode), Address(run.TypeCode), new OfRun(runId), who);
    }

    private void Undo(Job job, CancellationToken cancel)
    {
        if (database.Read(c => CarryStore.Run(c, job.Given<OfRun>().Id)) is not { } run)
            return;
        (job.Total, job.Done) = (run.Carried, 0);
        // Searched and compared by what they are now checked against, as everything else is.
        var type = designs.Published[run.TypeCode].Type;
        var left = new List<string>();
        var size = new ChunkSize();
        for (long last = 0; ; )
        {
            cancel.ThrowIfCancellationRequested();
            var done = jobs.Chunk(
                job,
                size,
                c =>
                {
                    var chunk = CarryStore.Of(c, run.Id, last, size.Now);
                    foreach (var carried in chunk)
                    {
                        last = carried.DocumentId;
                        if (DocumentStore.Find(c, carried.DocumentId) is not { } document)
                            continue;
                        if (!Same(document.Record, carried.After))
                        {
                            left.Add($"“{document.Name ?? document.SourceName}” has been edited since.");
                            continue;
                        }
                        Put(
                            c,
                            document,
                            document with
                            {
                                Record = carried.Record,
                                Evidence = carried.Evidence,
                                Version = carried.Version,
                            },
                            carried.Parked,
                            type,
                            $"undone from version {run.Version}",
                            job.Who
                        );
                        CarryStore.Drop(c, run.Id, carried.DocumentId);
                    }
                    return chunk.Count;
                }
            );
            job.Done += done;
            if (done == 0)
                break;
        }
        database.Write(c => End(c, run, "undone", left, job.Who));
    }

    /// <summary>Carries the documents of a run that was taken back once more, by the same mapping.</summary>
    public Result<Job> StartAgain(long runId, string who)
    {
        if (database.Read(c => CarryStore.Run(c, runId)) is not { State: "undone" } run)
            return Result<Job>.Not("Only a run that was undone can be done again.");
        return Start(
            database.Write(c => CarryStore.Begin(c, run.TypeCode, run.VersionBefore, run.Version, run.Lines, who, clock.GetUtcNow())),
            who
        );
    }

    private void End(SqliteConnection c, CarryRun run, string state, IReadOnlyList<string> left, string who)
    {
        CarryStore.SetState(c, run.Id, state, LeftOver.First(left));
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            who,
            state switch
            {
                "carried" => $"carried documents through to version {run.Version}",
                "stopped" => $"stopped carrying to version {run.Version}",
                _ => $"undid carrying to version {run.Version}",
            },
            run.TypeCode,
            $"run {run.Id}, {left.Count} left"
        );
    }

    private static bool Same(IReadOnlyDictionary<string, string> a, IReadOnlyDictionary<string, string> b) =>
        a.Count == b.Count && a.All(p => b.GetValueOrDefault(p.Key) == p.Value);
}
