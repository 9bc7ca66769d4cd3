using System.Diagnostics;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Long work: kept, taken up, stopped, in chunks between which others write.</summary>
public sealed class WorkTests : IDisposable
{
    private readonly House _house = new();

    private static readonly Convention Numbered = new(
        [Piece.Of("vessel")],
        [new Piece(PieceKind.Counter) { Digits = 6, Scope = CounterScope.Everywhere }, Piece.Literal(" "), Piece.Of("number")]
    );

    private void Slips(Convention? convention = null)
    {
        Assert.Null(_house.Vocabularies.Create("Vessels", "Corvina\nSkua", "me", Growth.Freely).Problem);
        Assert.Null(_house.Drafts.Create("Slip", "me").Problem);
        Assert.Null(
            _house
                .Drafts.Change(
                    "slip",
                    "all",
                    "me",
                    t =>
                        t with
                        {
                            Fields =
                            [
                                new TextField("number", "Number") { Required = true },
                                new TermField("vessel", "Vessel") { Vocabulary = "vessels" },
                            ],
                            Rules = [new Rule("r1", "unique", Level.Must, new Dictionary<string, string> { ["fields"] = "number" })],
                            Convention = convention ?? Numbered,
                        }
                )
                .Problem
        );
        Assert.Null(_house.Drafts.Publish("slip", "me").Problem);
    }

    private async Task<long> Inventory(int rows)
    {
        var csv = Path.Combine(_house.Folder.Root, "list.csv");
        File.WriteAllLines(
            csv,
            Enumerable.Range(1, rows).Select(n => $"Q:/old/{n}.tif;S-{n};{(n % 2 == 0 ? "Corvina" : "Skua")}").Prepend("Path;Ref;Ship")
        );
        var id = (await _house.Migrations.ImportAsync(new BroughtFile("list.csv", () => File.OpenRead(csv)), "me")).Value;
        if (_house.Jobs.Running(Migrations.Subject(id)) is { } profile)
            await profile.Completion;
        Assert.Null(
            _house
                .Migrations.SetPlan(
                    id,
                    new MigrationPlan("slip", [new CrosswalkLine("Ref", "number", []), new CrosswalkLine("Ship", "vessel", [])], []),
                    "me"
                )
                .Problem
        );
        return id;
    }

