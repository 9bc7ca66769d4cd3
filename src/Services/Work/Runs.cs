using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Work;

/// <summary>
/// Runs of a kind: an act on many documents that is looked at, done in chunks, stopped, gone on with and taken back. Each step is done in
/// the transaction that notes it, so that a kill loses and doubles nothing; the job of a run that was killed is taken up again, one that
/// was stopped is gone on with where it was. Who may do what is asked by the pages.
/// </summary>
/// <typeparam name="TOrder">What is to be done.</typeparam>
/// <typeparam name="TWhat">What a step does, and what taking it back needs.</typeparam>
internal sealed class Runs<TOrder, TWhat>(Database database, Jobs jobs, TimeProvider clock, RunKind<TOrder, TWhat> kind)
{
    private const int AtOnce = 50;
    private const int FirstChunk = 20;

    private sealed record OfRun(long Run);

    /// <summary>The kinds of its jobs.</summary>
    public IReadOnlyList<JobKind> Kinds =>
        [
            .. LooksFirst ? [Work("look", kind.Titles.Look, LookAsync)] : Array.Empty<JobKind>(),
            Work("apply", kind.Titles.Apply, Apply),
            .. kind.Titles.Undo.Length > 0 ? [Work("undo", kind.Titles.Undo, Undo)] : Array.Empty<JobKind>(),
        ];

    private bool LooksFirst => kind.Look is not null || kind.LookAll is not null;

    private JobKind Work(string what, string title, Action<Job, CancellationToken> work) =>
        Unfinished(JobKind.Of($"{kind.Code}-{what}", title, kind.Policy, work));

    private JobKind Work(string what, string title, Func<Job, CancellationToken, Task> work) =>
        Unfinished(new JobKind($"{kind.Code}-{what}", title, kind.Policy, work));

    // Why a job could not go on stands with its run; that somebody has stopped it is nothing wrong.
    private JobKind Unfinished(JobKind of) =>
        of with
        {
            WhenUnfinished = (c, job) =>
                RunStore.SetProblem(c, kind.Code, job.Given<OfRun>().Run, job.StoppedBy is null ? job.Problem : null),
        };

    /// <summary>One run, or null.</summary>
    public Run<TOrder>? Find(long id) => database.Read(c => RunStore.Find<TOrder>(c, kind.Code, id));

    /// <summary>The newest runs, newest first.</summary>
    public List<Run<TOrder>> Newest(int most) => database.Read(c => RunStore.Newest<TOrder>(c, kind.Code, most));

    /// <summary>The newest runs that work on a subject, newest first.</summary>
    public List<Run<TOrder>> Of(string subject, int most) => database.Read(c => RunStore.Of<TOrder>(c, kind.Code, subject, most));

    /// <summary>How many steps of a run are in each state.</summary>
    public Dictionary<StepState, StepCount> Counts(Run<TOrder> run) => database.Read(c => RunStore.Counts(c, run.Key));

    /// <summary>Steps of a run in any of some states, state by state.</summary>
    public List<RunStep<TWhat>> Steps(Run<TOrder> run, int most, params StepState[] states) =>
        database.Read(c => states.SelectMany(state => RunStore.Steps<TWhat>(c, run.Key, state, most)).Take(most).ToList());

    /// <summary>
    /// Begins a run: a look at what it would do, where its kind looks first, else at once what it does. One job at a time works on a
    /// subject.
    /// </summary>
    /// <param name="subject">What it works on.</param>
    /// <param name="order">What is to be done.</param>
    /// <param name="who">Who asks.</param>
    /// <param name="also">What else is written in the transaction that begins it.</param>
    public Result<(Run<TOrder> Run, Job Job)> Begin(
        string subject,
        TOrder order,
        string who,
        Action<SqliteConnection, Run<TOrder>>? also = null
    )
    {
        Run<TOrder>? run = null;
        var (state, what) = LooksFirst ? (RunState.Looking, "look") : (RunState.Applying, "apply");
        var begun = jobs.Start(
            $"{kind.Code}-{what}",
            subject,
            _ => kind.Page(run!),
            new OfRun(0),
            who,
            c =>
            {
                if (kind.WhyNotBegin(c, order) is { } problem)
                    return Result<OfRun>.Not(problem);
                run = RunStore.Begin(c, kind.Code, subject, order, state, clock.GetUtcNow(), who);
                also?.Invoke(c, run);
                return new OfRun(run.Id);
            }
        );
        if (begun.Value is not { } job)
            return Result<(Run<TOrder>, Job)>.Not(begun.Problem!);
        return run is not null ? (run, job)
            : state == RunState.Looking
                ? Result<(Run<TOrder>, Job)>.Not("Somebody is looking at another change here; wait until that is finished.")
            : (Find(job.Given<OfRun>().Run)!, job);
    }

