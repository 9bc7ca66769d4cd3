using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Stacks;

namespace ClearLexicon.Core.Tests;

/// <summary>How a page lies, and which clues hold.</summary>
public class PlacementTests
{
    // A4 in tenths of a millimetre.
    private const double W = 2100,
        H = 2970;

    private static Box At(double x, double y, double w = 200, double h = 40) => new(x / W, y / H, w / W, h / H);

    private static readonly Clue[] Marks =
    [
        new("Harbour", At(150, 150)),
        new("Master", At(1700, 220)),
        new("Declared", At(200, 1500)),
        new("Berth", At(1600, 1400)),
        new("Signature", At(180, 2700)),
        new("Office", At(1650, 2650)),
    ];

    private sealed record Lay(double Degrees, double Dx, double Dy, double ScaleX, double ScaleY)
    {
        public Box Of(Box box)
        {
            var (sin, cos) = Math.SinCos(Degrees * Math.PI / 180);
            double x = (box.CentreX * W - W / 2) * ScaleX,
                y = (box.CentreY * H - H / 2) * ScaleY;
            return new Box(
                (x * cos - y * sin + W / 2 + Dx) / W - box.W / 2,
                (x * sin + y * cos + H / 2 + Dy) / H - box.H / 2,
                box.W,
                box.H
            );
        }
    }

    [Fact]
    public void A_page_that_was_shifted_turned_and_stretched_by_axis_is_placed_within_three_tenths_of_a_millimetre()
    {
        var random = new Random(5);
        double Within(double most) => (random.NextDouble() * 2 - 1) * most;
        var worst = 0.0;
        for (var run = 0; run < 2_000; run++)
        {
            var stretched = run % 2 == 0;
            var scale = 1 + Within(0.04);
            var lay = new Lay(Within(4), Within(120), Within(150), scale, stretched ? scale * (1 + Within(0.04)) : scale);
            // Words are found to a tenth of a millimetre; every third page has one that was found somewhere else.
            var found = Marks
                .Select(m => new ClueMatch(
                    m,
                    lay.Of(m.Box) is var b ? b with { X = b.X + Within(1) / W, Y = b.Y + Within(1) / H } : default
                ))
                .ToList();
            if (run % 3 == 0)
                found[random.Next(found.Count)] = new ClueMatch(Marks[0], At(random.Next(2000), random.Next(2900)));
            var fit = Registration.Fit(new PageText(W, H, [], "recognised"), found);
            foreach (var (x, y) in new[] { (300, 400), (1800, 400), (1000, 1500), (300, 2600), (1800, 2600) })
            {
                var taught = At(x, y);
                var back = fit.ToTaught(lay.Of(taught));
                worst = Math.Max(
                    worst,
                    Math.Sqrt(Math.Pow((back.CentreX - taught.CentreX) * W, 2) + Math.Pow((back.CentreY - taught.CentreY) * H, 2))
                );
                var there = fit.FromTaught(taught);
                Assert.True(there.Contains(lay.Of(taught).CentreX, lay.Of(taught).CentreY));
            }
            Assert.InRange(fit.ErrorMillimetres, 0, 0.3);
            Assert.Equal(lay.Degrees, fit.SkewDegrees, stretched ? 0.4 : 0.1);
        }
        Assert.InRange(worst / 10, 0, 0.3);
    }

    [Fact]
    public void Landmarks_in_one_place_on_one_line_or_far_off_the_page_give_a_map_all_the_same()
    {
        var odd = new[]
        {
            Enumerable.Repeat(At(100, 100), 9).ToArray(),
            [.. Enumerable.Range(0, 9).Select(i => At(100, 100 + i * 200))],
            [new Box(1e9, -1e9, 0, 0), new Box(double.NaN, 0, 0, 0), .. Marks.Select(m => m.Box)],
            [.. Enumerable.Range(0, 300).Select(i => At(i * 977 % 2100, i * 601 % 2970))],
        };
        foreach (var places in odd)
        {
            var matches = places.Select((p, i) => new ClueMatch(new Clue($"w{i}", Marks[i % 6].Box), p));
            var box = Registration.Fit(new PageText(W, H, [], "recognised"), matches).FromTaught(At(500, 500)).OnPage();
            Assert.InRange(box.X + box.W, 0, 1);
        }
        Assert.Equal(
            At(500, 500),
            Registration.Fit(new PageText(0, 0, [], ""), []).FromTaught(At(500, 500)) is var b && double.IsNaN(b.X) ? At(500, 500) : b
        );
    }

    private static Word Say(string text, double x, double y) => new(text, At(x, y));

    private static PageText Page(params Word[] words) => new(W, H, words, "recognised");

