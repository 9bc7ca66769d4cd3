using System.Net;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Migration;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using ClearLexicon.Web.Pages;

namespace ClearLexicon.Web.Tests;

/// <summary>What the forms of a document type's page do to its draft.</summary>
public sealed class DesignPageTests(HarbourApp app) : IAsyncLifetime
{
    private HttpClient _steward = null!;
    private string _code = "";

    public async ValueTask InitializeAsync()
    {
        _steward = await app.SignedIn(Roles.Steward);
        _code = app.Get<Drafts>().Create($"Page {Guid.NewGuid():N}"[..16], "test").Value!;
    }

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private DocumentType Draft => app.Get<Designs>().Find(_code)!.Draft;

    private Task<string> Send(string handler, params (string, string)[] fields) => Post("Type", handler, fields);

    private Task<string> Compose(string handler, params (string, string)[] fields) => Post("Convention", handler, fields);

    private async Task<string> Post(string page, string handler, (string, string)[] fields) =>
        WebUtility.HtmlDecode(
            await (
                await PageForms.Post(_steward, $"/Design/{page}/{_code}", $"/Design/{page}/{_code}?handler={handler}", fields)
            ).Content.ReadAsStringAsync()
        );

    private Task<string> Field(string label, string kind, params (string, string)[] more) =>
        Send("Field", [("label", label), ("kind", kind), .. more]);

    [Fact]
    public async Task A_field_keeps_only_what_its_kind_has()
    {
        await Field(
            "Gross tonnage",
            "WholeNumber",
            ("min", "50"),
            ("max", "900"),
            ("pattern", "x"),
            ("max-length", "4"),
            ("vocabulary", "berths"),
            ("default", "60"),
            ("help", " As certified. "),
            ("restricted", "on")
        );
        var field = Assert.Single(Draft.Fields);
        Assert.Equal(
            new WholeNumberField("gross-tonnage", "Gross tonnage")
            {
                Min = "50",
                Max = "900",
                Default = "60",
                Help = "As certified.",
                Restricted = true,
            },
            field
        );
        await Send(
            "Field",
            ("key", "gross-tonnage"),
            ("label", "Berth"),
            ("kind", "Term"),
            ("vocabulary", "berths"),
            ("min", "50"),
            ("required", "must")
        );
        Assert.Equal(new TermField("gross-tonnage", "Berth") { Vocabulary = "berths", Required = true }, Assert.Single(Draft.Fields));
    }

    [Theory]
    [InlineData("", "Text", "", "needs a label")]
    [InlineData("Again", "Text", "", "already")]
    [InlineData("New", "Poem", "", "Choose what the field holds")]
    [InlineData("New", "Text", "many", "not a number of characters")]
    public async Task A_field_that_cannot_be_says_why_and_what_was_typed_stays(string label, string kind, string maxLength, string reason)
    {
        await Field("Again", "Text");
        var page = await Field(label, kind, ("max-length", maxLength), ("help", "typed before"));
        Assert.Contains(reason, page);
        Assert.Contains("typed before", page);
        Assert.Single(Draft.Fields);
    }

    [Fact]
    public async Task A_changed_key_is_followed_by_rules_and_convention_and_undo_brings_all_back()
    {
        await Field("First", "Date");
        await Field("Second", "Date");
        await Send(
            "Rule",
            ("kind", "compare"),
            ("compare.first", "first"),
            ("compare.how", "at-most"),
            ("compare.second", "second"),
            ("compare.shift", ""),
            ("level", "Should"),
            ("message", "Look again.")
        );
        await Compose("Piece&line=name", ("text", "First"));
        var before = Draft;
        await Send("Field", ("key", "first"), ("new-key", "begun"), ("label", "Begun"), ("kind", "Date"));
        Assert.Equal("begun", Draft.Fields[0].Key);
        Assert.Equal(("begun", "second"), (Draft.Rules[0]["first"], Draft.Rules[0]["second"]));
        Assert.Equal((Level.Should, "Look again."), (Draft.Rules[0].Level, Draft.Rules[0].Message));
        Assert.Equal("begun", Draft.Convention.Name[0].Field);
        Assert.Contains("Undone: changed the field Begun", await Send("Undo"));
        Assert.Equal(Storage.Sql.ToJson(before), Storage.Sql.ToJson(Draft));
    }

