using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Readers;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Another type for documents on the desk and filed.</summary>
public sealed class RetypingTests : IDisposable
{
    private const string Code = "vessel-call-record";

    private readonly House _house = new();
    private static readonly Rights All = new([Roles.Steward]);

    // A type that shares some fields with calls, names one nearly alike, demands a berth that is a whole number in one of its fields, and
    // counts for itself.
    private string TugCall()
    {
        var code = _house.Drafts.Create("Tug call", "me").Value!;
        var made = _house.Drafts.Change(
            code,
            "made",
            "me",
            t =>
                t with
                {
                    Fields =
                    [
                        new TextField("call-number", "Call number") { Required = true },
                        new TextField("vessel-name", "Vessel name"),
                        new WholeNumberField("berth", "Berth"),
                        new DateField("arrived", "Arrived"),
                        new TextField("tug", "Tug"),
                    ],
                    Rules = [],
                    Convention = t.Convention with
                    {
                        Folder = [Piece.Literal("Tugs")],
                        Name = [Piece.Literal("T"), new Piece(PieceKind.Counter), Piece.Literal(" "), Piece.Of("call-number")],
                    },
                }
        );
        Assert.Null(made.Problem);
        Assert.Null(_house.Publishing.Publish(code, 0, ForExisting.Keep, "me").Problem);
        return code;
    }

    private async Task<long> Looked(string to, long? document, ViewDefinition? asks = null, bool rereads = false, string reason = "")
    {
        var begun = _house.Retyping.Begin(to, asks, document, rereads, reason, _house.Person(Roles.Steward), All);
        Assert.Null(begun.Problem);
        if (_house.Jobs.Running(Retyping.Subject) is { } job)
            await job.Completion;
        return begun.Value;
    }

    private string File(long id) => Path.Combine(_house.Folder.Repository, _house.Get(id).Folder!, _house.Get(id).Name!);

    [Fact]
    public async Task A_filed_document_keeps_what_fits_says_what_is_lost_moves_and_comes_back_as_it_was()
    {
        var ids = await _house.FiledAsync(Code);
        var tug = TugCall();
        var before = _house.Get(ids[0]);
        var (path, bytes) = (File(ids[0]), DataFolder.HashOf(File(ids[0])));
        var run = await Looked(tug, ids[0]);
        var look = _house.Retyping.Of(_house.Retyping.Find(run)!)!;
        string Of(string field) => look.Values.Single(v => v.Field.Key == field).Text;
        Assert.Equal(
            (before.Record["call-number"], before.Record["vessel"], "", before.Record["arrived"]),
            (Of("call-number"), Of("vessel-name"), Of("berth"), Of("arrived"))
        );
        Assert.Equal("Vessel", look.Values.Single(v => v.Field.Key == "vessel-name").From);
        Assert.Equal(before.Evidence["vessel"].Box, look.Changed.Evidence["vessel-name"].Box);
        Assert.Contains(new LostValue("Berth", before.Record["berth"]), look.Lost);
        Assert.Contains(look.Lost, l => l.Label == "Agent");
        Assert.DoesNotContain(look.Lost, l => l.Label is "Vessel" or "Call number");
        // Looking has changed nothing.
        Assert.Equal(before.TypeCode, _house.Get(ids[0]).TypeCode);

        await _house.Retyping.Start(run, "me").Ended();
        var now = _house.Get(ids[0]);
        Assert.Equal((tug, "Tugs", before.Record["vessel"]), (now.TypeCode, now.Folder, now.Record["vessel-name"]));
        Assert.StartsWith("T1 ", now.Name, StringComparison.Ordinal);
        Assert.False(System.IO.File.Exists(path));
        Assert.Equal(bytes, DataFolder.HashOf(File(ids[0])));
        List<long> Found(string type, string field, string value) =>
            _house.Database.Read(c =>
                RepositorySearch.Find(c, new RepositoryQuery { TypeCode = type }.Holding(field, value), 9).Documents.ConvertAll(d => d.Id)
            );
        Assert.Equal([ids[0]], Found(tug, "vessel-name", before.Record["vessel"]));
        Assert.DoesNotContain(ids[0], Found(Code, "call-number", before.Record["call-number"]));
        Assert.Contains("of this type already", _house.Retyping.Begin(tug, null, ids[0], false, "", "me", All).Problem);

        await _house.Retyping.StartUndo(run, "me").Ended();
        now = _house.Get(ids[0]);
        Assert.Equal(before.Record.OrderBy(r => r.Key), now.Record.OrderBy(r => r.Key));
        Assert.Equal(
            (Code, before.Folder, before.Name, before.Naming, before.ReaderKey),
            (now.TypeCode, now.Folder, now.Name, now.Naming, now.ReaderKey)
        );
        Assert.Equal(bytes, DataFolder.HashOf(path));
        Assert.Equal([ids[0]], Found(Code, "call-number", before.Record["call-number"]));
        Assert.Empty(Found(tug, "vessel-name", before.Record["vessel"]));
    }