    private static readonly DocumentType Type = new("t", "T", [new TextField("depth", "Depth")], [], Conventions.Convention.Empty);

    [Fact]
    public void A_zone_goes_along_with_the_landmark_it_follows_and_missing_ones_lower_the_trust()
    {
        var reader = new Reader(
            "r",
            "R",
            "t",
            [new Clue("Soundings", At(150, 100))],
            [new Zone("depth", At(500, 1500, 300, 60)) { Follows = "Declared" }],
            [new Cleaning.CrosswalkLine("depth", "depth", [])]
        )
        {
            Landmarks = Marks,
        };
        // The block with “Declared” slid down by six centimetres, the rest of the page did not.
        var words = Marks.Select(m => new Word(m.Text, m.Box with { Y = m.Text == "Declared" ? m.Box.Y + 600 / H : m.Box.Y }));
        var page = Page([Say("Soundings", 150, 100), .. words, Say("wrong", 550, 1510), Say("right", 550, 2110)]);
        DocumentRead Read(Reader r, PageText p) => DocumentReading.Read([(1, p)], 1, Recognition.Try(p, r), Type);
        Assert.Equal("right", Read(reader, page).Of("depth")!.Text);
        Assert.Equal("wrong", Read(reader with { Zones = [reader.Zones[0] with { Follows = "" }] }, page).Of("depth")!.Text);
        Assert.Equal("right", Read(reader with { Zones = [reader.Zones[0] with { Follows = Zone.Nearest }] }, page).Of("depth")!.Text);

        var torn = page with { Words = [.. page.Words.Where(w => w.Text is not ("Harbour" or "Office"))] };
        var read = Read(reader, torn);
        Assert.Equal(("right", 0.833), (read.Of("depth")!.Text, Math.Round(read.Of("depth")!.Evidence!.Confidence, 3)));
        Assert.Equal("2 of the 6 landmarks of R were not found: check that its zones are in the right place.", Assert.Single(read.Notices));
    }

    /// <summary>Clues of following and last pages claim nothing, move no zone, and say which page of a document is a stranger.</summary>
    [Fact]
    public void First_following_and_last_pages_are_asked_for_apart()
    {
        var reader = new Reader(
            "r",
            "R",
            "t",
            [
                new Clue("Soundings", At(150, 100)),
                new Clue("continued", At(900, 900)) { On = PageRole.Following },
                new Clue("Signed", At(150, 2000)) { On = PageRole.Last },
            ],
            [new Zone("depth", At(500, 1500, 300, 60))],
            [new Cleaning.CrosswalkLine("depth", "depth", [])]
        );
        // The word of a following page stands on the first one too, elsewhere; the zone stays where it is.
        var first = Page(Say("Soundings", 150, 100), Say("continued", 1500, 1700), Say("right", 550, 1510));
        var (following, last, strange) = (Page(Say("continued", 10, 10)), Page(Say("Signed", 10, 10)), Page(Say("Tides", 10, 10)));
        var claim = Recognition.Try(first, reader);
        Assert.True(claim.Holds);
        Assert.False(Recognition.Try(following, reader).Holds);
        Assert.True(Recognition.Try(following, reader).HoldsAs(PageRole.Following));
        Assert.Equal(
            (false, true),
            (PageRoles.Of(Recognition.Try(last, reader))!.Follows, PageRoles.Of(Recognition.Try(last, reader))!.Ends)
        );
        Assert.Null(PageRoles.Of(Recognition.Try(last, reader with { Clues = [reader.Clues[0]] })));
        DocumentRead Read(params PageText[] pages) => DocumentReading.Read([.. pages.Select((p, i) => (i + 1, p))], 1, claim, Type);
        Assert.Equal("right", Read(first, following, last).Of("depth")!.Text);
        Assert.Empty(Read(first, following, last).Notices);
        Assert.Equal(
            [
                "Page 2 does not look like a following page of R: “continued” is not on this page.",
                "Page 3 does not look like the last page of R: “Signed” is not on this page.",
            ],
            Read(first, strange, following).Notices
        );
        Assert.Equal("Page 1 does not look like the last page of R: “Signed” is not on this page.", Assert.Single(Read(first).Notices));
    }

