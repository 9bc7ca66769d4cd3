using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Readers;

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
    private sealed record OfRun(long Run);

    private const int AtOnce = 50;
    private const int LongestReason = 200;

    private readonly RetypePlanning _planning = new(folder, designs);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            JobKind.Of("retype-look", "Looking at what another type would make of them", "desk", Look),
            JobKind.Of("retype-apply", "Changing the document type", "desk", Apply),
            JobKind.Of("retype-undo", "Undoing the change of type", "desk", Undo),
        ];

    /// <summary>What its jobs have as their subject.</summary>
    public const string Subject = "document types of documents";

    private static string Address(long run) => $"/Repository/Retype/{run}";

    /// <summary>Called between the steps with their names; tests stop the process here.</summary>
    internal Action<string> Checkpoint { get; set; } = _ => { };

    /// <summary>A run with how many of its documents are in each state; null when there is none.</summary>
    public (RetypeRun Run, Dictionary<string, long> Counts)? Find(long run) =>
        database.Read(c =>
            RetypeStore.Find(c, run) is { } found ? (found, RetypeStore.Counts(c, run)) : ((RetypeRun, Dictionary<string, long>)?)null
        );

    /// <summary>The newest runs.</summary>
    public List<RetypeRun> Newest(int most) => database.Read(c => RetypeStore.Newest(c, most));

    /// <summary>Documents of a run in some of its states.</summary>
    public List<RetypedDocument> Documents(long run, int most, params string[] states) =>
        database.Read(c => RetypeStore.In(c, run, most, states));

    /// <summary>What a run would make of its one document, in full; null when it is not of one, or that is of the type already.</summary>
    public RetypeLook? Of(RetypeRun run) =>
        run.Document is { } id
            ? database.Read(c => DocumentStore.Find(c, id) is { } d ? _planning.Look(c, d, run.ToType, run.Rereads, run.Who) : null)
            : null;

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
        var run = 0L;
        var begun = jobs.Start(
            "retype-look",
            Subject,
            "/Repository",
            new OfRun(0),
            who,
            c => new OfRun(run = RetypeStore.Begin(c, toType, asks, document, rereads, reason.Trim(), clock.GetUtcNow(), who))
        );
        return !begun.Ok ? Result<long>.Not(begun.Problem!)
            : run > 0 ? run
            : Result<long>.Not("Somebody is previewing another change of type; wait until that is finished.");
    }

    /// <summary>Changes what a look has planned.</summary>
    public Result<Job> Start(long run, string who) => Go(run, "retype-apply", ["looked", "applying"], "applying", who);

    /// <summary>Takes back what was changed.</summary>
    public Result<Job> StartUndo(long run, string who) => Go(run, "retype-undo", ["applied", "applying", "undoing"], "undoing", who);

    private Result<Job> Go(long run, string kind, string[] from, string state, string who) =>
        database.Read(c => RetypeStore.Find(c, run)) is not { } found || !from.Contains(found.State)
            ? Result<Job>.Not("This can no longer be done here; look again.")
            : jobs.Resume(kind, Subject, Address(run), new OfRun(run), who, c => RetypeStore.SetState(c, run, state));

    private void Look(Job job, CancellationToken cancel)
    {
        if (database.Read(c => RetypeStore.Find(c, job.Given<OfRun>().Run)) is not { State: "looking" } run)
            return;
        database.Write(c => RetypeStore.Forget(c, run.Id));
        using var reading = database.Connect();
        var documents = run.Document is { } one ? [DocumentStore.Find(reading, one)!] : Asked(reading, run, job);
        foreach (var some in documents.Chunk(AtOnce))
        {
            cancel.ThrowIfCancellationRequested();
            var planned = some.Select(d => (Document: d, Plan: _planning.Look(reading, d, run.ToType, run.Rereads, run.Who))).ToList();
            database.Write(c =>
            {
                foreach (var (document, plan) in planned)
                    if (plan is not null)
                        RetypeStore.Plan(c, run.Id, Planned(document, plan, run.Reason));
            });
            job.Done += some.Length;
        }
        database.Write(c => RetypeStore.SetState(c, run.Id, "looked"));
    }

    private IEnumerable<StoredDocument> Asked(SqliteConnection c, RetypeRun run, Job job)
    {
        var asked = requests.For(run.Asks!, new Rights(PeopleStore.Find(c, run.Who)?.Roles ?? []));
        if (asked.Fault is { } fault)
            throw new RefusedException(fault.Says);
        job.Total = RepositorySearch.Count(c, asked.Query).Number;
        return RepositorySearch.All(c, asked.Query);
    }

    private static RetypedDocument Planned(StoredDocument document, RetypeLook look, string reason)
    {
        var held = document.Filed ? RetypePlanning.Of(look, reason).In(Messages.English) : null;
        return new RetypedDocument(
            document.Id,
            document.Name ?? document.SourceName,
            held is null ? "planned" : "held",
            look.Path,
            look.Lost,
            held ?? "",
            null,
            null,
            0
        );
    }

    private void Apply(Job job, CancellationToken cancel)
    {
        if (database.Read(c => RetypeStore.Find(c, job.Given<OfRun>().Run)) is not { State: "applying" } run)
            return;
        job.Total = database.Read(c => RetypeStore.Counts(c, run.Id)).GetValueOrDefault("planned");
        while (database.Read(c => RetypeStore.In(c, run.Id, AtOnce, "planned")) is { Count: > 0 } some)
            foreach (var planned in some)
            {
                cancel.ThrowIfCancellationRequested();
                database.Write(c => Change(c, run, planned.Document, job.Who));
                Checkpoint("changed");
                Move(run.Id, planned.Document, job.Who);
                jobs.Step(job);
            }
        database.Write(c => RetypeStore.SetState(c, run.Id, "applied"));
    }

    // Judged again in the transaction that changes it: somebody may have worked on it since the look.
    private void Change(SqliteConnection c, RetypeRun run, long id, string who)
    {
        if (DocumentStore.Find(c, id) is not { } document || _planning.Look(c, document, run.ToType, run.Rereads, who) is not { } plan)
        {
            RetypeStore.Set(c, run.Id, id, "left", "It no longer exists, or has another type by now.");
            return;
        }
        var verdict = document.Filed ? RetypePlanning.Of(plan, run.Reason) : null;
        if (verdict?.In(Messages.English) is { } against)
        {
            RetypeStore.Set(c, run.Id, id, "left", against);
            return;
        }
        var changed = verdict is null ? plan.Changed : DocumentWriter.Overridden(plan.Changed, verdict, run.Reason);
        Write(c, document, changed, $"{TypeChanged}{(run.Reason.Length > 0 ? $": {run.Reason}" : "")}", who);
        RetypeStore.Changed(c, run.Id, document, document.Filed ? "moving" : "done");
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            who,
            "changed the type of a document",
            $"document {id}",
            $"{document.TypeCode} → {run.ToType}"
        );
    }

    /// <summary>How the history tells that values came or went with the type.</summary>
    internal const string TypeChanged = "type changed";

    private void Write(SqliteConnection c, StoredDocument before, StoredDocument after, string how, string who)
    {
        writer.Write(c, new DocumentChange(before, after, how, who));
        if (before.Filed)
            DocumentStore.SetPlace(c, after.Id, before.Folder!, before.Name!, after.Naming);
    }

    // A filed document goes where it belongs; what a stop has left between is gone on with.
    private void Move(long run, long id, string who)
    {
        if (
            database.Read(c =>
                (Now: DocumentStore.Find(c, id), State: RetypeStore.In(c, run, int.MaxValue, "moving").Exists(d => d.Document == id))
            )
            is not { Now: { } now, State: true }
        )
            return;
        var moved = moves.Follow(id, who);
        var move =
            database.Read(c => DocumentStore.Find(c, id)) is { } at && (at.Folder, at.Name) != (now.Folder, now.Name)
                ? moves.Of(id)[0].Id
                : (long?)null;
        database.Write(c => RetypeStore.Set(c, run, id, "done", moved.Problem is { } why ? $"It stays where it was: {why}" : "", move));
    }

    private void Undo(Job job, CancellationToken cancel)
    {
        if (database.Read(c => RetypeStore.Find(c, job.Given<OfRun>().Run)) is not { State: "undoing" } run)
            return;
        job.Total = database.Read(c => RetypeStore.Counts(c, run.Id)).GetValueOrDefault("done");
        while (database.Read(c => RetypeStore.In(c, run.Id, AtOnce, "done", "returning")) is { Count: > 0 } some)
            foreach (var done in some)
            {
                cancel.ThrowIfCancellationRequested();
                var untouched =
                    done.State == "returning"
                    || database.Read(c =>
                        DocumentStore.Find(c, done.Document) is { } now
                        && now.TypeCode == run.ToType
                        && now.Filed == done.Before!.Filed
                        && RetypeStore.IsUntouched(c, done.Document, done.LastChange)
                    );
                database.Write(c =>
                    RetypeStore.Set(
                        c,
                        run.Id,
                        done.Document,
                        untouched ? "returning" : "stays",
                        untouched ? "" : "Somebody has worked on it since."
                    )
                );
                if (untouched)
                    Return(run.Id, done, job.Who);
                jobs.Step(job);
            }
        database.Write(c => RetypeStore.SetState(c, run.Id, "undone"));
    }

    // First back to its place, then to its type: a stop between is gone on with.
    private void Return(long run, RetypedDocument done, string who)
    {
        if (done.Move is { } move && moves.Of(done.Document) is [{ State: "done" } last, ..] && last.Id == move)
        {
            var back = moves.Back(move, done.Document, who);
            if (back.Problem is { } problem)
            {
                database.Write(c => RetypeStore.Set(c, run, done.Document, "stays", problem));
                return;
            }
        }
        Checkpoint("returned");
        database.Write(c =>
        {
            if (DocumentStore.Find(c, done.Document) is not { } now)
                return;
            // While it moved, somebody may have changed it.
            if (!RetypeStore.IsUntouched(c, done.Document, done.LastChange))
            {
                RetypeStore.Set(c, run, done.Document, "stays", "Somebody has worked on it since.");
                return;
            }
            Write(c, now, done.Before! with { Folder = now.Folder, Name = now.Name }, "type changed back", who);
            RetypeStore.Set(c, run, done.Document, "back", "");
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "changed the type of a document back",
                $"document {done.Document}",
                done.Before!.TypeCode ?? ""
            );
        });
    }

    /// <summary>Goes on with what a stop left between change and move. Call once at start.</summary>
    public int Recover()
    {
        var underWay = database.Read(RetypeStore.UnderWay);
        foreach (var (run, document) in underWay)
            if (document.State == "moving")
                Move(run, document.Document, "start-up");
            else
                Return(run, document, "start-up");
        return underWay.Count;
    }
}