    [Fact]
    public async Task Fields_are_moved_and_a_removed_one_leaves_findings_behind()
    {
        foreach (var label in new[] { "A", "B", "C" })
            await Field(label, "Decimal");
        await Send("Order", ("key", "c"), ("to", "0"));
        Assert.Equal(["c", "a", "b"], Draft.Fields.Select(f => f.Key));
        await Send("Order", ("key", "c"), ("to", "99"));
        Assert.Equal(["a", "b", "c"], Draft.Fields.Select(f => f.Key));
        await Send(
            "Rule",
            ("kind", "adds-up"),
            ("adds-up.parts", "a"),
            ("adds-up.parts", "b"),
            ("adds-up.total", "c"),
            ("adds-up.tolerance", "0.5")
        );
        Assert.Equal("a,b", Draft.Rules[0]["parts"]);
        Assert.Contains("the field “b” is no longer in this document type", await Send("RemoveField&key=b"));
        Assert.Contains("choose a field", await Send("Rule", ("id", "r1"), ("kind", "adds-up"), ("adds-up.total", "c")));
        await Send("RemoveRule&id=r1");
        Assert.Empty(Draft.Rules);
    }

    [Fact]
    public async Task The_convention_takes_labels_keys_text_and_the_counter()
    {
        await Field("Issued", "Date");
        await Field("Payer", "Text");
        foreach (var text in new[] { "Dues", "/", "issued" })
            await Compose("Piece&line=folder", ("text", text));
        foreach (var text in new[] { "payer", " no. ", "counter" })
            await Compose("Piece&line=name", ("text", text));
        Assert.Equal([PieceKind.Text, PieceKind.Inside, PieceKind.Field], Draft.Convention.Folder.Select(p => p.Kind));
        Assert.Equal([Piece.Of("payer"), Piece.Literal(" no. "), new Piece(PieceKind.Counter)], Draft.Convention.Name);
        Assert.Contains("belongs on the name line", await Compose("Piece&line=folder", ("text", "Counter")));
        Assert.Contains("cannot hold a folder", await Compose("Piece&line=name", ("text", "/")));

        await Compose("PieceOptions&line=folder&at=2", ("date-form", "yyyy-MM"), ("empty", "text"), ("if-empty", "undated"));
        await Compose("PieceOptions&line=name&at=0", ("case", "Upper"), ("max-length", "8"));
        await Compose("PieceOptions&line=name&at=2", ("digits", "4"));
        Assert.Equal(Piece.Of("issued") with { DateForm = "yyyy-MM", IfEmpty = "undated" }, Draft.Convention.Folder[2]);
        Assert.Equal(Piece.Of("payer") with { Case = LetterCase.Upper, MaxLength = 8 }, Draft.Convention.Name[0]);
        Assert.Contains("has a counter already", await Compose("Piece&line=name", ("text", "counter")));
        await Compose("MovePiece&line=name&at=2&by=-1");
        Assert.Equal(4, Draft.Convention.Name[1].Digits);
        await Compose("MovePiece&line=name&at=0&by=-1");
        await Compose("RemovePiece&line=name&at=1");
        Assert.Equal([PieceKind.Field, PieceKind.Text], Draft.Convention.Name.Select(p => p.Kind));
        Assert.Equal(
            "Dues / ‹Issued: 2024-03, else undated› / ‹Payer: first 8 characters, UPPER CASE› no. ",
            Pages.TypeModel.Outline(Draft)
        );
    }