    [Fact]
    public void Clues_ask_for_words_where_they_must_be_for_one_of_several_for_absence_and_for_codes()
    {
        var page = Page(Say("Soundings", 150, 100), Say("Copy", 1800, 2800)) with
        {
            Codes = [new PageCode("Code 39", "SS-12", At(1500, 200))],
        };
        bool Holds(params Clue[] clues) => Recognition.Try(page, new Reader("r", "R", "t", clues, [], [])).Holds;
        var title = new Clue("Soundings", At(150, 100));
        Assert.True(Holds(title));
        Assert.True(Holds(title with { InRegion = true }));
        Assert.False(Holds(title with { InRegion = true, Box = At(150, 2000) }));
        Assert.True(Holds(title with { Text = "Peilungen", Or = ["Sondages", "Sounding's", "Soundimgs"] }));
        Assert.False(Holds(title with { Text = "Soundimgs", Exact = true }));
        Assert.True(Holds(title with { Text = "Soundimgs" }));
        Assert.False(Holds(title, new Clue("Copy", At(0, 0)) { Absent = true }));
        Assert.True(Holds(title, new Clue("Draft", At(0, 0)) { Absent = true }));
        // What is not there says nothing of what is.
        Assert.False(Holds(new Clue("Draft", At(0, 0)) { Absent = true }));
        var code = new Clue("sheet number", At(0, 0))
        {
            Kind = ClueKind.Code,
            Code = new CodeFilter { Pattern = @"SS-\d+" },
        };
        Assert.True(Holds(code));
        Assert.False(Holds(code with { Code = new CodeFilter { Kinds = ["QR"] } }));
        Assert.False(Holds(code with { Code = new CodeFilter { Pattern = "(" } }));
        Assert.False(Holds(new Clue("crest", At(0, 0)) { Kind = ClueKind.Picture, Picture = new PicturePatch(9, 9, new byte[81]) }));
        Assert.All(
            new[]
            {
                code with
                {
                    Code = null,
                },
                title with
                {
                    Text = "…",
                },
                new Clue("crest", default) { Kind = ClueKind.Picture },
            },
            c => Assert.NotNull(c.Finding)
        );
        Assert.Equal(
            "“Copy” is on this page and must not be",
            Recognition.Try(page, new Reader("r", "R", "t", [title, new Clue("Copy", default) { Absent = true }], [], [])).Failing!.Says
        );
    }

    [Fact]
    public void A_page_of_fifty_thousand_words_and_one_of_none_are_read_or_left_and_nothing_is_thrown()
    {
        var random = new Random(3);
        string[] some = ["depth", "in", "metres", "SS-12", "2024-03-03", "1,250.40", "of", "Soundings"];
        var words = Enumerable
            .Range(0, 50_000)
            .Select(_ => Say(some[random.Next(some.Length)], random.Next(2000), random.Next(2950)))
            .ToArray();
        var reader = new Reader(
            "r",
            "R",
            "t",
            [new Clue("Soundings", At(150, 100))],
            [new Zone("z", new Box(-3, 0.9, 9, 9)) { Follows = "nothing" }],
            [new Cleaning.CrosswalkLine("z", "depth", []), new("f", "depth", []), new("g", "gone", [])]
        )
        {
            // A landmark that never occurs, finders of one field that both fail, a line to a field that is gone.
            Landmarks = [new Clue("never printed", At(10, 10))],
            Finders = [new Finder("f", "beside") { Words = ["never"] }, new Finder("g", "shape") { Shape = "pattern", Pattern = "(" }],
        };
        foreach (var page in new[] { Page(words), Page() })
        {
            var claim = Recognition.Try(page, reader);
            Assert.Equal(page.Words.Count > 0, claim.Holds);
            var read = DocumentReading.Read([(1, page)], 1, claim, Type);
            Assert.All(read.Values, v => Assert.True(v.Evidence is null || v.Evidence.Box == v.Evidence.Box.OnPage()));
            _ = Proposals(page);
        }

        static object Proposals(PageText page) =>
            Core.Reading.Proposals.Proposing.From([page, page], Type, FinderContext.None).Values.Count
            + Core.Reading.Proposals.Piles.Group([page, page, page]).Count
            + Core.Reading.Proposals.Correcting.Places(page, new Dictionary<string, string> { ["depth"] = "nowhere" }, Type).Count;
    }

    [Fact]
    public void The_better_claim_wins_and_what_is_nearly_as_good_is_known()
    {
        var page = Page(Say("Harbour", 150, 100), Say("Dues", 400, 100), Say("Statement", 650, 100));
        var full = new Reader("full", "Full", "t", [new Clue("Harbour Dues", At(150, 100)), new Clue("Statement", At(650, 100))], [], []);
        var misread = full with { Key = "misread", Clues = [full.Clues[0], new Clue("Statemant", At(650, 100))] };
        var part = full with { Key = "part", Clues = [full.Clues[0]] };
        var claims = Recognition.Claims(page, [part, misread, full]);
        Assert.Equal(["full", "misread", "part"], claims.Select(c => c.Reader.Key));
        Assert.True(claims[0].Score - claims[1].Score < Recognition.TooClose);
        Assert.True(claims[0].Score - claims[2].Score > Recognition.TooClose);
    }
}
