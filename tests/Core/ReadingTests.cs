using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;

namespace ClearLexicon.Core.Tests;

public class ReadingTests
{
    private const double W = 595,
        H = 842;

    private static readonly DocumentType Type = new(
        "t",
        "T",
        [new TextField("number", "Number") { Pattern = @"\d{7}" }, new TextField("vessel", "Vessel")],
        [],
        Conventions.Convention.Empty
    );

    private static readonly Reader Reader = new(
        "r",
        "R",
        "t",
        [new Clue("Vessel Call", At(50, 60, 90)), new Clue("Departure", At(50, 500, 60)), new Clue("Master", At(480, 500, 40))],
        [new Zone("number", At(200, 150, 120)), new Zone("vessel", At(200, 190, 120))],
        [
            new CrosswalkLine("number", "number", [new CleaningStep("look-alikes")]),
            new CrosswalkLine("vessel", "vessel", [new CleaningStep("drop-words", "Name:")]),
        ]
    );

    private static Box At(double x, double y, double w, double h = 14) => new(x / W, y / H, w / W, h / H);

    /// <summary>The page the reader was taught on, then turned, scaled and shifted as a scanner would.</summary>
    private static PageText Page(
        double degrees = 0,
        double dx = 0,
        double dy = 0,
        double scale = 1,
        params (string Text, double X, double Y)[] more
    )
    {
        var turn = degrees * Math.PI / 180;
        Word Moved(string text, double x, double y, double w)
        {
            double cx = x + w / 2 - W / 2,
                cy = y + 7 - H / 2;
            double nx = scale * (cx * Math.Cos(turn) - cy * Math.Sin(turn)) + W / 2 + dx,
                ny = scale * (cx * Math.Sin(turn) + cy * Math.Cos(turn)) + H / 2 + dy;
            return new Word(text, At(nx - w / 2, ny - 7, w));
        }
        return new PageText(
            W,
            H,
            [
                Moved("Vessel", 50, 60, 45),
                Moved("Call", 100, 60, 40),
                Moved("9O74729", 205, 150, 60),
                Moved("Name:", 205, 190, 30),
                Moved("Grey", 240, 190, 28),
                Moved("Heron", 272, 190, 34),
                Moved("Departure", 50, 500, 60),
                Moved("Master", 480, 500, 40),
                .. more.Select(m => Moved(m.Text, m.X, m.Y, 40)),
            ],
            "recognised"
        );
    }

    [Theory]
    [InlineData(0, 0, 0, 1)]
    [InlineData(2, 0, 0, 1)]
    [InlineData(-2, 12, -9, 1)]
    [InlineData(1, -20, 25, 0.96)]
    public void Zones_are_read_whatever_the_scanner_did(double degrees, double dx, double dy, double scale)
    {
        var page = Page(degrees, dx, dy, scale);
        var claim = Recognition.Try(page, Reader);
        Assert.True(claim.Holds);
        Assert.Equal(degrees, Registration.Fit(page, claim.Matches).SkewDegrees, 0.2);
        var read = DocumentReading.Read([(3, page)], 3, claim, Type).Values;
        Assert.Equal("9074729", read[0].Text);
        Assert.Equal("Grey Heron", read[1].Text);
        Assert.Equal("Name: Grey Heron", read[1].Evidence!.Raw);
        Assert.Equal(3, read[1].Evidence!.Page);
        Assert.True(read[1].Evidence!.Box.W > read[0].Evidence!.Box.W);
    }

    [Fact]
    public void Without_its_clues_a_skewed_page_is_read_wrong_so_registration_matters()
    {
        var page = Page(2, 12, -30);
        var blind = Reader with { Clues = [Reader.Clues[0] with { Box = page.Words[0].Box.Around(page.Words[1].Box) }] };
        Assert.NotEqual("9074729", DocumentReading.Read([(1, page)], 1, Recognition.Try(page, blind), Type).Values[0].Text);
    }

    [Fact]
    public void A_page_without_a_clue_is_not_claimed_and_a_misread_letter_is_forgiven()
    {
        var page = Page();
        var without = page with { Words = [.. page.Words.Where(w => w.Text != "Departure")] };
        Assert.Null(Recognition.Recognise(without, [Reader]));
        var misread = page with { Words = [.. page.Words.Select(w => w.Text == "Departure" ? w with { Text = "Depatture" } : w)] };
        Assert.NotNull(Recognition.Recognise(misread, [Reader]));
        var glued = page with { Words = [.. page.Words.Select(w => w.Text == "Departure" ? w with { Text = "of.Departure" } : w)] };
        Assert.NotNull(Recognition.Recognise(glued, [Reader]));
        var owned = page with { Words = [new Word("Pilot's", At(20, 20, 30)), .. page.Words] };
        Assert.True(Recognition.Try(owned, Reader with { Clues = [new Clue("Pilot's", At(20, 20, 30))] }).Holds);
        Assert.Null(Recognition.Recognise(page, [Reader with { Clues = [] }]));
    }

    [Fact]
    public void The_reader_with_more_clues_claims_and_the_nearest_occurrence_counts()
    {
        var page = Page(0, 0, 0, 1, ("Departure", 300, 780));
        var vague = Reader with { Key = "vague", Clues = [Reader.Clues[0]] };
        var claim = Recognition.Recognise(page, [vague, Reader])!;
        Assert.Equal("r", claim.Reader.Key);
        Assert.Equal(500 / H, claim.Matches[1].Found!.Value.Y, 0.01);
    }

