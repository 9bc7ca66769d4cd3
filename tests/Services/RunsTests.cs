using System.Runtime.CompilerServices;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>The engine of runs, with a kind of its own that writes a mark into each document and takes it away.</summary>
public sealed class RunsTests : IDisposable
{
    private const int Documents = 120;

    private readonly House _house = new();
    private readonly Runs<string, string> _runs;
    private readonly List<long> _followed = [];
    private Action _between = () => { };

    public RunsTests()
    {
        for (var i = 0; i < Documents; i++)
            _house.Database.Write(c => DocumentStore.Add(c, new StoredDocument { SourceName = $"{i}" }, []));
        _runs = new Runs<string, string>(
            _house.Database,
            _house.Jobs,
            _house.Clock,
            new RunKind<string, string>("mark", "desk", run => $"/mark/{run.Id}", ("Looking", "Marking", "Unmarking"))
            {
                LookedAtOnce = 7,
                Look = Look,
                Do = run => (c, step, _) => Marked(c, step, m => m + run.Order).As(StepState.Moving),
                Undo = run => (c, step, _) => Marked(c, step, m => m[..^run.Order.Length]).As(StepState.Returning),
                Follow = (_, step, _) =>
                {
                    _between();
                    _followed.Add(step.Document);
                    return step;
                },
                WhyNotBegin = (_, order) => order.Length == 0 ? "Say what the mark is." : null,
                WhyNotUndo = (_, run) => run.Order == "!" ? "This mark stays." : null,
                Ended = (c, run, job) =>
                    LedgerStore.Append(c, _house.Clock.GetUtcNow(), job.Who, $"{run.State}", new LedgerSubject(SubjectKind.Settings)),
            }
        );
        foreach (var kind in _runs.Kinds)
            _house.Jobs.Add(kind);
    }

    private async IAsyncEnumerable<LookedAt<string>> Look(Run<string> run, Job job, [EnumeratorCancellation] CancellationToken cancel)
    {
        await Task.Yield();
        foreach (var id in _house.Database.Read(c => c.Query("SELECT id FROM documents ORDER BY id", r => r.Long("id"))))
        {
            cancel.ThrowIfCancellationRequested();
            _between();
            yield return new(id, id % 3 == 0 ? [] : [new RunStep<string>(id, run.Order)]);
        }
    }

    private RunStep<string> Marked(Microsoft.Data.Sqlite.SqliteConnection c, RunStep<string> step, Func<string, string> change)
    {
        _between();
        DocumentStore.Park(c, step.Document, change(DocumentStore.Find(c, step.Document)!.Parked ?? ""));
        return step;
    }

    private List<string> Marks() =>
        _house.Database.Read(c => c.Query("SELECT coalesce(parked, '') AS parked FROM documents WHERE id % 3 <> 0", r => r.Text("parked")));

    /// <summary>Whatever breaks it, and wherever: each step is done once, taken back once, and its document follows.</summary>
    [Fact]
    public async Task A_run_that_breaks_off_again_and_again_does_each_step_once_and_takes_it_back_once()
    {
        var (dice, broken) = (new Random(20261202), 0);
        async Task Through(RunState under, RunState then, long id, Func<Result<Job>> go)
        {
            await go().Value!.Completion;
            for (; _runs.Find(id)!.State == under; await go().Value!.Completion)
                Assert.Contains("could not be finished", _runs.Find(id)!.Problem);
            Assert.Equal((then, null), (_runs.Find(id)!.State, _runs.Find(id)!.Problem));
        }
        // A look that broke off says so; another one begins anew.
        var at = 0;
        _between = () => Assert.True(++at < 50, "it breaks here");
        var run = _runs.Begin("marks", "x", "me").Value.Run;
        await (_house.Jobs.Running("marks")?.Completion ?? Task.CompletedTask);
        Assert.Equal((RunState.Looking, true), (_runs.Find(run.Id)!.State, _runs.Find(run.Id)!.Problem is not null));
        _between = () => { };
        run = _runs.Begin("marks", "x", "me").Value.Run;
        await (_house.Jobs.Running("marks")?.Completion ?? Task.CompletedTask);
        Assert.Equal((RunState.Looked, (long)Documents), (_runs.Find(run.Id)!.State, _runs.Find(run.Id)!.Looked));
        Assert.Equal(new StepCount(80, 0), _runs.Counts(run)[StepState.Planned]);
        Assert.All(Marks(), m => Assert.Equal("", m));

        _between = () =>
        {
            if (dice.Next(25) == 0 && broken++ < 1_000)
                throw new InvalidOperationException("it breaks here");
        };
        await Through(RunState.Applying, RunState.Applied, run.Id, () => _runs.Apply(run.Id, "me"));
        Assert.All(Marks(), m => Assert.Equal("x", m));
        Assert.Equal(80, _runs.Counts(run)[StepState.Done].Number);
        Assert.Equal(80, _followed.Distinct().Count());
        Assert.Contains("no longer be done", _runs.Apply(run.Id, "me").Problem);

        await Through(RunState.Undoing, RunState.Undone, run.Id, () => _runs.Undo(run.Id, "me"));
        Assert.All(Marks(), m => Assert.Equal("", m));
        Assert.Equal(160, _followed.Count);
        Assert.True(broken > 5, $"It broke {broken} times only.");
        Assert.Equal(["Undone", "Applied"], _house.Database.Read(c => LedgerStore.Newest(c, 2)).Select(l => l.Action));
        _house.Failures.Clear();
    }

    [Fact]
    public async Task One_at_a_time_works_on_a_subject_and_what_must_not_begin_does_not()
    {
        Assert.Equal("Say what the mark is.", _runs.Begin("marks", "", "me").Problem);
        Assert.Empty(_runs.Newest(9));
        using var gate = new ManualResetEventSlim();
        var one = _runs.Begin("marks", "!", "me").Value.Run;
        await (_house.Jobs.Running("marks")?.Completion ?? Task.CompletedTask);
        var other = _runs.Begin("marks", "y", "you").Value.Run;
        await (_house.Jobs.Running("marks")?.Completion ?? Task.CompletedTask);
        Assert.Equal((1L, 2L), (one.Id, other.Id));
        _between = () => gate.Wait(TestContext.Current.CancellationToken);
        var job = _runs.Apply(one.Id, "me").Value!;
        // A second press is the same job; another run waits.
        Assert.Same(job, _runs.Apply(one.Id, "you").Value);
        Assert.Contains("Another run is under way", _runs.Apply(other.Id, "you").Problem);
        Assert.Contains("is running here", _runs.Undo(one.Id, "you").Problem);
        job.Stop("me");
        gate.Set();
        await job.Completion;
        // A stop is nothing wrong; nothing is half done, and it goes on where it was.
        var stopped = _runs.Find(one.Id)!;
        Assert.Equal((RunState.Applying, null), (stopped.State, stopped.Problem));
        Assert.Equal(_runs.Counts(one).GetValueOrDefault(StepState.Done).Number, Marks().Count(m => m == "!"));
        Assert.False(_runs.Counts(one).ContainsKey(StepState.Moving));
        await _runs.Apply(one.Id, "me").Value!.Completion;
        Assert.Equal("This mark stays.", _runs.Undo(one.Id, "me").Problem);
        Assert.Equal(RunState.Applied, _runs.Find(one.Id)!.State);
    }

    public void Dispose() => _house.Dispose();
}