    /// <summary>
    /// Writes a run and its job into the transaction of what makes them necessary; <see cref="Jobs.Begin"/> starts the job.
    /// </summary>
    /// <returns>The id of the job.</returns>
    public string Enlist(SqliteConnection c, string subject, TOrder order, string who)
    {
        var run = RunStore.Begin(c, kind.Code, subject, order, RunState.Applying, clock.GetUtcNow(), who);
        return jobs.Enlist(c, $"{kind.Code}-apply", subject, kind.Page(run), new OfRun(run.Id), who);
    }

    /// <summary>Does what a look has planned, or goes on with what was stopped.</summary>
    public Result<Job> Apply(long id, string who) => Go(id, "apply", RunState.Applying, who, RunState.Looked, RunState.Applying);

    /// <summary>Takes back what was done, or goes on with that.</summary>
    public Result<Job> Undo(long id, string who) =>
        Go(id, "undo", RunState.Undoing, who, RunState.Applied, RunState.Applying, RunState.Undoing);

    private Result<Job> Go(long id, string what, RunState state, string who, params RunState[] from)
    {
        if (Find(id) is not { } run)
            return Result<Job>.Not("There is no such run.");
        var begun = jobs.Start(
            $"{kind.Code}-{what}",
            run.Subject,
            kind.Page(run),
            new OfRun(id),
            who,
            c =>
            {
                var now = RunStore.Find<TOrder>(c, kind.Code, id)!;
                if (!from.Contains(now.State))
                    return Result<OfRun>.Not("This can no longer be done; look again.");
                if (state == RunState.Undoing && kind.WhyNotUndo(c, now) is { } problem)
                    return Result<OfRun>.Not(problem);
                RunStore.SetState(c, run.Key, state);
                return new OfRun(id);
            }
        );
        return begun.Value?.Given<OfRun>().Run is { } other && other != id
            ? Result<Job>.Not("Another run is under way here; wait until it is finished.")
            : begun;
    }

    // The run of a job, when it is still what the job is for.
    private Run<TOrder>? Under(Job job, RunState state) => Find(job.Given<OfRun>().Run) is { } run && run.State == state ? run : null;

    private async Task LookAsync(Job job, CancellationToken cancel)
    {
        if (Under(job, RunState.Looking) is not { } run)
            return;
        if (kind.LookAll is { } all)
        {
            all(run, job, cancel);
            database.Write(c => RunStore.SetState(c, run.Key, RunState.Looked));
            return;
        }
        // What a stop has left of a look is looked at again: documents may have changed meanwhile.
        if (!kind.LooksInOrder)
        {
            database.Write(c => RunStore.Forget(c, run.Key));
            run = run with { Reached = 0, Looked = 0 };
        }
        job.Done = run.Looked;
        var some = new List<LookedAt<TWhat>>(kind.LookedAtOnce);
        await foreach (var looked in kind.Look!(run, job, cancel))
        {
            some.Add(looked);
            if (some.Count == kind.LookedAtOnce)
                Keep();
        }
        Keep();
        database.Write(c => RunStore.SetState(c, run.Key, RunState.Looked));

        // What was found and how far, in one transaction.
        void Keep()
        {
            if (some.Count == 0)
                return;
            database.Write(c =>
            {
                foreach (var step in some.SelectMany(l => l.Steps))
                    RunStore.Add(c, run.Key, step);
                RunStore.Reach(c, run.Key, some[^1].Document, some.Count);
            });
            job.Done += some.Count;
            job.Total = Math.Max(job.Total, job.Done);
            some.Clear();
            cancel.ThrowIfCancellationRequested();
        }
    }

