using System.Net;
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
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>What the desk, edits, the API and migration say alike, and what the API gives and takes of a design.</summary>
public sealed class EveryDoorTests(HarbourApp app) : DesignPages(app)
{
    [Fact]
    public async Task The_api_gives_takes_and_plans_the_design_forStewards_only()
    {
        var api = App.Api();
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
        Assert.Contains("2020-12", await App.App.CreateClient().GetStringAsync("/api/v1/design/schema"));
        var indexer = await App.SignedIn(Roles.Indexer);
        Assert.NotEqual(HttpStatusCode.OK, (await indexer.GetAsync("/api/v1/design")).StatusCode);
        var csvw = await api.GetStringAsync("/api/v1/document-types/vessel-call-record/csvw");
        Assert.Contains("http://purl.org/dc/terms/identifier", csvw);
        Assert.Contains("\"base\": \"date\"", csvw);
    }

    [Fact]
    public async Task A_person_reads_messages_in_their_language()
    {
        var people = App.Get<Accounts>();
        Assert.Null(people.Add($"Greta {Code}", "tide-and-lantern", [Roles.Indexer], "test").Problem);
        Assert.Contains("not available in “xx”", people.SetLanguage($"Greta {Code}", "xx").Problem);
        Assert.Null(people.SetLanguage($"Greta {Code}", "de").Problem);
        var filed = App.Get<Database>()
            .Read(c => RepositorySearch.Find(c, new RepositoryQuery { TypeCode = "vessel-call-record" }, 1).Documents)[0];
        Assert.Contains(
            "Ein Schiff kann nicht auslaufen",
            App.Get<FiledDocuments>().Edit(filed.Id, "sailed", "1990-01-01", "", $"Greta {Code}").Problem
        );
        Assert.Contains("A vessel cannot sail", App.Get<FiledDocuments>().Edit(filed.Id, "sailed", "1990-01-01", "", "Maren Holt").Problem);
        Assert.Contains("Kept.", await At("/Person", "/Person", ("language", "fr")));
        Assert.Contains("échoue au contrôle", await Page("/Person"));
        await At("/Person", "/Person", ("language", "en"));
    }

    [Fact]
    public async Task Desk_edit_api_and_migration_give_the_same_problems_for_the_same_record()
    {
        var (designs, drafts) = (App.Get<Designs>(), App.Get<Drafts>());
        var database = App.Get<Database>();
        Assert.Null(
            drafts
                .Change(
                    Code,
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
        Assert.Null(drafts.Publish(Code, "test").Problem);
        string[][] records =
        [
            ["3", "9074728", "North Quays", "2999-01-01"],
            ["12", "", "NQ1", ""],
            ["x", "12", "Nowhere", "soon"],
            ["1", "9074729", "NQ1", "2024-01-01"],
        ];
        var type = designs.Published[Code].Type;
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
                        TypeCode = Code,
                        Version = 1,
                        Record = record,
                    },
                    []
                )
            );
            string[] Said(IEnumerable<Problem> problems) =>
                [.. problems.Select(p => $"{p.Code} {p.Field} {p.Message}").Order(StringComparer.Ordinal)];
            var desk = Said(App.Get<DeskDocuments>().Find(id, "Maren Holt")!.Judged!.All);
            var edit = Said(
                database
                    .Read(c =>
                        RecordJudge.Judge(
                            c,
                            type,
                            RecordJudge.Texts(type, record),
                            designs.Now(EntryChannel.Edit, "Maren Holt"),
                            new Placed(id)
                        )
                    )
                    .All
            );
            var plan = new Core.Migration.CompiledPlan(
                new Core.Migration.MigrationPlan(
                    Code,
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
            var answer = await App.Api()
                .PostAsync(
                    $"/api/v1/document-types/{Code}/check",
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
            App.Get<DeskDocuments>().Discard(id, "test");
        }
    }

    [Fact]
    public async Task The_desk_shows_the_other_document_beside_a_duplicate_and_looks_things_up_in_a_service()
    {
        var database = App.Get<Database>();
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
        var indexer = await App.SignedIn(Roles.Indexer);
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
                App.Get<ReferenceTables>().SetAddress("vessel-register", "http://127.0.0.1:9/nobody", "test").Problem
            );
            Assert.Null(App.Get<ServiceAddresses>().Set("http://127.0.0.1:9/", "test").Problem);
            Assert.Null(App.Get<ReferenceTables>().SetAddress("vessel-register", "http://127.0.0.1:9/nobody", "test").Problem);
            Assert.Contains("id=\"look-ups\"", await indexer.GetStringAsync($"/Desk/Document/{id}"));
            Assert.Contains(
                "could not be looked up in Vessel register: the service cannot be reached",
                WebUtility.HtmlDecode(
                    await (
                        await PageForms.Post(indexer, $"/Desk/Document/{id}", $"/Desk/Document/{id}?handler=LookUp")
                    ).Content.ReadAsStringAsync()
                )
            );
        }
        finally
        {
            App.Get<ReferenceTables>().SetAddress("vessel-register", "", "test");
            App.Get<DeskDocuments>().Discard(id, "test");
        }
    }
}
