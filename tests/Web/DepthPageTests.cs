using System.Net;
using System.Net.Http.Headers;
using System.Text;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Tests;

/// <summary>Designs in depth as their pages answer, without a browser.</summary>
public sealed class DepthPageTests(HarbourApp app) : IAsyncLifetime
{
    private static int _made;

    private HttpClient _steward = null!;
    private string _code = "";

    public async ValueTask InitializeAsync()
    {
        _steward = await app.SignedIn(Roles.Steward);
        _code = app.Get<Drafts>().Create($"Depth {Interlocked.Increment(ref _made)}", "test").Value!;
    }

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private DocumentType Draft => app.Get<Designs>().Find(_code)!.Draft;

    private async Task<string> At(string page, string address, params (string, string)[] fields)
    {
        var answer = await HarbourApp.Post(_steward, page, address, fields);
        return answer.StatusCode == HttpStatusCode.Redirect
            ? answer.Headers.Location!.OriginalString
            : WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
    }

    private Task<string> Send(string handler, params (string, string)[] fields) =>
        At($"/Design/Type/{_code}", $"/Design/Type/{_code}?handler={handler}", fields);

    private async Task<string> Page(string address) => WebUtility.HtmlDecode(await _steward.GetStringAsync(address));

    private async Task<string> Upload(string page, string name, string text)
    {
        var token = System.Text.RegularExpressions.Regex.Match(await Page(page), "\"X-Antiforgery\":\"([^\"]+)\"").Groups[1].Value;
        using var form = new MultipartFormDataContent();
        var file = new ByteArrayContent(Encoding.UTF8.GetBytes(text));
        file.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        form.Add(file, "file", name);
        using var request = new HttpRequestMessage(HttpMethod.Post, page) { Content = form };
        request.Headers.Add("X-Antiforgery", token);
        return WebUtility.HtmlDecode(await (await _steward.SendAsync(request)).Content.ReadAsStringAsync());
    }

    private static string Ticket(string page) =>
        System.Text.RegularExpressions.Regex.Match(page, "name=\"ticket\" value=\"([0-9a-f]+)\"").Groups[1].Value;

    [Fact]
    public async Task A_field_of_every_kind_keeps_its_own_facts()
    {
        await Send("Field", ("label", "Fee"), ("kind", "Amount"), ("currencies", "eur, nok"), ("max", "500"), ("required", "must"));
        await Send("Field", ("label", "Account"), ("kind", "Identifier"), ("scheme", "iban"), ("restricted", "on"));
        await Send("Field", ("label", "House number"), ("kind", "Identifier"), ("scheme", "house"), ("house", "7 6 5 modulus 11"));
        await Send(
            "Field",
            ("label", "Berths"),
            ("kind", "Terms"),
            ("vocabulary", "berths"),
            ("branch", "north-basin"),
            ("leaves", "on"),
            ("level", "3")
        );
        await Send(
            "Field",
            ("label", "Note"),
            ("kind", "Text"),
            ("required", "when"),
            ("when-match", "Any"),
            ("when-subject", "fee"),
            ("when-operator", "Above"),
            ("when-value", "100"),
            ("when-subject", ""),
            ("when-operator", "Is"),
            ("when-value", ""),
            ("default-from", "Formula"),
            ("default", "Upper([house-number])"),
            ("step-kind", "squeeze-blanks"),
            ("step-argument", ""),
            ("step-kind", "take-part"),
            ("step-argument", "/ 1"),
            ("step-kind", ""),
            ("step-argument", ""),
            ("standard", "dcterms:description"),
            ("example", "as seen"),
            ("shows", "yes"),
            ("searched", "on")
        );
        var (fee, account, house, berths, note) = (Draft.Fields[0], Draft.Fields[1], Draft.Fields[2], Draft.Fields[3], Draft.Fields[4]);
        Assert.Equal(("EUR,NOK", "500", true), (string.Join(',', ((AmountField)fee).Currencies!), ((AmountField)fee).Max, fee.Required));
        Assert.Equal(
            ("iban", true, "house 7 6 5 modulus 11"),
            (((IdentifierField)account).Scheme, account.Restricted, ((IdentifierField)house).Scheme)
        );
        Assert.Equal(
            ("north-basin", 3, true),
            berths is VocabularyField terms ? (terms.Branch, terms.OnlyLevel, terms.LeavesOnly) : default
        );
        Assert.Equal(Joined.Any, note.RequiredWhen!.Match);
        Assert.Equal(new Comparison("fee", Operator.Above, "100"), Assert.Single(note.RequiredWhen.Comparisons));
        Assert.Equal(
            (DefaultSource.Formula, "Upper([house-number])", "dcterms:description", "as seen"),
            (note.DefaultFrom, note.Default, note.Standard, note.Example)
        );
        Assert.Equal(["squeeze-blanks ", "take-part / 1"], note.Cleaning!.Select(s => $"{s.Kind} {s.Argument}"));
        Assert.Equal((false, true), (note.NotSearched, note.NotInResults));
        var page = await Page($"/Design/Type/{_code}");
        Assert.Contains("several terms, Berths below north-basin, leaves", page);
        Assert.Contains("when …", page);
        Assert.Contains(
            "Write the separator",
            await Send("Field", ("key", "note"), ("label", "Note"), ("kind", "Text"), ("step-kind", "take-part"), ("step-argument", "/"))
        );
    }