    private void Apply(Job job, CancellationToken cancel)
    {
        if (Under(job, RunState.Applying) is not { } run)
            return;
        Follow(run, StepState.Moving, StepState.Done, job);
        if (kind.DoAll is { } all)
            all(run, job, cancel);
        else if (kind.Next is not null)
            GoOn(run, job, cancel);
        else
        {
            job.Total = job.Done + Counts(run).GetValueOrDefault(StepState.Planned).Number;
            Through(run, StepState.Planned, kind.Do?.Invoke(run), kind.DoAlone, job, cancel);
        }
        End(run with { State = RunState.Applied }, job);
        if (kind.Shortfall(run) is { } problem)
            throw new RefusedException(problem);
    }

    private void Undo(Job job, CancellationToken cancel)
    {
        if (Under(job, RunState.Undoing) is not { } run)
            return;
        Follow(run, StepState.Returning, StepState.Undone, job);
        if (kind.UndoAll is { } all)
            all(run, job, cancel);
        else
        {
            var counts = Counts(run);
            job.Total = job.Done + counts.GetValueOrDefault(StepState.Moving).Number + counts.GetValueOrDefault(StepState.Done).Number;
            var undo = kind.Undo?.Invoke(run);
            foreach (var state in new[] { StepState.Moving, StepState.Done })
                Through(run, state, undo, kind.UndoAlone, job, cancel);
        }
        End(run with { State = RunState.Undone }, job);
    }

    private void End(Run<TOrder> run, Job job) =>
        database.Write(c =>
        {
            RunStore.SetState(c, run.Key, run.State);
            kind.Ended(c, run, job);
        });

    // Through the steps in a state, of which each leaves it.
    private void Through(
        Run<TOrder> run,
        StepState state,
        StepWork<TWhat>? inChunk,
        Func<Run<TOrder>, RunStep<TWhat>, string, RunStep<TWhat>>? alone,
        Job job,
        CancellationToken cancel
    )
    {
        if (alone is not null)
        {
            while (Steps(run, AtOnce, state) is { Count: > 0 } some)
                foreach (var step in some)
                {
                    cancel.ThrowIfCancellationRequested();
                    var done = alone(run, step, job.Who);
                    database.Write(c => RunStore.Set(c, done));
                    jobs.Step(job);
                }
            return;
        }
        Chunks(
            (c, most) =>
            {
                var some = RunStore.Steps<TWhat>(c, run.Key, state, most);
                foreach (var step in some)
                    RunStore.Set(c, inChunk!(c, step, job.Who));
                return some.Count;
            },
            run,
            job,
            cancel
        );
    }

    // A run that plans nothing before: each document becomes a step as it is done.
    private void GoOn(Run<TOrder> run, Job job, CancellationToken cancel)
    {
        (job.Total, job.Done) = (run.Looked + database.Read(c => kind.Coming(c, run)), run.Looked);
        var (reached, work) = (run.Reached, kind.Do!(run));
        Chunks(
            (c, most) =>
            {
                var some = kind.Next!(c, run, reached, most);
                foreach (var document in some)
                    RunStore.Add(c, run.Key, work(c, new RunStep<TWhat>(document, default!), job.Who));
                if (some.Count > 0)
                    RunStore.Reach(c, run.Key, reached = some[^1], some.Count);
                return some.Count;
            },
            run,
            job,
            cancel
        );
    }

    private void Chunks(Func<SqliteConnection, int, int> chunk, Run<TOrder> run, Job job, CancellationToken cancel)
    {
        var size = new ChunkSize(FirstChunk);
        for (var done = 1; done > 0; job.Done += done)
        {
            cancel.ThrowIfCancellationRequested();
            done = jobs.Chunk(job, size, c => chunk(c, size.Now));
            Follow(run, StepState.Moving, StepState.Done, job);
            Follow(run, StepState.Returning, StepState.Undone, job);
        }
    }

    // Documents of what was done or taken back move with their record or not at all. A stop waits for those of its chunk.
    private void Follow(Run<TOrder> run, StepState state, StepState then, Job job)
    {
        if (kind.Follow is not { } follow)
            return;
        while (Steps(run, AtOnce, state) is { Count: > 0 } some)
            foreach (var step in some)
            {
                var followed = follow(run, step, job.Who) with { State = then };
                database.Write(c => RunStore.Set(c, followed));
            }
    }
}
