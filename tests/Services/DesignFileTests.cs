using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Demo;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;
using Json.Schema;

namespace ClearLexicon.Services.Tests;

public sealed class DesignFileTests : IDisposable
{
    private readonly House _house = new();
    private readonly House _other = new();

    [Fact]
    public void What_is_wrong_in_a_long_list_is_named_by_its_place_in_it()
    {
        _house.WithDesigns();
        var file = _house.Files.Export();
        var terms = Enumerable.Range(0, 1_203).Select(n => new Term($"Mooring {n}", [])).ToList();
        var rows = Enumerable.Range(0, 1_203).Select(n => new[] { $"{n}", "Grey Heron" }).ToList();
        var text = DesignFileJson.Write(
            file with
            {
                Vocabularies = [.. file.Vocabularies, new VocabularyInFile("moorings", "Moorings", Growth.Fixed, "en", terms)],
                Tables = [new TableInFile("buoys", "Buoys", ["Number", "Vessel"], null, rows), .. file.Tables],
            }
        );
        var read = DesignFileJson.Read(text);
        Assert.True(read.Ok, read.Problem);
        Assert.Equal((1_203, 1_203), (read.Value!.Vocabularies[^1].Terms!.Count, read.Value.Tables[0].Rows!.Count));

        string Problem(Action<JsonNode> change)
        {
            var changed = JsonNode.Parse(text)!;
            change(changed);
            return DesignFileJson.Read(changed.ToJsonString()).Problem!;
        }
        JsonNode Moorings(JsonNode design) => design["vocabularies"]![file.Vocabularies.Count]!["terms"]!;
        Assert.Contains(
            $"at /vocabularies/{file.Vocabularies.Count}/terms/777: it lacks a part",
            Problem(d => Moorings(d)[777]!.AsObject().Remove("variants"))
        );
        Assert.Contains("terms/1202: it lacks a part", Problem(d => Moorings(d)[1_202]!.AsObject().Remove("label")));
        Assert.Contains("at /tables/0/rows/500/1", Problem(d => d["tables"]![0]!["rows"]![500]![1] = null));
    }

    [Fact]
    public void A_design_brought_into_an_empty_installation_behaves_the_same_and_exports_the_same()
    {
        _house.WithDesigns();
        var feast = new ClosedDay(new DateOnly(2026, 12, 25), "Midwinter feast");
        _house.Database.Write(c => ClosedDayStore.Put(c, feast));
        var text = DesignFileJson.Write(_house.Files.Export());
        var schema = JsonSchema.FromText(DesignFileJson.Schema().ToJsonString());
        var valid = schema.Evaluate(
            System.Text.Json.JsonDocument.Parse(text).RootElement,
            new EvaluationOptions { OutputFormat = OutputFormat.List }
        );
        Assert.True(
            valid.IsValid,
            string.Join(
                "\n",
                valid.Details.Where(d => d.HasErrors).Take(10).Select(d => $"{d.InstanceLocation}: {string.Join("; ", d.Errors!.Values)}")
            )
        );
        var read = DesignFileJson.Read(text);
        Assert.True(read.Ok, read.Problem);
        var plan = _other.Files.Plan(read.Value!);
        Assert.Empty(plan.Problems);
        Assert.All(plan.Items, i => Assert.Equal(PlanState.New, i.State));
        Assert.Empty(_other.Designs.All());
        Assert.Null(_other.Files.Import(read.Value!, "me").Problem);
        Assert.Equal(text, DesignFileJson.Write(_other.Files.Export()));
        Assert.All(_other.Files.Plan(read.Value!).Items, i => Assert.Equal(PlanState.Same, i.State));
        Assert.Contains(feast.Day, _other.Designs.Now(EntryChannel.Desk, "me").Closed);
        Assert.Contains(
            "is in the file twice",
            Assert.Single(_other.Files.Plan(read.Value! with { ClosedDays = [feast, feast with { Name = "" }] }).Problems)
        );
        Assert.Contains(
            "no sound name",
            Assert.Single(_other.Files.Plan(read.Value! with { ClosedDays = [feast with { Name = "\ud800" }] }).Problems)
        );

        var random = new Random(3);
        foreach (var (code, here) in _house.Designs.Published)
        {
            var there = _other.Designs.Published[code].Type;
            var sample = SampleRecords.For(here.Type.Type, _house.Designs.Vocabularies)[0];
            for (var i = 0; i < 60; i++)
            {
                var record = sample
                    .Select(t =>
                        random.Next(5) switch
                        {
                            0 => null,
                            1 => t + "x",
                            _ => t,
                        }
                    )
                    .ToArray();
                Judgement a = here.Type.Judge(record, _house.Designs.Now(EntryChannel.Desk, "me")),
                    b = there.Judge(record, _other.Designs.Now(EntryChannel.Desk, "me"));
                Assert.Equal(a.All.Select(p => p.In("de")), b.All.Select(p => p.In("de")));
                Assert.Equal(a.Placement.Path, b.Placement.Path);
            }
        }
    }