    private string? FileOne(string number)
    {
        var source = Path.Combine("brought", $"{Guid.NewGuid():N}.txt");
        File.WriteAllText(_house.Folder.Absolute(source), number);
        var id = _house.Database.Write(c =>
            DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "a.txt",
                    SourceFile = source,
                    TypeCode = "slip",
                    Record = new Dictionary<string, string> { ["number"] = number, ["vessel"] = "Skua" },
                },
                []
            )
        );
        return _house.Filer.File(id, "me").Value;
    }

    private static Job Blocked(House house, string code, TaskCompletionSource<bool> gate)
    {
        house.Jobs.Add(new JobKind(code, code, "design", (_, cancel) => gate.Task.WaitAsync(cancel)));
        return house.Jobs.Start(code, "thing 1", "/", 1, "me").Value!;
    }

    [Fact]
    public async Task One_job_runs_on_a_subject_and_the_same_one_is_joined()
    {
        var gate = new TaskCompletionSource<bool>();
        var job = Blocked(_house, "slow", gate);
        Assert.Same(job, _house.Jobs.Start("slow", "thing 1", "/", 2, "you").Value);
        _house.Jobs.Add(JobKind.Of("other", "Other", "design", (_, _) => { }));
        Assert.Contains("“slow” is running", _house.Jobs.Start("other", "thing 1", "/", 1, "you").Problem);
        await _house.Jobs.Start("other", "thing 2", "/", 1, "you").Ended();
        // Also for another process on the same database, which the index alone can tell.
        using var second = new Database(_house.Folder.DatabaseFile);
        var jobs = new Jobs(second, _house.Clock);
        jobs.Add(JobKind.Of("slow", "slow", "design", (_, _) => { }));
        Assert.Contains("is running", jobs.Start("slow", "thing 1", "/", 1, "they").Problem);
        gate.SetResult(true);
        await job.Completion;
        await _house.Jobs.Start("other", "thing 1", "/", 1, "you").Ended();
    }

    [Fact]
    public async Task What_a_shutdown_let_go_is_taken_up_with_its_arguments_but_not_for_ever()
    {
        var job = Blocked(_house, "slow", new TaskCompletionSource<bool>());
        await _house.Jobs.DrainAsync(TimeSpan.FromSeconds(5));
        Assert.True(job.Ended);
        Assert.NotNull(_house.Jobs.Start("slow", "thing 2", "/", 1, "me").Problem);
        Assert.Equal(JobState.Running, _house.Database.Read(c => JobStore.Find(c, job.Id))!.State);

        var taken = 0;
        for (var start = 0; start < 5; start++)
        {
            // Each time the process ends before the job gets anywhere.
            var jobs = new Jobs(_house.Database, _house.Clock);
            jobs.Add(
                new JobKind(
                    "slow",
                    "slow",
                    "design",
                    (j, cancel) =>
                    {
                        taken += j.Given<int>();
                        return Task.Delay(Timeout.Infinite, cancel);
                    }
                )
            );
            jobs.ResumeAll();
            await jobs.DrainAsync(TimeSpan.FromSeconds(5));
        }
        Assert.Equal(3, taken);
        var ended = _house.Database.Read(c => JobStore.Find(c, job.Id))!;
        Assert.Equal(JobState.Failed, ended.State);
        Assert.Contains("got no further", ended.Problem);
    }

    [Fact]
    public async Task A_stop_stands_in_the_ledger_with_its_name()
    {
        var job = Blocked(_house, "slow", new TaskCompletionSource<bool>());
        job.Stop("Tobias Finch");
        await job.Completion;
        var line = _house.Database.Read(c => LedgerStore.Newest(c, 1))[0];
        Assert.Equal(
            ("Tobias Finch", "stopped: slow", new LedgerSubject(SubjectKind.Job, "thing 1")),
            (line.Who, line.Action, line.Subject)
        );
    }

    /// <summary>Filing between the chunks of a wave takes its number, its place and its combination away; the wave sees it.</summary>
    [Fact]
    public async Task A_wave_and_filing_beside_it_never_share_a_number_a_place_or_a_combination()
    {
        Slips();
        var id = await Inventory(3_000);
        var filed = new List<string?>();
        _house.Waves.Checkpoint = () =>
        {
            if (filed.Count < 4)
                filed.Add(FileOne(filed.Count == 0 ? "S-3000" : $"Desk {filed.Count}"));
        };
        await _house.Waves.Start(id, null, "me").Ended();
        Assert.Empty(_house.Failures);
        Assert.Equal(4, filed.Count);
        var wave = _house.Waves.Of(id)[0];
        Assert.Equal((2_999L, 1L), (wave.Tagged, wave.Left));
        Assert.Contains("000", Assert.Single(_house.Migrations.Left(id, 10)).Reasons[0]);
        var numbers = _house.Database.Read(c =>
            c.Query("SELECT substr(name, 1, 6) AS name FROM documents WHERE state = 'filed'", r => int.Parse(r.Text("name")))
        );
        Assert.Equal(3_003, numbers.Count);
        Assert.Equal(numbers.Count, numbers.Distinct().Count());
        Assert.True(
            _house.Database.Read(c => CounterStore.Last(c, c.Query("SELECT key FROM counters", r => r.Text("key")).Single()))
                >= numbers.Max()
        );
    }

    [Fact]
    public async Task A_wave_that_ended_with_the_process_goes_on_after_the_start_and_tags_each_row_once()
    {
        Slips();
        var id = await Inventory(4_000);
        var chunks = 0;
        _house.Waves.Checkpoint = () =>
        {
            if (++chunks == 3)
                _ = _house.Jobs.DrainAsync(TimeSpan.Zero);
        };
        await _house.Waves.Start(id, null, "me").Ended();
        var (before, state) = _house.Waves.Of(id)[0] is var w ? (w.Tagged, w.Run.State) : default;
        Assert.InRange(before, 1, 3_900);
        Assert.Equal(RunState.Applying, state);

        using var again = _house.Restarted();
        again.Jobs.ResumeAll();
        await again.Jobs.Running(Migrations.Subject(id))!.Completion;
        Assert.Empty(again.Failures);
        Assert.Equal(
            (RunState.Applied, 4_000L, 0L),
            again.Waves.Of(id)[0] is var done ? (done.Run.State, done.Tagged, done.Left) : default
        );
        Assert.Equal(4_000, again.Database.Read(c => c.Scalar<long>("SELECT count(DISTINCT legacy_path) FROM documents")));
        Assert.Equal(4_000, again.Database.Read(c => c.Scalar<long>("SELECT count(*) FROM document_text")));
        Assert.Equal(
            4_000,
            again.Database.Read(c => CounterStore.Last(c, c.Query("SELECT key FROM counters", r => r.Text("key")).Single()))
        );
    }

    /// <summary>Numbers that the page shows before and after: what the dry run calls ready is what the wave tags.</summary>
    [Fact]
    public async Task What_the_dry_run_calls_ready_is_what_the_wave_tags_and_nothing_is_offered_again()
    {
        Slips(new Convention([Piece.Of("vessel")], [Piece.Of("number")]));
        var csv = Path.Combine(_house.Folder.Root, "twice.csv");
        File.WriteAllLines(csv, Enumerable.Range(1, 50).Select(n => $"Q:/old/{n % 40}.tif;S-{n};Skua").Prepend("Path;Ref;Ship"));
        var id = (await _house.Migrations.ImportAsync(new BroughtFile("twice.csv", () => File.OpenRead(csv)), "me")).Value;
        Assert.Null(
            _house
                .Migrations.SetPlan(
                    id,
                    new MigrationPlan("slip", [new CrosswalkLine("Ref", "number", []), new CrosswalkLine("Ship", "vessel", [])], []),
                    "me"
                )
                .Problem
        );
        if (_house.Jobs.Running(Migrations.Subject(id)) is { } profile)
            await profile.Completion;
        await _house.Migrations.StartDryRun(id, "me").Ended();
        var run = _house.Migrations.Find(id)!.DryRun!;
        Assert.Equal((40, 10), (run.Ready, run.Held));
        Assert.Contains(run.Problems, p => p.Code == "named-before" && p.Count == 10);
        await _house.Waves.Start(id, null, "me").Ended();
        Assert.Equal((40L, 10L), _house.Waves.Of(id)[0] is var w ? (w.Tagged, w.Left) : default);
        Assert.Null(_house.Migrations.Find(id)!.DryRun);
        await _house.Migrations.StartDryRun(id, "me").Ended();
        // Every row names a file that is tagged now.
        Assert.Equal((0, 0, 50), _house.Migrations.Find(id)!.DryRun is { } second ? (second.Ready, second.Held, second.Tagged) : default);
    }

    /// <summary>Many documents follow a renamed term in the background, are left alone when edited meanwhile, and return.</summary>
    [Fact]
    public async Task Many_documents_follow_a_vocabulary_in_chunks_and_return()
    {
        Slips();
        await _house.Waves.Start(await Inventory(2_400), null, "me").Ended();
        long With(string label) => _house.Vocabularies.Counts("vessels").GetValueOrDefault(label);
        var skua = _house.Designs.Vocabularies["vessels"].Find("Skua")!;
        Assert.Null(_house.Vocabularies.Apply("vessels", i => VocabularyEditing.Put(i, skua with { Label = "Skua II" }), "me").Problem);
        await Followed();
        Assert.Equal((0, 1_200), (With("Skua"), With("Skua II")));
        var one = _house.Database.Read(c => RepositorySearch.Find(c, new RepositoryQuery().Holding("vessel", "Skua II"), 1).Documents)[0];
        Assert.True(_house.Filed.Edit(one.Id, "vessel", "Corvina", "", "you").Ok);
        Assert.NotNull(_house.Vocabularies.Undo("vessels", "me"));
        await Followed();
        Assert.Equal((1_199, 0, 1_201), (With("Skua"), With("Skua II"), With("Corvina")));
        Assert.Empty(_house.Failures);

        async Task Followed()
        {
            if (_house.Jobs.Running(Following.Subject("vessels")) is { } job)
                await job.Completion;
        }
    }

    /// <summary>
    /// Others wait for one chunk of a wave, not for the wave: the longest of many waits beside it, as a multiple of one chunk's aim. A
    /// write alone is printed beside it.
    /// </summary>
    [Fact]
    public async Task Others_wait_for_a_chunk_and_not_for_the_wave()
    {
        Slips(new Convention([Piece.Of("vessel")], [Piece.Of("number")]));
        var id = await Inventory(60_000);
        var alone = Enumerable.Range(0, 50).Select(_ => Timed()).Order().ElementAt(25);
        var job = _house.Waves.Start(id, null, "me").Value!;
        while (job is { Done: 0, Ended: false })
            await Task.Delay(1);
        var waits = new List<TimeSpan>();
        while (!job.Ended)
        {
            waits.Add(Timed());
            await Task.Delay(3);
        }
        await job.Completion;
        Assert.Empty(_house.Failures);
        var sorted = waits.Order().ToList();
        TestContext.Current.SendDiagnosticMessage(
            $"a write alone {alone.TotalMilliseconds:0.0} ms; beside a wave of 60,000 rows: {waits.Count} writes, median "
                + $"{sorted[sorted.Count / 2].TotalMilliseconds:0} ms, 99 % {sorted[sorted.Count * 99 / 100].TotalMilliseconds:0} ms, "
                + $"longest {sorted[^1].TotalMilliseconds:0} ms = {sorted[^1] / alone:0} ×"
        );
        Assert.True(waits.Count > 20, $"Only {waits.Count} writes came through.");
        // No wall-clock limit: against the whole wave, which others would wait for otherwise, and against a chunk.
        Assert.True(sorted[sorted.Count * 9 / 10] < ChunkSize.Fair * 8, $"{sorted[sorted.Count * 9 / 10].TotalMilliseconds:0} ms");

        TimeSpan Timed()
        {
            var began = Stopwatch.GetTimestamp();
            _house.Database.Write(c => SettingStore.Set(c, "note", "x"));
            return Stopwatch.GetElapsedTime(began);
        }
    }

    public void Dispose() => _house.Dispose();
}
