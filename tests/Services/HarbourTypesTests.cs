using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Demo;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Each harbour type with its own difficulty: a sound record, and what its design must refuse.</summary>
public sealed class HarbourTypesTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    private static readonly Dictionary<string, Dictionary<string, string>> Sound = new()
    {
        ["dangerous-goods-note"] = new()
        {
            ["note-number"] = "DG-2024-0107",
            ["vessel"] = "Grey Heron",
            ["un-number"] = "un 1203",
            ["class"] = "3",
            ["loaded"] = "2024-03-05",
            ["shipper-signed"] = "yes",
            ["master-signed"] = "yes",
            ["containers"] = """[{"container":"CSQU 305438 3","packages":"20","mass":"1800.5"},{"container":"MSKU6639870"}]""",
        },
        ["sounding-sheet"] = new()
        {
            ["sheet-number"] = "SS-00318",
            ["area"] = "OUTER  ROADS",
            ["surveyed"] = "5/3/2024",
            ["soundings"] = """[{"point":"A1","depth":"9.25"},{"point":"A2","depth":"8.9"},{"point":"A3","depth":"9"}]""",
        },
        ["pilotage-certificate"] = new()
        {
            ["certificate-number"] = "PC-0412",
            ["holder"] = "Birgit Solheim",
            ["date-of-birth"] = "1980-02-29",
            ["class"] = "Kapitän",
            ["issued"] = "2024-03-05",
            ["expires"] = "2029-03-05",
            ["examiner"] = "Aldous Wren",
        },
        ["deep-sea-pilotage-certificate"] = new()
        {
            ["certificate-number"] = "PC-0413",
            ["holder"] = "Goran Tisch",
            ["date-of-birth"] = "1985-05-05",
            ["class"] = "Mate",
            ["issued"] = "2024-03-05",
            ["expires"] = "2026-03-05",
            ["examiner"] = "Frida Lund",
            ["tonnage-limit"] = "3000",
            ["sea-area"] = "North",
        },
        ["hot-work-permit"] = new()
        {
            ["permit-number"] = "HW-2024-031",
            ["berth"] = "TJA",
            ["work"] = "Welding",
            ["valid-from"] = "2024-03-05",
            ["valid-to"] = "2024-03-06",
            ["gas-free"] = "yes",
            ["fire-watch"] = "yes",
            ["fee"] = "45.00",
            ["responsible"] = "Emeric Vasse",
        },
        ["harbour-dues-statement"] = new()
        {
            ["statement-number"] = "HD-900001",
            ["payer"] = "Ebbwell Lines",
            ["issued"] = "2024-03-05",
            ["due"] = "2024-04-05",
            ["tax"] = "5",
            ["total"] = "30",
            ["account"] = "NO93 8601 1117 947",
            ["berth-dues"] = "25",
            ["services"] = """[{"service":"BD","quantity":"2","rate":"10","amount":"20"},{"service":"Frischwasser","amount":"5"}]""",
        },
    };

    private Judgement Judge(string code, params (string Field, string? Text)[] changes)
    {
        var record = Sound[code].ToDictionary();
        foreach (var (field, text) in changes)
            if (text is null)
                record.Remove(field);
            else
                record[field] = text;
        var type = _house.Designs.Published[code].Type;
        return type.Judge(
            RecordJudge.Texts(type, record),
            _house.Designs.Now(EntryChannel.Desk, "me") with
            {
                Today = new DateOnly(2024, 6, 1),
            }
        );
    }

    [Fact]
    public void A_sound_record_of_every_type_is_accepted_cleaned_and_named()
    {
        foreach (var code in Sound.Keys)
        {
            var judged = Judge(code);
            Assert.True(!judged.All.Any(), $"{code}: {string.Join(" ", judged.All.Select(p => p.Message))}");
        }
        Assert.Equal("Dangerous goods/2024/DG-2024-0107 UN1203", Judge("dangerous-goods-note").Placement.Path);
        Assert.Equal("Soundings/Outer Roads/2024-03-05 SS-00318", Judge("sounding-sheet").Placement.Path);
        Assert.Equal("Hot work/2024/Tanker Jetty A/HW-2024-031 2024-03-05", Judge("hot-work-permit").Placement.Path);
        // The sub-type is named by what it refines; the count of soundings is computed.
        Assert.Equal("Pilotage certificates/Mate/PC-0413 Goran Tisch", Judge("deep-sea-pilotage-certificate").Placement.Path);
        Assert.Equal("3", Judge("sounding-sheet").Values[_house.Designs.Published["sounding-sheet"].Type.OrdinalOf("points")].Text);
    }

    [Theory]
    [InlineData("dangerous-goods-note", "class", "1.1", "required-when")]
    [InlineData("dangerous-goods-note", "class", "Class 1 Explosives", "not-a-leaf")]
    [InlineData("dangerous-goods-note", "master-signed", "no", "formula")]
    [InlineData("dangerous-goods-note", "loaded", "2024-06-02", "date-not-future")]
    [InlineData("dangerous-goods-note", "containers", """[{"container":"CSQU3054384"}]""", "check-digit")]
    [InlineData("dangerous-goods-note", "un-number", "1203", "pattern")]
    [InlineData("sounding-sheet", "soundings", """[{"point":"A1","depth":"9"}]""", "how-many")]
    [InlineData(
        "sounding-sheet",
        "soundings",
        """[{"point":"A1","depth":"9"},{"point":"A2","depth":"121"},{"point":"A3","depth":"9"}]""",
        "above-greatest"
    )]
    [InlineData("pilotage-certificate", "expires", "2024-03-05", "compare")]
    [InlineData("pilotage-certificate", "expires", "2029-03-06", "compare")]
    [InlineData("pilotage-certificate", "examiner", null, "required-when")]
    [InlineData("pilotage-certificate", "class", "Cadet", "required-when")]
    [InlineData("deep-sea-pilotage-certificate", "examiner", null, "required")]
    [InlineData("deep-sea-pilotage-certificate", "tonnage-limit", "2999", "below-least")]
    [InlineData("deep-sea-pilotage-certificate", "sea-area", null, "required")]
    [InlineData("hot-work-permit", "valid-to", "2024-03-07", "compare")]
    [InlineData("hot-work-permit", "gas-free", "no", "formula")]
    [InlineData("hot-work-permit", "gas-free", null, "filled")]
    [InlineData("hot-work-permit", "fee", "45.001 EUR", "amount-places")]
    [InlineData("hot-work-permit", "fee", "45 GBP", "currency-not-taken")]
    [InlineData("harbour-dues-statement", "due", "2024-03-04", "compare")]
    [InlineData("harbour-dues-statement", "payer", "Nobody & Sons", "not-in-table")]
    [InlineData("harbour-dues-statement", "account", "NO94 8601 1117 947", "check-digit")]
    [InlineData("harbour-dues-statement", "services", """[{"service":"BD","quantity":"2","rate":"10","amount":"25"}]""", "multiplies")]
    [InlineData("harbour-dues-statement", "services", """[{"service":"BD","amount":"24"}]""", "adds-up")]
    public void A_type_refuses_what_its_design_says(string code, string field, string? text, string problem)
    {
        var judged = Judge(code, (field, text));
        var found = judged.Problems.FirstOrDefault(p => p.Code == problem);
        Assert.True(found is not null, string.Join("; ", judged.Problems.Select(p => $"{p.Code}: {p.Message}")));
        foreach (var (language, _) in Messages.Languages)
            Assert.NotEmpty(found!.In(language));
    }

    [Fact]
    public void Away_from_the_tanker_jetties_no_gas_free_certificate_is_needed_and_a_migration_may_bring_what_is_still_to_come()
    {
        Assert.Empty(Judge("hot-work-permit", ("berth", "NQ1"), ("gas-free", null)).Problems);
        var type = _house.Designs.Published["dangerous-goods-note"].Type;
        var record = Sound["dangerous-goods-note"]
            .Append(new("loaded", "2999-01-01"))
            .GroupBy(p => p.Key)
            .ToDictionary(g => g.Key, g => g.Last().Value);
        Assert.Contains(
            type.Judge(RecordJudge.Texts(type, record), _house.Designs.Now(EntryChannel.Desk, "me")).Problems,
            p => p.Code == "date-not-future"
        );
        Assert.DoesNotContain(
            type.Judge(RecordJudge.Texts(type, record), _house.Designs.Now(EntryChannel.Migration, "me")).Problems,
            p => p.Code == "date-not-future"
        );
    }

    [Fact]
    public void Messages_of_the_steward_stand_in_three_languages()
    {
        var problem = Judge("dangerous-goods-note", ("shipper-signed", "no")).Problems.Single(p => p.Code == "formula");
        Assert.Equal(
            [
                "Both signatures must be on the note.",
                "Beide Unterschriften müssen auf dem Schein stehen.",
                "Les deux signatures doivent figurer sur la note.",
            ],
            Messages.Languages.Select(l => problem.In(l.Code))
        );
    }

    [Fact]
    public void At_the_desk_values_come_from_the_batch_and_the_document_before()
    {
        var (first, second) = _house.Database.Write(c =>
        {
            var batch = BatchStore.Add(c, "Monday’s permits", "me", DateTimeOffset.UnixEpoch);
            long Add(Dictionary<string, string> record) =>
                DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = "permit.pdf",
                        TypeCode = "hot-work-permit",
                        Version = 1,
                        BatchId = batch,
                        Record = record,
                    },
                    []
                );
            return (
                Add(Sound["hot-work-permit"]),
                Add(
                    Sound["hot-work-permit"]
                        .Where(f => f.Key != "responsible")
                        .Select(f => f.Key == "permit-number" ? new("permit-number", "HW-2024-032") : f)
                        .ToDictionary()
                )
            );
        });
        string Value(long id, string field) =>
            _house.Desk.Find(id, "Tobias Finch") is { Judged: { } judged, Published: { } published }
                ? judged.Values[published.Type.OrdinalOf(field)].Text
                : "";
        Assert.Equal("Emeric Vasse", Value(second, "responsible"));
        Assert.Equal("Tobias Finch", Value(second, "entered-by"));
        Assert.Null(_house.Desk.SetValue(first, "responsible", "Dorte Engel", null, "me").Problem);
        Assert.Equal("Dorte Engel", Value(second, "responsible"));
        // The same permit number twice: must, and the other document is named for laying side by side.
        Assert.Null(_house.Desk.SetValue(second, "permit-number", "HW-2024-031", null, "me").Problem);
        var twin = _house.Desk.Find(second, "me")!.Judged!.Problems.Single(p => p.Code == "unique");
        Assert.Equal((Level.Must, first), (twin.Level, twin.Other));
    }

    [Fact]
    public void A_register_that_knows_two_vessels_of_a_name_is_left_to_a_person()
    {
        Assert.Null(
            _house
                .Drafts.Change(
                    "vessel-call-record",
                    "by name",
                    "me",
                    t =>
                        t with
                        {
                            Fillings =
                            [
                                new Filling(
                                    "vessel-register",
                                    new Dictionary<string, string> { ["Vessel"] = "vessel" },
                                    new Dictionary<string, string> { ["Gross tonnage"] = "gross-tonnage", ["Vessel type"] = "vessel-type" },
                                    false
                                ),
                            ],
                        }
                )
                .Problem
        );
        Assert.Null(_house.Drafts.Publish("vessel-call-record", "me").Problem);
        var row = HarbourTables.Register.Rows[0];
        _house.Tables.Bring(
            "Vessel register",
            new TableDifference(
                HarbourTables.Register.Columns,
                [
                    [
                        .. row.Select(
                            (c, i) =>
                                i == 0 ? "9999993"
                                : i == 4 ? "77777"
                                : c
                        ),
                    ],
                ],
                [],
                [],
                0
            ),
            "me"
        );
        var type = _house.Designs.Published["vessel-call-record"].Type;
        var judged = type.Judge(
            RecordJudge.Texts(type, new Dictionary<string, string> { ["vessel"] = row[1] }),
            _house.Designs.Now(EntryChannel.Desk, "me")
        );
        Assert.Equal(row[3], judged.Values[type.OrdinalOf("vessel-type")].Text);
        Assert.True(judged.Values[type.OrdinalOf("gross-tonnage")].IsEmpty);
        Assert.Equal([row[4], "77777"], Assert.Single(type.Fillings.Choices(judged.Values, type.Type)).Values);
    }

    public void Dispose() => _house.Dispose();
}
