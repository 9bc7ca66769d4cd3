using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>What judges first and writes later, met in between by somebody else: nothing is lost, and the later one is told.</summary>
public sealed class InterleavingTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    /// <summary>Steps of filing between which somebody else may come.</summary>
    public static TheoryData<string> Steps => ["drawn", "journaled", "moved"];

    private async Task<long> Ready()
    {
        var page = Demo.HarbourDocuments.AlreadyFiled()[0];
        Demo.HarbourDocuments.Draw(page, _house.Folder.Tray);
        var (batch, job) = (await _house.Intake.ScanAsync("ann"))!.Value;
        await job!.Completion;
        return Assert.Single(_house.Desk.Waiting("ann", batch)).Document.Id;
    }

    private string[] Files => Directory.GetFiles(_house.Folder.Repository, "*", SearchOption.AllDirectories);

    // Once, at a step of filing.
    private void At(string step, Action act)
    {
        var done = false;
        _house.Filer.Checkpoint = at =>
        {
            if (done || at != step)
                return;
            done = true;
            act();
        };
    }

    [Theory]
    [MemberData(nameof(Steps))]
    public async Task What_a_colleague_sets_while_it_is_filed_is_filed(string step)
    {
        var id = await Ready();
        At(step, () => Assert.Null(_house.Desk.SetValue(id, "vessel", "Marsh Harrier", null, "bob").Problem));
        var filed = _house.Filer.File(id, "ann");
        Assert.Null(filed.Problem);
        var document = _house.Get(id);
        Assert.Equal("Marsh Harrier", document.Record["vessel"]);
        Assert.Contains("Marsh Harrier", document.Name);
        Assert.Equal(Path.Combine(_house.Folder.Repository, document.Folder!, document.Name!), Assert.Single(Files));
        Assert.Empty(_house.Database.Read(FilingJournal.Unfinished));
        Assert.Empty(Directory.GetFiles(_house.Folder.Drafts));
    }

    [Theory]
    [MemberData(nameof(Steps))]
    public async Task What_a_colleague_makes_wrong_while_it_is_filed_is_not_filed(string step)
    {
        var id = await Ready();
        At(step, () => Assert.Null(_house.Desk.SetValue(id, "imo", "1234568", null, "bob").Problem));
        Assert.NotNull(_house.Filer.File(id, "ann").Problem);
        Assert.Equal((false, "1234568"), (_house.Get(id).Filed, _house.Get(id).Record["imo"]));
        Assert.Empty(Files);
        Assert.Empty(_house.Database.Read(FilingJournal.Unfinished));
    }

    [Theory]
    [MemberData(nameof(Steps))]
    public async Task What_a_colleague_takes_off_the_desk_while_it_is_filed_leaves_no_file(string step)
    {
        var id = await Ready();
        At(step, () => Assert.Null(_house.Desk.Discard(id, "bob").Problem));
        Assert.Contains("no longer on the desk", _house.Filer.File(id, "ann").Problem);
        Assert.Null(_house.Database.Read(c => DocumentStore.Find(c, id)));
        Assert.Empty(Files);
        Assert.Empty(_house.Database.Read(FilingJournal.Unfinished));
    }

    /// <summary>
    /// A design that is published, a field that is restricted, a term that is renamed or retired while a document is filed: it is filed by
    /// the design as it is then, or not at all.
    /// </summary>
    [Theory]
    [MemberData(nameof(Steps))]
    public async Task What_is_restricted_while_it_is_filed_is_found_by_no_searcher(string step)
    {
        var id = await Ready();
        var agent = _house.Get(id).Record["agent"];
        At(step, () => Publish(t => t with { Fields = [.. t.Fields.Select(f => f.Key == "agent" ? f with { Restricted = true } : f)] }));
        Assert.Null(_house.Filer.File(id, "ann").Problem);
        Assert.Equal(_house.Designs.Published["vessel-call-record"].Version, _house.Get(id).Version);
        long Found(bool restricted) =>
            _house.Database.Read(c =>
                RepositorySearch.Count(c, new RepositoryQuery { Anywhere = agent, IncludeRestricted = restricted }).Number
            );
        Assert.Equal((0, 1), (Found(false), Found(true)));
    }

    [Theory]
    [MemberData(nameof(Steps))]
    public async Task What_is_asked_for_while_it_is_filed_holds_it_back(string step)
    {
        var id = await Ready();
        At(step, () => Publish(t => t with { Fields = [.. t.Fields, new TextField("surveyor", "Surveyor") { Required = true }] }));
        Assert.Contains("Surveyor", _house.Filer.File(id, "ann").Problem);
        Assert.False(_house.Get(id).Filed);
        Assert.Empty(Files);
        Assert.Empty(_house.Database.Read(FilingJournal.Unfinished));
    }

    [Theory]
    [MemberData(nameof(Steps))]
    public async Task A_term_that_is_renamed_while_it_is_filed_is_filed_by_its_new_name(string step)
    {
        var id = await Ready();
        var berth = _house.Get(id).Record["berth"];
        At(
            step,
            () =>
            {
                var term = _house.Designs.Vocabularies["berths"].Find(berth)!;
                var renamed = term with { Id = term.Id, Label = "Heron Stairs" };
                Assert.Null(_house.Vocabularies.Apply("berths", v => VocabularyEditing.Put(v, renamed), "bob").Problem);
            }
        );
        Assert.Null(_house.Filer.File(id, "ann").Problem);
        Assert.Equal("Heron Stairs", _house.Get(id).Record["berth"]);
    }

    private void Publish(Func<DocumentType, Result<DocumentType>> change)
    {
        Assert.Null(_house.Drafts.Change("vessel-call-record", "changed it", "bob", change).Problem);
        Assert.Null(_house.Drafts.Publish("vessel-call-record", "bob").Problem);
    }

    [Fact]
    public async Task Who_edits_a_filed_value_second_is_told_and_may_do_so_all_the_same()
    {
        var id = await Ready();
        Assert.Null(_house.Filer.File(id, "ann").Problem);
        var seen = _house.Get(id).Record["agent"];
        Assert.Null(_house.Filed.Edit(id, "agent", "Kelpie Ferries", "", "bob", seen).Problem);
        var refused = _house.Filed.Edit(id, "agent", "Pellworm Maritime", "", "ann", seen).Problem;
        Assert.Contains("bob has set Agent to “Kelpie Ferries” in the meantime", refused);
        Assert.Equal("Kelpie Ferries", _house.Get(id).Record["agent"]);
        // Another field is nobody's business.
        Assert.Null(_house.Filed.Edit(id, "master", "Ada Moor", "", "ann", _house.Get(id).Record["master"]).Problem);
        Assert.Null(_house.Filed.Edit(id, "agent", "Pellworm Maritime", "", "ann", "Kelpie Ferries").Problem);
        Assert.Null(_house.Filed.Edit(id, "agent", "Pellworm Maritime", "", "bob", "Kelpie Ferries").Problem);
    }

    /// <summary>Whoever writes a document that is no longer what was read of it is refused, whatever it is that has changed.</summary>
    [Fact]
    public async Task Nothing_is_written_over_what_has_changed_since_it_was_read()
    {
        var id = await Ready();
        foreach (
            var change in new Action[]
            {
                () => Assert.Null(_house.Desk.SetValue(id, "agent", "Kelpie Ferries", null, "bob").Problem),
                () => _house.Database.Write(c => DocumentStore.Park(c, id, "wait")),
                () => Assert.Null(_house.Filer.File(id, "bob").Problem),
                () => Assert.Null(_house.Filed.Edit(id, "agent", "Pellworm Maritime", "", "bob").Problem),
                () => Assert.Null(_house.Withdrawals.Withdraw(id, false, "wrong", "bob").Problem),
            }
        )
        {
            var read = _house.Get(id);
            change();
            Assert.Throws<ChangedMeanwhileException>(() => _house.Database.Write(c => DocumentStore.Save(c, read)));
            Assert.NotEqual(read.Revision, _house.Get(id).Revision);
        }
    }

    public void Dispose() => _house.Dispose();
}