    [Fact]
    public void A_zone_one_line_too_high_reads_the_line_above_and_a_region_reads_what_is_in_it()
    {
        var page = Page(0, 0, 0, 1, ("above", 205, 170));
        var high = Reader with { Zones = [Reader.Zones[0], new Zone("vessel", At(200, 168, 120))] };
        Assert.Equal("above", DocumentReading.Read([(1, page)], 1, Recognition.Try(page, high), Type).Values[1].Text);
        Assert.Equal("9O74729 above", ZoneReading.ReadRegion(page, 1, At(200, 148, 120, 40))!.Raw);
        Assert.Null(ZoneReading.ReadRegion(page, 1, At(400, 300, 20)));
    }

    [Fact]
    public void A_zone_over_a_code_reads_the_code_and_not_the_words_beside_it()
    {
        var page = Page(1.2, 8, -6, 1.03) with
        {
            Codes =
            [
                new PageCode("Code 128", "9074729", Page(1.2, 8, -6, 1.03).Words[2].Box),
                new PageCode("QR", "elsewhere", At(400, 300, 40)),
            ],
        };
        var read = DocumentReading.Read([(1, page)], 1, Recognition.Try(page, Reader), Type).Values;
        Assert.Equal(("9074729", "Code 128", 1), (read[0].Text, read[0].Evidence!.Method, read[0].Evidence!.Confidence));
        Assert.Equal("recognised", read[1].Evidence!.Method);
        Assert.Equal("elsewhere", ZoneReading.ReadRegion(page, 1, At(390, 290, 80, 80))!.Raw);
    }

    /// <summary>A field may need more trust than others, or less; what a person has looked at needs nothing more.</summary>
    [Theory]
    [InlineData(null, false)]
    [InlineData(0.6, true)]
    [InlineData(0.99, false)]
    [InlineData(NeededTrust.Always, false)]
    public void A_field_says_how_much_trust_it_needs(double? least, bool sure)
    {
        var page = Page();
        page = page with { Words = [.. page.Words.Select(w => w with { Confidence = 0.7 })] };
        var reader = Reader with { Trust = least is { } share ? [new NeededTrust("vessel", share)] : [] };
        var read = DocumentReading.Read([(1, page)], 1, Recognition.Try(page, reader), Type);
        var evidence = read.Of("vessel")!.Evidence!;
        Assert.Equal(sure, evidence.IsSure);
        Assert.Equal(sure, evidence.Doubt.Length == 0);
        Assert.False(read.Of("number")!.Evidence!.IsSure);
        Assert.True(evidence.LookedAt().IsSure);
        // It goes with the record, and says nothing where it is the usual.
        var written = System.Text.Json.JsonSerializer.Serialize(evidence);
        Assert.Equal(least is not null, written.Contains("Needed", StringComparison.Ordinal));
        Assert.Equal(sure, System.Text.Json.JsonSerializer.Deserialize<Evidence>(written)!.IsSure);
    }

    [Fact]
    public void The_proof_tells_right_wrong_and_empty()
    {
        var row = Proof.Try(
            "s",
            Page(),
            Reader,
            Type,
            new Dictionary<string, string>
            {
                ["number"] = "9074729",
                ["vessel"] = "Corvina",
                ["gone"] = "x",
            }
        );
        Assert.Equal([Outcome.Right, Outcome.Wrong], row.Cells.Select(c => c.Outcome));
        Assert.Equal(1, Proof.Share([row], "number"));
        Assert.Equal(0, Proof.Share([row], "vessel"));
        Assert.Null(Proof.Share([row], "gone"));
        // How often “sure” was wrong: one of two here; of a hundred values with one wrong among the less sure, the others are told apart.
        Assert.Equal((2, 1), Proof.Sure([row]));
        Assert.Equal((1, 0), Proof.Sure([row], "number"));
        ProofCell Cell(double sure, Outcome outcome) => new("f", outcome, "x", "x", new Evidence(1, default, "x", "recognised", sure));
        ProofRow Rows(double wrong) =>
            new(
                "s",
                PageRole.First,
                [.. Enumerable.Repeat(Cell(0.97, Outcome.Right), 150), Cell(wrong, Outcome.Wrong), Cell(wrong, Outcome.Wrong)]
            );
        Assert.Equal(0.86, Proof.SureFrom([Rows(0.85)]));
        Assert.Null(Proof.SureFrom([Rows(1)]));
        Assert.Equal(Evidence.Sure, Proof.SureFrom([Rows(0.3)]));
        Assert.Null(Proof.SureFrom([row]));
        var unclaimed = Proof.Try("s", Page() with { Words = [] }, Reader, Type, new Dictionary<string, string> { ["number"] = "1" });
        Assert.False(unclaimed.Claimed);
        Assert.Equal(Outcome.Empty, unclaimed.Cells[0].Outcome);
        Assert.Equal(Outcome.Right, Proof.Compare(new DecimalField("d", "D"), new CapturedValue("d", "12.50", null), "12.5").Outcome);
    }
}