    [Fact]
    public async Task A_table_has_columns_and_row_rules_of_its_own_and_a_changed_key_is_followed_everywhere()
    {
        await Send("Field", ("label", "Lines"), ("kind", "Table"));
        foreach (var (label, kind) in new[] { ("Quantity", "Decimal"), ("Rate", "Decimal"), ("Amount", "Decimal") })
            await Send("Field&table=lines", ("label", label), ("kind", kind));
        await Send("Field", ("label", "Total"), ("kind", "Decimal"));
        await Send(
            "Rule&table=lines",
            ("kind", "multiplies"),
            ("multiplies.factors", "quantity"),
            ("multiplies.factors", "rate"),
            ("multiplies.product", "amount"),
            ("multiplies.tolerance", "0.01")
        );
        await Send("Rule", ("kind", "adds-up"), ("adds-up.parts", "lines.amount"), ("adds-up.total", "total"));
        await Send(
            "Rule",
            ("kind", "formula"),
            ("formula.formula", "Sum([lines.amount]) <= [total]"),
            ("when-subject", "lines"),
            ("when-operator", "IsFilled"),
            ("when-value", "")
        );
        Assert.Equal(["quantity", "rate", "amount"], Draft.Find("lines")!.Columns!.Select(c => c.Key));
        Assert.Equal("multiplies", Assert.Single(Draft.Find("lines")!.RowRules!).Kind);
        await Send("Order&table=lines", ("key", "amount"), ("to", "0"));
        Assert.Equal("amount", Draft.Find("lines")!.Columns![0].Key);
        await Send("Field", ("key", "lines"), ("new-key", "services"), ("label", "Services"), ("kind", "Table"));
        Assert.Equal(3, Draft.Find("services")!.Columns!.Count);
        Assert.Equal("services.amount", Draft.Rules[0]["parts"]);
        Assert.Equal(
            ("Sum([services.amount]) <= [total]", "services"),
            (Draft.Rules[1]["formula"], Draft.Rules[1].When!.Comparisons[0].Subject)
        );
        Assert.Contains(
            "There is a field with the key “rate” already",
            await Send("Field&table=services", ("label", "Rate"), ("kind", "Decimal"))
        );
        await Send("RemoveField&key=rate&table=services");
        Assert.Contains("the field “rate” is no longer in this document type", await Page($"/Design/Type/{_code}"));
        await Send("RemoveRule&id=r1&table=services");
        Assert.Empty(Draft.Find("services")!.RowRules!);
    }

    [Fact]
    public async Task Groups_are_placed_tightened_and_taken_out_and_never_loosened()
    {
        await Send("Group", ("group", "filing-facts"));
        Assert.Equal(["filing-facts"], Draft.Groups);
        Assert.Contains("From the group", await Page($"/Design/Type/{_code}"));
        await Send("Tighten&key=entered-by", ("required", "on"), ("max-length", "20"));
        Assert.Equal(new Tightening("entered-by") { Required = true, MaxLength = 20 }, Assert.Single(Draft.Tightened));
        Assert.Contains("81 would loosen it", await Send("Tighten&key=entered-by", ("max-length", "81")));
        await Send("Tighten&key=entered-by");
        Assert.Empty(Draft.Tightened);
        Assert.Contains("not placed yet", await Send("Group", ("group", "filing-facts")));
        await Send("RemoveGroup&group=filing-facts");
        Assert.Empty(Draft.Groups);
        Assert.Contains("/Design/Type/", await At("/Design", "/Design?handler=Type", ("name", $"Sub of {_code}"), ("refines", _code)));
        Assert.Contains(
            "There is no document type “nothing” to refine",
            await At("/Design", "/Design?handler=Type", ("name", "Orphan"), ("refines", "nothing"))
        );
    }