    [Fact]
    public async Task Pieces_go_where_the_box_stands_and_take_every_option()
    {
        await Field("Payer", "Text");
        await Compose("Piece&line=name", ("text", "Payer"));
        await Compose("Piece&line=name", ("text", "original name"), ("at", "0"));
        await Compose("Piece&line=name", ("text", "_"), ("at", "1"));
        Assert.Equal([Piece.Of(SystemValue.OriginalName), Piece.Literal("_"), Piece.Of("payer")], Draft.Convention.Name);
        await Compose(
            "PieceOptions&line=name&at=2",
            ("extract", "Initials"),
            ("blanks", "none"),
            ("ascii", "on"),
            ("case", "Lower"),
            ("empty", "out"),
            ("shorten-to", "4"),
            ("only-filled", "payer")
        );
        Assert.Equal(
            Piece.Of("payer") with
            {
                Extract = Extract.Initials,
                Blanks = "",
                Ascii = true,
                Case = LetterCase.Lower,
                LeaveOut = true,
                ShortenTo = 4,
                OnlyWhenFilled = "payer",
            },
            Draft.Convention.Name[2]
        );
        await Compose("PieceOptions&line=name&at=0", ("part", "2"));
        Assert.Equal(2, Draft.Convention.Name[0].Part);
    }

    [Fact]
    public async Task Limits_and_collisions_are_chosen_and_contradictions_refused()
    {
        await Field("Number", "Text", ("required", "must"));
        await Compose("Piece&line=name", ("text", "Number"));
        await Compose("Limits", ("profile", "iso-9660"), ("collision", "Version"));
        Assert.Equal((PathLimits.Disc, Collision.Version), (Draft.Convention.Limits, Draft.Convention.Collision));
        await Compose(
            "Limits",
            ("profile", "own"),
            ("characters", "Posix"),
            ("refused", "# %"),
            ("segment", "60"),
            ("whole", "200"),
            ("depth", "4"),
            ("upper", "on"),
            ("substitute", "none")
        );
        var own = Draft.Convention.Limits!;
        Assert.Equal(
            ("own", NameCharacters.Posix, "#%", 60, 200, 4, true, ""),
            (own.Key, own.Characters, own.Refused, own.Segment, own.Whole, own.Depth, own.Upper, own.Substitute)
        );
        Assert.Contains("from 8 to 255 characters", await Compose("Limits", ("profile", "own"), ("segment", "900")));
        Assert.Equal(own, Draft.Convention.Limits);
        await Compose("Limits", ("profile", "file-share"));
        Assert.Null(Draft.Convention.Limits);
    }

    [Fact]
    public async Task The_tree_shows_what_an_inventory_would_add_and_why_each_row_lands_where_it_does()
    {
        await Field("Number", "Text", ("required", "must"));
        await Field("Day", "Date", ("required", "must"));
        foreach (var text in new[] { "Old", "/", "Day" })
            await Compose("Piece&line=folder", ("text", text));
        await Compose("PieceOptions&line=folder&at=2", ("date-form", "yyyy"), ("empty", "hold"));
        await Compose("Piece&line=name", ("text", "Number"));
        Assert.Contains("Version 1 is published", await Send("Publish"));
        var csv =
            "Path,Number,Day\r\n"
            + string.Concat(Enumerable.Range(1, 40).Select(n => $"Q:\\{n}.tif,N-{n},{1986 + n % 3}-01-05\r\n"))
            + "Q:\\x.tif,,1986-01-05\r\n";
        var brought = await app.Get<Migrations>()
            .ImportAsync(new BroughtFile("old.csv", () => new MemoryStream(System.Text.Encoding.UTF8.GetBytes(csv))), "test");
        Assert.Null(
            app.Get<Migrations>()
                .SetPlan(brought.Value, new(_code, [new("Number", "number", []), new("Day", "day", [])], []), "test")
                .Problem
        );

        async Task<string> Tree(string query = "") =>
            WebUtility.HtmlDecode(await _steward.GetStringAsync($"/Design/Convention/{_code}?{query}"));
        var page = await Tree();
        Assert.Contains("40 would be added, 1 have no place", page);
        Assert.Contains("1986, new, + 13 documents", page);
        page = await Tree("list=Old/1986");
        Assert.Contains("In 1986", page);
        Assert.Contains("N-3.tif", page);
        Assert.Matches(@"<dt>Day</dt>\s*<dd class=""mono"">1986-01-05 → 1986</dd>", page);
        Assert.Contains("Day: the month and the day cannot be read back", page);
        // Folders closed by hand stay closed.
        Assert.DoesNotContain("1986, new", await Tree("shut=Old"));
    }

