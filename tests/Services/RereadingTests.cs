using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Services.Readers;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Documents read again with a changed reader.</summary>
public sealed class RereadingTests : IDisposable
{
    private readonly House _house = new();
    private readonly IReadOnlyList<HarbourPage> _pages = HarbourDocuments.Samples(PageDesigns.CallOffice, 8, 0);
    private static readonly Reader Whole = HarbourReaders.Teach(PageDesigns.CallOffice);

    public RereadingTests() => Assert.Null(_house.Files.Import(HarbourSeed.Design with { Readers = [] }, "test").Problem);

    private async Task<List<long>> BringAsync(int count)
    {
        foreach (var page in _pages.Take(count))
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
        return _house.Desk.Queue("me");
    }

    private StoredDocument Get(long id) => _house.Database.Read(c => DocumentStore.Find(c, id))!;

    private IReadOnlyDictionary<string, string> TruthOf(long id) => _pages.First(p => p.FileName == Get(id).SourceName).Truth;

    private void Change(Reader reader, string key)
    {
        Assert.Null(_house.Readers.Change(key, "changed", "me", r => reader with { Key = key }).Problem);
        Assert.Null(_house.Readers.Publish(key, "me").Problem);
    }

    private async Task<Run<RereadOrder>> Look(string scope, bool onlyEmpty)
    {
        await _house.Rereadings.Look(Whole.Key, scope, onlyEmpty, "me").Ended();
        return _house.Rereadings.Runs(Whole.Key)[0];
    }

    [Fact]
    public async Task What_waits_is_read_again_as_one_act_that_can_be_taken_back_and_what_a_person_set_stays()
    {
        // The master is read where the agent stands, the berth not at all.
        var lines = Whole.Crosswalk.Where(l => l.Field is not ("berth" or "master")).Append(new CrosswalkLine("agent", "master", []));
        _house.Teach(Whole with { Crosswalk = [.. lines] });
        var ids = await BringAsync(5);
        Assert.All(ids, id => Assert.Equal(TruthOf(id)["agent"], Get(id).Record["master"]));
        Assert.Null(_house.Desk.SetValue(ids[0], "master", "Somebody Else", null, "me").Problem);
        Change(Whole, Whole.Key);

        // Only what is empty: berths. Nothing has changed by looking.
        var run = await Look("desk", onlyEmpty: true);
        Assert.Equal((RunState.Looked, 5L), (run.State, run.Looked));
        Assert.All(_house.Rereadings.Values(run, StepState.Planned, 99), v => Assert.Equal(("berth", ""), (v.What.Field, v.What.Before)));
        Assert.All(ids, id => Assert.False(Get(id).Record.ContainsKey("berth")));

        // All: the master of the one that a person has set stays.
        run = await Look("both", onlyEmpty: false);
        Assert.Equal(9, _house.Rereadings.Values(run, StepState.Planned, 99).Count);
        Assert.NotNull(_house.Rereadings.StartUndo(run.Id, "me").Problem);
        // Changed between look and setting: left as it is, and said.
        Assert.Null(_house.Desk.SetValue(ids[1], "berth", "South Quay 1", null, "me").Problem);
        await _house.Rereadings.Start(run.Id, "me").Ended();
        Assert.Equal(
            (8L, 1L),
            (_house.Rereadings.Counts(run)[StepState.Done].Number, _house.Rereadings.Counts(run)[StepState.Skipped].Number)
        );
        Assert.Equal("Somebody Else", Get(ids[0]).Record["master"]);
        foreach (var id in ids.Skip(2))
        {
            Assert.Equal(
                (TruthOf(id)["berth"], TruthOf(id)["master"], 2),
                (Get(id).Record["berth"], Get(id).Record["master"], Get(id).ReaderVersion)
            );
            Assert.InRange(Get(id).Evidence["berth"].Box.W, 0.01, 0.5);
        }

        // Taken back as a whole, but for what somebody has changed since.
        Assert.Null(_house.Desk.SetValue(ids[2], "master", "A Third", null, "me").Problem);
        await _house.Rereadings.StartUndo(run.Id, "me").Ended();
        Assert.Equal(
            (7L, 1L),
            (_house.Rereadings.Counts(run)[StepState.Undone].Number, _house.Rereadings.Counts(run)[StepState.Stays].Number)
        );
        Assert.Equal("A Third", Get(ids[2]).Record["master"]);
        Assert.Equal(TruthOf(ids[3])["agent"], Get(ids[3]).Record["master"]);
        Assert.False(Get(ids[3]).Record.ContainsKey("berth"));
        Assert.Equal(RunState.Undone, _house.Rereadings.Runs(Whole.Key)[0].State);
        Assert.NotNull(_house.Rereadings.Start(run.Id, "me").Problem);
    }

