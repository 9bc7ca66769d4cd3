using System.Collections.Concurrent;

namespace ClearLexicon.Services;

/// <summary>Long work under way, with counts; it can be stopped.</summary>
public sealed class Job(string title, string doneAt) : IDisposable
{
    private readonly CancellationTokenSource _stop = new();
    private long _done;

    /// <summary>Id in addresses.</summary>
    public string Id { get; } = Guid.NewGuid().ToString("N")[..12];

    /// <summary>What is being done.</summary>
    public string Title { get; } = title;

    /// <summary>Address to go to when it has ended.</summary>
    public string DoneAt { get; } = doneAt;

    /// <summary>How much there is; 0 while unknown.</summary>
    public long Total { get; set; }

    /// <summary>How much is done.</summary>
    public long Done { get => Interlocked.Read(ref _done); set => Interlocked.Exchange(ref _done, value); }

    /// <summary>Counts one more.</summary>
    public void Step() => Interlocked.Increment(ref _done);

    /// <summary>Whether it has ended, well or not.</summary>
    public bool Ended { get; private set; }

    /// <summary>Why it ended early; null when it ran through.</summary>
    public string? Problem { get; private set; }

    /// <summary>Completes when the job has ended.</summary>
    public Task Completion { get; private set; } = Task.CompletedTask;

    /// <summary>Asks it to stop.</summary>
    public void Stop() => _stop.Cancel();

    internal void Run(Func<Job, CancellationToken, Task> work, Action<Exception> failed) => Completion = Task.Run(async () =>
    {
        try { await work(this, _stop.Token); }
        catch (OperationCanceledException) { Problem = "Stopped. What was already done stays; nothing is half done."; }
        catch (Exception e)
        {
            Problem = $"It could not be finished: {e.Message}";
            failed(e);
        }
        finally { Ended = true; }
    });

    /// <inheritdoc/>
    public void Dispose() => _stop.Dispose();
}

/// <summary>The jobs of this process.</summary>
public sealed class Jobs(Action<Exception>? failed = null)
{
    private readonly ConcurrentDictionary<string, Job> _jobs = new(StringComparer.Ordinal);

    /// <summary>Starts a job.</summary>
    /// <param name="title">What is being done.</param>
    /// <param name="doneAt">Address to go to afterwards.</param>
    /// <param name="work">The work; it counts on the job and heeds the token.</param>
    public Job Start(string title, string doneAt, Func<Job, CancellationToken, Task> work)
    {
        foreach (var (id, old) in _jobs)
            if (old.Ended && _jobs.Count > 50) _jobs.TryRemove(id, out _);
        var job = new Job(title, doneAt);
        _jobs[job.Id] = job;
        job.Run(work, failed ?? (_ => { }));
        return job;
    }

    /// <summary>A job, or null.</summary>
    public Job? Find(string id) => _jobs.GetValueOrDefault(id);

    /// <summary>Jobs under way that lead to an address.</summary>
    public Job? RunningFor(string doneAt) => _jobs.Values.FirstOrDefault(j => !j.Ended && j.DoneAt == doneAt);
}
