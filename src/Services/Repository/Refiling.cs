using System.Collections.Concurrent;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>What is filed anew.</summary>
/// <param name="TypeCode">Code of the type.</param>
/// <param name="Version">The version whose convention documents follow.</param>
public sealed record RefileOrder(string TypeCode, int Version);

/// <summary>Files what is filed already anew by a changed convention: dry run, apply, undo as a whole.</summary>
public sealed class Refiling(Database database, Designs designs, Moves moves, Jobs jobs, TimeProvider clock) : IWorksInJobs
{
    private const int MostAttempts = 5;
    private const int NumbersAtOnce = 1_000;
    private const int MostRuns = 20;

    private sealed record OfType(string Code);

    private readonly RefilePlanning _planning = new(database, designs);

    private Runs<RefileOrder, DocumentAlone> Refiled =>
        field ??= new(
            database,
            jobs,
            clock,
            new("refile", "design", run => Address(run.Order.TypeCode), ("", "Refiling", "Moving back"))
            {
                DoAll = Apply,
                UndoAll = Undo,
                Ended = End,
            }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => [JobKind.Of("refile-plan", "Looking at what would move", "design", LookAhead), .. Refiled.Kinds];

    // Where a document waits whose place another one leaves later.
    private const string Waiting = ".moving";

    /// <summary>Runs of a type, newest first.</summary>
    public List<Run<RefileOrder>> Runs(string code) => Refiled.Of(Designs.Subject(code), MostRuns);

    /// <summary>How many documents a run has moved and not moved back.</summary>
    public long Moved(Run<RefileOrder> run) => database.Read(c => MoveStore.Moved(c, run.Key));

    /// <summary>Why documents of a run were not moved, or not moved back.</summary>
    public List<string> Left(Run<RefileOrder> run, int most) =>
        [.. Refiled.Steps(run, most, StepState.Skipped, StepState.Stays).Select(s => s.Message)];

    /// <summary>Documents up to which a plan is worked out while the page waits.</summary>
    internal int AtOnce { get; set; } = 3_000;

    // Plans by type, as long as nothing has changed.
    private readonly ConcurrentDictionary<string, (string State, RefilePlan Plan)> _plans = new(StringComparer.Ordinal);

    /// <summary>What would move, when it is known or can be worked out at once; null while it has to be looked at first.</summary>
    public RefilePlan? Known(string code)
    {
        if (!designs.Published.ContainsKey(code))
            return null;
        var state = database.Read(LedgerStore.State);
        if (_plans.TryGetValue(code, out var held) && held.State == state)
            return held.Plan;
        if (database.Read(RepositoryStore.CountByType).GetValueOrDefault(code) > AtOnce)
            return null;
        return Hold(code, state, Plan(code)!);
    }

    /// <summary>Works out in the background what would move; nothing is changed.</summary>
    public Result<Job> StartPlan(string code, string who) =>
        jobs.Start("refile-plan", Designs.Subject(code), Address(code), new OfType(code), who);

    private void LookAhead(Job job, CancellationToken cancel)
    {
        var code = job.Given<OfType>().Code;
        (job.Total, job.Done) = (2L * database.Read(RepositoryStore.CountByType).GetValueOrDefault(code), 0);
        var state = database.Read(LedgerStore.State);
        if (Plan(code, job, cancel: cancel) is { } plan)
            Hold(code, state, plan);
    }

    private static string Address(string code) => $"/Design/Refile/{code}";

    private RefilePlan Hold(string code, string state, RefilePlan plan)
    {
        _plans[code] = (state, plan);
        return plan;
    }

    /// <inheritdoc cref="RefilePlanning.Plan"/>
    internal RefilePlan? Plan(
        string code,
        Job? job = null,
        IReadOnlyDictionary<string, int>? own = null,
        CancellationToken cancel = default
    ) => _planning.Plan(code, job, own, cancel);

    /// <summary>
    /// Applies a run in the background. Each document moves with its record or not at all; a stop or a full disk leaves a run that can be
    /// undone or continued.
    /// </summary>
    /// <param name="code">The type.</param>
    /// <param name="version">The version that the person has seen the dry run of; another one is refused.</param>
    /// <param name="who">Who.</param>
    public Result<Job> Start(string code, int version, string who)
    {
        if (WhyNot(code, version) is { } problem)
            return Result<Job>.Not(problem);
        return Refiled
            .Begin(
                Designs.Subject(code),
                new RefileOrder(code, version),
                who,
                (c, run) =>
                    LedgerStore.Append(c, clock.GetUtcNow(), who, $"began re-file run {run.Id}", new LedgerSubject(SubjectKind.Type, code))
            )
            .With(b => b.Job);
    }

    /// <summary>Goes on with a run that was stopped: what was moved stands right and is in its plan no more.</summary>
    public Result<Job> Resume(long run, string who) =>
        Refiled.Find(run)?.Order is { } order && WhyNot(order.TypeCode, order.Version) is { } problem
            ? Result<Job>.Not(problem)
            : Refiled.Apply(run, who);

    // Only what somebody has looked at moves: by the version that it was looked at with.
    private string? WhyNot(string code, int version) =>
        !designs.Published.TryGetValue(code, out var published) ? "This document type is not published."
        : published.Version != version ? $"Version {published.Version} has been published in between. Look at what would move by it."
        : null;

    private void Apply(Run<RefileOrder> run, Job job, CancellationToken cancel)
    {
        var plan = Reserved(run.Order.TypeCode, cancel);
        job.Done = Moved(run);
        job.Total = job.Done + plan.Moves.Count;
        Apply(run, plan.Moves, job, cancel);
    }

    // The plan, with its new numbers taken from their counters before anything moves, so that filing beside it is given others. Where so
    // much is filed that they have gone on meanwhile, numbers are set aside first and the plan is made with those; what is left of them is
    // given to nobody.
    private RefilePlan Reserved(string code, CancellationToken cancel)
    {
        var (own, ends) = (new Dictionary<string, int>(StringComparer.Ordinal), new Dictionary<string, int>(StringComparer.Ordinal));
        for (var attempt = 1; attempt <= MostAttempts; attempt++)
        {
            var plan = Plan(code, cancel: cancel, own: own) ?? throw new RefusedException("This document type is no longer published.");
            var free = true;
            foreach (var chunk in plan.Numbers.Chunk(NumbersAtOnce))
                free &= database.Write(c =>
                {
                    var mine = true;
                    foreach (var (key, (seen, last)) in chunk)
                    {
                        if (own.ContainsKey(key) && last <= ends[key])
                            continue;
                        var now = CounterStore.Last(c, key);
                        if (now <= seen)
                        {
                            CounterStore.Take(c, key, last);
                            continue;
                        }
                        mine = false;
                        CounterStore.Take(c, key, ends[key] = now + SetAside(last - seen));
                        own[key] = now;
                    }
                    return mine;
                });
            if (free)
                return plan;
        }
        throw new RefusedException("So much is being filed here that the numbers keep changing. Try again later.");
    }

    // Somewhat more than is needed now: more documents may need one by the time the plan is made again.
    private static int SetAside(int needed) => needed + needed / 4 + 16;

    private void Leave(Run<RefileOrder> run, long document, StepState state, string why) =>
        database.Write(c => RunStore.Tell(c, run.Key, new RunStep<DocumentAlone>(document, new DocumentAlone()).As(state, why)));

    private void Apply(Run<RefileOrder> run, IReadOnlyList<PlannedMove> planned, Job job, CancellationToken cancel)
    {
        void Skip(PlannedMove move, string why) => Leave(run, move.Id, StepState.Skipped, why);
        var who = job.Who;
        var places = planned.ToDictionary(m => Database.PlaceKey(m.FromFolder, m.FromName), m => m.Id);
        var waiting = new Queue<PlannedMove>(planned);
        var deferred = 0;
        while (waiting.TryDequeue(out var move))
        {
            cancel.ThrowIfCancellationRequested();
            var document = database.Read(c => DocumentStore.Find(c, move.Id));
            if (
                document is not { Filed: true }
                || (document.Folder != Waiting && (document.Folder != move.FromFolder || document.Name != move.FromName))
            )
            {
                Skip(move, $"“{move.FromName}” was moved while the run was under way.");
                jobs.Step(job);
                continue;
            }
            // Another document of the run stands where this one goes: it goes first, or, in a cycle, this one steps aside.
            if (places.TryGetValue(Database.PlaceKey(move.ToFolder, move.ToName), out var other) && other != move.Id)
            {
                if (deferred < waiting.Count)
                {
                    waiting.Enqueue(move);
                    deferred++;
                    continue;
                }
                if (
                    moves.Move(run.Key, document, Waiting, $"{move.Id}{Path.GetExtension(move.FromName)}", document.Naming, who) is
                    { Ok: false } stuck
                )
                {
                    Skip(move, stuck.Problem!);
                    jobs.Step(job);
                    continue;
                }
                places.Remove(Database.PlaceKey(move.FromFolder, move.FromName));
                waiting.Enqueue(move);
                deferred = 0;
                continue;
            }
            if (moves.Move(run.Key, document, move.ToFolder, move.ToName, move.Naming, who) is { Ok: false } not)
                Skip(move, not.Problem!);
            places.Remove(Database.PlaceKey(move.FromFolder, move.FromName));
            deferred = 0;
            jobs.Step(job);
        }
    }

    private void End(SqliteConnection c, Run<RefileOrder> run, Job job)
    {
        var counts = RunStore.Counts(c, run.Key);
        var (act, left) = run.State == RunState.Applied ? ("ended", StepState.Skipped) : ("undid", StepState.Stays);
        var detail = $"{counts.GetValueOrDefault(left).Number} left";
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            job.Who,
            $"{act} re-file run {run.Id}",
            new LedgerSubject(SubjectKind.Type, run.Order.TypeCode),
            detail
        );
    }

    /// <summary>Takes a run back in the background, the last move first.</summary>
    public Result<Job> StartUndo(long run, string who) => Refiled.Undo(run, who);

    private void Undo(Run<RefileOrder> run, Job job, CancellationToken cancel)
    {
        var done = database.Read(c => MoveStore.OfRun(c, run.Key));
        (job.Total, job.Done) = (done.Count, 0);
        foreach (var move in done)
        {
            cancel.ThrowIfCancellationRequested();
            if (moves.Undo(move, job.Who) is { Ok: false } not)
                Leave(run, move.DocumentId, StepState.Stays, not.Problem!);
            jobs.Step(job);
        }
    }
}