    [Fact]
    public async Task A_paste_is_guessed_corrected_and_added_with_a_vocabulary_of_its_own()
    {
        const string Pasted = "No\tColour\tSeen\n1\tred\t5.3.2024\n2\tblue\t6.3.2024\n3\tred\t17.3.2024\n4\tred\t18.3.2024";
        var page = await Send("Paste", ("pasted", Pasted));
        Assert.Contains("Only 2 different words in 4 rows", page);
        Assert.Contains("Every value is a date written d.M.yyyy", page);
        await Send(
            "AddPasted",
            ("pasted", Pasted),
            ("take-no", "on"),
            ("kind-no", "Text"),
            ("take-colour", "on"),
            ("kind-colour", "Term"),
            ("must-colour", "on"),
            ("kind-seen", "Date")
        );
        Assert.Equal(
            [("no", FieldKind.Text, false), ("colour", FieldKind.Term, true)],
            Draft.Fields.Select(f => (f.Key, f.Kind, f.Required))
        );
        Assert.Equal(
            ["red", "blue"],
            app.Get<Designs>().Vocabularies[Draft.Find("colour")!.Vocabulary!].Vocabulary.Terms.Select(t => t.Label)
        );
        var again = await Send("AddPasted", ("pasted", Pasted), ("take-no", "on"), ("kind-no", "Text"));
        Assert.Contains("There is a field with the key “no” already", again);
        Assert.Contains("18.3.2024", again);
        Assert.Contains("“A” appears twice", await Send("Paste", ("pasted", "A\tA\n1\t2")));
    }

    [Fact]
    public async Task A_pattern_is_built_piece_by_piece_and_tested_on_values()
    {
        async Task<string> Build(params (string, string)[] fields) =>
            await At($"/Design/Type/{_code}", $"/Design/Type/{_code}?handler=Pattern&name=pattern&row=new", fields);
        var built = await Build(("build", "example"), ("pattern-example", "MH-2024-00042"));
        Assert.Contains("value=\"[A-Z]{2}-(?:19|20)[0-9]{2}-[0-9]{5}\"", built);
        Assert.Contains("two capital letters, dash, year, dash, five digits", built);
        var pieces = new[]
        {
            ("piece-of", "Capitals"),
            ("piece-least", "2"),
            ("piece-most", "3"),
            ("piece-text", ""),
            ("piece-optional", "no"),
            ("piece-of", "Exactly"),
            ("piece-least", "1"),
            ("piece-most", "1"),
            ("piece-text", "/"),
            ("piece-optional", "yes"),
        };
        Assert.Contains("value=\"[A-Z]{2,3}(?:/)?\"", await Build([("build", "pieces"), .. pieces]));
        Assert.Contains("value=\"[A-Z]{2,3}(?:/)?[0-9]\"", await Build([("build", "more"), .. pieces]));
        Assert.Contains("value=\"(?:/)?\"", await Build([("build", "drop-0"), .. pieces]));
        Assert.Contains("says more than pieces can", await Build(("build", "typed"), ("pattern", "(a|b)+")));
        var tested = await At(
            "/Design/Type/vessel-call-record",
            "/Design/Type/vessel-call-record?handler=Pattern&name=pattern&row=call-number",
            ("build", "example"),
            ("pattern-example", "VC-2023-00500"),
            ("key", "call-number")
        );
        Assert.Contains("matches", tested);
        Assert.DoesNotContain("does not", tested);
    }