    /// <summary>Between its type and its place somebody edits it: the edit stays, and it goes back to where it stood.</summary>
    [Fact]
    public async Task What_is_edited_while_it_is_taken_back_is_not_written_over()
    {
        var id = (await _house.FiledAsync(Code))[0];
        var (before, tug) = (File(id), TugCall());
        var run = await Looked(tug, id);
        await _house.Retyping.Start(run, "me").Ended();
        _house.Retyping.Checkpoint = at =>
        {
            if (at == "returned")
                Assert.Null(_house.Filed.Edit(id, "agent", "Heron", "", "bob").Problem);
        };
        await _house.Retyping.StartUndo(run, "me").Ended();
        Assert.Equal((Code, "Heron", before), (_house.Get(id).TypeCode, _house.Get(id).Record["agent"], File(id)));
        Assert.Equal(1, _house.Retyping.Counts(_house.Retyping.Find(run)!)[StepState.Undone].Number);
    }

    [Theory]
    [InlineData("changed")]
    [InlineData("returned")]
    public async Task Many_at_once_go_on_after_a_stop_and_what_somebody_has_worked_on_is_not_taken_back(string step)
    {
        var ids = await _house.FiledAsync(Code);
        var tug = TugCall();
        var before = ids.ToDictionary(id => id, id => (_house.Get(id).Folder, _house.Get(id).Name));
        var run = await Looked(tug, null, new ViewDefinition { Type = Code });
        Assert.Equal(ids.Count, _house.Retyping.Counts(_house.Retyping.Find(run)!)[StepState.Planned].Number);
        var stops = 0;
        void Stop(string at)
        {
            if (at == step && ++stops == 2)
                throw new OperationCanceledException("killed");
        }
        _house.Retyping.Checkpoint = Stop;
        await _house.Retyping.Start(run, "me").Value!.Completion;
        if (step == "returned")
            await _house.Retyping.StartUndo(run, "me").Value!.Completion;
        var again = _house.Restarted();
        again.Moves.Recover();
        again.Jobs.ResumeAll();
        await (again.Jobs.Running(Retyping.Subject)?.Completion ?? Task.CompletedTask);
        // Whatever the stop left, the rest follows.
        var state = again.Retyping.Find(run)!.State;
        if (state is RunState.Applying)
            await again.Retyping.Start(run, "me").Ended();
        else if (state is RunState.Undoing)
            await again.Retyping.StartUndo(run, "me").Ended();
        if (step == "returned")
        {
            Assert.All(ids, id => Assert.Equal(before[id], (again.Get(id).Folder, again.Get(id).Name)));
            Assert.All(ids, id => Assert.Equal(Code, again.Get(id).TypeCode));
        }
        else
        {
            Assert.All(ids, id => Assert.Equal((tug, "Tugs"), (again.Get(id).TypeCode, again.Get(id).Folder)));
            Assert.Null(again.Filed.Edit(ids[1], "tug", "Heron", "", "bob").Problem);
            await again.Retyping.StartUndo(run, "me").Ended();
            Assert.Equal(tug, again.Get(ids[1]).TypeCode);
            Assert.All(ids.Where(id => id != ids[1]), id => Assert.Equal(before[id], (again.Get(id).Folder, again.Get(id).Name)));
        }
        Assert.Equal(
            ids.Count,
            Directory
                .GetFiles(_house.Folder.Repository, "*.pdf", SearchOption.AllDirectories)
                .Count(f => ids.Any(id => again.Get(id).Name == Path.GetFileName(f)))
        );
        again.Dispose();
    }

    [Fact]
    public async Task What_the_new_type_demands_holds_a_filed_document_and_on_the_desk_it_is_read_again()
    {
        var ids = await _house.FiledAsync(Code);
        var run = await Looked("harbour-dues-statement", ids[0], rereads: true, reason: "it is one");
        Assert.Equal(1, _house.Retyping.Counts(_house.Retyping.Find(run)!)[StepState.Held].Number);
        await _house.Retyping.Start(run, "me").Ended();
        Assert.Equal(Code, _house.Get(ids[0]).TypeCode);
        Assert.Contains("published", _house.Retyping.Begin("nothing", null, ids[0], false, "", "me", All).Problem);

        // On the desk nothing is held: a call that somebody took for a dues statement is read as a call again.
        Assert.Null(_house.Withdrawals.Withdraw(ids[0], false, "wrong", "me").Problem);
        var own = _house.Get(ids[0]);
        Assert.Null(_house.Desk.SetType(ids[0], "harbour-dues-statement", "me").Problem);
        _house.Database.Write(c =>
            DocumentStore.Save(c, _house.Get(ids[0]) with { Record = new Dictionary<string, string> { ["payer"] = "Somebody" } })
        );
        run = await Looked(Code, ids[0], rereads: true);
        var look = _house.Retyping.Of(_house.Retyping.Find(run)!)!;
        Assert.Equal([new LostValue("Payer", "Somebody")], look.Lost);
        Assert.Equal("read again", look.Values.Single(v => v.Field.Key == "vessel").From);
        await _house.Retyping.Start(run, "me").Ended();
        Assert.Equal(
            (own.Record["vessel"], own.ReaderKey, false),
            (_house.Get(ids[0]).Record["vessel"], _house.Get(ids[0]).ReaderKey, _house.Get(ids[0]).Filed)
        );
        await _house.Retyping.StartUndo(run, "me").Ended();
        Assert.Equal("Somebody", _house.Get(ids[0]).Record["payer"]);
    }

    public void Dispose() => _house.Dispose();
}
