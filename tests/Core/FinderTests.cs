using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>Values that have no fixed place: beside labels, by shape, from lists, marked, in rows.</summary>
public sealed partial class FinderTests
{
    private const double Width = 600;
    private const double Height = 850;

    private static readonly TableField Depths = new("depths", "Depths")
    {
        Columns = [new WholeNumberField("point", "Point"), new DecimalField("depth", "Depth"), new TextField("bottom", "Bottom")],
    };

    private static readonly TypeFields Type = new(
        "note",
        [
            new TextField("reference", "Reference") { Pattern = "VC-[0-9]{4}-[0-9]{5}" },
            new DateField("date", "Date"),
            new DecimalField("total", "Total"),
            new IdentifierField("imo", "Ship number") { Scheme = "imo" },
            new TermField("berth", "Berth") { Vocabulary = "berths" },
            new TermsField("cargo", "Cargo") { Vocabulary = "berths" },
            new YesNoField("pilot", "Pilot"),
            new TimeField("berthed", "Berthed at") { Cleaning = [new CleaningStep("read-time")] },
            Depths,
        ]
    );

    private static readonly VocabularyIndex Berths = new(
        new Vocabulary(
            "berths",
            "Berths",
            [new Term("North Quay 1", ["N. Quay 1"]), new Term("North Quay 12", []), new Term("Coal Jetty", [])]
        )
    );

    private static readonly FinderContext Context = new()
    {
        Vocabularies = new Dictionary<string, VocabularyIndex> { ["berths"] = Berths },
        Arrival = new Arrival("copier/scan_0042.pdf", new DateOnly(2024, 3, 5), "Tobias Finch", "Copier, second floor"),
    };