    [Fact]
    public async Task A_design_is_checked_with_consequences_and_published_with_them_known()
    {
        await Field("Number", "Text", ("required", "must"));
        await Field("Note", "Text", ("shows", "yes"));
        await Compose("Piece&line=name", ("text", "Number"));
        var page = WebUtility.HtmlDecode(await _steward.GetStringAsync($"/Design/Check/{_code}"));
        Assert.Contains("data-code=\"field-unused\"", page);
        Assert.Contains($"href=\"/Design/Type/{_code}#row-note\"", page);
        Assert.Contains("People fill it in for nothing.", page);
        Assert.Contains("so there is nothing that could change", await _steward.GetStringAsync($"/Design/Publish/{_code}"));
        Assert.Contains("Version 1 is published", await Post("Publish", "", [("seen", "0")]));
        await Field("More", "Text");
        Assert.Contains("Not looked at yet", await _steward.GetStringAsync($"/Design/Publish/{_code}"));
        await Post("Publish", "Look", []);
        await Until.Holds(() => app.Get<Publishing>().Last(_code) is not null);
        Assert.Contains("Nothing that exists would be checked", await _steward.GetStringAsync($"/Design/Publish/{_code}"));
        Assert.StartsWith("What,Document or row", await _steward.GetStringAsync($"/Design/Publish/{_code}?handler=List"));
        Assert.Contains("has published version 1 in between", await Post("Publish", "", [("seen", "0")]));
        Assert.Contains("Version 2 is published", await Post("Publish", "", [("seen", "1"), ("existing", "Recheck")]));
    }

    [Fact]
    public async Task Paths_become_a_proposal_and_its_choices_are_taken()
    {
        var page = await Post("Paths", "", [("lines", "Dues/2024/0042 Grey Heron.pdf\n../x\nDues/2024/0043 Corvina.pdf")]);
        Assert.Contains("gives all 2 paths", page);
        Assert.Contains("Line 2, <span class=\"mono\">../x</span>, goes up", page);
        var ticket = System.Text.RegularExpressions.Regex.Match(page, "name=\"ticket\" value=\"([^\"]+)\"").Groups[1].Value;
        // The year that stands in both is kept as fixed text.
        Assert.Contains("id=\"fixed-2\"", page);
        await Post(
            "Paths",
            "Take",
            [
                ("ticket", ticket),
                ("fixed", "2"),
                ("label-number", "Dues number"),
                ("kind-number", "Text"),
                ("label-title", "Vessel"),
                ("kind-title", "Text"),
                ("label-date", "Date"),
                ("kind-date", "Date"),
            ]
        );
        Assert.Equal("Dues / 2024 / ‹Dues number: 4 digits› ‹Vessel›", Pages.TypeModel.Outline(Draft));
        Assert.Equal(["dues-number", "vessel"], Draft.Fields.Select(f => f.Key));
        Assert.Contains("has expired", await Post("Paths", "Take", [("ticket", ticket)]));
        Assert.Contains("No line is a path", await Post("Paths", "", [("lines", "../x")]));
        Assert.Contains("Nothing is published yet", await _steward.GetStringAsync($"/Design/Refile/{_code}"));
    }

