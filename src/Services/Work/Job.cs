using System.Text.Json;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Work;

/// <summary>
/// A kind of long work: what it is called, who may stop it, and how it is done. It is done again from its arguments after a kill.
/// </summary>
/// <param name="Code">Stable code.</param>
/// <param name="Title">What is being done, in words.</param>
/// <param name="Policy">Name of the authorization policy of those who may stop it.</param>
/// <param name="Work">Does it, in chunks that are transactions of their own; counts on the job and heeds the token.</param>
public sealed record JobKind(string Code, string Title, string Policy, Func<Job, CancellationToken, Task> Work)
{
    /// <summary>
    /// Whether nothing has come in meanwhile, asked in the transaction that ends the job; when false, the work is done once more.
    /// </summary>
    public Func<Microsoft.Data.Sqlite.SqliteConnection, bool> NothingLeft { get; init; } = static _ => true;

    /// <summary>
    /// What else is written in the transaction that notes that a job was stopped or could not be finished: the state of what it worked on.
    /// </summary>
    public Action<Microsoft.Data.Sqlite.SqliteConnection, Job> WhenUnfinished { get; init; } = static (_, _) => { };

    /// <summary>A kind whose work does not wait for anything.</summary>
    public static JobKind Of(string code, string title, string policy, Action<Job, CancellationToken> work) =>
        new(
            code,
            title,
            policy,
            (job, cancel) =>
            {
                work(job, cancel);
                return Task.CompletedTask;
            }
        );
}

/// <summary>Long work under way, with counts; it can be stopped.</summary>
public sealed class Job : IDisposable
{
    private readonly CancellationTokenSource _stop = new();
    private readonly string _arguments;
    private long _done;
    private long _total;

    internal Job(StoredJob stored)
    {
        (Id, Kind, Subject, Title, Policy, Who, _arguments) = (
            stored.Id,
            stored.Kind,
            stored.Subject,
            stored.Title,
            stored.Policy,
            stored.Who,
            stored.Arguments
        );
        (Total, Done) = (stored.Total, stored.Done);
    }

    /// <summary>Id in addresses.</summary>
    public string Id { get; }

    /// <summary>Code of its kind.</summary>
    public string Kind { get; }

    /// <summary>What it works on.</summary>
    public string Subject { get; }

    /// <summary>What is being done.</summary>
    public string Title { get; }

    /// <summary>Name of the policy of those who may stop it.</summary>
    public string Policy { get; }

    /// <summary>Who started it.</summary>
    public string Who { get; }

    /// <summary>How much there is; 0 while unknown.</summary>
    public long Total
    {
        get => Interlocked.Read(ref _total);
        set => Interlocked.Exchange(ref _total, value);
    }

    /// <summary>Counts that there is more to do than was known.</summary>
    public void More(long by) => Interlocked.Add(ref _total, by);

    /// <summary>How much is done.</summary>
    public long Done
    {
        get => Interlocked.Read(ref _done);
        set => Interlocked.Exchange(ref _done, value);
    }

    /// <summary>Counts one more.</summary>
    public void Step() => Interlocked.Increment(ref _done);

    /// <summary>Whether it has ended, well or not.</summary>
    public bool Ended { get; internal set; }

    /// <summary>Why it ended early, or what it waits for; null while it runs and when it ran through.</summary>
    public string? Problem { get; internal set; }

    /// <summary>Completes when the job has ended.</summary>
    public Task Completion { get; internal set; } = Task.CompletedTask;

    /// <summary>Who asked it to stop; null when nobody has.</summary>
    internal string? StoppedBy { get; private set; }

    internal CancellationToken Stopping => _stop.Token;

    /// <summary>What it was started with.</summary>
    public T Given<T>() => JsonSerializer.Deserialize<T>(_arguments, Sql.Json)!;

    /// <summary>Asks it to stop.</summary>
    public void Stop(string who = "")
    {
        StoppedBy = who;
        _stop.Cancel();
    }

    /// <summary>Asks it to let go because the program ends; it goes on at the next start.</summary>
    internal void LetGo() => _stop.Cancel();

    /// <inheritdoc/>
    public void Dispose() => _stop.Dispose();
}
