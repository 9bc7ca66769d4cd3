using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

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
    private sealed record OfEdit(long Edit);

    private const int Planned = 200;

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            JobKind.Of("bulk-look", "Looking at what would change", "desk", Look),
            JobKind.Of("bulk-apply", "Changing documents", "desk", Apply),
            JobKind.Of("bulk-undo", "Undoing a bulk edit", "desk", Undo),
        ];

    /// <summary>What its jobs have as their subject: edits of one type wait for one another.</summary>
    public static string Subject(string typeCode) => $"bulk {typeCode}";

    private static string Address(long edit) => $"/Repository/BulkEdit?edit={edit}";

    /// <summary>One bulk edit with what became of its values; null when there is none.</summary>
    public (BulkEdit Edit, Dictionary<string, (long Number, long Paths)> Counts)? Find(long id) =>
        database.Read(c =>
            BulkStore.Find(c, id) is { } edit ? (edit, BulkStore.Counts(c, id)) : ((BulkEdit, Dictionary<string, (long, long)>)?)null
        );

    /// <summary>The newest ones.</summary>
    public List<BulkEdit> Newest(int most) => database.Read(c => BulkStore.Newest(c, most));

    /// <summary>Values of one in a state.</summary>
    public List<BulkValue> Values(long edit, string state, int most) => database.Read(c => BulkStore.Values(c, edit, state, most));

    /// <summary>Begins to look at what a change would do; nothing is changed.</summary>
    /// <returns>The id of the bulk edit.</returns>
    public Result<long> Look(ViewDefinition asks, BulkOrder order, string who, Rights rights)
    {
        var asked = requests.For(asks, rights);
        if (asked.Fault is { } fault)
            return Result<long>.Not(fault.Says);
        if (asked.Type is not { } type)
            return Result<long>.Not("Choose a document type: fields belong to types.");
        if (order.What.Finding(asked.Fields) is { } problem)
            return Result<long>.Not(problem);
        var edit = 0L;
        var begun = jobs.Start(
            "bulk-look",
            Subject(type.Code),
            "/Repository",
            new OfEdit(0),
            who,
            c => new OfEdit(edit = BulkStore.Begin(c, type.Code, asks, order, clock.GetUtcNow(), who))
        );
        return !begun.Ok ? Result<long>.Not(begun.Problem!)
            : edit > 0 ? edit
            : Result<long>.Not("Somebody is previewing another bulk edit of this document type; wait until that is finished.");
    }

    /// <summary>Sets what a look has planned.</summary>
    public Result<Job> Start(long edit, string who) => Go(edit, "bulk-apply", ["looked", "applying"], "applying", who);

    /// <summary>Takes back what was set.</summary>
    public Result<Job> StartUndo(long edit, string who) => Go(edit, "bulk-undo", ["applied", "applying", "undoing"], "undoing", who);

    private Result<Job> Go(long edit, string kind, string[] from, string state, string who) =>
        database.Read(c => BulkStore.Find(c, edit)) is not { } found || !from.Contains(found.State)
            ? Result<Job>.Not("This bulk edit can no longer do that; look again.")
            : jobs.Resume(kind, Subject(found.TypeCode), Address(edit), new OfEdit(edit), who, c => BulkStore.SetState(c, edit, state));

    private void Look(Job job, CancellationToken cancel)
    {
        if (database.Read(c => BulkStore.Find(c, job.Given<OfEdit>().Edit)) is not { State: "looking" } edit)
            return;
        var rights = new Rights(database.Read(c => PeopleStore.Find(c, edit.Who)?.Roles ?? []));
        var asked = requests.For(edit.Asks, rights);
        if (asked.Fault is { } fault)
            throw new RefusedException(fault.Says);
        // What a kill left of a look is looked at again: documents may have changed meanwhile.
        database.Write(c => BulkStore.Forget(c, edit.Id));
        job.Done = 0;
        job.Total = database.Read(c => RepositorySearch.Count(c, asked.Query)).Number;
        using var reading = database.Connect();
        foreach (var some in RepositorySearch.All(reading, asked.Query).Chunk(Planned))
        {
            cancel.ThrowIfCancellationRequested();
            // Judged on the reading connection, so that nobody waits for it.
            var would = some.Select(document => (Document: document, Change: Would(reading, document, edit.Order, edit.Who)))
                .Where(w => w.Change is not null)
                .ToList();
            database.Write(c =>
            {
                foreach (var (document, change) in would)
                    BulkStore.Plan(c, edit.Id, document.Id, change!.Before, change.After, change.ToPath, change.Held);
                BulkStore.Looked(c, edit.Id, some.Length);
            });
            job.Done += some.Length;
            job.Total = Math.Max(job.Total, job.Done);
        }
        database.Write(c => BulkStore.SetState(c, edit.Id, "looked"));
    }

    /// <summary>What a change does to one document.</summary>
    private sealed record Change(StoredDocument Document, string Before, string After, string? ToPath, string? Held, Judgement Judged);

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
        return new Change(kept, before, after, path, verdict.In(Messages.English), judged);
    }

    private void Apply(Job job, CancellationToken cancel)
    {
        var edit = database.Read(c => BulkStore.Find(c, job.Given<OfEdit>().Edit))!;
        var how = edit.Order.Reason.Length > 0 ? $"bulk edit {edit.Id}: {edit.Order.Reason}" : $"bulk edit {edit.Id}";
        job.Total = job.Done + database.Read(c => BulkStore.Counts(c, edit.Id)).GetValueOrDefault("planned").Number;
        jobs.Through(
            job,
            (c, most) => BulkStore.Values(c, edit.Id, "planned", most),
            (c, value) =>
            {
                if (DocumentStore.Find(c, value.Document) is not { Filed: true } document)
                    BulkStore.Settle(c, value.Id, "left", "It is no longer filed.");
                else if (document.Record.GetValueOrDefault(edit.Order.What.Field, "") != value.Before)
                    BulkStore.Settle(c, value.Id, "left", "It was changed in the meantime.");
                // Judged once more: by now another document may have the same number.
                else if (Would(c, document, edit.Order, job.Who) is not { } change)
                    BulkStore.Settle(c, value.Id, "left", "There is nothing left to change.");
                else if (change.Held is { } problem)
                    BulkStore.Settle(c, value.Id, "left", problem);
                else
                {
                    writer.Write(c, new DocumentChange(document, change.Document, how, job.Who) { Judged = change.Judged });
                    BulkStore.Settle(c, value.Id, "set");
                }
            },
            cancel
        );
        if (edit.Order.Moves)
            Move(job, edit, "set", moved: false, cancel);
        End(edit, job, "applied", "set", "edited in bulk");
    }

    private void Undo(Job job, CancellationToken cancel)
    {
        var edit = database.Read(c => BulkStore.Find(c, job.Given<OfEdit>().Edit))!;
        job.Total = job.Done + database.Read(c => BulkStore.Counts(c, edit.Id)).GetValueOrDefault("set").Number;
        jobs.Through(
            job,
            (c, most) => BulkStore.Values(c, edit.Id, "set", most),
            (c, value) =>
            {
                var field = edit.Order.What.Field;
                if (
                    DocumentStore.Find(c, value.Document) is not { } document
                    || document.Record.GetValueOrDefault(field, "") != value.After
                )
                    BulkStore.Settle(c, value.Id, "stays", "It was changed after that.");
                else
                {
                    var back = document with { Record = JudgedDocument.With(document.Record, field, value.Before) };
                    writer.Write(c, new DocumentChange(document, back, $"bulk edit {edit.Id} undone", job.Who));
                    BulkStore.Settle(c, value.Id, "back");
                }
            },
            cancel
        );
        Move(job, edit, "back", moved: true, cancel);
        End(edit, job, "undone", "back", "undid a bulk edit");
    }

    private void End(BulkEdit edit, Job job, string state, string counted, string act) =>
        database.Write(c =>
        {
            var number = BulkStore.Counts(c, edit.Id).GetValueOrDefault(counted).Number;
            BulkStore.SetState(c, edit.Id, state);
            var what = edit.Order.What.InWords(designs.Published[edit.TypeCode].Type.Type);
            LedgerStore.Append(c, clock.GetUtcNow(), job.Who, act, $"bulk edit {edit.Id}", $"{Counted.Of(number, "document")}: {what}");
        });

    // Each document moves with its record or not at all; one that cannot stays where it is, and its page says where it belongs.
    private void Move(Job job, BulkEdit edit, string state, bool moved, CancellationToken cancel)
    {
        while (database.Read(c => BulkStore.ToMove(c, edit.Id, state, moved, Planned)) is { Count: > 0 } some)
        {
            job.More(some.Count);
            foreach (var (value, document) in some)
            {
                cancel.ThrowIfCancellationRequested();
                moves.Follow(document, job.Who);
                database.Write(c => BulkStore.SetMoved(c, value, !moved));
                job.Step();
            }
        }
    }
}
