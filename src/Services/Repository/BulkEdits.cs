using System.Runtime.CompilerServices;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>A change of one field of what a question finds, and what goes with it.</summary>
/// <param name="What">The change.</param>
/// <param name="Reason">Why; it overrides what rules say that should hold.</param>
/// <param name="Moves">Whether documents move where they belong then.</param>
public sealed record BulkOrder(BulkChange What, string Reason, bool Moves)
{
    /// <summary>Document type of those that are found.</summary>
    public string TypeCode { get; init; } = "";

    /// <summary>Which documents.</summary>
    public ViewDefinition Asks { get; init; } = new();
}

/// <summary>A value that a run changes.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Before">What stood there when it was looked at.</param>
/// <param name="After">What it becomes.</param>
public sealed record ChangedValue(string Field, string Before, string After)
{
    /// <summary>Its place before; null for none.</summary>
    public Evidence? EvidenceBefore { get; init; }

    /// <summary>Its place afterwards; null for none.</summary>
    public Evidence? EvidenceAfter { get; init; }
}

/// <summary>
/// One change of one field of everything that a question finds: a look first, which keeps what would be set and what stands against it;
/// then set in chunks; then, if wanted, taken back, but for what somebody has changed since.
/// </summary>
public sealed class BulkEdits(
    Database database,
    Designs designs,
    SearchRequests requests,
    Moves moves,
    Jobs jobs,
    DocumentWriter writer,
    TimeProvider clock
) : IWorksInJobs
{
    private Runs<BulkOrder, ChangedValue> Runs =>
        field ??= new(
            database,
            jobs,
            clock,
            new(
                "bulk",
                "desk",
                run => $"/Repository/BulkEdit?edit={run.Id}",
                ("Looking at what would change", "Changing documents", "Undoing a bulk edit")
            )
            {
                Look = Look,
                Do = Set,
                Undo = Restore,
                Follow = Follow,
                Ended = End,
            }
        );

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => Runs.Kinds;

    /// <summary>What its jobs have as their subject: edits of one type wait for one another.</summary>
    public static string Subject(string typeCode) => $"bulk {typeCode}";

    /// <summary>One bulk edit; null when there is none.</summary>
    public Run<BulkOrder>? Find(long id) => Runs.Find(id);

    /// <summary>How many of its values are in each state.</summary>
    public Dictionary<StepState, StepCount> Counts(Run<BulkOrder> edit) => Runs.Counts(edit);

    /// <summary>The newest ones.</summary>
    public List<Run<BulkOrder>> Newest(int most) => Runs.Newest(most);

    /// <summary>Values of one in a state.</summary>
    public List<RunStep<ChangedValue>> Values(Run<BulkOrder> edit, StepState state, int most) => Runs.Steps(edit, most, state);

    /// <summary>Begins to look at what a change would do; nothing is changed.</summary>
    /// <returns>The number of the bulk edit.</returns>
    public Result<long> Look(ViewDefinition asks, BulkOrder order, string who, Rights rights)
    {
        var asked = requests.For(asks, rights);
        if (asked.Fault is { } fault)
            return Result<long>.Not(fault.Says);
        if (asked.Type is not { } type)
            return Result<long>.Not("Choose a document type: fields belong to types.");
        if (order.What.Finding(asked.Fields) is { } problem)
            return Result<long>.Not(problem);
        return Runs.Begin(Subject(type.Code), order with { TypeCode = type.Code, Asks = asks }, who).With(b => b.Run.Id);
    }

    /// <summary>Sets what a look has planned.</summary>
    public Result<Job> Start(long edit, string who) => Runs.Apply(edit, who);

    /// <summary>Takes back what was set.</summary>
    public Result<Job> StartUndo(long edit, string who) => Runs.Undo(edit, who);

    private async IAsyncEnumerable<LookedAt<ChangedValue>> Look(
        Run<BulkOrder> edit,
        Job job,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        // Judged on a reading connection, so that nobody waits for it.
        await using var reading = database.Connect();
        foreach (var document in requests.Found(reading, edit.Order.Asks, edit.Who, job))
        {
            cancel.ThrowIfCancellationRequested();
            yield return new(document.Id, Would(reading, document, edit.Order, edit.Who) is { } change ? [change.Step] : []);
        }
    }

    /// <summary>What a change does to one document.</summary>
    private sealed record Change(StoredDocument Document, RunStep<ChangedValue> Step, Judgement Judged);

    // What a change makes of a document; null when nothing.
    private Change? Would(SqliteConnection c, StoredDocument document, BulkOrder order, string who)
    {
        if (document is not { Filed: true, TypeCode: { } code } || !designs.Published.TryGetValue(code, out var published))
            return null;
        var field = order.What.Field;
        var before = document.Record.GetValueOrDefault(field, "");
        var changed = document with
        {
            Record = JudgedDocument.With(document.Record, field, order.What.Of(before)),
            Version = published.Version,
        };
        var at = published.Type.OrdinalOf(field);
        if (at < 0)
            return null;
        var judged = JudgedDocument.Of(c, designs, changed, who).Judged!;
        var value = judged.Values[at];
        // Cleaned as if a person had typed it; what a field computes is what it computed.
        if (value.IsGood && (order.What.Act == BulkAct.Compute || changed.Record.ContainsKey(field)))
            changed = changed with { Record = JudgedDocument.With(changed.Record, field, value.Text) };
        var after = changed.Record.GetValueOrDefault(field, "");
        if (after == before)
            return null;
        changed = changed with { Evidence = Evidence.AfterTyping(document.Evidence, field) };
        var change = new DocumentChange(document, changed, null, who) { Judged = judged };
        var (verdict, kept) = writer.Weigh(c, change, ChangePolicy.Edit, field, order.Reason);
        var path =
            judged.Placement.Problem is null && !Moves.StandsAt(document, judged.Placement)
                ? $"{judged.Placement.Path}{Path.GetExtension(document.Name)}"
                : null;
        var held = verdict.In(Messages.English);
        var step = new RunStep<ChangedValue>(document.Id, new ChangedValue(field, before, after)) { ToPath = path };
        return new Change(kept, held is null ? step : step.As(StepState.Held, held), judged);
    }

    private StepWork<ChangedValue> Set(Run<BulkOrder> edit) =>
        (c, step, who) =>
        {
            if (DocumentStore.Find(c, step.Document) is not { Filed: true } document)
                return step.As(StepState.Skipped, "It is no longer filed.");
            if (document.Record.GetValueOrDefault(step.What.Field, "") != step.What.Before)
                return step.As(StepState.Skipped, "It was changed in the meantime.");
            // Judged once more: by now another document may have the same number.
            if (Would(c, document, edit.Order, who) is not { } change)
                return step.As(StepState.Skipped, "There is nothing left to change.");
            if (change.Step.State == StepState.Held)
                return step.As(StepState.Skipped, change.Step.Message);
            var how = edit.Order.Reason.Length > 0 ? $"bulk edit {edit.Id}: {edit.Order.Reason}" : $"bulk edit {edit.Id}";
            writer.Write(c, new DocumentChange(document, change.Document, how, who) { Judged = change.Judged });
            return step.As(edit.Order.Moves && step.ToPath is not null ? StepState.Moving : StepState.Done);
        };

    private StepWork<ChangedValue> Restore(Run<BulkOrder> edit) =>
        (c, step, who) =>
        {
            if (
                DocumentStore.Find(c, step.Document) is not { } document
                || document.Record.GetValueOrDefault(step.What.Field, "") != step.What.After
            )
                return step.As(StepState.Stays, "It was changed after that.");
            var back = document with { Record = JudgedDocument.With(document.Record, step.What.Field, step.What.Before) };
            writer.Write(c, new DocumentChange(document, back, $"bulk edit {edit.Id} undone", who));
            return step.As(edit.Order.Moves && step.ToPath is not null ? StepState.Returning : StepState.Undone);
        };

    // One that cannot move stays where it is, and its page says where it belongs.
    private RunStep<ChangedValue> Follow(Run<BulkOrder> edit, RunStep<ChangedValue> step, string who)
    {
        moves.Follow(step.Document, who);
        return step;
    }

    private void End(SqliteConnection c, Run<BulkOrder> edit, Job job)
    {
        var (state, act) = edit.State == RunState.Applied ? (StepState.Done, "edited in bulk") : (StepState.Undone, "undid a bulk edit");
        var number = RunStore.Counts(c, edit.Key).GetValueOrDefault(state).Number;
        var what = edit.Order.What.InWords(designs.Published[edit.Order.TypeCode].Type.Type);
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            job.Who,
            act,
            new LedgerSubject(SubjectKind.BulkEdit, edit.Id),
            $"{Counted.Of(number, "document")}: {what}"
        );
    }
}
