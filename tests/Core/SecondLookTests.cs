using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>What recognition was not sure of is read once more: only what several readings agree on is believed.</summary>
public sealed class SecondLookTests
{
    private static readonly VocabularyIndex Berths = new(
        new Vocabulary("berths", "Berths", [new Term("North Quay 1", []), new Term("Coal Jetty", [])])
    );

    private static readonly Field[] Fields =
    [
        new TextField("reference", "Reference") { Pattern = "VC-[0-9]{4}-[0-9]{5}" },
        new DecimalField("total", "Total"),
        new TimeField("at", "At"),
        new TermField("berth", "Berth") { Vocabulary = "berths" },
        new TextField("remarks", "Remarks"),
    ];

    private sealed class Pictures(params string[][] says) : IPagePictures
    {
        public List<(int Page, Box Box, string Characters)> Asked { get; } = [];

        public IReadOnlyList<PrintedBox> Boxes(int page, Box region) => [];

        public Box? Handwriting(int page, Box region, IReadOnlyList<Box> printed) => null;

        public (Box Box, double Likeness)? Find(int page, PicturePatch patch, Box? region) => null;

        public IReadOnlyList<IReadOnlyList<string>> ReadAgain(IReadOnlyList<(int Page, Box Box, string Characters)> places)
        {
            Asked.AddRange(places);
            return [.. places.Select((_, i) => i < says.Length ? says[i] : [])];
        }
    }

    // A page with a zone for each value, a line apart.
    private static DocumentRead Read(Pictures? pictures, IReadOnlyList<Field> fields, params (string Text, double Sure)[] values)
    {
        Box At(int i) => new(0.1, 0.01 + i * 0.012, 0.3, 0.008);
        var words = values.Select((v, i) => new Word(v.Text, At(i), v.Sure)).ToList();
        var reader = new Reader(
            "r",
            "R",
            "note",
            [],
            [.. fields.Select((f, i) => new Zone(f.Key, At(i)))],
            [.. fields.Select(f => new CrosswalkLine(f.Key, f.Key, []))]
        );
        var page = new PageText(600, 850, words, "recognised");
        var context = new FinderContext
        {
            Pictures = pictures,
            Vocabularies = new Dictionary<string, VocabularyIndex> { ["berths"] = Berths },
        };
        return DocumentReading.Read([(1, page)], 1, Recognition.Try(page, reader), new TypeFields("note", [.. fields]), context);
    }

    /// <param name="read">What was read first, and how surely.</param>
    /// <param name="sure">From 0 to 1.</param>
    /// <param name="again">What it was read as again, with bars between.</param>
    /// <param name="taken">What is believed.</param>
    [Theory]
    [InlineData("VC-2024-0004Z", 0.9, "VC-2024-00042|VC-2024-00042|VC-2024-00047", "VC-2024-00042")]
    [InlineData("VC-2024-0004Z", 0.9, "No. VC-2024-00042.|VC-2024-00042 |x", "VC-2024-00042")]
    [InlineData("VC-2024-0004Z", 0.9, "VC-2024-00042|VC-2024-00047", "VC-2024-0004Z")]
    [InlineData("VC-2024-0004Z", 0.9, "VC-2024-00042", "VC-2024-0004Z")]
    [InlineData("VC-2024-0004Z", 0.9, "VC-2024-0004Z|VC-2024-0004Z", "VC-2024-0004Z")]
    [InlineData("VC-2024-00042", 0.4, "VC-2024-00047|VC-2024-00047|VC-2024-00042", "VC-2024-00042")]
    [InlineData("VC-2024-00042", 0.4, "VC-2024-00047|VC-2024-00047|VC-2024-00047", "VC-2024-00047")]
    [InlineData("VC-2024-00042", 0.4, "||\u0001|VC-2024-00042 VC-2024-00047", "VC-2024-00042")]
    public void What_several_readings_agree_on_and_what_fits_the_field_is_taken(string read, double sure, string again, string taken)
    {
        var pictures = new Pictures(again.Split('|'));
        var value = Read(pictures, Fields[..1], (read, sure)).Of("reference")!;
        Assert.Equal(taken, value.Text);
        Assert.Single(pictures.Asked);
        var before = Read(null, Fields[..1], (read, sure)).Of("reference")!;
        Assert.Equal((read, sure), (before.Text, before.Evidence!.Confidence));
        Assert.Equal(before.Evidence.Box, value.Evidence!.Box);
        if (taken != read)
        {
            Assert.Contains("read once more", value.How);
            Assert.InRange(value.Evidence.Confidence, 0.72, 0.93);
        }
    }

    [Fact]
    public void One_more_reading_of_what_was_read_makes_it_surer_and_no_more()
    {
        var value = Read(new Pictures(["VC-2024-00042"]), Fields[..1], ("VC-2024-00042", 0.4)).Of("reference")!;
        Assert.Equal("VC-2024-00042", value.Text);
        Assert.True(value.Evidence!.IsSure);
        Assert.InRange(value.Evidence.Confidence, Evidence.Sure, 0.93);
        // Two and two are for a person.
        var torn = Read(new Pictures(["VC-2024-00047", "VC-2024-00047", "VC-2024-00042"]), Fields[..1], ("VC-2024-00042", 0.4))
            .Of("reference")!;
        Assert.False(torn.Evidence!.IsSure);
    }

    [Fact]
    public void Only_what_is_doubtful_is_asked_and_only_where_a_right_value_can_be_told()
    {
        var pictures = new Pictures(["125.50", "125.50"], ["14:30", "14:30"], ["Coal Jetty", "Coal Jetty"]);
        var read = Read(
            pictures,
            Fields,
            ("VC-2024-00042", 0.95),
            ("125.S0", 0.9),
            ("14:3O", 0.3),
            ("Coal-Jelly", 0.5),
            ("illegible scrawl", 0.1)
        );
        Assert.Equal(["0123456789.,-", "0123456789:", ""], pictures.Asked.Select(a => a.Characters));
        Assert.Equal(
            ["VC-2024-00042", "125.50", "14:30", "Coal Jetty", "illegible scrawl"],
            Fields.Select(f => read.Record.GetValueOrDefault(f.Key))
        );
        // A text layer says what it says.
        var layer = new Pictures();
        var page = new PageText(600, 850, [new Word("125.S0", new Box(0.1, 0.1, 0.2, 0.01), 1)], "text layer");
        var reader = new Reader(
            "r",
            "R",
            "note",
            [],
            [new Zone("total", new Box(0.1, 0.1, 0.2, 0.01))],
            [new CrosswalkLine("total", "total", [])]
        );
        DocumentReading.Read(
            [(1, page)],
            1,
            Recognition.Try(page, reader),
            new TypeFields("note", [.. Fields]),
            new FinderContext { Pictures = layer }
        );
        Assert.Empty(layer.Asked);
    }

    [Fact]
    public void A_page_that_is_unreadable_as_a_whole_is_not_read_a_hundred_times()
    {
        var pictures = new Pictures();
        Field[] many = [.. Enumerable.Range(0, 75).Select(i => new DecimalField($"n{i}", $"N {i}"))];
        var read = Read(pictures, many, [.. many.Select(_ => ("l2S", 0.2))]);
        Assert.InRange(pictures.Asked.Count, 20, 60);
        Assert.All(many, f => Assert.Equal("l2S", read.Of(f.Key)!.Text));
    }
}
