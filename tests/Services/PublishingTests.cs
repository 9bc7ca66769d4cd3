using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Formats;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>What publishing would do, and what it does, to documents and inventory rows that exist.</summary>
public sealed class PublishingTests : IDisposable
{
    private readonly House _house = new();

    public PublishingTests()
    {
        Assert.Null(_house.Drafts.Create("Slip", "me").Problem);
        Change(t =>
            t with
            {
                Fields = [new WholeNumberField("number", "Number") { Required = true, Max = "100" }, new TextField("vessel", "Vessel")],
                Convention = new([Piece.Literal("Slips")], [Piece.Of("number")]),
            }
        );
        Assert.Null(_house.Publishing.Publish("slip", 0, ForExisting.Keep, "me").Problem);
        for (var n = 1; n <= 30; n++)
            File_(n);
    }

    private void File_(int n)
    {
        var id = _house.Database.Write(c =>
            DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "x",
                    TypeCode = "slip",
                    Record = new Dictionary<string, string> { ["number"] = $"{n}", ["vessel"] = n % 3 == 0 ? "" : "Grey Heron" },
                },
                []
            )
        );
        Assert.Null(_house.Filer.File(id, "me").Problem);
    }

    private void Change(Func<DocumentType, DocumentType> change) =>
        Assert.Null(_house.Drafts.Change("slip", "changed", "me", t => change(t)).Problem);

    private void Fields(Func<Field, Field> change) => Change(t => t with { Fields = [.. t.Fields.Select(change)] });

    /// <summary>An edit gives a reason for what it breaks itself, not for what was so before.</summary>
    [Fact]
    public void An_edit_does_not_answer_for_what_was_so_before()
    {
        var filled = new Dictionary<string, string> { ["fields"] = "vessel", ["how"] = "all" };
        Change(t => t with { Rules = [new Rule("r1", "filled", Level.Should, filled)] });
        Assert.Null(_house.Publishing.Publish("slip", 1, ForExisting.Keep, "me").Problem);
        Assert.Null(_house.Filed.Edit(3, "number", "99", "", "you").Problem);
        Assert.EndsWith("Write a reason to keep it all the same.", _house.Filed.Edit(1, "vessel", "", "", "you").Problem);
        Assert.Null(_house.Filed.Edit(1, "vessel", "", "It was a raft.", "you").Problem);
        Assert.Equal("It was a raft.", Assert.Single(_house.Get(1).Overrides).Value);
        Assert.Empty(_house.Get(3).Overrides);
    }

    private async Task<Consequences> Look()
    {
        await _house.Publishing.StartLook("slip").Value!.Completion;
        Assert.Empty(_house.Failures);
        return _house.Publishing.Last("slip")!.Result;
    }

    [Fact]
    public async Task What_newly_fails_passes_or_moves_is_counted_by_its_cause()
    {
        Fields(f => f.Key == "number" ? (RangedField)f with { Max = "27" } : f with { Required = true });
        var looked = await Look();
        // 28, 29 and 30 by number, ten by vessel; 30 by both counts once.
        Assert.Equal((30, 12, 0, 0), (looked.Looked, looked.Failing, looked.Passing, looked.Moved));
        Assert.Equal(
            [("Vessel is now required.", 9L), ("Number: the greatest value is now 27, before 100.", 3L)],
            looked.Groups.Select(g => (g.Cause, g.Count))
        );
        Assert.All(looked.Groups, g => Assert.InRange(g.Samples.Count, 1, 5));
        Assert.Equal("Slips/3.pdf", _house.Publishing.Affected("slip", 1)[0].Title);
        Assert.Equal(12, _house.Publishing.Affected("slip", 100).Count);
        // Looking changes nothing.
        Assert.Empty(_house.Publishing.Parked("slip"));
        Fields(f => f.Key == "number" ? (RangedField)f with { Max = "100" } : f with { Required = false });
        Change(t => t with { Convention = new([Piece.Literal("New")], t.Convention.Name) });
        looked = await Look();
        Assert.Equal((0, 30), (looked.Failing, looked.Moved));
        Assert.Equal("The folder is now New, before Slips.", Assert.Single(looked.Groups).Cause);
    }

    /// <summary>The clock of tests stands where it is tomorrow already: the day of a filing is that of the installation.</summary>
    [Fact]
    public async Task What_was_filed_is_looked_at_as_of_the_day_on_which_it_was_filed()
    {
        Change(t => t with { Fields = [.. t.Fields, new DateField("day", "Day")] });
        Assert.Null(_house.Publishing.Publish("slip", 1, ForExisting.Keep, "me").Problem);
        Assert.Null(_house.Filed.Edit(1, "day", $"{_house.Clock.Today():yyyy-MM-dd}", "", "me").Problem);
        Assert.Null(_house.Filed.Edit(2, "day", $"{_house.Clock.Today().AddDays(1):yyyy-MM-dd}", "", "me").Problem);
        var future = new Dictionary<string, string> { ["field"] = "day", ["how"] = "not-future" };
        Change(t => t with { Rules = [new Rule("r1", "date-today", Level.Must, future)] });
        Assert.Equal(1, (await Look()).Failing);
        Assert.Equal("Slips/2.pdf", Assert.Single(_house.Publishing.Affected("slip", 9)).Title);
    }

    [Fact]
    public async Task Documents_keep_their_version_or_are_checked_and_parked()
    {
        Fields(f => f.Key == "number" ? (RangedField)f with { Max = "27" } : f);
        await Look();
        Assert.Equal((2, 0), _house.Publishing.Publish("slip", 1, ForExisting.Keep, "me").Value);
        Assert.All(
            _house.Database.Read(c => RepositorySearch.Find(c, new RepositoryQuery { TypeCode = "slip" }, 100).Documents),
            d => Assert.Equal((1, null), (d.Version, d.Parked))
        );

        Fields(f => f.Key == "number" ? (RangedField)f with { Max = "20" } : f);
        // What failed before does not newly fail.
        Assert.Equal(7, (await Look()).Failing);
        Assert.Equal((3, 7), _house.Publishing.Publish("slip", 2, ForExisting.Recheck, "me").Value);
        if (_house.Jobs.Running(Designs.Subject("slip")) is { } recheck)
            await recheck.Completion;
        var parked = _house.Publishing.Parked("slip");
        Assert.Equal(Enumerable.Range(21, 7).Select(n => $"{n}.pdf"), parked.Select(d => d.Name));
        Assert.Contains("20", parked[0].Parked);
        Assert.Equal((3, 1), (_house.Database.Read(c => DocumentStore.Find(c, 1))!.Version, parked[0].Version));
        Assert.True(_house.Filed.Edit(parked[0].Id, "number", "19", "", "you").Ok);
        Assert.Equal(6, _house.Publishing.Parked("slip").Count);
        Assert.True(_house.Database.Read(c => LedgerStore.Verify(c)).Sound);
    }

    [Fact]
    public async Task A_second_publishing_in_between_and_a_stale_look_are_noticed()
    {
        Fields(f => f.Key == "number" ? (RangedField)f with { Max = "20" } : f);
        await Look();
        Change(t => t with { Name = "Slip of paper" });
        Assert.Null(_house.Publishing.Last("slip"));
        Assert.Contains("Look again", _house.Publishing.Publish("slip", 1, ForExisting.Recheck, "me").Problem);
        Assert.Null(_house.Publishing.Publish("slip", 1, ForExisting.Keep, "somebody else").Problem);
        Change(t => t with { Name = "Slip" });
        Assert.Contains(
            "somebody else has published version 2 in between",
            _house.Publishing.Publish("slip", 1, ForExisting.Keep, "me").Problem
        );
        Assert.Equal(2, _house.Designs.Find("slip")!.Version);
        // A finding blocks publishing and with it the parking.
        Fields(f => f is RangedField ranged ? ranged with { Min = "9", Max = "1" } : f);
        await Look();
        Assert.NotNull(_house.Publishing.Publish("slip", 2, ForExisting.Recheck, "me").Problem);
        Assert.Empty(_house.Publishing.Parked("slip"));
    }

    private Dictionary<string, string> Held(long id) =>
        _house.Database.Read(c => DocumentStore.Find(c, id))!.Record.ToDictionary(StringComparer.Ordinal);

    private async Task Done()
    {
        if (_house.Jobs.Running(Designs.Subject("slip")) is { } job)
            await job.Completion;
        Assert.Empty(_house.Failures);
    }

    // “Vessel” becomes “ship”, which must be filled and be no longer than nine characters.
    private async Task<Consequences> RenameVessel(int longest = 40)
    {
        Change(t => t with { Fields = [t.Fields[0], new TextField("ship", "Ship") { Required = true, MaxLength = longest }] });
        var published = _house.Designs.Versions("slip")[0].Design;
        Assert.Null(
            _house
                .Carrying.SetLine(
                    "slip",
                    new CarryLine("ship", CarryHow.Whole, ["vessel"]) { Steps = [new("replace", "Grey Heron=Heron")] },
                    published,
                    _house.Designs.Find("slip")!.Draft,
                    "me"
                )
                .Problem
        );
        return await Look();
    }

    [Fact]
    public async Task Documents_are_carried_through_a_renamed_field_and_taken_back()
    {
        var looked = await RenameVessel();
        // The dry run knows the mapping: only the ten without a vessel would fail.
        Assert.Equal((30, 10), (looked.Looked, looked.Failing));
        Assert.Equal(
            ("1.pdf", ("Ship", "", "Heron")),
            (
                _house.Carrying.Samples("slip", _house.Designs.Versions("slip")[0].Design, _house.Designs.Find("slip")!.Draft, 1)[0]
                    is var s
                    ? s.Name
                    : "",
                s.Changes[0]
            )
        );
        var onDesk = _house.Database.Write(c =>
            DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "waiting",
                    TypeCode = "slip",
                    Record = new Dictionary<string, string> { ["number"] = "77", ["vessel"] = "Corvina" },
                },
                []
            )
        );
        Assert.Null(_house.Publishing.Publish("slip", 1, ForExisting.Carry, "me").Problem);
        await Done();

        Assert.Equal(new Dictionary<string, string> { ["number"] = "1", ["ship"] = "Heron" }, Held(1));
        Assert.Equal("Corvina", Held(onDesk)["ship"]);
        Assert.Equal(
            Enumerable.Range(1, 10).Select(n => $"{n * 3}.pdf").Order(),
            _house.Publishing.Parked("slip").Select(d => d.Name!).Order()
        );
        Assert.Equal(
            (2, 1),
            (_house.Database.Read(c => DocumentStore.Find(c, 1))!.Version, _house.Database.Read(c => DocumentStore.Find(c, 3))!.Version)
        );
        Assert.Contains(
            _house.Database.Read(c => ValueHistoryStore.Of(c, 1)),
            h => h is { Field: "ship", Before: "", After: "Heron", How: "carried through to version 2" }
        );
        // The words of the new field are found.
        Assert.Equal(
            20,
            _house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery { TypeCode = "slip", Anywhere = "heron" }).Number)
        );
        var run = Assert.Single(_house.Carrying.Runs("slip"));
        Assert.Equal((RunState.Applied, 31L), (run.State, _house.Carrying.Counts(run)[StepState.Done].Number));
        // The next draft begins with an empty mapping.
        Assert.Empty(_house.Database.Read(c => CarryStore.Lines(c, "slip")));

        // One is edited, then all is taken back: the edited one stays and is named.
        Assert.True(_house.Filed.Edit(2, "ship", "Sea Lark", "", "you").Ok);
        Assert.Null(_house.Carrying.StartUndo(run.Id, "me").Problem);
        await Done();
        Assert.Equal(new Dictionary<string, string> { ["number"] = "1", ["vessel"] = "Grey Heron" }, Held(1));
        Assert.Equal("Sea Lark", Held(2)["ship"]);
        Assert.Empty(_house.Publishing.Parked("slip"));
        run = Assert.Single(_house.Carrying.Runs("slip"));
        Assert.Equal(RunState.Undone, run.State);
        Assert.Equal("“2.pdf” has been edited since.", Assert.Single(_house.Carrying.Documents(run, StepState.Stays, 9)).Message);

        // And once more: what was edited keeps what was typed.
        Assert.Null(_house.Carrying.StartAgain(run.Id, "me").Problem);
        await Done();
        Assert.Equal(("Heron", "Sea Lark"), (Held(1)["ship"], Held(2)["ship"]));
        Assert.True(_house.Database.Read(c => LedgerStore.Verify(c)).Sound);
    }

    [Fact]
    public async Task A_run_that_is_cut_off_goes_on_where_it_was()
    {
        for (var n = 31; n <= 420; n++)
            _house.Database.Write(c =>
                DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = $"{n}",
                        TypeCode = "slip",
                        Record = new Dictionary<string, string> { ["number"] = $"{n}", ["vessel"] = "Corvina" },
                    },
                    []
                )
            );
        await RenameVessel();
        var chunks = 0;
        _house.Carrying.Checkpoint = () =>
        {
            if (++chunks == 3)
                throw new InvalidOperationException("the process ends here");
        };
        Assert.Null(_house.Publishing.Publish("slip", 1, ForExisting.Carry, "me").Problem);
        await _house.Jobs.Running(Designs.Subject("slip"))!.Completion;
        Assert.Contains("the process ends here", Assert.Single(_house.Failures));
        _house.Failures.Clear();
        long CarriedBy(Run<CarryOrder> of) => _house.Carrying.Counts(of)[StepState.Done].Number;
        int Carried() => _house.Database.Read(c => DocumentStore.After(c, "slip", 0, 1000)).Count(d => d.Record.ContainsKey("ship"));
        int Whole() =>
            _house
                .Database.Read(c => DocumentStore.After(c, "slip", 0, 1000))
                .Count(d => d.Record.ContainsKey("ship") != d.Record.ContainsKey("vessel"));
        var soFar = Carried();
        Assert.InRange(soFar, 20, 409);
        Assert.Equal(410, Whole());

        var run = Assert.Single(_house.Carrying.Runs("slip"));
        // Ten of the documents hold no vessel.
        Assert.Equal((RunState.Applying, soFar + 10L), (run.State, CarriedBy(run)));
        Assert.Contains("could not be finished", run.Problem);
        _house.Carrying.Checkpoint = () => { };
        Assert.Null(_house.Carrying.Start(run.Id, "me").Problem);
        await Done();
        run = _house.Carrying.Runs("slip")[0];
        Assert.Equal((410, RunState.Applied, 420L, null), (Carried(), run.State, CarriedBy(run), run.Problem));
    }

    [Fact]
    public async Task A_mapping_changed_after_the_look_is_noticed()
    {
        await RenameVessel();
        // The look was at documents as the mapping makes them, so they cannot be parked as they are.
        Assert.Contains("looked at with the mapping", _house.Publishing.Publish("slip", 1, ForExisting.Recheck, "me").Problem);
        _house.Carrying.RemoveLine("slip", "ship", "somebody else");
        Assert.Contains("Look again", _house.Publishing.Publish("slip", 1, ForExisting.Carry, "me").Problem);
        Assert.Empty(_house.Carrying.Runs("slip"));
        Assert.Equal(1, _house.Designs.Find("slip")!.Version);
    }

    [Fact]
    public async Task Rows_of_an_inventory_are_looked_at_too()
    {
        var csv = "Path,Number\r\n" + string.Concat(Enumerable.Range(1, 50).Select(n => $"Q:\\{n}.tif,{n * 3}\r\n"));
        var brought = await _house.Migrations.ImportAsync(
            new BroughtFile("old.csv", () => new MemoryStream(System.Text.Encoding.UTF8.GetBytes(csv))),
            "me"
        );
        Assert.Null(
            _house
                .Migrations.SetPlan(
                    brought.Value,
                    new Core.Migration.MigrationPlan("slip", [new Core.Cleaning.CrosswalkLine("Number", "number", [])], []),
                    "me"
                )
                .Problem
        );
        Fields(f => f.Key == "number" ? (RangedField)f with { Max = "120" } : f);
        var looked = await Look();
        // 102 to 120 in steps of three.
        Assert.Equal((80, 0, 7), (looked.Looked, looked.Failing, looked.Passing));
        Assert.Equal(@"row 34: Q:\34.tif", _house.Publishing.Affected("slip", 1)[0].Title);

        // A renamed field: plan and readers follow it, and rows and pages are read as before.
        _house.Database.Write(c =>
            ReaderStore.Save(
                c,
                new Core.Reading.Reader("form", "Form", "slip", [], [new("z", default)], [new CrosswalkLine("z", "number", [])])
            )
        );
        Change(t =>
            t with
            {
                Fields = [(RangedField)t.Fields[0] with { Key = "no", Label = "No", Max = "100" }, t.Fields[1]],
                Convention = t.Convention with { Name = [Piece.Of("no")] },
            }
        );
        Assert.Null(
            _house
                .Carrying.SetLine(
                    "slip",
                    new CarryLine("no", CarryHow.Whole, ["number"]),
                    _house.Designs.Versions("slip")[0].Design,
                    _house.Designs.Find("slip")!.Draft,
                    "me"
                )
                .Problem
        );
        looked = await Look();
        Assert.Equal((80, 0, 0, 0), (looked.Looked, looked.Failing, looked.Passing, looked.Moved));
        Assert.Null(_house.Publishing.Publish("slip", 1, ForExisting.Carry, "me").Problem);
        await Done();
        Assert.Equal("no", _house.Migrations.Find(brought.Value)!.Plan!.Crosswalk[0].Field);
        Assert.Equal("no", _house.Readers.Find("form")!.Crosswalk[0].Field);
        Assert.Equal("7", Held(7)["no"]);
    }

    public void Dispose() => _house.Dispose();
}