    // Lines of words at points; a bar begins the next words at the place it names: "12@300" is "12" at x = 300.
    private static PageText Page(params (double Y, string Line)[] lines)
    {
        var words = new List<Word>();
        foreach (var (y, line) in lines)
        {
            var x = 50.0;
            foreach (var piece in line.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            {
                var at = piece.LastIndexOf('@');
                if (at > 0)
                    x = double.Parse(piece[(at + 1)..]);
                var text = at > 0 ? piece[..at] : piece;
                words.Add(new Word(text, new Box(x / Width, y / Height, text.Length * 6 / Width, 10 / Height), 0.95));
                x += text.Length * 6 + 4;
            }
        }
        return new PageText(Width, Height, words, "recognised");
    }

    private static DocumentRead Read(
        IReadOnlyList<PageText> pages,
        FinderContext context,
        IReadOnlyList<Zone> zones,
        params (string Field, Finder Finder)[] finders
    )
    {
        var reader = new Reader("r", "R", "note", [], zones, [.. finders.Select(f => new CrosswalkLine(f.Finder.Key, f.Field, []))])
        {
            Finders = [.. finders.Select(f => f.Finder)],
        };
        return DocumentReading.Read([.. pages.Select((p, i) => (i + 1, p))], 1, Recognition.Try(pages[0], reader), Type, context);
    }

    private static string? Found(string field, Finder finder, params (double, string)[] lines) =>
        Read([Page(lines)], Context, [], (field, finder)).Record.GetValueOrDefault(field);

    private static Finder Beside(Side side, params string[] labels) => new("f", "beside") { Words = labels, Side = side };

    [Theory]
    [InlineData(Side.Right, "Our ref.: VC-2024-00042 of Friday")]
    [InlineData(Side.Right, "Our rcf: VC-2024-00042")]
    [InlineData(Side.Left, "VC-2024-00042 Our ref")]
    public void A_value_stands_beside_its_label_wherever_that_is(Side side, string line)
    {
        foreach (var y in new[] { 60.0, 400, 800 })
            Assert.Equal(
                "VC-2024-00042",
                Found("reference", Beside(side, "Reference number", "Our ref"), (30, "Reference is made"), (y, line))
            );
    }

    [Fact]
    public void Several_places_of_a_field_are_joined_and_each_of_them_stays_a_place_of_its_value()
    {
        Finder Part(string label) => new(label, "beside") { Words = [label], Shape = "text" };
        DocumentRead Joined(params PageText[] pages)
        {
            string[] parts = ["Year", "Month", "Day"];
            var reader = new Reader("r", "R", "note", [], [], [.. parts.Select(p => new CrosswalkLine(p, "date", []))])
            {
                Finders = [.. parts.Select(Part)],
                Joined = [new JoinedPlaces("date", "-")],
            };
            return DocumentReading.Read([.. pages.Select((p, i) => (i + 1, p))], 1, Recognition.Try(pages[0], reader), Type, Context);
        }
        var first = Page((100, "Day: 03"), (140, "Month: 11"));
        var read = Joined(first, Page((100, "Year: 2024")));
        Assert.Equal("2024-11-03", read.Record["date"]);
        Assert.Empty(read.Notices);
        // Hidden or marked, none of them is forgotten.
        var place = ZoneReading.Places(read.Values, 1)["date"];
        foreach (var word in first.Words.Where(w => w.Text is "03" or "11"))
            Assert.Contains(place.On(1), b => b.Overlaps(word.Box));
        Assert.NotEmpty(place.On(2));
        // What is missing leaves nothing behind, and one alone is itself.
        Assert.Equal("2024-03", Joined(Page((100, "Day: 03"), (140, "Year: 2024"))).Record["date"]);
        Assert.Equal("2024", Joined(Page((140, "Year: 2024"))).Record["date"]);
        Assert.False(Joined(Page((140, "Nothing"))).Record.ContainsKey("date"));
    }

    [Fact]
    public void It_ends_at_a_gap_and_where_another_label_begins_and_may_stand_above_or_below()
    {
        Finder vessel = Beside(Side.Right, "Vessel") with { Shape = "text" },
            date = new Finder("d", "beside") { Words = ["Arrived"] };
        var page = Page(
            (100, "Vessel: Grey Heron Arrived: 3 March 2024"),
            (140, "Vessel@400"),
            (154, "Anna@396 Marie"),
            (168, "elsewhere@50")
        );
        var read = Read([page], Context, [], ("reference", vessel), ("date", date));
        Assert.Equal("Grey Heron", read.Record["reference"]);
        Assert.Equal("3 March 2024", read.Record["date"]);
        Assert.Equal(
            "Anna Marie",
            Found(
                "reference",
                Beside(Side.Below, "Captain") with
                {
                    Shape = "text",
                },
                (140, "Vessel Captain@400"),
                (154, "Heron Anna@396 Marie")
            )
        );
        Assert.Equal(
            "Anna Marie",
            Found(
                "reference",
                Beside(Side.Above, "Captain") with
                {
                    Shape = "text",
                },
                (126, "Heron Anna@396 Marie"),
                (140, "Vessel Captain@400")
            )
        );
        Assert.Null(Found("reference", Beside(Side.Right, "Captain") with { Shape = "date" }, (140, "Captain Anna Marie")));
    }

    [Fact]
    public void A_label_in_a_heading_or_a_sentence_is_passed_over_for_one_with_a_value_that_fits()
    {
        var lines = new (double, string)[] { (40, "Things Found on the Quays"), (100, "Found@60 on 3@300 March 2024") };
        Finder found = new("d", "beside") { Words = ["Found on"] };
        Assert.Equal("3 March 2024", Found("date", found, lines));
        Assert.Equal("3 March 2024", Found("reference", found with { Shape = "text" }, lines));
        // When none has a value of that kind, what stands there is shown to a person.
        Assert.Equal("soon", Found("date", found, (100, "Found@60 on soon@300")));
    }

    [Theory]
    [InlineData("reference", "", Which.First, "VC-2024-00042")]
    [InlineData("date", "", Which.First, "2024-03-03")]
    [InlineData("date", "", Which.Last, "2024-03-09")]
    [InlineData("imo", "", Which.Only, "9074729")]
    [InlineData("total", "amount", Which.Largest, "1,250.40")]
    [InlineData("total", "amount", Which.Nearest, "250.08")]
    [InlineData("total", "amount", Which.Only, null)]
    [InlineData("berthed", "", Which.First, "7.45 am")]
    [InlineData("berthed", "", Which.Last, "16:20")]
    public void A_value_is_told_by_its_shape(string field, string shape, Which which, string? expected) =>
        Assert.Equal(
            expected,
            Found(
                field,
                new Finder("f", "shape")
                {
                    Shape = shape,
                    Which = which,
                    Words = ["of which tax"],
                },
                (40, "Dear Sirs, XVC-2024-000421 call VC-2024-00042 of 2024-03-03"),
                (60, "ship 9074728 or 9074729, sailed 2024-03-09 (part 12.03), 7.45 am to 16:20"),
                (80, "we ask for 1,250.40 to be paid, of which tax is 250.08 by Friday")
            )
        );

    [Theory]
    [InlineData("moved from North Quay 12 at noon", "North Quay 12")]
    [InlineData("lay at N. Quay 1 two days", "North Quay 1")]
    [InlineData("lay at CoaI Jettv two days", "Coal Jetty")]
    [InlineData("lay at Coa1 Jetty two days", "Coal Jetty")]
    [InlineData("lay at Coal Jety two days", "Coal Jetty")]
    [InlineData("lay at North Quay 13 two days", null)]
    public void An_entry_of_a_list_is_found_anywhere_the_longest_first_and_misread_letters_forgiven_but_no_digit(
        string line,
        string? expected
    ) => Assert.Equal(expected, Found("berth", new Finder("f", "list"), (40, "Dear Sirs"), (80, line)));

    [Fact]
    public void Rows_follow_their_headings_over_pages_and_cells_over_lines_until_the_table_ends()
    {
        var rows = new Finder("f", "rows")
        {
            Columns = [new RowColumn("point", ["No"]), new RowColumn("depth", ["Depth m", "Depth"]), new RowColumn("bottom", ["Bottom"])],
            Words = ["Least depth"],
            LeftOut = ["Carried forward"],
        };
        var lines = Enumerable.Range(1, 20).Select(i => (100 + i * 16.0, $"{i} {i / 10.0 + 4:0.0}@210 mud@380 and sand")).ToList();
        var first = Page([
            (60, "Survey of the basin"),
            (100, "No Depth@200 m Bottom@380"),
            .. lines,
            (432, "very@380 soft"),
            (445, "Carried@50 forward 90.0@210"),
        ]);
        var second = Page([
            (60, "No Depth@200 m Bottom@380"),
            (76, "21 6.1@210 rock@380"),
            (92, "Least depth 4.1@210"),
            (110, "99 9.9@210 no@380"),
        ]);
        var read = Read([first, second], Context, [], ("depths", rows));
        var table = TableText.Rows(read.Record["depths"])!;
        Assert.Equal(21, table.Count);
        Assert.Equal(("1", "4.1", "mud and sand"), (table[0]["point"], table[0]["depth"], table[0]["bottom"]));
        Assert.Equal("mud and sand very soft", table[19]["bottom"]);
        Assert.Equal(("21", "6.1", "rock"), (table[20]["point"], table[20]["depth"], table[20]["bottom"]));
        var evidence = read.Of("depths")!.Evidence!;
        Assert.Equal(63, evidence.Cells.Count);
        var cell = evidence.Cells.Single(c => c is { Row: 21, Column: "bottom" });
        Assert.Equal((2, "rock"), (cell.Page, cell.Raw));
        Assert.Equal(76 / Height, cell.Box.Y, 1e-9);
    }

    /// <summary>Groups stand under one another or side by side, go on over the page, lack a value, and end at words.</summary>
    [Fact]
    public void Groups_of_labels_repeat_down_the_page_and_each_is_a_row()
    {
        var groups = new Finder("f", "groups")
        {
            Columns = [new RowColumn("bottom", ["Bottom"]), new RowColumn("point", ["Sounding No"]), new RowColumn("depth", ["Depth"])],
            Words = ["End of soundings"],
            LeftOut = ["cancelled"],
        };
        var first = Page([
            (40, "Soundings of the basin, Depth as charted"),
            (60, "Sounding@40 No: 1@130 Sounding@300 No: 2@390"),
            (76, "Depth@40 4.1 m@130 Depth@300 5.25@390"),
            (92, "Bottom@40 mud@130 and sand Bottom@300 rock@390"),
            (130, "Sounding@40 No: 3@130 cancelled Sounding@300 No: 4@390"),
            (146, "Depth@300 6.0@390"),
            (200, "Sounding@40 No: 5@130"),
        ]);
        var second = Page([
            (60, "Depth@40 7.5@130"),
            (76, "Bottom@40 gravel@130"),
            (100, "End of soundings"),
            (120, "Sounding@40 No: 9@130"),
        ]);
        var read = Read([first, second], Context, [], ("depths", groups));
        var table = TableText.Rows(read.Record["depths"])!;
        string Shown(IReadOnlyDictionary<string, string> row) =>
            string.Join(' ', new[] { "point", "depth", "bottom" }.Select(c => row.GetValueOrDefault(c) ?? "–"));
        Assert.Equal(["1 4.1 mud and sand", "2 5.25 rock", "4 6.0 –", "5 7.5 gravel"], table.Select(Shown));
        var evidence = read.Of("depths")!.Evidence!;
        Assert.Equal((2, "gravel"), evidence.Cells.Where(c => c is { Row: 4, Column: "bottom" }).Select(c => (c.Page, c.Raw)).Single());
        Assert.Equal(1, evidence.Cells.Single(c => c is { Row: 4, Column: "point" }).Page);
        Assert.Null(Read([Page((40, "Nothing of the kind"))], Context, [], ("depths", groups)).Of("depths")?.Evidence);
    }

    /// <summary>A page that is nothing but labels gives no more rows than a table takes, and does not keep anybody waiting.</summary>
    [Theory]
    [InlineData("groups")]
    [InlineData("rows")]
    public void Fifty_thousand_labels_on_a_page_are_no_burden(string kind)
    {
        var finder = new Finder("f", kind) { Columns = [new RowColumn("point", ["No"]), new RowColumn("depth", ["Depth"])] };
        var random = new Random(8);
        var words = Enumerable
            .Range(0, 50_000)
            .Select(i => new Word(
                i % 4 == 0 ? "No"
                    : i % 4 == 1 ? "Depth"
                    : $"{i}",
                new Box(random.NextDouble() * 0.95, random.NextDouble() * 0.98, 0.03, 0.01)
            ));
        var read = Read([new PageText(600, 800, [.. words], "recognised")], Context, [], ("depths", finder));
        Assert.InRange(TableText.Rows(read.Record.GetValueOrDefault("depths"))?.Count ?? 0, 0, Cleaning.FieldReader.MostRows);
    }

    [Fact]
    public void Boxes_say_what_stands_behind_them_and_a_doubtful_one_is_trusted_less()
    {
        var page = Page((100, "North@80 Quay 1 Coal@280 Jetty"));
        Zone[] region = [new Zone("f", new Box(0, 0.1, 1, 0.05))];
        PrintedBox At(double x, double ink) => new(new Box(x / Width, 99 / Height, 12 / Width, 12 / Height), ink);
        CapturedValue Marked(string field, params PrintedBox[] boxes) =>
            Read([page], Context with { Pictures = new Drawn(boxes) }, region, (field, new Finder("f", "mark"))).Of(field)!;

        Assert.Equal("Coal Jetty", Marked("berth", At(62, 0.01), At(262, 0.3)).Text);
        Assert.Equal("", Marked("berth", At(62, 0.01), At(262, 0.02)).Text);
        var both = Marked("berth", At(62, 0.2), At(262, 0.3));
        Assert.True(both.Text == "Coal Jetty" && both.Evidence!.Confidence < 0.5);
        Assert.Equal("North Quay 1; Coal Jetty", Marked("cargo", At(62, 0.2), At(262, 0.3)).Text);
        Assert.Equal("yes", Marked("pilot", At(62, 0.2)).Text);
        Assert.Equal("no", Marked("pilot", At(62, 0.0)).Text);
        Assert.True(Marked("pilot", At(62, 0.05)).Evidence!.Confidence < 0.5);

        // Of a pair whose other box was taken for a letter the filled one says what stands beside it; an empty one says nothing.
        page = Page((100, "[_]yes@80 no@280"));
        Assert.Equal("no", Marked("pilot", At(262, 0.3)).Text);
        Assert.Equal("", Marked("pilot", At(262, 0.0)).Text);
    }

    [Fact]
    public void The_first_that_fits_is_taken_and_another_that_says_something_else_is_told()
    {
        var page = Page((40, "Ref VC-2024-00042"), (60, "No VC-2024-00043"), (80, "Word heron"));
        Finder F(string key, string label) => new(key, "beside") { Words = [label], Shape = "text" };
        var read = Read([page], Context, [], ("reference", F("a", "Word")), ("reference", F("b", "Ref")), ("reference", F("c", "No")));
        Assert.Equal("VC-2024-00042", read.Record["reference"]);
        Assert.Contains("VC-2024-00043", Assert.Single(read.Notices));
        Assert.True(read.Of("reference")!.Evidence!.Confidence < 0.6);
    }

    [Theory]
    [InlineData("reference", "name", "{*}_{value}.pdf", "0042")]
    [InlineData("reference", "name", "{*}_{value}.tif", null)]
    [InlineData("reference", "constant", "VC-2024-00001", "VC-2024-00001")]
    [InlineData("date", "day", "", "2024-03-05")]
    [InlineData("reference", "person", "", "Tobias Finch")]
    [InlineData("reference", "way-in", "", "Copier, second floor")]
    public void A_value_comes_from_around_the_document(string field, string kind, string text, string? expected)
    {
        Assert.Equal(expected, Found(field, new Finder("n", kind) { Text = text }, (40, "x")));
        // Of a sample nobody knows how it came.
        var unknown = Read([Page((40, "x"))], FinderContext.None, [], (field, new Finder("n", kind) { Text = text }));
        Assert.Equal(kind == "constant" ? expected : null, unknown.Record.GetValueOrDefault(field));
    }

    [Fact]
    public void A_field_is_filled_from_another_with_its_place_and_fields_that_ask_one_another_end()
    {
        var page = Page((40, "Ref VC-2024-00042"), (60, "Sailed 2024-03-09"));
        Finder From(string key, string other) => new(key, "field") { Text = other };
        var read = Read(
            [page],
            Context,
            [],
            ("reference", From("r", "date")),
            ("date", new Finder("d", "shape")),
            ("cargo", From("c", "berth")),
            ("berth", From("b", "cargo")),
            ("pilot", From("p", "gone")),
            // One of two that ask each other has a place of its own: then both have its value, whichever is asked first.
            ("total", From("t", "imo")),
            ("imo", From("i", "total")),
            ("imo", new Finder("n", "constant") { Text = "9074729" })
        );
        Assert.Equal(("2024-03-09", "2024-03-09"), (read.Record["reference"], read.Record["date"]));
        Assert.Equal(read.Of("date")!.Evidence!.Box, read.Of("reference")!.Evidence!.Box);
        Assert.Equal(["date", "imo", "reference", "total"], read.Record.Keys.Order(StringComparer.Ordinal));
        Assert.Equal(("9074729", "9074729"), (read.Record["imo"], read.Record["total"]));
        Assert.Equal("from Date", read.Of("reference")!.How);
    }

    [Fact]
    public void A_zone_lies_on_the_first_the_following_or_the_last_page_as_the_words_of_such_pages_say()
    {
        PageText Last(double down) =>
            Page((600 + down, "Signed@50 for@90 the@120 harbour@150"), (640 + down, "Tern@60"), (20, "Sum@50 250.08@300"));
        PageText[] pages =
        [
            Page((40, "Ledger@50 of@120 calls@150"), (80, "VC-2024-00042@50"), (640, "Gull@60")),
            Page((40, "Sheet@50 behind@120 it@180"), (80, "2024-03-09@50"), (640, "Puffin@60")),
            Last(30),
        ];
        Clue On(PageRole role, int page, int word) =>
            new(pages[page].Words[word].Text, (page == 2 ? Last(0) : pages[page]).Words[word].Box) { On = role };
        Box At(PageText page, string word) => page.Words.First(w => w.Text == word).Box;
        var reader = new Reader(
            "r",
            "R",
            "note",
            [On(PageRole.First, 0, 0), On(PageRole.Following, 1, 0), On(PageRole.Last, 2, 0), On(PageRole.Last, 2, 3)],
            [
                new Zone("a", At(pages[0], "VC-2024-00042")),
                new Zone("b", At(pages[1], "2024-03-09")) { On = PageRole.Following },
                new Zone("c", At(Last(0), "Tern")) { On = PageRole.Last },
            ],
            [new CrosswalkLine("a", "reference", []), new CrosswalkLine("b", "date", []), new CrosswalkLine("c", "pilot", [])]
        );
        DocumentRead Of(params PageText[] of) =>
            DocumentReading.Read([.. of.Select((p, i) => (i + 1, p))], 1, Recognition.Try(of[0], reader), Type, Context);
        var read = Of(pages);
        Assert.Equal(["VC-2024-00042", "2024-03-09", "Tern"], read.Values.Select(v => v.Text));
        Assert.Equal([1, 2, 3], read.Values.Select(v => v.Evidence!.Page));
        // What is not there has its empty place on its own page, and a document without such a page has none.
        var without = Of(pages[0], pages[1] with { Words = [.. pages[1].Words.Take(3)] }, pages[2]);
        Assert.Equal((2, "empty"), ZoneReading.Places(without.Values, 1)["date"] is var e ? (e.Page, e.Method) : default);
        Assert.Equal(["reference"], Of(pages[0]).Record.Keys);
        // A page by itself is read for what lies on such pages, and proved so.
        var truth = new Dictionary<string, string> { ["pilot"] = "Tern" };
        var proved = Proof.Try("s", pages[2], reader, Type, truth, Context);
        Assert.Equal((PageRole.Last, Outcome.Right), (proved.Role, Assert.Single(proved.Cells).Outcome));
        Assert.Equal(Outcome.Empty, Assert.Single(Proof.Try("s", pages[1], reader, Type, truth, Context).Cells).Outcome);
    }

    [Fact]
    public void A_doubtful_value_is_taken_from_readings_that_agree_and_fit_and_a_cell_is_built_as_its_column()
    {
        var page = Page((40, "Total@50 8552.3S@120"), (60, "Ref@50 VC-2024-00O42@120"));
        Finder total = new("t", "beside") { Words = ["Total"], Shape = "text" },
            reference = new Finder("r", "beside") { Words = ["Ref"], Shape = "text" };
        var again = new Drawn([])
        {
            Again =
            [
                ["8523.55", "_ 8523.55 .", "8528.55", "x"],
                ["VC-2024-00042", "VC-2024-00842"],
            ],
        };
        var read = Read([page], Context with { Pictures = again }, [], ("total", total), ("reference", reference));
        Assert.Equal("8523.55", read.Record["total"]);
        // One reading each way agrees with nothing.
        Assert.Equal("VC-2024-00O42", read.Record["reference"]);

        var shape = new ColumnShape(["A1", "A2", "A3", "A12", "A11", "B1", "B12", "Bll"]);
        Assert.Equal(("B11", null, null), (shape.Repaired("Bll"), shape.Repaired("B11"), shape.Repaired("rock")));
        Assert.False(new ColumnShape(["sand", "mud", "A1", "7.5", "x y", "9", "-"]).Says);
    }

    [Fact]
    public void All_places_of_a_restricted_value_are_covered_on_whatever_page_a_finder_found_them()
    {
        var pages = new[] { Page((40, "Ref@50 VC-2024-00042")), Page((70, "No@50 VC-2024-00O43"), (90, "plain@50")) };
        Finder F(string key, string label) => new(key, "beside") { Words = [label], Shape = "text" };
        var read = Read(pages, Context, [], ("reference", F("a", "Ref")), ("reference", F("b", "No")), ("total", F("c", "Sum")));
        var places = ZoneReading.Places(read.Values, 1);
        // What was not found anywhere has no place; it must not count as one when somebody types the value.
        Assert.Equal(["reference"], places.Keys);
        var field = new FieldReader(
            new TextField("reference", "Reference") { Restricted = true },
            new Dictionary<string, VocabularyIndex>()
        );
        var redaction = new Redaction([field], new HashSet<string>(), read.Record, places);
        foreach (var (page, number) in pages.Select((p, i) => (p, i + 1)))
            Assert.Contains(redaction.Masks(page, number), m => m == page.Words[1].Box);
        Assert.DoesNotContain(redaction.Masks(pages[1], 2), m => m.Overlaps(pages[1].Words[2].Box));
    }

    /// <summary>Typing breaks the tie between a value and its place; a slip put right keeps it, and showing the place ties it
    /// anew.</summary>
    [Fact]
    public void A_value_typed_over_what_was_read_has_no_place_until_somebody_shows_it()
    {
        var field = new FieldReader(new TextField("name", "Name") { Restricted = true }, new Dictionary<string, VocabularyIndex>());
        var read = new Evidence(1, new Box(0.1, 0.1, 0.2, 0.05), "Birgit. Solheim", "recognised", 0.8);
        Redaction Of(string text, Evidence place) =>
            new(
                [field],
                new HashSet<string>(),
                new Dictionary<string, string> { ["name"] = text },
                new Dictionary<string, Evidence> { ["name"] = place }
            );
        var page = new PageText(100, 100, [new Word("Birgit.", new Box(0.1, 0.1, 0.1, 0.05))], "recognised");
        var typed = Evidence.AfterTyping(new Dictionary<string, Evidence> { ["name"] = read }, "name")["name"];
        Assert.Empty(Of("Birgit. Solheim", read).Unplaced);
        Assert.Empty(Of("Birgit Solheim", typed).Unplaced);
        Assert.Equal(["name"], Of("Ottar Lunde", typed).Unplaced);
        Assert.Equal([new Box(0, 0, 1, 1)], Of("Ottar Lunde", typed).Masks(page, 1));
        var shown = new Evidence(2, new Box(0.5, 0.5, 0.2, 0.05), "", "marked", 1).After(typed);
        Assert.Empty(Of("Ottar Lunde", shown).Unplaced);
        // What stood where it was read stays hidden.
        Assert.Contains(read.Box, Of("Ottar Lunde", shown).Masks(page, 1));
        Assert.Contains(shown.Box, Of("Ottar Lunde", shown).Masks(page, 2));
        Assert.Empty(Evidence.AfterTyping(new Dictionary<string, Evidence> { ["name"] = Evidence.NoPlace }, "name"));
    }

    [Fact]
    public void Whatever_stands_on_a_page_no_finder_throws_nor_points_beside_it()
    {
        string[] scraps =
        [
            "Ref",
            "No",
            "Depth",
            "VC-2024-00042",
            "12",
            "1,2",
            "…",
            "(",
            "North",
            "Quay",
            "3",
            "March",
            "2024",
            "\ud800",
            "ﬁ",
            "",
            "9074729",
            "Total",
        ];
        var random = new Random(1204);
        for (var round = 0; round < 400; round++)
        {
            Word Any() =>
                new(
                    string.Concat(Enumerable.Range(0, random.Next(1, 3)).Select(_ => scraps[random.Next(scraps.Length)])),
                    new Box(
                        random.NextDouble() * 1.4 - 0.2,
                        random.NextDouble() * 1.4 - 0.2,
                        random.NextDouble() * 0.3 - 0.02,
                        random.NextDouble() * 0.1 - 0.01
                    ),
                    random.NextDouble()
                );
            PageText Soup() =>
                new(random.Next(0, 3) * 300, 800, [.. Enumerable.Range(0, random.Next(0, 60)).Select(_ => Any())], "recognised");
            var kind = FinderKinds.All[round % FinderKinds.All.Count].Code;
            foreach (var field in Type.Fields.Where(f => FinderKinds.For(f).Any(k => k.Code == kind)))
            {
                var finder = new Finder("f", kind)
                {
                    Words = ["Ref", "North Quay"],
                    Side = (Side)random.Next(4),
                    Which = (Which)random.Next(5),
                    Shape = Shapes.All[random.Next(Shapes.All.Count)].Code,
                    Pattern = "[A-Z]+",
                    Text = "{value}",
                    Columns = [new RowColumn("point", ["No"]), new RowColumn("depth", ["Depth", "Total"])],
                };
                Zone[] region = random.Next(2) == 0 ? [] : [new Zone("f", new Box(-3, 0.2, 5, 9))];
                var ink = new Drawn([new PrintedBox(new Box(0.1, 0.1, 0.02, 0.02), 0.5)]);
                foreach (var value in Read([Soup(), Soup()], Context with { Pictures = ink }, region, (field.Key, finder)).Values)
                    if (value.Evidence is { Page: > 0 } e)
                        Assert.True(
                            e.Box is { X: >= 0, Y: >= 0, W: >= 0, H: >= 0 } b && b.X + b.W <= 1.0001 && b.Y + b.H <= 1.0001,
                            $"{kind} {e.Box}"
                        );
            }
        }
    }

    [Theory]
    [InlineData("beside", "", "label")]
    [InlineData("shape", "text", "not a shape")]
    [InlineData("shape", "pattern", "pattern")]
    [InlineData("rows", "", "heading")]
    [InlineData("groups", "", "label")]
    [InlineData("name", "", "{value}")]
    [InlineData("divining", "", "divining")]
    public void What_a_finder_lacks_is_said(string kind, string shape, string says) =>
        Assert.Contains(says, new Finder("f", kind) { Shape = shape }.Finding, StringComparison.Ordinal);

    private sealed class Drawn(IReadOnlyList<PrintedBox> boxes) : IPagePictures
    {
        public (Box Box, double Likeness)? Find(int page, PicturePatch patch, Box? region) => null;

        public IReadOnlyList<PrintedBox> Boxes(int page, Box region) => boxes;

        public Box? Handwriting(int page, Box region, IReadOnlyList<Box> printed) => null;

        public IReadOnlyList<IReadOnlyList<string>> Again { get; init; } = [];

        public IReadOnlyList<IReadOnlyList<string>> ReadAgain(IReadOnlyList<(int Page, Box Box, string Characters)> places) =>
            [.. places.Select((_, i) => i < Again.Count ? Again[i] : [])];
    }
}