    [Fact]
    public async Task A_rule_keeps_its_condition_translations_and_examples_and_a_failing_one_blocks_publishing()
    {
        foreach (var label in new[] { "Net", "Gross" })
            await Send("Field", ("label", label), ("kind", "Decimal"));
        await At($"/Design/Convention/{_code}", $"/Design/Convention/{_code}?handler=Piece&line=name", ("text", "counter"));
        (string, string)[] rule =
        [
            ("kind", "compare"),
            ("compare.first", "net"),
            ("compare.how", "below"),
            ("compare.second", "gross"),
            ("compare.shift", "times"),
            ("compare.by", "1.1"),
            ("level", "Should"),
            ("message", "Too little."),
            ("message-de", "Zu wenig."),
            ("when-match", "All"),
            ("when-subject", Condition.Channel),
            ("when-operator", "IsNot"),
            ("when-value", "Migration"),
        ];
        await Send("Rule", rule);
        var kept = Assert.Single(Draft.Rules);
        Assert.Equal(("Too little.", "Zu wenig.", Level.Should), (kept.Message, kept.Translations!["de"], kept.Level));
        Assert.Contains("When the way in is not Migration: Net < Gross × 1.1", await Page($"/Design/Type/{_code}"));
        var suggested = await Send("Suggest", [("id", "r1"), .. rule]);
        Assert.Contains("name=\"example-1-passes\"", suggested);
        Assert.Empty(Draft.Rules[0].Examples);
        var failing = await Send(
            "Rule",
            [("id", "r1"), .. rule, ("example-0-passes", "yes"), ("example-0-of-net", "11"), ("example-0-of-gross", "10")]
        );
        Assert.Contains("should pass but does not: Too little.", failing);
        Assert.Contains("should pass but does not", await Send("Publish"));
        await Send("Rule", [("id", "r1"), .. rule, ("example-0-passes", "no"), ("example-0-of-net", "11"), ("example-0-of-gross", "10")]);
        Assert.Contains("Version 1 is published", await Send("Publish"));
        await Send("Field", ("key", "net"), ("label", "Net"), ("kind", "Decimal"), ("min", "1"));
        Assert.Contains("Net now has a least value: 1.", await Page($"/Design/Compare/{_code}"));
        Assert.Contains("Net < Gross", await Page($"/Design/Version/{_code}/1"));
        Assert.Equal(HttpStatusCode.NotFound, (await _steward.GetAsync($"/Design/Compare/{_code}?from=9")).StatusCode);
        Assert.Contains(
            "only be added to dates",
            await Send(
                "Rule",
                ("kind", "compare"),
                ("compare.first", "net"),
                ("compare.how", "below"),
                ("compare.second", "gross"),
                ("compare.shift", "days"),
                ("compare.by", "1")
            )
        );
    }

    [Fact]
    public async Task A_term_is_changed_retired_merged_split_and_taken_back_on_its_page()
    {
        Assert.Null(app.Get<Vocabularies>().Create($"Ropes {_code}", "Hemp\tHempen|Old hemp\nManila\nSisal", "test").Problem);
        var key = ShortName.From($"Ropes {_code}");
        Term? Find(string spelling) => app.Get<Designs>().Vocabularies[key].Find(spelling);
        Task<string> Do(string handler, params (string, string)[] fields) =>
            At($"/Design/Vocabulary/{key}?term=hemp", $"/Design/Vocabulary/{key}?handler={handler}", fields);
        await Do(
            "Term&term=hemp",
            ("label", "Hemp rope"),
            ("variants", "Hempen\nOld hemp"),
            ("code", "H"),
            ("note", "Tarred."),
            ("related", "Sisal"),
            ("languages", ""),
            ("new-language", "de"),
            ("label-new", "Hanf")
        );
        Assert.Equal(
            ("Hemp rope", "H", "Tarred.", "Hanf"),
            (Find("H")!.Label, Find("H")!.Code, Find("H")!.Note, Find("Hanf")!.Words["de"].Label)
        );
        Assert.Contains("preferred label of two terms", await Do("Term&term=hemp", ("label", "SISAL"), ("variants", "")));
        await Do("Split&term=hemp", ("split-label", "Old hemp"), ("split-variant", "Old hemp"));
        Assert.Equal(["hemp"], Find("Old hemp")!.Related);
        Assert.Contains("There is no term “Nylon”", await Do("Status&term=hemp", ("status", "Retired"), ("replaced-by", "Nylon")));
        await Do("Status&term=hemp", ("status", "Retired"), ("replaced-by", "Sisal"));
        Assert.Equal((TermStatus.Retired, "sisal"), (Find("Hempen")!.Status, Find("Hempen")!.ReplacedBy));
        await Do("Merge&term=manila", ("into", "Sisal"));
        Assert.Equal("Sisal", Find("Manila")!.Label);
        Assert.Contains("Undone: merged “Manila” into “Sisal”", await Do("Undo"));
        Assert.Equal("Manila", Find("Manila")!.Label);
        await Do("Add", ("terms", "Wire\tSteel wire\tW"), ("below", "sisal"));
        Assert.Equal(["sisal"], Find("W")!.Broader);
        var found = await Page($"/Design/Vocabulary/{key}?filter=steel");
        Assert.Contains("Wire <span class=\"soft small\">Sisal</span>", found);
        foreach (
            var (form, says) in new[]
            {
                ("ttl", "skos:prefLabel \"Hemp rope\"@en"),
                ("jsonld", "\"skos:notation\""),
                ("csv", "hemp,Hemp rope,"),
            }
        )
            Assert.Contains(says, await _steward.GetStringAsync($"/Design/Vocabulary/{key}?handler=Export&form={form}"));
        await Do("Growth", ("growth", "WithReview"));
        Assert.Equal(Growth.WithReview, app.Get<Designs>().Vocabularies[key].Vocabulary.Growth);
    }

