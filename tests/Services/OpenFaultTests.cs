using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Services.Tests;

/// <summary>Faults of the services that are known and open, each with the case that shows it.</summary>
public sealed class OpenFaultTests : IDisposable
{
    private readonly House _house = new();

    public OpenFaultTests()
    {
        Assert.Null(_house.Drafts.Create("Slip", "bob").Problem);
        Change(t =>
            t with
            {
                Fields = [new WholeNumberField("number", "Number") { Required = true, Max = "100" }, new TextField("vessel", "Vessel")],
                Convention = new([Piece.Literal("Slips")], [Piece.Of("number")]),
            }
        );
        Assert.Null(_house.Publishing.Publish("slip", 0, ForExisting.Keep, "bob").Problem);
        for (var n = 1; n <= 10; n++)
            Assert.Null(_house.Filer.File(Waiting(n), "bob").Problem);
    }

    private long Waiting(int n) =>
        _house.Database.Write(c =>
            DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "x",
                    TypeCode = "slip",
                    Record = new Dictionary<string, string> { ["number"] = $"{n}", ["vessel"] = n % 2 == 0 ? "" : "Grey Heron" },
                },
                []
            )
        );

    private void Change(Func<DocumentType, DocumentType> change, string code = "slip") =>
        Assert.Null(_house.Drafts.Change(code, "changed", "bob", t => change(t)).Problem);

    private async Task<Consequences> Look(string code)
    {
        await _house.Publishing.StartLook(code).Value!.Completion;
        return _house.Publishing.Last(code)!.Result;
    }

    /// <summary>What was read with less trust than its field needs is looked at before it is filed.</summary>
    [Fact]
    public void F63_what_is_not_trusted_is_not_ready()
    {
        var id = Waiting(11);
        _house.Database.Write(c =>
        {
            var document = DocumentStore.Find(c, id)!;
            var place = new Evidence(1, new Box(0.1, 0.1, 0.1, 0.1), "11", "recognised", 0.4);
            DocumentStore.Save(c, document with { Evidence = new Dictionary<string, Evidence> { ["number"] = place } });
        });
        OpenFault.Shows(63, () => Assert.Empty(_house.FilingRuns.Look("bob", null).Ready));
    }

    /// <summary>What a group would do to documents is looked at before it is published.</summary>
    [Fact]
    public async Task F102_a_look_at_a_group_looks_at_the_documents_of_those_that_take_it()
    {
        Assert.Null(_house.Drafts.Create("Facts", "bob", group: true).Problem);
        Change(t => t with { Fields = [new TextField("why", "Why")] }, "facts");
        Assert.Null(_house.Publishing.Publish("facts", 0, ForExisting.Keep, "bob").Problem);
        Change(t => t with { Groups = ["facts"] });
        await Look("slip");
        Assert.Null(_house.Publishing.Publish("slip", 1, ForExisting.Recheck, "bob").Problem);
        if (_house.Jobs.Running(Designs.Subject("slip")) is { } recheck)
            await recheck.Completion;
        Change(t => t with { Fields = [new TextField("why", "Why") { Required = true }] }, "facts");
        await OpenFault.Shows(
            102,
            async () =>
            {
                await (_house.Publishing.StartLook("facts").Value?.Completion ?? Task.CompletedTask);
                Assert.Equal(10, _house.Publishing.Last("facts")?.Result.Failing);
            }
        );
    }

    /// <summary>A document that keeps its version is shown by it.</summary>
    [Fact]
    public void F103_a_kept_document_shows_its_values()
    {
        Change(t => t with { Fields = [t.Fields[0], new TextField("ship", "Ship")] });
        Assert.Null(_house.Publishing.Publish("slip", 1, ForExisting.Keep, "bob").Problem);
        OpenFault.Shows(103, () => Assert.NotNull(_house.Desk.Find(1, "ann")!.Published!.Type.Type.Find("vessel")));
    }

    /// <summary>A design file that is brought back leaves an open draft as it is.</summary>
    [Fact]
    public void F104_an_import_leaves_open_drafts()
    {
        Change(t => t with { Fields = [.. t.Fields, new TextField("agent", "Agent")] });
        var file = _house.Files.Export();
        Assert.Null(_house.Files.Import(file, "ann").Problem);
        OpenFault.Shows(104, () => Assert.NotNull(_house.Designs.Find("slip")!.Draft.Find("agent")));
    }

    /// <summary>What moves is counted whether or not it fails: a re-file moves it all the same.</summary>
    [Fact]
    public Task F105_a_look_counts_what_moves() =>
        OpenFault.Shows(
            105,
            async () =>
            {
                Change(t =>
                    t with
                    {
                        Fields = [(RangedField)t.Fields[0] with { Max = "9" }, t.Fields[1]],
                        Convention = new([Piece.Literal("New")], t.Convention.Name),
                    }
                );
                var looked = await Look("slip");
                Assert.Equal((1, 10), (looked.Failing, looked.Moved));
            }
        );

    /// <summary>The heading of a spreadsheet is no term.</summary>
    [Fact]
    public void F108_pasted_terms_know_their_heading() =>
        OpenFault.Shows(
            108,
            () =>
                Assert.Equal(
                    ["North Quay"],
                    PastedTerms.Parse("label\tlabel@de\tcode\nNorth Quay\tNordkai\tNQ", []).Terms.Select(t => t.Label)
                )
        );

    /// <summary>A number behind a currency is an amount; two texts make no pattern.</summary>
    [Fact]
    public void F110_guesses_are_not_sure_of_two_values() =>
        OpenFault.Shows(
            110,
            () =>
            {
                var (fields, _) = PastedFields.Read(
                    "Insured\tReference\nEUR 120,000.00\tMOORED1COILED\nEUR 80,000.00\tSLIPED2TOWING",
                    new Dictionary<string, VocabularyIndex>()
                );
                Assert.Equal(FieldKind.Amount, fields[0].Field.Kind);
                Assert.Null((fields[1].Field as TextField)?.Pattern);
            }
        );

    /// <summary>A sentence calls a term by the label that it has.</summary>
    [Fact]
    public void F111_sentences_follow_a_renamed_term()
    {
        Assert.Null(_house.Vocabularies.Create("Knots", "Bowline\nReef", "bob").Problem);
        var filled = new Dictionary<string, string> { ["fields"] = "vessel", ["how"] = "all" };
        Change(t =>
            t with
            {
                Fields = [.. t.Fields, new TermField("knot", "Knot") { Vocabulary = "knots" }],
                Rules = [new Rule("r1", "filled", Level.Must, filled) { When = new(Joined.All, [new("knot", Operator.Is, "Bowline")]) }],
            }
        );
        var term = _house.Designs.Vocabularies["knots"].Find("Bowline")!;
        Assert.Null(_house.Vocabularies.Apply("knots", v => VocabularyEditing.Put(v, term with { Label = "Round turn" }), "bob").Problem);
        var draft = _house.Designs.Find("slip")!.Draft;
        OpenFault.Shows(111, () => Assert.Contains("Round turn", RuleKinds.Sentence(draft.Rules[0], draft)));
    }

    /// <summary>An undo says whose act it takes back.</summary>
    [Fact]
    public void F112_an_undo_names_whose_act_it_takes_back()
    {
        Change(t => t with { Name = "Slip of paper" });
        OpenFault.Shows(112, () => Assert.Contains("bob", _house.Drafts.Undo("slip", "ann")));
    }

    public void Dispose() => _house.Dispose();
}
