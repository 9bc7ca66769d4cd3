using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Work;

/// <summary>
/// Long work. Each job is kept in the database while it runs, one a subject, and is taken up again when the process has ended before it. A
/// job that is asked to let go at shutdown stays there as running.
/// </summary>
/// <param name="database">Where they are kept.</param>
/// <param name="clock">The clock.</param>
/// <param name="failed">Told of what a job fails with.</param>
/// <param name="workers">The services that work in jobs, asked for when the first job is started; none when not said.</param>
public sealed class Jobs(
    Database database,
    TimeProvider clock,
    Action<Exception>? failed = null,
    Func<IEnumerable<IWorksInJobs>>? workers = null
)
{
    private const int MostTries = 3;
    private const int KeptEvery = 20;
    private const int Remembered = 50;
    private static readonly TimeSpan Retry = TimeSpan.FromMilliseconds(500);
    private const string UnderWay = "Something else is running here. Wait until it is finished.";

    private readonly ConcurrentDictionary<string, Job> _jobs = new(StringComparer.Ordinal);
    private readonly Dictionary<string, JobKind> _added = new(StringComparer.Ordinal);
    private readonly Lazy<Dictionary<string, JobKind>> _declared = new(() =>
        (workers?.Invoke() ?? []).SelectMany(w => w.Kinds).ToDictionary(k => k.Code, StringComparer.Ordinal)
    );
    private readonly Lock _starting = new();
    private volatile bool _draining;

    /// <summary>Makes the kinds of a service known that was not declared where services are registered.</summary>
    public void Add(IWorksInJobs worker)
    {
        foreach (var kind in worker.Kinds)
            Add(kind);
    }

    /// <summary>Makes a kind known that no service declares.</summary>
    public void Add(JobKind kind) => _added[kind.Code] = kind;

    private JobKind? KindOf(string code) => _added.GetValueOrDefault(code) ?? _declared.Value.GetValueOrDefault(code);

    private JobKind Known(string code) =>
        KindOf(code) ?? throw new InvalidOperationException($"No service works in jobs of kind “{code}”.");

    /// <summary>
    /// Starts a job. When one of the same kind runs on the subject already, that one is given; one of another kind is a problem.
    /// </summary>
    /// <param name="kind">Code of its kind.</param>
    /// <param name="subject">What it works on.</param>
    /// <param name="page">Address of the page it belongs to.</param>
    /// <param name="arguments">What its kind needs to do it; written as JSON.</param>
    /// <param name="who">Who starts it.</param>
    /// <param name="also">What else is written in the transaction that begins it, given the arguments that it changes them to.</param>
    public Result<Job> Start<T>(
        string kind,
        string subject,
        string page,
        T arguments,
        string who,
        Func<SqliteConnection, Result<T>>? also = null
    ) => Start(kind, subject, _ => page, arguments, who, also);

    /// <summary>As <see cref="Start{T}(string,string,string,T,string,Func{SqliteConnection,Result{T}}?)"/>, for a page whose address only
    /// the changed arguments tell.</summary>
    internal Result<Job> Start<T>(
        string kind,
        string subject,
        Func<T, string> page,
        T arguments,
        string who,
        Func<SqliteConnection, Result<T>>? also
    )
    {
        var known = Known(kind);
        lock (_starting)
        {
            if (_draining)
                return Result<Job>.Not("The program is being stopped; try again when it is running.");
            if (Running(subject) is { } running)
                return running.Kind == kind
                    ? running
                    : Result<Job>.Not($"“{running.Title}” is running here. Wait until it is finished, or stop it.");
            var begun = database.WriteIf<Result<StoredJob>>(
                c =>
                {
                    if (also is not null)
                    {
                        var changed = also(c);
                        if (!changed.Ok)
                            return Result<StoredJob>.Not(changed.Problem!);
                        arguments = changed.Value!;
                    }
                    var stored = Stored(known, subject, page(arguments), arguments, who);
                    return JobStore.Add(c, stored) ? stored : Result<StoredJob>.Not(UnderWay);
                },
                static r => r.Ok
            );
            return begun.Ok ? Run(new Job(begun.Value!), known) : Result<Job>.Not(begun.Problem!);
        }
    }

    /// <summary>
    /// Writes a job into the transaction of what makes it necessary, so that a kill right after cannot lose it. <see cref="Begin"/> starts
    /// it once that transaction is kept.
    /// </summary>
    /// <exception cref="RefusedException">Something else runs on the subject.</exception>
    public string Enlist<T>(SqliteConnection c, string kind, string subject, string page, T arguments, string who) =>
        EnlistUnlessOne(c, kind, subject, page, arguments, who) ?? throw new RefusedException(UnderWay);

    /// <summary>
    /// As <see cref="Enlist"/>, but null when one runs on the subject already, which will see what this transaction writes before it ends.
    /// </summary>
    public string? EnlistUnlessOne<T>(SqliteConnection c, string kind, string subject, string page, T arguments, string who)
    {
        var stored = Stored(Known(kind), subject, page, arguments, who);
        return JobStore.Add(c, stored) ? stored.Id : null;
    }

    /// <summary>Starts a job that was enlisted.</summary>
    public Job Begin(string id)
    {
        var stored = database.Read(c => JobStore.Find(c, id))!;
        return Run(new Job(stored), Known(stored.Kind));
    }

    /// <summary>A job of this process, or null.</summary>
    public Job? Find(string id) => _jobs.GetValueOrDefault(id);

    /// <summary>The job that runs on a subject, or null.</summary>
    public Job? Running(string subject) => _jobs.Values.FirstOrDefault(j => !j.Ended && j.Subject == subject);

    /// <summary>
    /// Keeps how far a job has come, in the transaction of its chunk; that it was begun before says nothing against it from then on.
    /// </summary>
    public static void Reach(SqliteConnection c, Job job) => JobStore.Reach(c, job.Id, job.Total, job.Done);

    /// <summary>
    /// Does a chunk of a job in a transaction of its own, which also keeps how far the job has come; by how long it took, the next one is
    /// larger or smaller.
    /// </summary>
    internal T Chunk<T>(
        Job job,
        ChunkSize size,
        Func<SqliteConnection, T> work,
        [CallerFilePath] string file = "",
        [CallerMemberName] string member = ""
    ) =>
        size.Timed(() =>
            database.Write(
                c =>
                {
                    var done = work(c);
                    Reach(c, job);
                    return done;
                },
                file,
                member
            )
        );

    /// <summary>Counts one more; every so often keeps how far the job has come, where each step is a transaction of its own.</summary>
    public void Step(Job job)
    {
        job.Step();
        if (job.Done % KeptEvery == 0)
            database.Write(c => Reach(c, job));
    }

    /// <summary>Goes on with what ran when the process ended. Call once at start.</summary>
    public void ResumeAll()
    {
        foreach (var stored in database.Read(JobStore.Running))
        {
            var kind = KindOf(stored.Kind);
            if (kind is null || stored.Tries >= MostTries)
            {
                var why = kind is null
                    ? "It was started by another version of the program."
                    : $"The program ended {MostTries} times while this was running, and it got no further.";
                database.Write(c =>
                {
                    JobStore.End(c, stored.Id, JobState.Failed, stored.Total, stored.Done, why, clock.GetUtcNow());
                    kind?.WhenUnfinished(c, new Job(stored) { Problem = why });
                });
                continue;
            }
            database.Write(c => JobStore.CountTry(c, stored.Id));
            Run(new Job(stored), kind);
        }
    }

    /// <summary>Lets every job end its chunk and waits for that; no new one starts.</summary>
    public async Task DrainAsync(TimeSpan patience)
    {
        lock (_starting)
            _draining = true;
        foreach (var job in _jobs.Values.Where(j => !j.Ended))
            job.LetGo();
        await Task.WhenAny(Task.WhenAll(_jobs.Values.Select(j => j.Completion)), Task.Delay(patience));
    }

    private Job Run(Job job, JobKind kind)
    {
        foreach (var (id, old) in _jobs)
            if (old.Ended && _jobs.Count > Remembered && _jobs.TryRemove(id, out _))
                old.Dispose();
        _jobs[job.Id] = job;
        job.Completion = Task.Run(() => RunAsync(job, kind));
        return job;
    }

    private async Task RunAsync(Job job, JobKind kind)
    {
        try
        {
            do await kind.Work(job, job.Stopping);
            while (!Ended(job, kind));
        }
        catch (OperationCanceledException) when (job.StoppedBy is null && _draining)
        {
            job.Problem = "The program was stopped; this continues when it runs again.";
        }
        catch (OperationCanceledException)
        {
            job.Problem = "Stopped. What was already done stays; nothing is half done.";
            await EndUnfinishedAsync(job, kind, JobState.Stopped);
        }
        catch (RefusedException e)
        {
            job.Problem = e.Message;
            await EndUnfinishedAsync(job, kind, JobState.Failed);
        }
        catch (Exception e)
        {
            job.Problem = $"It could not be finished: {Failures.InWords(e)}";
            failed?.Invoke(e);
            await EndUnfinishedAsync(job, kind, JobState.Failed);
        }
        finally
        {
            job.Ended = true;
        }
    }

    private bool Ended(Job job, JobKind kind) =>
        database.Write(c =>
        {
            if (!kind.NothingLeft(c))
                return false;
            JobStore.End(c, job.Id, JobState.Ended, job.Total, job.Done, null, clock.GetUtcNow());
            return true;
        });

    // What cannot even be noted, on a full disk, is noted when there is room again; after an end of the process it is taken up at the next
    // start.
    private async Task EndUnfinishedAsync(Job job, JobKind kind, JobState state)
    {
        for (var first = true; ; first = false)
        {
            try
            {
                database.Write(c =>
                {
                    JobStore.End(c, job.Id, state, job.Total, job.Done, job.Problem, clock.GetUtcNow());
                    if (state == JobState.Stopped)
                        LedgerStore.Append(
                            c,
                            clock.GetUtcNow(),
                            job.StoppedBy ?? "",
                            "stopped: " + job.Title,
                            new LedgerSubject(SubjectKind.Job, job.Subject),
                            $"{job.Done} of {job.Total}"
                        );
                    kind.WhenUnfinished(c, job);
                });
                return;
            }
            catch (Exception e) when (Failures.IsFromOutside(e))
            {
                if (first)
                    failed?.Invoke(e);
                if (_draining)
                    return;
            }
            await Task.Delay(Retry);
        }
    }

    private StoredJob Stored<T>(JobKind kind, string subject, string page, T arguments, string who) =>
        new(
            Guid.NewGuid().ToString("N")[..12],
            kind.Code,
            subject,
            kind.Title,
            page,
            kind.Policy,
            Sql.ToJson(arguments),
            JobState.Running,
            0,
            0,
            0,
            null,
            who,
            clock.Moment()
        );
}