    [Fact]
    public async Task A_large_tree_is_sent_branch_by_branch()
    {
        var key = app.Get<Vocabularies>().Create($"Charts {_code}", "World", "test").Value!;
        Assert.Null(
            app.Get<Vocabularies>()
                .Import(
                    key,
                    new BroughtTerms(
                        [
                            .. Enumerable
                                .Range(0, 1_200)
                                .Select(i => new BroughtTerm(
                                    new Term($"Sheet {i}", []) { Id = $"s{i}", Broader = [i < 12 ? "world" : $"s{i % 12}"] },
                                    i
                                )),
                        ],
                        []
                    ),
                    "test"
                )
                .Problem
        );
        var page = await Page($"/Design/Vocabulary/{key}");
        Assert.Contains("12 below", page);
        Assert.DoesNotContain("data-term=\"s13\"", page);
        var branch = await Page($"/Design/Vocabulary/{key}?handler=Below&of=s1");
        Assert.Contains("data-term=\"s13\"", branch);
        Assert.DoesNotContain("data-term=\"s14\"", branch);
        Assert.Contains("data-term=\"s13\"", await Page($"/Design/Vocabulary/{key}?term=s25"));
        Assert.Contains("Sheet 777", await Page($"/Design/Vocabulary/{key}?filter=sheet 777"));
        Assert.Equal(HttpStatusCode.NotFound, (await _steward.GetAsync($"/Design/Vocabulary/{key}?handler=Below&of=gone")).StatusCode);
    }

    [Fact]
    public async Task Terms_are_brought_after_their_plan_and_broken_lines_stop_all_of_them()
    {
        Assert.Null(app.Get<Vocabularies>().Create($"Buoys {_code}", "Spar", "test").Problem);
        var key = ShortName.From($"Buoys {_code}");
        var broken = await Upload($"/Design/Import/{key}", "b.csv", "label,status\nCan,\n,current\nCone,lost\n");
        Assert.Contains("Nothing is imported while a line is broken", broken);
        Assert.Contains("“lost” is not a status", broken);
        Assert.Equal("", Ticket(broken));
        var plan = await Upload($"/Design/Import/{key}", "b.csv", "label,broader\nCan,Spar\nCone,Spar\nSpar,\n");
        Assert.Contains("<strong>2</strong>new", plan);
        Assert.Single(app.Get<Designs>().Vocabularies[key].Vocabulary.Terms);
        await At($"/Design/Import/{key}", $"/Design/Import/{key}?handler=Apply", ("ticket", Ticket(plan)));
        Assert.Equal(2, app.Get<Designs>().Vocabularies[key].Level(app.Get<Designs>().Vocabularies[key].IndexOf("Cone")));
        Assert.Contains("has expired", await At($"/Design/Import/{key}", $"/Design/Import/{key}?handler=Apply", ("ticket", Ticket(plan))));
        Assert.Contains("neither CSV", await Upload($"/Design/Import/{key}", "b.pdf", "x"));
    }