    [Fact]
    public void A_plan_tells_what_would_change_in_words_and_what_stands_in_the_way()
    {
        _house.WithDesigns();
        var file = _house.Files.Export();
        var changed = file with
        {
            Types =
            [
                .. file.Types.Select(t =>
                    t.Design.Code == "hot-work-permit"
                        ? t with
                        {
                            Design = t.Design with { Fields = [.. t.Design.Fields.Where(f => f.Key != "fee")] },
                        }
                        : t
                ),
            ],
            Vocabularies = [.. file.Vocabularies.Select(v => v.Key == "handling" ? v with { Terms = [.. v.Terms!.Skip(1)] } : v)],
        };
        var plan = _house.Files.Plan(changed);
        Assert.Contains("Fee is gone.", plan.Items.Single(i => i.Name == "Hot Work Permit").Words);
        Assert.Contains("1 terms gone", plan.Items.Single(i => i.Name == "Handling").Words);
        // The default of the group's field is the term that would go.
        Assert.Contains(plan.Problems, p => p.Contains("Handling: the default is refused"));
        Assert.Contains("the default is refused", _house.Files.Import(changed, "me").Problem);
        Assert.NotNull(_house.Designs.Vocabularies["handling"].Find("Open"));
        Assert.Equal(1, _house.Designs.Find("hot-work-permit")!.Version);

        var named = _other.Files.Plan(_house.Files.Export(byReference: true));
        Assert.Contains(named.Problems, p => p.Contains("“Berths” is only named in the file and does not exist here"));
    }

    [Theory]
    [InlineData("{", "line 1")]
    [InlineData("""{"format":"something-else","version":1}""", "not a design file")]
    [InlineData("""{"format":"clear-lexicon-design","version":9,"vocabularies":[],"tables":[],"types":[],"readers":[]}""", "version 9")]
    [InlineData("""{"format":"clear-lexicon-design","version":1}""", "lacks")]
    [InlineData(
        "{\n\"format\":\"clear-lexicon-design\",\"version\":1,\"vocabularies\":[],\"tables\":[],\n\"types\":[{\"design\":{\"code\":\"a\",\"name\":\"A\",\"fields\":[{\"key\":\"k\",\"label\":\"L\",\"kind\":\"Poem\"}],\"rules\":[],\"convention\":{\"folder\":[],\"name\":[]}},\"published\":false}],\"readers\":[]}",
        "line 3, types[0].design.fields[0].kind"
    )]
    [InlineData("""{"format":"clear-lexicon-design","version":1,"vocabularys":[]}""", "vocabularys")]
    public void A_file_that_is_no_design_says_where(string text, string where) => Assert.Contains(where, DesignFileJson.Read(text).Problem);

