using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>
/// Where a draft's convention would put what waits: on the desk, in one batch, in an inventory; nothing is changed by looking.
/// </summary>
public sealed class PreviewTests : IDisposable
{
    private readonly House _house = new();

    public PreviewTests()
    {
        Assert.Null(_house.Drafts.Create("Slip", "me").Problem);
        Assert.Null(
            _house
                .Drafts.Change(
                    "slip",
                    "designed",
                    "me",
                    t =>
                        t with
                        {
                            Fields = [new WholeNumberField("number", "Number") { Required = true }, new TextField("vessel", "Vessel")],
                            Convention = new(
                                [Piece.Literal("Slips"), Piece.Inside, Piece.Of("vessel")],
                                [
                                    new Piece(PieceKind.Counter) { Digits = 3, Scope = CounterScope.Everywhere },
                                    Piece.Literal(" "),
                                    Piece.Of("number"),
                                ]
                            ),
                        }
                )
                .Problem
        );
        Assert.Null(_house.Drafts.Publish("slip", "me").Problem);
    }

    private DocumentType Draft => _house.Designs.Find("slip")!.Draft;

    private long Waiting(int number, string vessel, long? batch = null) =>
        _house.Database.Write(c =>
            DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = $"{number}.txt",
                    TypeCode = "slip",
                    BatchId = batch,
                    Record = new Dictionary<string, string> { ["number"] = $"{number}", ["vessel"] = vessel },
                },
                []
            )
        );

    private async Task<long> Inventory(int rows, Func<int, string> vessel)
    {
        var csv = "Path,Number,Ship\r\n" + string.Concat(Enumerable.Range(1, rows).Select(n => $"Q:\\{n}.tif,{n},{vessel(n)}\r\n"));
        var brought = await _house.Migrations.ImportAsync(
            new BroughtFile("old.csv", () => new MemoryStream(System.Text.Encoding.UTF8.GetBytes(csv))),
            "me"
        );
        Assert.Null(
            _house
                .Migrations.SetPlan(
                    brought.Value,
                    new MigrationPlan("slip", [new CrosswalkLine("Number", "number", []), new CrosswalkLine("Ship", "vessel", [])], []),
                    "me"
                )
                .Problem
        );
        return brought.Value;
    }

    [Fact]
    public void The_desk_and_each_batch_are_shown_beside_what_is_filed()
    {
        Assert.Equal(["samples"], _house.Preview.Sources("slip").Select(s => s.Key));
        Assert.True(_house.Filer.File(Waiting(1, "Corvina"), "me").Ok);
        var (monday, tuesday) = _house.Database.Write(c =>
            (BatchStore.Add(c, "Monday post", "me", DateTimeOffset.UtcNow), BatchStore.Add(c, "Tuesday post", "me", DateTimeOffset.UtcNow))
        );
        Waiting(2, "Corvina", monday);
        Waiting(3, "Skua", monday);
        Waiting(4, "Skua", tuesday);
        Waiting(5, "", tuesday);
        Assert.Equal(["desk", $"batch-{monday}", $"batch-{tuesday}", "samples"], _house.Preview.Sources("slip").Select(s => s.Key));
        Assert.Equal("the batch Monday post, 2 documents", _house.Preview.Sources("slip")[1].Name);

        var all = _house.Preview.Of(Draft, "desk", "me");
        // The one without a vessel has no place, and is shown with the reason where there is room.
        Assert.Equal((3, 1), (all.Added, all.Held));
        Assert.Contains(_house.Preview.Of(Draft, $"batch-{tuesday}", "me").First, p => p.Problem?.Code == "path-hole");
        Assert.Equal(
            (1, 1, false),
            (all.Tree.Find("Slips/Corvina")!.Here, all.Tree.Find("Slips/Corvina")!.AddedHere, all.Tree.Find("Slips/Corvina")!.IsNew)
        );
        Assert.True(all.Tree.Find("Slips/Skua")!.IsNew);
        Assert.Equal((1, 3, 2), (all.Tree.Root.All, all.Tree.Root.AddedAll, all.Tree.Depth));
        // Numbers go on from what is filed, and are not taken by looking.
        Assert.Equal(["002 2.pdf", "003 3.pdf", "004 4.pdf"], all.Documents.Select(d => d.Name).Order());
        Assert.Equal(["002 4.pdf"], _house.Preview.Of(Draft, $"batch-{tuesday}", "me").Documents.Select(d => d.Name));
        Assert.Equal(1, _house.Database.Read(c => CounterStore.Last(c, "type:slip")));
    }

    [Fact]
    public async Task Fifty_thousand_rows_are_drawn_as_a_few_lines_that_unfold()
    {
        var id = await Inventory(50_000, n => n % 50 == 0 ? "Crowded" : $"Vessel {n % 997}");
        var preview = _house.Preview.Of(Draft, $"inventory-{id}", "me");
        Assert.Equal((50_000, 0), (preview.Added, preview.Held));
        Assert.Equal(50_000, preview.Documents.DistinctBy(d => $"{d.Folder}/{d.Name}").Count());
        var lines = preview.Tree.Lines(26, new Dictionary<string, bool>());
        Assert.InRange(lines.Count, 3, 60);
        var slips = lines[0].Folder!;
        Assert.Equal(("Slips", 50_000), (slips.Name, slips.AddedAll));
        Assert.Equal(1_000, preview.Tree.Find("Slips/Crowded")!.HereAfter);
        // What is not drawn is counted, and is drawn when it is asked for.
        var rest = Assert.Single(lines, l => l.Rest > 0);
        Assert.Equal(slips.Inside.Count, lines.Count(l => l.Parent == 0 && l.Rest == 0) + rest.Rest);
        Assert.Equal(
            slips.Inside.Count,
            preview.Tree.Lines(26, new Dictionary<string, bool> { ["Slips/*"] = true }).Count(l => l.Parent == 0)
        );
        Assert.Single(preview.Tree.Lines(26, new Dictionary<string, bool> { ["Slips"] = false }));
        // Unfolding costs no second walk through the rows; a changed draft does.
        Assert.Same(preview, _house.Preview.Of(Draft, $"inventory-{id}", "me"));
        Assert.NotSame(
            preview,
            _house.Preview.Of(Draft with { Convention = Draft.Convention with { Folder = [] } }, $"inventory-{id}", "me")
        );
    }

    public void Dispose() => _house.Dispose();
}