    [Fact]
    public async Task Closed_days_are_pasted_line_by_line_and_a_removed_one_can_be_saved_again()
    {
        const string page = "/Design/ClosedDays";
        Task<string> Add(string days) => At(page, $"{page}?handler=Add", ("days", days));
        Assert.Contains("Saved 2 days.", await Add("2031-05-01 Spring tide\n\n2031-12-25\tMidwinter, feast\n"));
        var refused = await Add("2031-06-01 Kept in the form\n2031-02-29 No such day");
        Assert.Contains("Line 2: “2031-02-29” is not a date", refused);
        Assert.Contains("2031-06-01 Kept in the form", refused);
        Assert.Contains("at most 80 characters", await Add("2031-06-01 " + new string('x', 81)));
        Assert.Contains("at least one date", await Add(" \n "));
        Assert.Contains(
            "At most 2,000",
            await Add(string.Join('\n', Enumerable.Range(0, 2_001).Select(i => $"{new DateOnly(2032, 1, 1).AddDays(i):yyyy-MM-dd}")))
        );
        Assert.Equal(["Spring tide", "Midwinter, feast"], app.Get<ClosedDays>().All().Where(d => d.Day.Year == 2031).Select(d => d.Name));
        Assert.Contains(new DateOnly(2031, 5, 1), app.Get<Designs>().Now(EntryChannel.Desk, "").Closed);
        var removed = await At(page, $"{page}?handler=Remove", ("day", "2031-05-01"));
        Assert.Matches("<textarea[^>]*>\\s*2031-05-01 Spring tide</textarea>", removed);
        Assert.Contains("no longer in the list", await At(page, $"{page}?handler=Remove", ("day", "2031-05-01")));
        Assert.Contains("Choose a day of the list", await At(page, $"{page}?handler=Remove", ("day", "never")));
        Assert.Contains("2031-12-25", await At(page, $"{page}?handler=Remove", ("day", "2031-12-25")));
    }

    [Fact]
    public async Task A_reference_table_shows_what_a_newer_file_changes_and_the_design_travels_as_a_file()
    {
        var page = await Upload("/Design/Table/payers", "payers.csv", "Payer,Place,Account\nEbbwell Lines,Elsewhere,\n");
        Assert.Contains("Place Merrowmouth → Elsewhere", page);
        Assert.Contains("<strong>5</strong>gone", page);
        Assert.Contains("not an address", await At("/Design/Table/payers", "/Design/Table/payers?handler=Address", ("address", "nowhere")));
        Assert.Contains("Harbour Dues Statement", page);

        var export = await _steward.GetStringAsync("/Design/File?handler=Export");
        Assert.Contains("\"clear-lexicon-design\"", export);
        var plan = await Upload("/Design/File", "design.json", export);
        Assert.Contains("Import everything", plan);
        Assert.Contains("at line 1", await Upload("/Design/File", "design.json", "{"));
        Assert.Contains("Imported: ", await At("/Design/File", "/Design/File?handler=Apply", ("ticket", Ticket(plan))));
    }

    [Fact]
    public async Task The_api_gives_takes_and_plans_the_design_for_stewards_only()
    {
        var api = app.Api();
        var design = await api.GetStringAsync("/api/v1/design?byReference=true");
        Assert.DoesNotContain("North Quay 2", design);
        StringContent Body(string text) => new(text, Encoding.UTF8, "application/json");
        Assert.Contains(
            "\"state\":\"same\"",
            await (await api.PutAsync("/api/v1/design?plan=true", Body(design))).Content.ReadAsStringAsync()
        );
        Assert.Equal(HttpStatusCode.BadRequest, (await api.PutAsync("/api/v1/design", Body("{"))).StatusCode);
        var refused = await api.PutAsync("/api/v1/design", Body(design.Replace("\"key\": \"berths\"", "\"key\": \"moorings\"")));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
        Assert.Contains("only named in the file", await refused.Content.ReadAsStringAsync());
        Assert.Contains("2020-12", await app.App.CreateClient().GetStringAsync("/api/v1/design/schema"));
        var indexer = await app.SignedIn(Roles.Indexer);
        Assert.NotEqual(HttpStatusCode.OK, (await indexer.GetAsync("/api/v1/design")).StatusCode);
        var csvw = await api.GetStringAsync("/api/v1/document-types/vessel-call-record/csvw");
        Assert.Contains("http://purl.org/dc/terms/identifier", csvw);
        Assert.Contains("\"base\": \"date\"", csvw);
    }

