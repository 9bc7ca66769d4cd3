using System.Runtime.CompilerServices;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Readers;

/// <summary>Which documents get another type.</summary>
/// <param name="ToType">Code of the type that they get.</param>
/// <param name="Asks">Which filed documents; null for one document.</param>
/// <param name="Document">The one document; null for those that are asked for.</param>
/// <param name="Rereads">Whether they are read again by readers of the new type.</param>
/// <param name="Reason">Why; overrides what rules say that should hold.</param>
public sealed record RetypeOrder(string ToType, ViewDefinition? Asks, long? Document, bool Rereads, string Reason);

/// <summary>What another type has no place for.</summary>
/// <param name="Label">The field.</param>
/// <param name="Text">Its value.</param>
public sealed record LostValue(string Label, string Text);

/// <summary>A document that gets another type.</summary>
/// <param name="Lost">What the new type has no place for.</param>
public sealed record RetypedDocument(IReadOnlyList<LostValue> Lost)
{
    /// <summary>The document as it was; null until it is changed.</summary>
    public StoredDocument? Before { get; init; }

    /// <summary>The move that brought it to its place; null for none.</summary>
    public long? Move { get; init; }
}

/// <summary>
/// Gives documents another type, on the desk and filed: what fits is carried over, the rest is read anew when wanted, what would be lost is
/// shown first. Filed ones move where they belong then. Each can be taken back while nobody has worked on it since.
/// </summary>
public sealed class Retyping(
    Database database,
    DataFolder folder,
    Designs designs,
    SearchRequests requests,
    Moves moves,
    Jobs jobs,
    DocumentWriter writer,
    TimeProvider clock
) : IWorksInJobs
{
    /// <summary>Code of its runs.</summary>
    internal const string Code = "retype";

    private const int LongestReason = 200;
    private const string WorkedOn = "Somebody has worked on it since.";

    private readonly RetypePlanning _planning = new(folder, designs);

    private Runs<RetypeOrder, RetypedDocument> Runs =>
        field ??= new(
            database,
            jobs,
            clock,
            new(
                Code,
                "desk",
                run => $"/Repository/Retype/{run.Id}",
                ("Looking at what another type would make of them", "Changing the document type", "Undoing the change of type")
            )
            {
                LookedAtOnce = 50,
                Look = Look,
                Do = Change,
                Undo = Restore,
                Follow = Follow,
            }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => Runs.Kinds;

    /// <summary>What its jobs have as their subject.</summary>
    public const string Subject = "document types of documents";

    /// <summary>Called between the steps with their names; tests stop the process here.</summary>
    internal Action<string> Checkpoint { get; set; } = _ => { };

    /// <summary>A run; null when there is none.</summary>
    public Run<RetypeOrder>? Find(long run) => Runs.Find(run);

    /// <summary>How many of its documents are in each state.</summary>
    public Dictionary<StepState, StepCount> Counts(Run<RetypeOrder> run) => Runs.Counts(run);

    /// <summary>The newest runs.</summary>
    public List<Run<RetypeOrder>> Newest(int most) => Runs.Newest(most);

    /// <summary>Documents of a run in some of its states.</summary>
    public List<RunStep<RetypedDocument>> Documents(Run<RetypeOrder> run, int most, params StepState[] states) =>
        Runs.Steps(run, most, states);

    /// <summary>What a run would make of its one document, in full; null when it is not of one, or that is of the type already.</summary>
    public RetypeLook? Of(Run<RetypeOrder> run) =>
        run.Order.Document is { } id ? database.Read(c => DocumentStore.Find(c, id) is { } d ? Planned(c, d, run) : null) : null;

    private RetypeLook? Planned(SqliteConnection c, StoredDocument document, Run<RetypeOrder> run) =>
        _planning.Look(c, document, run.Order.ToType, run.Order.Rereads, run.Who);

    /// <summary>Looks at what another type would make of one document, or of all that a question finds; nothing is changed.</summary>
    /// <returns>The run.</returns>
    public Result<long> Begin(string toType, ViewDefinition? asks, long? document, bool rereads, string reason, string who, Rights rights)
    {
        if (!designs.Published.TryGetValue(toType, out var published) || published.Type.Type.IsGroup)
            return Result<long>.Not("Choose a published document type.");
        if (reason.Trim().Length > LongestReason)
            return Result<long>.Not($"The reason may have up to {LongestReason} characters.");
        if (asks is not null)
        {
            var asked = requests.For(asks, rights);
            if (asked.Fault is { } fault)
                return Result<long>.Not(fault.Says);
            if (asked.Type is null)
                return Result<long>.Not("Choose a document type first: fields belong to types.");
            if (asked.Type.Code == toType)
                return Result<long>.Not("They are of this type already.");
        }
        else if (database.Read(c => DocumentStore.Find(c, document ?? 0)) is not { } one)
            return Result<long>.Not("There is no such document.");
        else if (one.TypeCode == toType)
            return Result<long>.Not("It is of this type already.");
        else if (one is { Filed: true, HasFile: false })
            return Result<long>.Not("It came by a migration, which gives it its type; undo its wave instead.");
        return Runs.Begin(Subject, new RetypeOrder(toType, asks, document, rereads, reason.Trim()), who).With(b => b.Run.Id);
    }

    /// <summary>Changes what a look has planned.</summary>
    public Result<Job> Start(long run, string who) => Runs.Apply(run, who);

    /// <summary>Takes back what was changed.</summary>
    public Result<Job> StartUndo(long run, string who) => Runs.Undo(run, who);

    private async IAsyncEnumerable<LookedAt<RetypedDocument>> Look(
        Run<RetypeOrder> run,
        Job job,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        await using var reading = database.Connect();
        var documents = run.Order.Document is { } one
            ? [DocumentStore.Find(reading, one)!]
            : requests.Found(reading, run.Order.Asks!, run.Who, job);
        foreach (var document in documents)
        {
            cancel.ThrowIfCancellationRequested();
            if (Planned(reading, document, run) is not { } look)
            {
                yield return new(document.Id, []);
                continue;
            }
            var held = document.Filed ? RetypePlanning.Of(look, run.Order.Reason).In(Messages.English) : null;
            var step = new RunStep<RetypedDocument>(document.Id, new RetypedDocument(look.Lost))
            {
                Name = document.Name ?? document.SourceName,
                ToPath = look.Path.Length > 0 ? look.Path : null,
            };
            yield return new(document.Id, [held is null ? step : step.As(StepState.Held, held)]);
        }
    }

    // Judged again in the transaction that changes it: somebody may have worked on it since the look.
    private StepWork<RetypedDocument> Change(Run<RetypeOrder> run) =>
        (c, step, who) =>
        {
            if (DocumentStore.Find(c, step.Document) is not { } document || Planned(c, document, run) is not { } plan)
                return step.As(StepState.Skipped, "It no longer exists, or has another type by now.");
            var reason = run.Order.Reason;
            var verdict = document.Filed ? RetypePlanning.Of(plan, reason) : null;
            if (verdict?.In(Messages.English) is { } against)
                return step.As(StepState.Skipped, against);
            var changed = verdict is null ? plan.Changed : DocumentWriter.Overridden(plan.Changed, verdict, reason);
            Write(c, document, changed, $"{TypeChanged}{(reason.Length > 0 ? $": {reason}" : "")}", who);
            Tell(c, "changed the type of a document", step, $"{document.TypeCode} → {run.Order.ToType}", who);
            return step.As(document.Filed ? StepState.Moving : StepState.Done) with
            {
                What = step.What with { Before = document },
                LastChange = RunStore.LastChange(c, document.Id),
            };
        };

    /// <summary>How the history tells that values came or went with the type.</summary>
    internal const string TypeChanged = "type changed";

    private void Write(SqliteConnection c, StoredDocument before, StoredDocument after, string how, string who)
    {
        writer.Write(c, new DocumentChange(before, after, how, who));
        if (before.Filed)
            DocumentStore.SetPlace(c, after.Id, before.Folder!, before.Name!, after.Naming);
    }

    private void Tell(SqliteConnection c, string act, RunStep<RetypedDocument> step, string detail, string who) =>
        LedgerStore.Append(c, clock.GetUtcNow(), who, act, LedgerSubject.Document(step.Document), detail);

    private StepWork<RetypedDocument> Restore(Run<RetypeOrder> run) =>
        (c, step, who) =>
        {
            if (
                DocumentStore.Find(c, step.Document) is not { } now
                || now.TypeCode != run.Order.ToType
                || now.Filed != step.What.Before!.Filed
                || RunStore.LastChange(c, now.Id) != step.LastChange
            )
                return step.As(StepState.Stays, WorkedOn);
            Write(c, now, step.What.Before with { Folder = now.Folder, Name = now.Name }, "type changed back", who);
            Tell(c, "changed the type of a document back", step, step.What.Before.TypeCode ?? "", who);
            return step.As(now.Filed ? StepState.Returning : StepState.Undone);
        };

    // A filed document goes where it belongs, or back to where it stood.
    private RunStep<RetypedDocument> Follow(Run<RetypeOrder> run, RunStep<RetypedDocument> step, string who)
    {
        Checkpoint(step.State == StepState.Moving ? "changed" : "returned");
        if (database.Read(c => DocumentStore.Find(c, step.Document)) is not { Filed: true } before)
            return step;
        if (step.State == StepState.Returning)
            return
                step.What.Move is { } move
                && moves.Of(step.Document) is [{ State: MoveState.Done } last, ..]
                && last.Id == move
                && moves.Back(move, step.Document, who).Problem is { } problem
                ? Stayed(step, problem)
                : step;
        var moved = moves.Follow(step.Document, who);
        if (database.Read(c => DocumentStore.Find(c, step.Document)) is { } now && (now.Folder, now.Name) != (before.Folder, before.Name))
            step = step with { What = step.What with { Move = moves.Of(step.Document)[0].Id } };
        return moved.Problem is { } why ? Stayed(step, why) : step;
    }

    private static RunStep<RetypedDocument> Stayed(RunStep<RetypedDocument> step, string why) =>
        step with
        {
            Message = $"It stays where it was: {why}",
        };
}
