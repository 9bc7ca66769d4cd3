using ClearLexicon.Core.Fields;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>One change of one field of many documents: looked at, held by rules, set, taken back.</summary>
public sealed class BulkEditTests : IDisposable
{
    private const string Code = "vessel-call-record";

    private readonly House _house = new();
    private readonly ViewDefinition _all = new() { Type = Code };

    private async Task<Run<BulkOrder>> Look(BulkOrder order, ViewDefinition? asks = null)
    {
        var who = _house.Person(Roles.Steward);
        var looked = _house.BulkEdits.Look(asks ?? _all, order, who, new Rights([Roles.Steward]));
        Assert.Null(looked.Problem);
        if (_house.Jobs.Running(BulkEdits.Subject(Code)) is { } job)
            await job.Completion;
        Assert.Empty(_house.Failures);
        return Now(looked.Value);
    }

    private Run<BulkOrder> Now(long id) => _house.BulkEdits.Find(id)!;

    private long Number(Run<BulkOrder> edit, StepState state) => _house.BulkEdits.Counts(edit).GetValueOrDefault(state).Number;

    private static BulkOrder Set(string field, string text, string reason = "", bool moves = false) =>
        new(new BulkChange(field, BulkAct.Set, text), reason, moves);

    [Fact]
    public async Task What_a_look_shows_is_set_and_taken_back_but_for_what_somebody_changed_since()
    {
        var ids = await _house.FiledAsync(Code);
        var before = ids.ToDictionary(id => id, id => _house.Get(id).Record);
        var edit = await Look(Set("agent", " Tidewater Agencies "));
        Assert.Equal((RunState.Looked, ids.Count), (edit.State, (int)edit.Looked));
        var planned = _house.BulkEdits.Values(edit, StepState.Planned, 100);
        Assert.Equal(ids.Count, planned.Count);
        Assert.All(planned, v => Assert.Equal((before[v.Document]["agent"], "Tidewater Agencies"), (v.What.Before, v.What.After)));
        Assert.All(ids, id => Assert.Equal(before[id], _house.Get(id).Record));

        // One is changed between the look and the change, one after it.
        Assert.Null(_house.Filed.Edit(ids[0], "agent", "Early Bird", "", "me").Problem);
        await _house.BulkEdits.Start(edit.Id, "me").Ended();
        Assert.Equal((ids.Count - 1, 1), ((int)Number(edit, StepState.Done), (int)Number(edit, StepState.Skipped)));
        Assert.Equal("Early Bird", _house.Get(ids[0]).Record["agent"]);
        Assert.All(ids.Skip(1), id => Assert.Equal("Tidewater Agencies", _house.Get(id).Record["agent"]));
        // What follows from values follows: the index finds it, the history tells it.
        var asked = _house.SearchRequests.For(_all with { Ask = "Agent is \"Tidewater Agencies\"" }, new Rights([Roles.Steward]));
        Assert.Equal(ids.Count - 1, _house.Database.Read(c => RepositorySearch.Count(c, asked.Query)).Number);
        Assert.Contains(_house.Filed.Changes(ids[1]), h => h.How == $"bulk edit {edit.Id}" && h.Before == before[ids[1]]["agent"]);
        Assert.Null(_house.Filed.Edit(ids[1], "agent", "Late Bird", "", "me").Problem);
        await _house.BulkEdits.StartUndo(edit.Id, "me").Ended();
        Assert.Equal((RunState.Undone, 1L), (Now(edit.Id).State, Number(edit, StepState.Stays)));
        Assert.Equal("Late Bird", _house.Get(ids[1]).Record["agent"]);
        Assert.All(ids.Skip(2), id => Assert.Equal(before[id], _house.Get(id).Record));
        Assert.Contains("can no longer be done", _house.BulkEdits.StartUndo(edit.Id, "me").Problem);
    }

