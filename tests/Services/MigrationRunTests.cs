using ClearLexicon.Core.Migration;
using ClearLexicon.Demo;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

public sealed class MigrationRunTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    private long Filed => _house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery()).Number);

    private string Everything() =>
        string.Join(
            '\n',
            _house.Database.Read(c =>
                c.Query(
                    "SELECT (SELECT count(*) FROM documents) || ',' || (SELECT count(*) FROM unique_keys) || ',' || (SELECT count(*) "
                        + "FROM document_text) || ',' || (SELECT count(*) FROM value_history) AS counts",
                    r => r.Text("counts")
                )
            )
        );

    [Fact]
    public async Task A_wave_tags_the_ready_rows_and_undo_takes_it_back_completely()
    {
        var id = await _house.InventoryAsync(2_000);
        Assert.Equal(
            ("Windows-1252", ';', 2_000L),
            _house.Migrations.Find(id)!.Shape is var s ? (s.Encoding, s.Separator, s.Rows) : default
        );
        await _house.Migrations.StartDryRun(id, "me").Ended();
        Assert.Empty(_house.Failures);
        var run = _house.Migrations.Find(id)!.DryRun!;
        Assert.Equal(2_000, run.Ready + run.Questionable + run.Held);
        Assert.InRange(run.Ready, 1_000, 1_900);
        foreach (var code in new[] { "required", "unknown-term", "check-digit", "compare", "pattern", "unique" })
            Assert.Contains(run.Problems, p => p.Code == code);
        Assert.Equal(0, Filed);
        var before = Everything();

        await _house.Waves.Start(id, null, "me").Ended();
        Assert.Empty(_house.Failures);
        Assert.Equal(run.Ready, Filed);
        Assert.Equal(2_000 - run.Ready, _house.Migrations.Left(id, 5_000).Count);
        Assert.All(_house.Migrations.Left(id, 5_000), row => Assert.NotEmpty(row.Reasons[0]));
        Assert.True(
            _house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery().Holding("berth", "North Quay 1")).Number) > 10
        );

        // A second wave has nothing left to take but what is questionable, and takes it with a reason.
        await _house.Waves.Start(id, "checked by hand", "me").Ended();
        var waves = _house.Waves.Of(id);
        Assert.Equal(run.Ready, waves[1].Tagged);
        Assert.InRange(waves[0].Tagged, 1, run.Questionable);
        Assert.Equal(Filed, waves.Sum(w => w.Tagged));
        // One legacy file never becomes two records.
        Assert.Equal(Filed, _house.Database.Read(c => c.Scalar<long>("SELECT count(DISTINCT legacy_path) FROM documents")));

        foreach (var wave in waves)
            await _house.Waves.StartUndo(wave.Run.Id, "me").Ended();
        Assert.Equal(before, Everything());
        Assert.Contains("no longer be done", _house.Waves.StartUndo(waves[0].Run.Id, "me").Problem);
    }

    [Fact]
    public async Task A_wave_edited_since_is_not_undone_over_the_edits()
    {
        var id = await _house.InventoryAsync(200);
        await _house.Waves.Start(id, null, "me").Ended();
        var document = _house.Database.Read(c => RepositorySearch.Find(c, new RepositoryQuery(), 1).Documents)[0];
        Assert.True(_house.Filed.Edit(document.Id, "agent", "Holm Brokers", "", "you").Ok);
        Assert.Contains("edited since", _house.Waves.StartUndo(_house.Waves.Of(id)[0].Run.Id, "me").Problem);
        Assert.True(Filed > 100);
    }

    [Fact]
    public async Task A_stopped_wave_is_gone_on_with_or_taken_back_and_nothing_of_it_is_half_done()
    {
        var id = await _house.InventoryAsync(20_000);
        var before = Everything();
        async Task Stopped(int at)
        {
            var job = _house.Waves.Of(id) is [{ Run.State: RunState.Applying } wave, ..]
                ? _house.Waves.Resume(wave.Run.Id, "me").Value!
                : _house.Waves.Start(id, null, "me").Value!;
            // On this thread: one of the pool may come when the wave is over.
            SpinWait.SpinUntil(() => job.Ended || job.Done >= at);
            job.Stop("me");
            await job.Completion;
            Assert.Contains("Stopped", job.Problem);
            Assert.InRange(job.Done, at, 19_999);
            Assert.Equal(Filed, _house.Waves.Of(id)[0].Tagged);
        }
        await Stopped(3_000);
        Assert.Contains("not finished", _house.Waves.Start(id, null, "me").Problem);
        await _house.Waves.StartUndo(_house.Waves.Of(id)[0].Run.Id, "me").Ended();
        Assert.Equal(before, Everything());

        await Stopped(3_000);
        await Stopped(9_000);
        await _house.Waves.Resume(_house.Waves.Of(id)[0].Run.Id, "me").Ended();
        var wave = _house.Waves.Of(id)[0];
        Assert.Equal((RunState.Applied, Filed, 20_000L - Filed), (wave.Run.State, wave.Tagged, wave.Left));
        Assert.Equal(wave.Left, _house.Migrations.Left(id, 30_000).Count);
        Assert.Equal(Filed, _house.Database.Read(c => c.Scalar<long>("SELECT count(DISTINCT legacy_path) FROM documents")));
        Assert.Empty(_house.Failures);
    }

    [Fact]
    public async Task Desk_migration_and_the_engine_give_the_same_problems_for_the_same_record()
    {
        var id = await _house.InventoryAsync(500);
        await _house.Migrations.StartDryRun(id, "me").Ended();
        var type = _house.Designs.Published[HarbourDesign.VesselCall.Code].Type;
        foreach (var sample in _house.Migrations.Find(id)!.DryRun!.Samples)
        {
            var record = type
                .Type.Fields.Select((f, i) => (f.Key, sample.After[i]))
                .Where(p => p.Item2.Length > 0)
                .ToDictionary(p => p.Key, p => p.Item2);
            var judged = _house.Database.Read(c =>
                RecordJudge.Judge(c, type, RecordJudge.Texts(type, record), _house.Designs.Now(Core.Rules.EntryChannel.Migration, "me"))
            );
            Assert.Equal(sample.Messages.Where(m => !m.Contains("row ")).Order(), judged.All.Select(p => p.Message).Order());
        }
    }

    [Fact]
    public async Task A_plan_with_a_bad_pass_is_refused_by_its_number()
    {
        var pass = HarbourSeed.Passes[0] with { Argument = "(" };
        Assert.Contains(
            "no such inventory",
            _house.Migrations.SetPlan(99, new MigrationPlan(HarbourDesign.VesselCall.Code, [], []), "me").Problem
        );
        var id = await _house.InventoryAsync(50);
        Assert.Contains(
            "Pass 1: The pattern “(” cannot be read",
            _house.Migrations.SetPlan(id, new MigrationPlan(HarbourDesign.VesselCall.Code, [], [pass]), "me").Problem
        );
    }

    public void Dispose() => _house.Dispose();
}