    [Fact]
    public async Task Publishing_twice_without_a_change_is_refused_and_every_change_opens_a_draft()
    {
        await Field("Number", "Text", ("required", "must"));
        await Compose("Piece&line=name", ("text", "Number"));
        Assert.Contains("Version 1 is published", await Send("Publish"));
        Assert.Contains("Nothing has changed since version 1", await Send("Publish"));
        Assert.Contains("draft after version 1", await Field("More", "Text"));
        Assert.Contains("version 1, published", await Send("Undo"));
    }

    [Fact]
    public async Task A_part_that_somebody_else_changed_meanwhile_is_noticed_and_nothing_typed_is_lost()
    {
        await Field("Agent", "Text");
        await Field("Master", "Text");
        await Send("Rule", ("id", ""), ("kind", "filled"), ("level", "Must"), ("filled.fields", "agent"), ("filled.how", "all"));
        await Compose("Piece", ("line", "name"), ("text", "Agent"));
        var (agent, rule, convention) = (Seen.Of(Draft.Fields[0]), Seen.Of(Draft.Rules[0]), Seen.Of(Draft.Convention));

        // Another steward renames the field that this one has open.
        var (key, id) = ("agent", Draft.Rules[0].Id);
        await Send("Field", ("key", key), ("new-key", "ships-agent"), ("label", "Ship’s agent"), ("kind", "Text"), ("seen", agent));
        var page = await Send("Field", ("key", key), ("label", "Broker"), ("kind", "Text"), ("help", "typed meanwhile"), ("seen", agent));
        Assert.Contains("The field that you had open is no longer there: Maren Holt changed the field Ship’s agent", page);
        Assert.Contains("typed meanwhile", page);
        Assert.Equal(["ships-agent", "master"], Draft.Fields.Select(f => f.Key));
        // The rule followed the new name, so it is not the one that was opened either; nor is the convention.
        Assert.Contains(
            "This rule is not as you opened it",
            await Send(
                "Rule",
                ("id", id),
                ("kind", "filled"),
                ("level", "Should"),
                ("filled.fields", "ships-agent"),
                ("filled.how", "all"),
                ("seen", rule)
            )
        );
        Assert.Equal(Level.Must, Draft.Rules[0].Level);
        Assert.Contains(
            "This convention is not as you opened it",
            await Compose("RemovePiece", ("line", "name"), ("at", "0"), ("seen", convention))
        );
        Assert.Equal("ships-agent", Assert.Single(Draft.Convention.Name).Field);

        // Changed but still there: refused once, and taken when it is sent again from the page that came back.
        page = await Send("Field", ("key", "ships-agent"), ("label", "Broker"), ("kind", "Text"), ("seen", agent));
        Assert.Contains("This field is not as you opened it", page);
        Assert.Contains($"name=\"seen\" value=\"{Seen.Of(Draft.Fields[0])}\"", page);
        await Send("Field", ("key", "ships-agent"), ("label", "Broker"), ("kind", "Text"), ("seen", Seen.Of(Draft.Fields[0])));
        Assert.Equal("Broker", Draft.Fields[0].Label);
    }

    /// <summary>A changed key leaves limits and collisions of the convention as they are.</summary>
    [Fact]
    public async Task A_renamed_field_keeps_everything_else_of_the_convention()
    {
        await Field("Agent", "Text");
        await Field("Cargo", "Text");
        Assert.Null(
            app.Get<Drafts>()
                .Change(
                    _code,
                    "composed",
                    "test",
                    t =>
                        t with
                        {
                            Convention = new([], [Piece.Of("agent"), Piece.Of("cargo") with { OnlyWhenFilled = "agent" }])
                            {
                                Limits = PathLimits.Web,
                                Collision = Collision.Refuse,
                            },
                        }
                )
                .Problem
        );
        await Send("Field", ("key", "agent"), ("new-key", "broker"), ("label", "Broker"), ("kind", "Text"));
        Assert.Equal(
            (PathLimits.Web, Collision.Refuse, "broker"),
            (Draft.Convention.Limits, Draft.Convention.Collision, Draft.Convention.Name[1].OnlyWhenFilled)
        );
    }