    [Fact]
    public async Task A_person_reads_messages_in_their_language()
    {
        var people = app.Get<Accounts>();
        Assert.Null(people.Add($"Greta {_code}", "tide-and-lantern", [Roles.Indexer], "test").Problem);
        Assert.Contains("not available in “xx”", people.SetLanguage($"Greta {_code}", "xx").Problem);
        Assert.Null(people.SetLanguage($"Greta {_code}", "de").Problem);
        var filed = app.Get<Database>()
            .Read(c => RepositorySearch.Find(c, new RepositoryQuery { TypeCode = "vessel-call-record" }, 1).Documents)[0];
        Assert.Contains(
            "Ein Schiff kann nicht auslaufen",
            app.Get<FiledDocuments>().Edit(filed.Id, "sailed", "1990-01-01", "", $"Greta {_code}").Problem
        );
        Assert.Contains("A vessel cannot sail", app.Get<FiledDocuments>().Edit(filed.Id, "sailed", "1990-01-01", "", "Maren Holt").Problem);
        Assert.Contains("Kept.", await At("/Person", "/Person", ("language", "fr")));
        Assert.Contains("échoue au contrôle", await Page("/Person"));
        await At("/Person", "/Person", ("language", "en"));
    }

    [Fact]
    public async Task Desk_edit_api_and_migration_give_the_same_problems_for_the_same_record()
    {
        var (designs, drafts) = (app.Get<Designs>(), app.Get<Drafts>());
        var database = app.Get<Database>();
        Assert.Null(
            drafts
                .Change(
                    _code,
                    "test",
                    "test",
                    t =>
                        t with
                        {
                            Fields =
                            [
                                new WholeNumberField("n", "N") { Required = true, Max = "9" },
                                new IdentifierField("k", "K") { Scheme = "imo" },
                                new TermField("b", "B") { Vocabulary = "berths", LeavesOnly = true },
                                new DateField("d", "D"),
                            ],
                            Rules =
                            [
                                new Rule(
                                    "r1",
                                    "formula",
                                    Level.Should,
                                    new Dictionary<string, string> { ["formula"] = "[n] / ([n] - 3) > 0" }
                                ),
                                new Rule(
                                    "r2",
                                    "date-today",
                                    Level.Must,
                                    new Dictionary<string, string> { ["field"] = "d", ["how"] = "not-future" }
                                ),
                                new Rule("r3", "filled", Level.Must, new Dictionary<string, string> { ["fields"] = "k", ["how"] = "all" })
                                {
                                    When = Condition.When("b", Operator.Within, "north-basin"),
                                },
                                new Rule("r4", "unique", Level.Should, new Dictionary<string, string> { ["fields"] = "n" }),
                            ],
                            Convention = new([], [Core.Conventions.Piece.Of("n")]),
                        }
                )
                .Problem
        );
        Assert.Null(drafts.Publish(_code, "test").Problem);
        string[][] records =
        [
            ["3", "9074728", "North Quays", "2999-01-01"],
            ["12", "", "NQ1", ""],
            ["x", "12", "Nowhere", "soon"],
            ["1", "9074729", "NQ1", "2024-01-01"],
        ];
        var type = designs.Published[_code].Type;
        foreach (var texts in records)
        {
            var record = type
                .Type.Fields.Select((f, i) => (f.Key, texts[i]))
                .Where(p => p.Item2.Length > 0)
                .ToDictionary(p => p.Key, p => p.Item2);
            var id = database.Write(c =>
                DocumentStore.Add(
                    c,
                    new StoredDocument
                    {
                        SourceName = "x",
                        TypeCode = _code,
                        Version = 1,
                        Record = record,
                    },
                    []
                )
            );
            string[] Said(IEnumerable<Problem> problems) =>
                [.. problems.Select(p => $"{p.Code} {p.Field} {p.Message}").Order(StringComparer.Ordinal)];
            var desk = Said(app.Get<DeskDocuments>().Find(id, "Maren Holt")!.Judged!.All);
            var edit = Said(
                database
                    .Read(c =>
                        RecordJudge.Judge(c, type, RecordJudge.Texts(type, record), id, designs.Now(EntryChannel.Edit, "Maren Holt"))
                    )
                    .All
            );
            var plan = new Core.Migration.CompiledPlan(
                new Core.Migration.MigrationPlan(
                    _code,
                    [.. type.Type.Fields.Select(f => new Core.Cleaning.CrosswalkLine(f.Key, f.Key, []))],
                    []
                ),
                type,
                [.. type.Type.Fields.Select(f => f.Key)]
            );
            var judge = new Core.Migration.RowJudge(
                plan,
                new Core.Migration.TakenNames(),
                designs.Now(EntryChannel.Migration, "Maren Holt")
            );
            judge.Judge(texts, 1);
            var answer = await app.Api()
                .PostAsync(
                    $"/api/v1/document-types/{_code}/check",
                    new StringContent(
                        System.Text.Json.JsonSerializer.Serialize(new { records = new[] { record } }),
                        Encoding.UTF8,
                        "application/json"
                    )
                );
            var api = System
                .Text.Json.JsonDocument.Parse(await answer.Content.ReadAsStringAsync())
                .RootElement.GetProperty("results")[0]
                .GetProperty("problems")
                .EnumerateArray()
                .Select(p => $"{p.GetProperty("code")} {p.GetProperty("field")} {p.GetProperty("message")}")
                .Order(StringComparer.Ordinal)
                .ToArray();
            Assert.Equal(desk, edit);
            Assert.Equal(desk, Said(judge.Problems));
            Assert.Equal(desk, api);
            app.Get<DeskDocuments>().Discard(id, "test");
        }
    }

