using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Demo;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Services.Tests;

/// <summary>The desk by field, values that a clerk holds, values as in the document before.</summary>
public sealed class DeskTests : IDisposable
{
    private const string Code = "vessel-call-record";

    private readonly House _house = new House().WithDesigns();

    private async Task<List<long>> Brought()
    {
        foreach (var page in HarbourDocuments.Samples(PageDesigns.CallOffice, 5, 0))
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("ann"))!.Value.Job!.Completion;
        return _house.Desk.Queue("ann");
    }

    /// <summary>However many documents wait, they are read and judged on one connection.</summary>
    [Fact]
    public async Task The_list_of_the_desk_is_judged_on_the_connection_it_is_given()
    {
        await Brought();
        _house.Desk.Waiting("ann");
        var before = _house.Database.Opened;
        Assert.True(_house.Desk.Waiting("ann").Count > 4);
        Assert.Equal(1, _house.Database.Opened - before);
    }

    [Fact]
    public async Task By_field_what_needs_a_look_stands_first_and_is_taken_as_it_was_seen()
    {
        var ids = await Brought();
        void Put(long id, string text, double sure) =>
            _house.Database.Write(c =>
                DocumentStore.Save(
                    c,
                    _house.Get(id) with
                    {
                        Record = new Dictionary<string, string>(_house.Get(id).Record) { ["vessel"] = text },
                        Evidence = new Dictionary<string, Evidence>(_house.Get(id).Evidence)
                        {
                            ["vessel"] = _house.Get(id).Evidence["vessel"] with { Confidence = sure },
                        },
                    }
                )
            );
        Put(ids[0], "Tern", 0.99);
        Put(ids[1], "Auk", 0.99);
        Put(ids[2], "Tern", 0.4);
        Put(ids[3], "Gull", 0.4);
        Put(ids[4], "Auk", 0.99);
        List<(string, long)> Order() => _house.Desk.ByField(Code, "vessel", "ann").ConvertAll(v => (v.Text, v.Document.Id));
        // Equal values stand together; a group of which one is doubtful is looked at.
        Assert.Equal([("Gull", ids[3]), ("Tern", ids[2]), ("Tern", ids[0]), ("Auk", ids[1]), ("Auk", ids[4])], Order());
        Assert.Null(_house.Desk.Accept(ids[3], "vessel", "Gull", "Gull ", "ann").Problem);
        Assert.True(_house.Desk.ValueOf(ids[3], "vessel", "ann")!.IsSure);
        Assert.True(_house.Database.Read(c => ValueHistoryStore.IsTouched(c, ids[3], "vessel")));
        Assert.Null(_house.Desk.Accept(ids[2], "vessel", "Tern", "Fern", "ann").Problem);
        Assert.Equal("Fern", _house.Get(ids[2]).Record["vessel"]);
        // Somebody else was faster: nothing is written over.
        Assert.Contains("“Fern”", _house.Desk.Accept(ids[2], "vessel", "Tern", "Tern", "bob").Problem);
        Assert.Equal("Fern", _house.Get(ids[2]).Record["vessel"]);
        Assert.Contains("no longer", _house.Desk.Accept(99, "vessel", "", "", "ann").Problem);
    }

    [Fact]
    public async Task A_held_value_goes_into_what_the_clerk_files_where_nothing_stands_until_it_is_released()
    {
        var ids = await Brought();
        _house.Database.Write(c =>
        {
            foreach (var id in ids.Skip(1))
                DocumentStore.Save(c, _house.Get(id) with { Record = _house.Get(id).Record.Where(r => r.Key != "agent").ToDictionary() });
        });
        var own = _house.Get(ids[0]).Record["agent"];
        Assert.Null(_house.Desk.Hold(ids[0], "agent", " Holm Brokers ", "ann").Problem);
        Assert.Contains("No two documents", _house.Desk.Hold(ids[0], "call-number", "VC-2024-00001", "ann").Problem);
        Assert.Contains("holds nothing", _house.Desk.Hold(ids[0], "berth", " ", "ann").Problem);
        // It is seen by the clerk who holds it, in what is empty, and is written nowhere yet.
        Assert.Equal("Holm Brokers", _house.Desk.FindWithHeld(ids[1], "ann")!.Document.Record["agent"]);
        Assert.Equal(own, _house.Desk.FindWithHeld(ids[0], "ann")!.Document.Record["agent"]);
        Assert.DoesNotContain("agent", _house.Desk.FindWithHeld(ids[1], "bob")!.Document.Record.Keys);
        Assert.DoesNotContain("agent", _house.Get(ids[1]).Record.Keys);
        Assert.Null(_house.Filer.File(ids[1], "ann", withHeld: true).Problem);
        Assert.Equal("Holm Brokers", _house.Get(ids[1]).Record["agent"]);
        Assert.Contains(_house.Filed.Changes(ids[1]), h => h is { Field: "agent", How: "held", Who: "ann" });
        Assert.Equal(1, Assert.Single(_house.Desk.Held(Code, "ann")).Used);
        // What is filed without being looked at does not get it.
        _house.Filer.File(ids[2], "ann");
        Assert.DoesNotContain("agent", _house.Get(ids[2]).Record.Keys);
        Assert.Null(_house.Desk.Hold(ids[3], "agent", "Holm Brokers", "ann").Problem);
        Assert.Empty(_house.Desk.Held(Code, "ann"));

        Assert.Null(_house.Desk.SetValue(ids[3], "agent", "Quayside", null, "ann").Problem);
        Assert.Null(_house.Desk.AsBefore(ids[4], "agent", "ann").Problem);
        Assert.Equal("Quayside", _house.Get(ids[4]).Record["agent"]);
        Assert.Contains("before this one", _house.Desk.AsBefore(ids[0], "agent", "ann").Problem);
    }

    [Fact]
    public async Task Two_clerks_are_told_of_each_other_and_never_write_over_what_the_other_has_set()
    {
        var ids = await Brought();
        var clock = new Clock();
        var presence = new DeskPresence(clock);
        Assert.Null(presence.Open(ids[0], "ann"));
        Assert.Equal("ann", presence.Open(ids[0], "bob")!.Who);
        Assert.Null(presence.Open(ids[0], "bob", takeOver: true));
        Assert.Equal("bob", presence.Open(ids[0], "ann")!.Who);
        // Going on to another lets the first one go; so does doing nothing for a while.
        Assert.Null(presence.Open(ids[1], "bob"));
        Assert.Null(presence.Open(ids[0], "ann"));
        clock.Now += DeskPresence.Idle + TimeSpan.FromSeconds(1);
        Assert.Null(presence.Other(ids[0], "bob"));
        Assert.Null(presence.Open(ids[0], "bob"));

        var seen = _house.Get(ids[0]).Record["agent"];
        Assert.Null(_house.Desk.SetValue(ids[0], "agent", "Of Bob", null, "bob", seen).Problem);
        Assert.Contains("bob has set it to “Of Bob”", _house.Desk.SetValue(ids[0], "agent", "Of Ann", null, "ann", seen).Problem);
        Assert.Equal("Of Bob", _house.Get(ids[0]).Record["agent"]);
        // What one has set oneself is changed further, and so is what one has seen.
        Assert.Null(_house.Desk.SetValue(ids[0], "agent", "Of Bob again", null, "bob", seen).Problem);
        Assert.Null(_house.Desk.SetValue(ids[0], "agent", "Of Ann", null, "ann", "Of Bob again").Problem);
        Assert.Equal("Of Ann", _house.Get(ids[0]).Record["agent"]);
    }

    [Fact]
    public async Task A_parked_document_waits_apart_until_it_is_completed_and_filed_where_it_belongs()
    {
        var ids = await Brought();
        _house.Person(Roles.Indexer);
        Assert.Contains("Say why", _house.Parked.Park(ids[1], " ", "", "", "ann").Problem);
        Assert.Contains("is not a role", _house.Parked.Park(ids[1], "no master", "Nobody", "", "ann").Problem);
        Assert.Contains("not a day", _house.Parked.Park(ids[1], "no master", "", "yesterday", "ann").Problem);
        Assert.Null(_house.Parked.Park(ids[1], "Master is missing", Roles.Indexer, "in 2 weeks", "ann").Problem);
        Assert.DoesNotContain(ids[1], _house.Desk.Queue("ann"));
        Assert.DoesNotContain(_house.Desk.Waiting("ann"), d => d.Document.Id == ids[1]);
        var (parking, document) = Assert.Single(_house.Parked.All("bob"));
        Assert.Equal(("Master is missing", Roles.Indexer, ids[1]), (parking.Reason, parking.ForWhom, document.Id));
        Assert.Equal(_house.Clock.Today().AddDays(14), parking.Due);
        // Filing everything that is ready leaves it where it is.
        _house.Filer.FileReady(null, "ann");
        Assert.False(_house.Get(ids[1]).Filed);
        Assert.Null(_house.Parked.Release(ids[1], "bob").Problem);
        Assert.Contains(ids[1], _house.Desk.Queue("ann"));
        Assert.Null(_house.Parked.Park(ids[1], "again", "", "", "ann").Problem);
        Assert.Null(_house.Filer.File(ids[1], "bob").Problem);
        Assert.Empty(_house.Parked.All("ann"));
        Assert.Contains("not parked", _house.Parked.Release(ids[1], "bob").Problem);
    }

    [Fact]
    public async Task A_way_in_parks_what_lacks_a_field_for_whoever_completes_it()
    {
        var scanner = new WayIn(Intake.ScannerWay, "Scanner") { LookFirst = LookFirst.Never };
        Assert.Contains("say why", _house.WaysIn.Save(scanner with { Parks = [new("master", "", "")] }, "ann").Problem);
        Assert.Contains("not a role", _house.WaysIn.Save(scanner with { Parks = [new("master", "No master", "nobody")] }, "ann").Problem);
        Assert.Null(
            _house
                .WaysIn.Save(
                    scanner with
                    {
                        Parks = [new("imo", "Wrong number", ""), new("master", "The agent must say who the master is", Roles.Indexer)],
                    },
                    "ann"
                )
                .Problem
        );
        var pages = HarbourDocuments.Samples(PageDesigns.CallOffice, 3, 0).ToList();
        pages[1] = pages[1] with { Printed = new Dictionary<string, string>(pages[1].Printed) { ["master"] = "" } };
        pages[2] = pages[2] with
        {
            Printed = new Dictionary<string, string>(pages[2].Printed) { ["imo"] = "IMO 1234560", ["master"] = "" },
        };
        foreach (var page in pages)
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("ann"))!.Value.Job!.Completion;
        Assert.Equal(pages[0].FileName, _house.Get(Assert.Single(_house.Desk.Queue("ann"))).SourceName);
        Assert.Equal(
            [(pages[1].FileName, "The agent must say who the master is", Roles.Indexer), (pages[2].FileName, "Wrong number", "")],
            _house.Parked.All("ann").Select(p => (p.Document.SourceName, p.Parking.Reason, p.Parking.ForWhom)).Order()
        );
    }

    [Fact]
    public async Task A_row_fills_what_nobody_has_set_and_filed_documents_with_the_same_value_are_found_and_taken_from()
    {
        var ids = await Brought();
        var lookUps = new DeskLookUps(_house.Database, _house.Designs, _house.Tables, _house.Desk);
        var register = _house.Designs.Tables["vessel-register"];
        var row = register.Rows[3];
        var name = row[register.ColumnOf("Vessel")];
        Assert.Null(lookUps.Rows(ids[0], "agent", "Wrack", "ann"));
        var hits = lookUps.Rows(ids[0], "imo", name[..4], "ann")!;
        Assert.Contains(hits.Rows, r => r.Key == row[0]);
        Assert.All(hits.Rows, r => Assert.InRange(r.Apart.Count, 1, 2));
        Assert.Contains("Gross tonnage", hits.Fills);
        Assert.Null(_house.Desk.SetValue(ids[0], "gross-tonnage", "4711", null, "ann").Problem);
        Assert.Null(lookUps.TakeRow(ids[0], "imo", row[0], "ann").Problem);
        Assert.Equal(row[register.ColumnOf("IMO number")], _house.Get(ids[0]).Record["imo"]);
        Assert.Equal(row[register.ColumnOf("Vessel type")], _house.Get(ids[0]).Record["vessel-type"]);
        Assert.Equal("4711", _house.Get(ids[0]).Record["gross-tonnage"]);
        Assert.Contains("no longer has that row", lookUps.TakeRow(ids[0], "imo", "gone", "ann").Problem);
        // Of another ship nobody knows the type.
        var (number, type) = (register.ColumnOf("IMO number"), register.ColumnOf("Vessel type"));
        var other = register.Rows.First(r => r[type] != row[type]);
        OpenFault.Shows(
            67,
            () =>
            {
                Assert.Null(_house.Desk.SetValue(ids[0], "imo", other[number], null, "ann").Problem);
                Assert.NotEqual(row[type], _house.Get(ids[0]).Record.GetValueOrDefault("vessel-type"));
            }
        );
        Assert.Null(_house.Desk.SetValue(ids[0], "imo", row[number], null, "ann").Problem);

        // A filed call is found by a value from the call on the desk; what is empty there is taken over, but for what no two calls share.
        Assert.Null(_house.Filer.File(ids[1], "ann").Problem);
        var (all, searcher) = (new Rights([Roles.Indexer]), new Rights([Roles.Searcher]));
        var agent = _house.Get(ids[1]).Record["agent"];
        Assert.Equal(ids[1], Assert.Single(lookUps.Same(ids[2], "agent", $" {agent} ", "ann", all)).Document.Id);
        Assert.Empty(lookUps.Same(ids[2], "agent", "nobody of that name", "ann", all));
        foreach (var field in new[] { "agent", "master", "call-number" })
            _house.Desk.SetValue(ids[2], field, "", null, "ann");
        Assert.Equal(2, lookUps.Fetch(ids[2], ids[1], "ann", all).Value);
        Assert.Equal(agent, _house.Get(ids[2]).Record["agent"]);
        Assert.DoesNotContain("call-number", _house.Get(ids[2]).Record.Keys);
        Assert.Contains("empty here", lookUps.Fetch(ids[2], ids[1], "ann", all).Problem);
        Assert.NotNull(lookUps.Beside(ids[1], searcher));
        Assert.Null(lookUps.Beside(ids[3], all));
    }

    private sealed class Clock : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = new(2024, 3, 5, 9, 0, 0, TimeSpan.Zero);

        public override DateTimeOffset GetUtcNow() => Now;
    }

    public void Dispose() => _house.Dispose();
}