    [Fact]
    public void Rules_of_earlier_designs_are_carried_into_the_kinds_of_today()
    {
        Assert.Null(_house.Drafts.Create("Old", "me").Problem);
        const string Old = """
            {"code":"old","name":"Old","fields":[{"key":"a","label":"A","kind":"Date","required":false,"restricted":false},{"key":"b","label":"B","kind":"Date"},{"key":"n","label":"N","kind":"Text"},{"key":"y","label":"Y","kind":"YesNo"}],
             "rules":[{"id":"r1","kind":"date-not-after","level":"Must","parameters":{"first":"a","second":"b"}},{"id":"r2","kind":"imo-check-digit","level":"Must","parameters":{"field":"n"}},
                      {"id":"r3","kind":"one-filled-when","level":"Should","parameters":{"when":"y","is":"yes","fields":"a,b"},"message":"One date."}],
             "convention":{"folder":[],"name":[{"kind":"Field","text":"","field":"n","case":"AsIs"}],"hasCounter":false}}
            """;
        _house.Database.Write(c => c.Execute("UPDATE document_types SET draft = $draft WHERE code = 'old'", ("$draft", Old)));
        Assert.Null(_house.Drafts.Publish("old", "me").Problem);
        string[] Codes(params string?[] texts) =>
            [
                .. _house
                    .Designs.Published["old"]
                    .Type.Judge(texts, _house.Designs.Now(EntryChannel.Desk, "me"))
                    .Problems.Select(p => p.Code),
            ];
        Assert.Equal(["compare"], Codes("2024-02-02", "2024-01-01", null, null));
        Assert.Equal(["check-digit", "one-filled"], Codes(null, null, "9074728", "yes"));
    }

    /// <summary>Until version 2 each field had the options of all kinds, and wrote whether it takes leaves only.</summary>
    [Fact]
    public void A_design_file_of_version_1_is_read_as_the_design_that_it_was()
    {
        const string Old = """
            {"format":"clear-lexicon-design","version":1,"vocabularies":[{"key":"v","name":"V","growth":"Fixed","language":"en","terms":[]}],"tables":[],"readers":[],
             "types":[{"published":false,"design":{"code":"old","name":"Old","rules":[],"convention":{"folder":[],"name":[]},"fields":[
               {"key":"a","label":"A","kind":"Text","required":true,"maxLength":9,"min":"3","leavesOnly":false},
               {"leavesOnly":true,"vocabulary":"v","key":"b","label":"B","kind":"Terms","pattern":"x"},
               {"key":"t","label":"T","kind":"Table","leavesOnly":false,"columns":[{"key":"c","label":"C","kind":"Amount","currencies":["EUR"],"leavesOnly":false}]}]}}]}
            """;
        var read = DesignFileJson.Read(Old);
        Assert.Null(read.Problem);
        Field[] fields = [.. read.Value!.Types[0].Design.Fields];
        Assert.Equal(new TextField("a", "A") { Required = true, MaxLength = 9 }, fields[0]);
        Assert.Equal(new TermsField("b", "B") { Vocabulary = "v", LeavesOnly = true }, fields[1]);
        Assert.Equal("EUR", Assert.IsType<AmountField>(Assert.Single(fields[2].Columns)).Currencies!.Single());
        Assert.Contains("versions 1 to 2", DesignFileJson.Read(Old.Replace("\"version\":1", "\"version\":3")).Problem);
        Assert.Contains("fields", DesignFileJson.Read(Old.Replace("\"version\":1", "\"version\":2")).Problem);

        // As drafts are stored: what a kind does not have is passed over, whichever place the kind stands at.
        Assert.Null(_house.Drafts.Create("Old", "me").Problem);
        var draft = System.Text.Json.Nodes.JsonNode.Parse(Old)!["types"]![0]!["design"]!.ToJsonString();
        _house.Database.Write(c => c.Execute("UPDATE document_types SET draft = $draft WHERE code = 'old'", ("$draft", draft)));
        Assert.Equal(fields.Select(f => f.Kind), _house.Designs.Find("old")!.Draft.Fields.Select(f => f.Kind));
    }