    [Fact]
    public async Task The_desk_shows_the_other_document_beside_a_duplicate_and_looks_things_up_in_a_service()
    {
        var database = app.Get<Database>();
        var filed = database.Read(c => RepositorySearch.Find(c, new RepositoryQuery { TypeCode = "vessel-call-record" }, 1).Documents)[0];
        var record = filed.Record.Where(r => r.Key is not ("gross-tonnage" or "flag" or "agent")).ToDictionary(StringComparer.Ordinal);
        record["agent"] = "Somebody Else";
        var id = database.Write(c =>
            DocumentStore.Add(
                c,
                new StoredDocument
                {
                    SourceName = "twin.pdf",
                    TypeCode = "vessel-call-record",
                    Version = 1,
                    Record = record,
                },
                []
            )
        );
        var indexer = await app.SignedIn(Roles.Indexer);
        var page = WebUtility.HtmlDecode(await indexer.GetStringAsync($"/Desk/Document/{id}"));
        Assert.Contains($"<a href=\"/Repository/Document/{filed.Id}\">There</a>", page);
        Assert.Contains("<td class=\"mono\">Somebody Else</td>", page);
        // The register fills what is empty, and the page says that it was filled.
        Assert.Contains("(filled)", page);
        Assert.DoesNotContain("look-ups", page);
        try
        {
            Assert.Contains(
                "has not listed http://127.0.0.1:9",
                app.Get<ReferenceTables>().SetAddress("vessel-register", "http://127.0.0.1:9/nobody", "test").Problem
            );
            Assert.Null(app.Get<ServiceAddresses>().Set("http://127.0.0.1:9/", "test").Problem);
            Assert.Null(app.Get<ReferenceTables>().SetAddress("vessel-register", "http://127.0.0.1:9/nobody", "test").Problem);
            Assert.Contains("id=\"look-ups\"", await indexer.GetStringAsync($"/Desk/Document/{id}"));
            Assert.Contains(
                "could not be looked up in Vessel register: the service cannot be reached",
                WebUtility.HtmlDecode(
                    await (
                        await HarbourApp.Post(indexer, $"/Desk/Document/{id}", $"/Desk/Document/{id}?handler=LookUp")
                    ).Content.ReadAsStringAsync()
                )
            );
        }
        finally
        {
            app.Get<ReferenceTables>().SetAddress("vessel-register", "", "test");
            app.Get<DeskDocuments>().Discard(id, "test");
        }
    }
}