    [Fact]
    public async Task A_mapping_is_written_line_by_line_and_says_what_is_wrong()
    {
        await Field("Agent", "Text");
        await Field("Number", "Text");
        await Compose("Piece", ("line", "name"), ("text", "Number"));
        await Send("Publish");
        await Send("Field", ("key", "agent"), ("new-key", "firm"), ("label", "Firm"), ("kind", "Text"));
        Assert.Contains(
            "Likely: Firm is what Agent was.",
            WebUtility.HtmlDecode(await _steward.GetStringAsync($"/Design/Publish/{_code}"))
        );
        Assert.Contains(
            "choose at least two fields",
            await Post("Publish", "Line", [("field", "firm"), ("how", "Joined"), ("from", "agent")])
        );
        Assert.Contains(
            "the part is a number",
            await Post("Publish", "Line", [("field", "firm"), ("how", "Part"), ("from", "agent"), ("part", "many")])
        );
        var page = await Post(
            "Publish",
            "Line",
            [
                ("field", "firm"),
                ("how", "Part"),
                ("from", "agent"),
                ("between", ","),
                ("part", "2"),
                ("rest", "on"),
                ("step-kind", "capitalise"),
                ("step-argument", ""),
            ]
        );
        Assert.Contains("Firm is part 2 and what follows of Agent, divided by “,”, then capitalise words", page);
        Assert.DoesNotContain("Likely:", page);
        Assert.DoesNotContain("divided by", await Post("Publish", "RemoveLine&field=firm", []));
    }

    /// <summary>
    /// The saved drawing needs nothing from elsewhere and holds nothing restricted, neither as text nor on the page's picture.
    /// </summary>
    [Fact]
    public async Task Threads_are_saved_as_a_drawing_that_stands_alone()
    {
        const string Address = "/Design/Threads/vessel-call-record";
        var document = app.Get<Database>().Read(c => DocumentStore.WithPages(c, "vessel-call-record", 1))[0];
        var answer = await _steward.GetAsync($"{Address}?document=document-{document.Id}&handler=Svg&follow=field-arrived");
        Assert.Equal("image/svg+xml", answer.Content.Headers.ContentType!.MediaType);
        var text = await answer.Content.ReadAsStringAsync();
        var svg = System.Xml.Linq.XDocument.Parse(text).Root!;
        Assert.Equal("http://www.w3.org/2000/svg", svg.Name.NamespaceName);
        Assert.All(
            svg.Descendants().SelectMany(e => e.Attributes()).Where(a => a.Name.LocalName == "href" && a.Value.Length > 0),
            a => Assert.StartsWith("data:", a.Value)
        );
        Assert.All(
            System.Text.RegularExpressions.Regex.Matches(text, @"url\(([^)]*)\)").Select(m => m.Groups[1].Value),
            u => Assert.Matches("^(data:|#hatch)", u)
        );
        Assert.Contains("--tide: #0f5c63", text);
        Assert.Contains($"Vessel Call Record: {document.Name}", WebUtility.HtmlDecode(text));
        Assert.Contains(document.Record["call-number"], text);
        Assert.DoesNotContain(document.Record["master"], text);

        var picture = await _steward.GetByteArrayAsync($"{Address}?document=document-{document.Id}&handler=Picture&number=1");
        using var bitmap = SkiaSharp.SKBitmap.Decode(picture);
        var box = document.Evidence["master"].Box;
        for (var x = box.X + 0.002; x < box.X + box.W - 0.002; x += 0.004)
            Assert.Equal(
                new SkiaSharp.SKColor(0x1d, 0x2b, 0x2f),
                bitmap.GetPixel((int)(x * bitmap.Width), (int)(box.CentreY * bitmap.Height))
            );
        Assert.Equal(HttpStatusCode.NotFound, (await _steward.GetAsync($"{Address}?handler=Picture&number=99")).StatusCode);
        Assert.Equal(HttpStatusCode.Redirect, (await (await app.SignedIn(Roles.Searcher)).GetAsync(Address)).StatusCode);
        Assert.Contains("Nothing to connect yet", await _steward.GetStringAsync($"/Design/Threads/{_code}"));
    }