    [Fact]
    public async Task A_reference_table_is_brought_again_by_difference()
    {
        Task<Result<TableDifference>> Compare(string csv) =>
            _house.Tables.CompareAsync("register", new BroughtFile("r.csv", () => new MemoryStream(Encoding.UTF8.GetBytes(csv))));
        Assert.Null(_house.Tables.Bring("Register", (await Compare("IMO,Name\n1,A\n2,B\n3,C\n")).Value!, "me").Problem);
        var difference = (await Compare("IMO,Name\n1,A\n2,Bee\n4,D\n")).Value!;
        Assert.Equal(
            (1, "Bee", "3", 1),
            (difference.Added.Count, difference.Changed.Single().After[1], difference.Gone.Single()[0], difference.Same)
        );
        _house.Tables.Bring("Register", difference, "me");
        Assert.Equal(["1 A", "2 Bee", "4 D"], _house.Designs.Tables["register"].Rows.Select(r => string.Join(' ', r)));
        Assert.Contains("has the columns IMO, Name", (await Compare("IMO,Flag\n1,NO\n")).Problem);
        Assert.Contains("is in line 2 already", (await Compare("IMO,Name\n1,A\n1,B\n")).Problem);
    }

    [Fact]
    public async Task A_service_is_never_waited_for_longer_than_two_seconds_and_what_it_could_not_tell_is_said()
    {
        using var listener = new HttpListener();
        var address = $"http://127.0.0.1:{Random.Shared.Next(20_000, 60_000)}/";
        listener.Prefixes.Add(address);
        listener.Start();
        var serving = Task.Run(async () =>
        {
            while (listener.IsListening)
            {
                HttpListenerContext context;
                try
                {
                    context = await listener.GetContextAsync();
                }
                catch (Exception e) when (e is HttpListenerException or ObjectDisposedException)
                {
                    return;
                }
                _ = Task.Run(async () =>
                {
                    var mode = context.Request.Url!.AbsolutePath.Trim('/');
                    if (mode == "slow")
                        await Task.Delay(10_000);
                    if (mode == "failing")
                        context.Response.StatusCode = 503;
                    var body =
                        mode == "broken" ? "no list" : $$"""[{"IMO":"{{context.Request.QueryString["IMO"]}}","Name":"Grey Heron"}]""";
                    try
                    {
                        await context.Response.OutputStream.WriteAsync(Encoding.UTF8.GetBytes(body));
                        context.Response.Close();
                    }
                    catch (HttpListenerException) { }
                });
            }
        });
        Assert.Contains(
            "not among those that may be asked",
            (
                await _house.Tables.AskAsync(
                    new ReferenceTable("r", "R", ["IMO"], []) { Address = address },
                    new Dictionary<string, string>()
                )
            ).Problem
        );
        Assert.Null(_house.Services.Set(address, "Ada").Problem);
        ReferenceTable Table(string mode) => new("r", "Register", ["IMO", "Name"], []) { Address = address + mode };
        var asked = new Dictionary<string, string> { ["IMO"] = "9 07" };
        Assert.Equal("9 07", (await _house.Tables.AskAsync(Table("good"), asked)).Rows.Single()["IMO"]);
        Assert.Equal("the service answered 503", (await _house.Tables.AskAsync(Table("failing"), asked)).Problem);
        Assert.Contains("not a list of rows", (await _house.Tables.AskAsync(Table("broken"), asked)).Problem);
        Assert.Equal("it took longer than 2 seconds", (await _house.Tables.AskAsync(Table("slow"), asked)).Problem);
        listener.Stop();
        await serving;
        Assert.Equal("the service cannot be reached", (await _house.Tables.AskAsync(Table("good"), asked)).Problem);
        Assert.Contains("not an address", _house.WithDesigns().Tables.SetAddress("vessel-register", "ftp://x", "me").Problem);
    }

    public void Dispose()
    {
        _house.Dispose();
        _other.Dispose();
    }
}