    [Fact]
    public async Task Only_what_a_question_finds_is_read_again_when_it_is_asked_for()
    {
        // When it sailed is read nowhere yet; it may stay empty, so that all can be filed.
        _house.Teach(Whole with { Crosswalk = [.. Whole.Crosswalk.Where(l => l.Field != "sailed")] });
        var ids = await BringAsync(3);
        foreach (var id in ids)
            Assert.Null(_house.Filer.File(id, "me").Problem);
        Change(Whole, Whole.Key);
        _house.Person(Roles.Steward);
        var steward = new Rights([Roles.Steward]);
        var number = Get(ids[1]).Record["call-number"];
        var asks = new ViewDefinition { Type = Whole.TypeCode, Ask = $"Call number is {number}" };
        await _house.Rereadings.Look(Whole.Key, "desk", true, Roles.Steward, asks, steward).Ended();
        var run = _house.Rereadings.Runs(Whole.Key)[0];
        Assert.Equal(("filed", 1L, RunState.Looked), (run.Order.Scope, run.Looked, run.State));
        Assert.Equal([ids[1]], _house.Rereadings.Values(run, StepState.Planned, 99).Select(v => v.Document).Distinct());
        await _house.Rereadings.Start(run.Id, Roles.Steward).Ended();
        Assert.Equal(TruthOf(ids[1])["sailed"], Get(ids[1]).Record["sailed"]);
        Assert.DoesNotContain("sailed", Get(ids[0]).Record.Keys);
        Assert.NotNull(
            _house.Rereadings.Look(Whole.Key, "desk", true, Roles.Steward, asks with { Ask = "Weather is bad" }, steward).Problem
        );
        Assert.Contains(
            "another document type",
            _house
                .Rereadings.Look(Whole.Key, "desk", true, Roles.Steward, new ViewDefinition { Type = "harbour-dues-statement" }, steward)
                .Problem
        );
    }

    [Fact]
    public async Task What_is_filed_is_read_again_within_its_rules_also_when_only_its_file_is_left()
    {
        _house.Teach(Whole with { Crosswalk = [.. Whole.Crosswalk.Where(l => l.Field != "agent")] });
        var ids = (await BringAsync(6)).Where(id => _house.Filer.File(id, "me").Ok).ToList();
        Assert.True(ids.Count >= 2, "too few could be filed");
        // As a migration leaves it: a file, no pages.
        _house.Database.Write(c => c.Execute("DELETE FROM pages WHERE document_id = $id", ("$id", ids[0])));
        // A reader that also takes the agent for the gross tonnage: no number, which a rule forbids.
        var bad = Whole with
        {
            Crosswalk = [.. Whole.Crosswalk.Where(l => l.Field != "gross-tonnage"), new CrosswalkLine("agent", "gross-tonnage", [])],
        };
        Change(bad, Whole.Key);
        var run = await Look("filed", onlyEmpty: false);
        await _house.Rereadings.Start(run.Id, "me").Ended();
        Assert.All(ids, id => Assert.Equal(TruthOf(id)["agent"], Get(id).Record["agent"]));
        Assert.All(ids, id => Assert.Equal(TruthOf(id)["gross-tonnage"], Get(id).Record["gross-tonnage"]));
        Assert.All(_house.Rereadings.Values(run, StepState.Skipped, 99), v => Assert.Equal("gross-tonnage", v.What.Field));
        Assert.NotEmpty(_house.Rereadings.Values(run, StepState.Skipped, 99));
        var found = _house.Database.Read(c =>
            RepositorySearch.Find(c, new RepositoryQuery { TypeCode = Whole.TypeCode }.Holding("agent", TruthOf(ids[1])["agent"]), 50)
        );
        Assert.Contains(found.Documents, d => d.Id == ids[1]);
        await _house.Rereadings.StartUndo(run.Id, "me").Ended();
        Assert.All(ids, id => Assert.False(Get(id).Record.ContainsKey("agent")));
    }

    [Fact]
    public async Task A_document_is_read_with_the_reader_that_a_person_names()
    {
        var other = HarbourReaders.Teach(PageDesigns.CallOffice) with
        {
            Key = "other",
            Name = "Other",
            Crosswalk = [new CrosswalkLine("vessel", "master", [])],
        };
        _house.Teach(Whole);
        var ids = await BringAsync(2);
        _house.Teach(other);
        Assert.NotNull(_house.Rereadings.ReadWith(ids[0], "nobody", "me").Problem);
        Assert.Null(_house.Desk.SetValue(ids[0], "berth", "South Quay 1", null, "me").Problem);
        Assert.Null(_house.Rereadings.ReadWith(ids[0], "other", "me").Problem);
        var read = Get(ids[0]);
        Assert.Equal(("other", 1, TruthOf(ids[0])["vessel"]), (read.ReaderKey, read.ReaderVersion, read.Record["master"]));
        Assert.Equal("South Quay 1", read.Record["berth"]);
        Assert.False(read.Record.ContainsKey("vessel"));
        Assert.NotNull(_house.Rereadings.Look("other", "everything", true, "me").Problem);

        // Two readers know the next page equally well: it is read with one, and a person is told of the other.
        var next = (await BringAsync(1)).Max();
        Assert.Contains("both claim page 1 (", _house.Desk.Pages(next)[0].Notice);
        Assert.NotNull(Get(next).ReaderKey);
    }

    public void Dispose() => _house.Dispose();
}
