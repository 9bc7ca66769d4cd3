using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>Documents carried together from one version of their type to the next.</summary>
/// <param name="TypeCode">Their type.</param>
/// <param name="VersionBefore">The version they come from.</param>
/// <param name="Version">The version they are carried to.</param>
/// <param name="Lines">The mapping.</param>
public sealed record CarryOrder(string TypeCode, int VersionBefore, int Version, IReadOnlyList<CarryLine> Lines);

/// <summary>What a document held before it was carried.</summary>
/// <param name="Record">Its texts before.</param>
/// <param name="Evidence">Its evidence before.</param>
/// <param name="Version">Its version before.</param>
/// <param name="Parked">Why it was parked before.</param>
/// <param name="After">Its texts afterwards.</param>
public sealed record CarriedDocument(
    IReadOnlyDictionary<string, string> Record,
    IReadOnlyDictionary<string, Evidence> Evidence,
    int? Version,
    string? Parked,
    IReadOnlyDictionary<string, string> After
);

/// <summary>
/// Carries documents, filed and on the desk, from one version of their type to the next by a mapping. Each document changes in one
/// transaction with its history and with what undo needs; a run that was stopped goes on where it was.
/// </summary>
public sealed class Carrying(Database database, Designs designs, Jobs jobs, DocumentWriter writer, TimeProvider clock) : IWorksInJobs
{
    private const int SampledFrom = 200;
    private const int MostRuns = 20;

    private Runs<CarryOrder, CarriedDocument> Through =>
        field ??= new(
            database,
            jobs,
            clock,
            new(
                "carry",
                "design",
                run => $"/Design/Publish/{run.Order.TypeCode}",
                ("", "Carrying documents through", "Undoing what was carried through")
            )
            {
                Next = Next,
                Coming = (c, run) => DocumentStore.CountAfter(c, run.Order.TypeCode, run.Reached),
                Do = Carry,
                Undo = Restore,
                Ended = End,
            }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => Through.Kinds;

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
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "changed the mapping to the next version",
                new LedgerSubject(SubjectKind.Type, code),
                what
            );
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

    /// <summary>Runs of a type, newest first.</summary>
    public List<Run<CarryOrder>> Runs(string code) => Through.Of(Designs.Subject(code), MostRuns);

    /// <summary>How many documents of a run are in each state.</summary>
    public Dictionary<StepState, StepCount> Counts(Run<CarryOrder> run) => Through.Counts(run);

    /// <summary>Documents of a run in a state.</summary>
    public List<RunStep<CarriedDocument>> Documents(Run<CarryOrder> run, StepState state, int most) => Through.Steps(run, most, state);

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
        return Through.Enlist(c, Designs.Subject(code), new CarryOrder(code, versionBefore, version, lines), who);
    }

    /// <summary>Goes on with a run that was stopped.</summary>
    public Result<Job> Start(long run, string who) => Through.Apply(run, who);

    /// <summary>Takes a run back: documents hold again what they held. One that was edited since is left as it is.</summary>
    public Result<Job> StartUndo(long run, string who) => Through.Undo(run, who);

    /// <summary>Carries the documents of a run that was taken back once more, by the same mapping.</summary>
    public Result<Job> StartAgain(long run, string who)
    {
        if (Through.Find(run) is not { State: RunState.Undone } undone)
            return Result<Job>.Not("Only a run that was undone can be done again.");
        return Through.Begin(undone.Subject, undone.Order, who).With(b => b.Job);
    }

    private List<long> Next(SqliteConnection c, Run<CarryOrder> run, long last, int most)
    {
        Checkpoint();
        return DocumentStore.IdsAfter(c, run.Order.TypeCode, last, most);
    }

    private StepWork<CarriedDocument> Carry(Run<CarryOrder> run)
    {
        var versions = designs.Versions(run.Order.TypeCode);
        if (
            versions.FirstOrDefault(v => v.Version == run.Order.VersionBefore) is not { } before
            || versions.FirstOrDefault(v => v.Version == run.Order.Version) is not { } after
        )
            throw new RefusedException("Its versions are no longer there.");
        var type = new CompiledType(after.Design, designs.Vocabularies, designs.Tables);
        var carrying = new CompiledCarrying(run.Order.Lines, before.Design, after.Design);
        return (c, step, who) =>
        {
            var document = DocumentStore.Find(c, step.Document)!;
            var carried = document with
            {
                Record = carrying.Carry(document.Record, isThere: document.Version >= run.Order.Version),
                Evidence = carrying.Carry(document.Evidence),
                Version = run.Order.Version,
            };
            // A document on the desk is checked there.
            var against = document.Filed
                ? string.Join(
                    ' ',
                    ChangePolicy
                        .Carrying.AllAgainst(type.Judge(RecordJudge.Texts(type, carried.Record), Moves.Around(c, designs, carried)).All)
                        .Select(p => p.Message)
                )
                : "";
            if (against.Length > 0)
                carried = carried with { Version = document.Version };
            Put(c, document, carried, against.Length > 0 ? against : null, type, $"carried through to version {run.Order.Version}", who);
            var what = new CarriedDocument(document.Record, document.Evidence, document.Version, document.Parked, carried.Record);
            return step.As(StepState.Done) with { What = what };
        };
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

    private StepWork<CarriedDocument> Restore(Run<CarryOrder> run)
    {
        // Searched and compared by what they are now checked against, as everything else is.
        var type = designs.Published[run.Order.TypeCode].Type;
        return (c, step, who) =>
        {
            var (document, was) = (DocumentStore.Find(c, step.Document)!, step.What);
            if (!Same(document.Record, was.After))
                return step.As(StepState.Stays, $"“{document.Name ?? document.SourceName}” has been edited since.");
            var back = document with { Record = was.Record, Evidence = was.Evidence, Version = was.Version };
            Put(c, document, back, was.Parked, type, $"undone from version {run.Order.Version}", who);
            return step.As(StepState.Undone);
        };
    }

    private void End(SqliteConnection c, Run<CarryOrder> run, Job job) =>
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            job.Who,
            $"{(run.State == RunState.Applied ? "carried documents through to" : "undid carrying to")} version {run.Order.Version}",
            new LedgerSubject(SubjectKind.Type, run.Order.TypeCode),
            $"run {run.Id}, {RunStore.Counts(c, run.Key).GetValueOrDefault(StepState.Stays).Number} left"
        );

    private static bool Same(IReadOnlyDictionary<string, string> a, IReadOnlyDictionary<string, string> b) =>
        a.Count == b.Count && a.All(p => b.GetValueOrDefault(p.Key) == p.Value);
}
