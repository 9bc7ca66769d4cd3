using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Today;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>What somebody is told to do today, by role, and what became of the desk day by day.</summary>
public sealed class TodayTests : IDisposable
{
    private readonly House _house = new();
    private readonly DateTimeOffset _now;
    private readonly TodayWork _today;

    public TodayTests()
    {
        _now = _house.Clock.GetUtcNow();
        _today = new TodayWork(_house.Database, _house.Designs, new ReaderWatch(_house.Database, _house.Clock), _house.Clock);
        Assert.Null(_house.Drafts.Create("Slip", "Maren Holt").Problem);
    }

    public void Dispose() => _house.Dispose();

    private TodaySheet For(params string[] roles) => _today.For("Maren Holt", new Rights(roles));

    // A batch of so many days ago; of its documents some were filed a day later.
    private long Batch(string name, int daysAgo, int documents, int filedNextDay = 0) =>
        _house.Database.Write(c =>
        {
            var batch = BatchStore.Add(c, name, "me", _now.AddDays(-daysAgo));
            for (var i = 0; i < documents; i++)
            {
                var id = DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = $"{name} {i}",
                        SourceFile = "x",
                        TypeCode = "slip",
                        BatchId = batch,
                        Record = new Dictionary<string, string>(),
                    },
                    []
                );
                if (i < filedNextDay)
                    DocumentStore.MarkFiled(
                        c,
                        DocumentStore.Find(c, id)! with
                        {
                            Folder = name,
                            Name = $"{i}.pdf",
                        },
                        _now.AddDays(1 - daysAgo),
                        "me"
                    );
            }
            return batch;
        });

    [Fact]
    public void A_stack_to_be_cut_waits_for_those_who_see_its_way_in()
    {
        Assert.Null(_house.WaysIn.Save(new WayIn("closed", "Closed post") { People = ["Maren Holt"] }, "me").Problem);
        var id = _house.Database.Write(c =>
        {
            var batch = BatchStore.Add(c, "Monday’s stack", "me", _now, "closed");
            BatchStore.SetState(c, batch, BatchState.Look);
            return batch;
        });
        var rights = new Rights([Roles.Indexer]);
        var waits = Assert.Single(_today.For("Maren Holt", rights).Waits, w => w.What == "Monday’s stack");
        Assert.Equal($"/Desk/Stack/{id}", waits.Address);
        Assert.DoesNotContain(_today.For("Tobias Finch", rights).Waits, w => w.What == "Monday’s stack");
    }

    [Fact]
    public void What_waits_stands_the_oldest_first_and_by_role()
    {
        var later = Batch("Later", 1, 2);
        var early = Batch("Early", 3, 1);
        Batch("Done", 5, 1, filedNextDay: 1);
        Assert.Equal(
            [
                ("Early", $"/Desk?batch={early}", "1 document to check and file"),
                ("Later", $"/Desk?batch={later}", "2 documents to check and file"),
            ],
            For(Roles.Indexer).Waits.Select(w => (w.What, w.Address, w.Next))
        );
        Assert.Equal(["Early", "Later", "Draft: Slip"], For(Roles.Steward).Waits.Select(w => w.What));
        Assert.Equal(["Nobody designs yet", "One administrator"], For(Roles.Administrator).Waits.Select(w => w.What));
        for (var i = 0; i < 30; i++)
            Batch($"Stack {i}", 0, 2);
        var many = For(Roles.Indexer).Waits;
        Assert.Equal(21, many.Count);
        Assert.Equal(("12 later batches", "24 documents to check and file"), (many[^1].What, many[^1].Next));
        Assert.Empty(For(Roles.Searcher).Waits);
        Assert.Empty(For(Roles.Searcher).Days);
        Assert.Equal(1, For(Roles.Searcher).Filed);
    }

    [Fact]
    public void What_is_parked_waits_for_those_who_complete_it_and_not_in_its_batch()
    {
        Batch("Post", 3, 4);
        var parked = new ParkedDocuments(_house.Database, _house.Clock);
        _house.Database.Write(c => PeopleStore.Add(c, "Maren Holt", "x", [Roles.Steward]));
        var ids = _house.Desk.Queue("me");
        Assert.Null(parked.Park(ids[0], "The agent is asked", "", "", "me").Problem);
        Assert.Null(parked.Park(ids[1], "The treasurer is asked", "Maren Holt", "today", "me").Problem);
        Assert.Null(parked.Park(ids[2], "A steward is asked", Roles.Steward, "", "me").Problem);
        Assert.Equal(["1 document to check and file", "2 documents to complete, 1 due"], For(Roles.Indexer).Waits.Select(w => w.Next));
        Assert.Contains("3 documents to complete, 1 due", For(Roles.Steward).Waits.Select(w => w.Next));
        var others = _today.For("Tobias Finch", new Rights([Roles.Indexer])).Waits;
        Assert.Equal("1 document to complete", Assert.Single(others, w => w.What == "Parked").Next);
    }

    [Fact]
    public void The_days_of_the_desk_add_up()
    {
        Batch("Five days ago", 5, 6, filedNextDay: 4);
        Batch("Today", 0, 3);
        Batch("Long ago", 40, 2, filedNextDay: 1);
        var days = For(Roles.Indexer).Days;
        Assert.Equal(TodayWork.Days, days.Count);
        Assert.Equal(_house.Clock.Today(), days[^1].Day);
        Assert.Equal(4, Assert.Single(days, d => d.Filed > 0).Filed);
        Assert.Equal(4, days[^5].Filed);
        // One of long ago; all six; two of them; and three more.
        Assert.Equal([1, 7, 3, 3, 3, 3, 6], days.TakeLast(7).Select(d => d.Waiting));
    }

    [Fact]
    public async Task What_went_wrong_is_told_to_those_who_can_put_it_right()
    {
        _house.Jobs.Add(
            JobKind.Of("breaks", "Doing what fails", "design", (_, _) => throw new RefusedException("The cupboard is locked."))
        );
        await _house.Jobs.Start("breaks", "a test", "/Design", new { }, "Maren Holt").Value!.Completion;
        _house.Database.Write(c =>
        {
            BatchStore.AddFile(c, BatchStore.Add(c, "Post", "me", _now.AddHours(-2)), "a.exe", "x", "This is no page.");
            BatchStore.AddFile(c, BatchStore.Add(c, "Old post", "me", _now.AddDays(-3)), "b.exe", "x", "This is no page.");
        });
        Assert.Equal(
            [("Doing what fails", "The cupboard is locked."), ("Post: 1 file refused", "a.exe: This is no page.")],
            For(Roles.Steward).Wrong.Select(w => (w.What, w.Why))
        );
        Assert.Equal("Post: 1 file refused", Assert.Single(For(Roles.Indexer).Wrong).What);
        Assert.Empty(For(Roles.Searcher).Wrong);
    }

    [Fact]
    public void Only_the_newest_act_on_a_thing_can_be_undone_here()
    {
        Assert.Null(
            _house
                .Drafts.Change("slip", "added the field Number", "Maren Holt", t => t with { Fields = [new TextField("number", "Number")] })
                .Problem
        );
        Assert.Null(
            _house
                .Drafts.Change(
                    "slip",
                    "added the field Day",
                    "Maren Holt",
                    t => t with { Fields = [.. t.Fields, new DateField("day", "Day")] }
                )
                .Problem
        );
        // A vocabulary of the type's name is another thing: the type's newest change stays the one that can be undone.
        Assert.Null(_house.Vocabularies.Create("Slip", "North Quay", "Maren Holt").Problem);
        var done = For(Roles.Steward).Done;
        Assert.Equal(
            [
                ("created a vocabulary", "Slip", null),
                ("added the field Day", "Slip", "/Design/Type/slip?handler=Undo"),
                ("added the field Number", "Slip", null),
                ("created a document type", "Slip", null),
            ],
            done.Select(d => (d.Line.Action, d.Name, d.Undo))
        );
        Assert.Equal("/Design/Vocabulary/slip", done[0].Address);
        _house.Drafts.Undo("slip", "somebody else");
        Assert.All(For(Roles.Steward).Done, d => Assert.Null(d.Undo));
        Assert.All(For(Roles.Indexer).Done, d => Assert.Null(d.Address));
    }
}