    [Fact]
    public async Task A_large_type_answers_an_edit_with_little_and_each_row_when_it_is_opened()
    {
        app.Get<Drafts>()
            .Change(
                _code,
                "test",
                "test",
                type =>
                    type with
                    {
                        Fields =
                        [
                            .. Enumerable
                                .Range(0, 60)
                                .Select(i =>
                                    ((FieldKind[])[FieldKind.Text, FieldKind.WholeNumber, FieldKind.Decimal, FieldKind.Date])[i % 4]
                                        .New($"f{i}", $"Field number {i}") with
                                    {
                                        Help = "What the harbour office wants to know.",
                                    }
                                ),
                        ],
                        Rules =
                        [
                            .. Enumerable
                                .Range(0, 80)
                                .Select(i => new Rule(
                                    $"r{i}",
                                    "filled",
                                    Level.Must,
                                    new Dictionary<string, string> { ["fields"] = $"f{i % 60},f{(i + 7) % 60}", ["how"] = "one" }
                                )),
                        ],
                    }
            );
        using var edit = new HttpRequestMessage(HttpMethod.Post, $"/Design/Type/{_code}?handler=Field")
        {
            Content = new FormUrlEncodedContent(new Dictionary<string, string> { ["label"] = "One more", ["kind"] = "Text" }),
            Headers =
            {
                { "X-Antiforgery", await PageForms.AntiforgeryOf(_steward, $"/Design/Type/{_code}") },
                { "Accept-Encoding", "br" },
            },
        };
        var answer = await _steward.SendAsync(edit, TestContext.Current.CancellationToken);
        Assert.Equal(61, Draft.Fields.Count);
        Assert.Equal("br", answer.Content.Headers.ContentEncoding.Single());
        Assert.InRange((await answer.Content.ReadAsByteArrayAsync(TestContext.Current.CancellationToken)).Length, 1, 60_000);
        // Every row of the page, opened as its own address says, has its form and nothing of the page around it.
        var page = WebUtility.HtmlDecode(await _steward.GetStringAsync($"/Design/Type/{_code}", TestContext.Current.CancellationToken));
        var rows = Regex.Matches(page, "hx-get=\"\\?(handler=Row&[^\"]+)\"").Select(m => m.Groups[1].Value).ToList();
        Assert.Equal(61 + 80 + 2, rows.Count);
        foreach (
            var (row, holds) in new[]
            {
                (rows.First(r => r.EndsWith("what=field&key=f7", StringComparison.Ordinal)), "value=\"Field number 7\""),
                (rows.First(r => r.EndsWith("what=rule&key=r9", StringComparison.Ordinal)), "value=\"r9\""),
                (rows.First(r => r.EndsWith("what=field&key=", StringComparison.Ordinal)), "Add the field"),
                (rows.First(r => r.EndsWith("what=rule&key=", StringComparison.Ordinal)), "Add the rule"),
            }
        )
        {
            var opened = await _steward.GetStringAsync($"/Design/Type/{_code}?{row}", TestContext.Current.CancellationToken);
            Assert.Contains(holds, opened);
            Assert.DoesNotContain("<main", opened);
            Assert.InRange(opened.Length, 1, 80_000);
        }
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await _steward.GetAsync($"/Design/Type/{_code}?handler=Row&what=field&key=gone", TestContext.Current.CancellationToken)
            ).StatusCode
        );
    }
}