    [Fact]
    public async Task Rules_hold_what_breaks_them_also_when_only_the_change_itself_makes_two_equal()
    {
        var ids = await _house.FiledAsync(Code);
        // A must: sailed before arrived.
        var edit = await Look(Set("sailed", "1999-01-01"));
        Assert.Equal((0L, (long)ids.Count), (Number(edit, StepState.Planned), Number(edit, StepState.Held)));
        Assert.All(_house.BulkEdits.Values(edit, StepState.Held, 100), v => Assert.NotEmpty(v.Message));
        // What the field cannot hold.
        Assert.Equal(ids.Count, Number(await Look(Set("arrived", "someday")), StepState.Held));

        // Each alone would be the only one with this number; the second is not any more when its turn comes.
        edit = await Look(Set("call-number", "VC-2023-90001"));
        Assert.Equal(ids.Count, Number(edit, StepState.Planned));
        await _house.BulkEdits.Start(edit.Id, "me").Ended();
        Assert.Equal((1L, ids.Count - 1L), (Number(edit, StepState.Done), Number(edit, StepState.Skipped)));
        Assert.Single(ids, id => _house.Get(id).Record["call-number"] == "VC-2023-90001");
        await _house.BulkEdits.StartUndo(edit.Id, "me").Ended();
        Assert.Equal(ids.Count, ids.Select(id => _house.Get(id).Record["call-number"]).Distinct().Count());
    }

    [Fact]
    public async Task Documents_move_where_they_belong_and_back_and_a_kill_in_between_loses_and_doubles_nothing()
    {
        var ids = await _house.FiledAsync(Code);
        var paths = ids.ToDictionary(id => id, id => $"{_house.Get(id).Folder}/{_house.Get(id).Name}");
        var edit = await Look(new BulkOrder(new BulkChange("vessel", BulkAct.Replace, "e", "ee"), "renamed in the register", Moves: true));
        var would = Number(edit, StepState.Planned);
        Assert.True(would > 2);
        // It is stopped after its first chunk, or later.
        var job = _house.BulkEdits.Start(edit.Id, "me").Value!;
        job.Stop("me");
        await job.Completion;
        await _house.BulkEdits.Start(edit.Id, "me").Ended();
        Assert.Equal(would, Number(edit, StepState.Done));
        foreach (var value in _house.BulkEdits.Values(edit, StepState.Done, 100))
        {
            var now = _house.Get(value.Document);
            Assert.Equal(value.ToPath, $"{now.Folder}/{now.Name}");
            Assert.True(File.Exists(_house.Folder.InRepository(now.Folder!, now.Name!)));
            Assert.Single(_house.Filed.Changes(value.Document), h => h.How.StartsWith("bulk edit", StringComparison.Ordinal));
        }
        await _house.BulkEdits.StartUndo(edit.Id, "me").Ended();
        Assert.All(ids, id => Assert.Equal(paths[id], $"{_house.Get(id).Folder}/{_house.Get(id).Name}"));
        Assert.All(ids, id => Assert.True(File.Exists(_house.Folder.InRepository(_house.Get(id).Folder!, _house.Get(id).Name!))));
    }

    [Theory]
    [InlineData(BulkAct.Add, "Timber", "", "Grain; timber", "Grain; timber")]
    [InlineData(BulkAct.Add, "Salt", "", "Grain", "Grain; Salt")]
    [InlineData(BulkAct.Remove, "grain", "", "Grain; Timber", "Timber")]
    [InlineData(BulkAct.Replace, "ACME", "Tern", "Acme and acme", "Tern and Tern")]
    [InlineData(BulkAct.Clear, "", "", "x", "")]
    [InlineData(BulkAct.Set, " y ", "", "x", "y")]
    public void Each_act_does_what_it_says(BulkAct act, string text, string with, string before, string after) =>
        Assert.Equal(after, new BulkChange("f", act, text, with).Of(before));

    public void Dispose() => _house.Dispose();
}
