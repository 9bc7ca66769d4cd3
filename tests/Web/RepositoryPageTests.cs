using System.Net;
using System.Text.RegularExpressions;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

public partial class RepositoryPageTests(HarbourApp app)
{
    private async Task<string> Page(string address, string role = Roles.Indexer)
    {
        var client = await app.SignedIn(role);
        using var answer = await client.GetAsync(address, TestContext.Current.CancellationToken);
        // Conditions that were built in rows go into the address as one sentence.
        return answer.StatusCode == HttpStatusCode.Found
            ? await Page(answer.Headers.Location!.ToString(), role)
            : WebUtility.HtmlDecode(await answer.EnsureSuccessStatusCode().Content.ReadAsStringAsync());
    }

    private static List<string> Names(string page) => [.. NameCell().Matches(page).Select(m => m.Groups[1].Value)];

    private List<StoredDocument> Calls =>
        app.Get<Database>().Read(c => RepositorySearch.Find(c, new RepositoryQuery { TypeCode = "vessel-call-record" }, 100).Documents);

    [Fact]
    public async Task A_type_shows_its_own_fields_sorted_as_numbers_are()
    {
        var page = await Page("/Repository?type=vessel-call-record&sort=gross-tonnage&desc=true");
        Assert.Equal(
            Calls
                .OrderByDescending(d => int.Parse(d.Record["gross-tonnage"]))
                .ThenBy(d => d.Folder)
                .ThenBy(d => d.Name)
                .Select(d => d.Name),
            Names(page)
        );
        Assert.Contains("aria-sort=\"descending\"", page);
        Assert.Contains("Gross tonnage ↓", page);
        Assert.Contains("sort=gross-tonnage", page);
    }

    [Fact]
    public async Task The_field_search_is_sharper_and_both_counts_are_shown()
    {
        var word = Calls.GroupBy(d => d.Record["vessel-type"]).First().Key.Split(' ')[0];
        var inField = Calls.Count(d => d.Record["vessel-type"].Contains(word, StringComparison.OrdinalIgnoreCase));
        var page = await Page($"/Repository?type=vessel-call-record&field=vessel-type&text={word}");
        Assert.Equal(inField, Names(page).Count);
        var compared = Regex.Matches(page, @"<strong>(\d+)</strong>").Select(m => int.Parse(m.Groups[1].Value)).ToList();
        Assert.Equal(inField, compared[0]);
        Assert.True(compared[1] >= compared[0]);
    }

    [Fact]
    public async Task Two_fields_are_searched_at_once_between_values_too_and_a_restricted_one_is_not()
    {
        var (least, most) = ("2023-08-01", "2023-10-31");
        bool Between(StoredDocument d) =>
            string.CompareOrdinal(d.Record["arrived"], least) >= 0 && string.CompareOrdinal(d.Record["arrived"], most) <= 0;
        var vessel = Calls.First(Between).Record["vessel"];
        var address =
            $"/Repository?type=vessel-call-record&field=arrived&how=Between&text={least}&to={most}&field=vessel&how=Is&text={Uri.EscapeDataString(vessel.ToUpperInvariant())}&to=";
        var page = await Page(address);
        Assert.Equal(Calls.Where(d => Between(d) && d.Record["vessel"] == vessel).Select(d => d.Name), Names(page));
        // Both stand in the sentence, and go along when the page is sorted.
        Assert.Contains($"value=\"Arrived is from {least} to {most} and Vessel is {vessel.ToUpperInvariant()}\"", page);
        var sorted = Regex.Match(page, "class=\"sort\" href=\"([^\"]*sort=imo[^\"]*)\"").Groups[1].Value;
        Assert.Equal(Names(page).Order(StringComparer.Ordinal), Names(await Page(sorted)).Order(StringComparer.Ordinal));
        Assert.Equal(
            Calls.Count(Between),
            Names(await Page($"/Repository?type=vessel-call-record&field=arrived&how=Between&text={least}&to={most}")).Count
        );
        // Who may not see a value does not find by it either: there is no such field.
        var master = Calls.First(d => d.Record.GetValueOrDefault("master", "").Length > 0).Record["master"];
        Assert.Equal(
            Calls.Count,
            Names(
                await Page($"/Repository?type=vessel-call-record&field=master&how=Is&text={Uri.EscapeDataString(master)}", Roles.Searcher)
            ).Count
        );
        page = await Page($"/Repository?type=vessel-call-record&ask={Uri.EscapeDataString($"Master is {master}")}", Roles.Searcher);
        Assert.Contains("does not begin with a field", page);
        Assert.Empty(Names(page));
        Assert.Contains("4,000 are the most", await Page($"/Repository?type=vessel-call-record&ask={new string('x', 4_100)}"));
    }

    [Fact]
    public async Task A_link_by_value_leads_to_the_document_the_list_or_what_is_missing_over_the_api_too()
    {
        var one = Calls[0];
        var client = await app.SignedIn(Roles.Searcher);
        async Task<HttpResponseMessage> At(string path) => await client.GetAsync(path, TestContext.Current.CancellationToken);
        var number = Uri.EscapeDataString(one.Record["call-number"]);
        Assert.Equal(
            $"/Repository/Document/{one.Id}",
            (await At($"/at/vessel-call-record?call-number={number}")).Headers.Location!.ToString()
        );
        Assert.StartsWith("/Repository?type=", (await At("/at/vessel-call-record?arrived=2023")).Headers.Location!.ToString());
        foreach (
            var (address, says) in new[]
            {
                ("/at/vessel-call-record?call-number=VC-1900-00001", "No filed document is found"),
                ("/at/nothing?a=b", "no document type “nothing”"),
                ("/at/vessel-call-record?boat=b", "no field “boat”"),
                ("/at/vessel-call-record?master=b", "no field “master”"),
                ("/at/vessel-call-record?arrived=soon", "is not a day"),
                ("/at/vessel-call-record?vessel=", "needs a value"),
                ("/at/vessel-call-record", "names no field"),
            }
        )
        {
            var answer = await At(address);
            Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
            Assert.Contains(says, WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync()));
            answer = await At("/api/v1" + address);
            Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
            Assert.Equal("application/problem+json", answer.Content.Headers.ContentType!.MediaType);
        }
        Assert.Contains($"\"id\":{one.Id},", await client.GetStringAsync($"/api/v1/at/vessel-call-record?call-number={number}"));
        // After signing in one arrives where one was going.
        using var anyone = app.App.CreateClient(new() { AllowAutoRedirect = false });
        var asked = await anyone.GetAsync($"/at/vessel-call-record?call-number={number}", TestContext.Current.CancellationToken);
        Assert.Contains(Uri.EscapeDataString("/at/vessel-call-record?call-number="), asked.Headers.Location!.ToString());
    }

    [Fact]
    public async Task A_view_is_saved_shared_and_read_by_the_api_and_a_strip_shows_its_place_only()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var address = "/Repository?type=vessel-call-record&ask=Arrived%20is%20from%202023";
        var saved = await PageForms.Post(
            steward,
            address,
            $"{address}&handler=SaveView",
            ("name", "All the calls"),
            ("columns", "Vessel, Berth, Master"),
            ("shared", "everyone")
        );
        Assert.Contains("Saved as “All the calls”.", WebUtility.HtmlDecode(await saved.Content.ReadAsStringAsync()));
        var searcher = await app.SignedIn(Roles.Searcher);
        var lines = (await searcher.GetStringAsync("/api/v1/views/all%20the%20calls")).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal(Calls.Count, lines.Length);
        Assert.All(lines, line => Assert.DoesNotContain("master", line, StringComparison.Ordinal));
        var csv = await steward.GetStringAsync("/api/v1/views/All%20the%20calls?as=csv");
        Assert.StartsWith("id,folder,name,vessel,berth,master\r\n", csv);
        Assert.Equal("PK", (await searcher.GetStringAsync("/api/v1/views/All%20the%20calls?as=xlsx"))[..2]);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await searcher.GetAsync("/api/v1/views/none", TestContext.Current.CancellationToken)).StatusCode
        );
        Assert.Contains("All the calls", await searcher.GetStringAsync("/Repository"));
        Assert.Matches($"All the calls</a><span class=\"soft\">{Calls.Count}</span>", await searcher.GetStringAsync("/?handler=Views"));
        Assert.Contains("facet", await searcher.GetStringAsync(address + "&handler=Facets"));

        var document = Calls.First(d => d.Evidence.ContainsKey("master") && d.Evidence.ContainsKey("berth"));
        var png = await searcher.GetByteArrayAsync($"/api/v1/documents/{document.Id}/strips/berth");
        Assert.Equal("PNG"u8.ToArray(), png[1..4]);
        var page = await steward.GetByteArrayAsync($"/picture/document/{document.Id}/1");
        int Side(byte[] picture, int at) => System.Buffers.Binary.BinaryPrimitives.ReadInt32BigEndian(picture.AsSpan(at));
        var box = document.Evidence["berth"].Box;
        Assert.InRange(Side(png, 20), 1, (int)(box.H * Side(page, 20)) + (int)(0.02 * Side(page, 16)) + 4);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await searcher.GetAsync($"/api/v1/documents/{document.Id}/strips/master", TestContext.Current.CancellationToken)).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.OK,
            (await steward.GetAsync($"/api/v1/documents/{document.Id}/strips/master", TestContext.Current.CancellationToken)).StatusCode
        );
    }

    [Fact]
    public async Task Answers_are_compressed_and_files_of_a_version_are_kept_for_ever()
    {
        var client = await app.SignedIn(Roles.Indexer);
        client.DefaultRequestHeaders.AcceptEncoding.ParseAdd("br");
        using var page = await client.GetAsync("/Repository", TestContext.Current.CancellationToken);
        Assert.Equal(["br"], page.Content.Headers.ContentEncoding);
        Assert.True(page.Headers.CacheControl!.NoStore);
        // Scripts take others from beside them, fonts lie beside their styles: all are under the address of one version.
        var before = Hosting.OwnFiles.Before(app.Get<Microsoft.AspNetCore.Hosting.IWebHostEnvironment>());
        foreach (var file in new[] { "/css/clear-lexicon.css", "/js/app.js", "/js/unsaved.js", "/lib/htmx/htmx.min.js" })
        {
            using var kept = await client.GetAsync(before + file, TestContext.Current.CancellationToken);
            Assert.Contains("immutable", kept.Headers.CacheControl!.ToString());
            using var earlier = await client.GetAsync("/v/0123" + file, TestContext.Current.CancellationToken);
            Assert.Equal("no-cache", earlier.Headers.CacheControl!.ToString());
        }
    }

    [Fact]
    public async Task A_folder_shows_what_is_in_it_and_below_and_opens_in_the_tree()
    {
        var folder = Calls[0].Folder!;
        var page = await Page($"/Repository?folder={Uri.EscapeDataString(folder)}");
        Assert.Equal(
            app.Get<Database>().Read(c => RepositorySearch.Count(c, new RepositoryQuery { Folder = folder }).Number),
            Names(page).Count
        );
        Assert.Contains($"<span>{folder.Split('/')[^1]}</span>", page);
        var year = folder[..folder.LastIndexOf('/')];
        Assert.Equal(
            Calls.Count(d => d.Folder!.StartsWith(year, StringComparison.Ordinal)),
            Names(await Page($"/Repository?folder={Uri.EscapeDataString(year)}")).Count
        );
        Assert.Contains("Nothing found", await Page("/Repository?folder=Nowhere"));
    }

    [Fact]
    public async Task What_is_shown_is_saved_as_csv_with_every_field()
    {
        var lines = (await Page("/Repository?handler=Csv&type=vessel-call-record")).Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal(
            "folder,name,call-number,vessel,imo,vessel-type,berth,arrived,sailed,gross-tonnage,agent,master,pilot-used,pilot-certificate,flag,cargo,entered-by,entered-on,handling",
            lines[0]
        );
        Assert.Equal(Calls.Count, lines.Length - 1);
        Assert.StartsWith($"{Calls[0].Folder},{Calls[0].Name},{Calls[0].Record["call-number"]},", lines[1]);
    }

    [Fact]
    public async Task A_filed_document_shows_values_history_and_where_it_would_belong_after_an_edit()
    {
        var document = Calls[^1];
        var indexer = await app.SignedIn(Roles.Indexer);
        var address = $"/Repository/Document/{document.Id}";
        var page = await Page(address);
        Assert.Contains(document.FileHash![..16], page);
        Assert.Contains("read from the text layer", page);
        Assert.DoesNotContain("it belongs at", page);
        var answer = await PageForms.Post(indexer, address, $"{address}?handler=Edit&field=sailed", ("text", "1 January 2025"));
        page = WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
        Assert.Contains("2025-01-01", page);
        Assert.Contains("Kept; the history tells.", page);
        answer = await PageForms.Post(indexer, address, $"{address}?handler=Edit&field=arrived", ("text", "2024-12-24"));
        page = WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
        Assert.Contains("it belongs at", page);
        Assert.Contains("Vessel calls / 2024 / 12 December", page);
        // Moved where it belongs, and back.
        page = WebUtility.HtmlDecode(await (await PageForms.Post(indexer, address, $"{address}?handler=Move")).Content.ReadAsStringAsync());
        Assert.Contains($"moved from {document.Folder}/{document.Name} to Vessel calls/2024/12 December/", page);
        var move = app.Get<Moves>().Of(document.Id)[0];
        Assert.Contains(
            "Moved back.",
            WebUtility.HtmlDecode(
                await (await PageForms.Post(indexer, address, $"{address}?handler=MoveBack&move={move.Id}")).Content.ReadAsStringAsync()
            )
        );
        Assert.Equal(
            (document.Folder, document.Name),
            (
                app.Get<DeskDocuments>().Find(document.Id, "Maren Holt")!.Document.Folder,
                app.Get<DeskDocuments>().Find(document.Id, "Maren Holt")!.Document.Name
            )
        );
        answer = await PageForms.Post(indexer, address, $"{address}?handler=Edit&field=arrived", ("text", "2025-06-01"));
        Assert.Contains("A vessel cannot sail before it has arrived.", WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync()));
        Assert.Equal("2024-12-24", app.Get<DeskDocuments>().Find(document.Id, "Maren Holt")!.Document.Record["arrived"]);
        // Back to what was filed, for whoever looks next.
        foreach (var (field, text) in new[] { ("arrived", document.Record["arrived"]), ("sailed", document.Record["sailed"]) })
            Assert.True(app.Get<FiledDocuments>().Edit(document.Id, field, text, "", "test").Ok);
    }

    /// <summary>
    /// A value that was edited without moving the file: the page says where it belongs and what the path says, and either can be taken.
    /// </summary>
    [Fact]
    public async Task What_the_path_says_can_be_taken_into_the_record()
    {
        var indexer = await app.SignedIn(Roles.Indexer);
        var document = Calls.First(d => d.WaveId is null && d.Parked is null);
        var address = $"/Repository/Document/{document.Id}";
        async Task<string> Post(string handler, params (string, string)[] fields) =>
            WebUtility.HtmlDecode(
                await (await PageForms.Post(indexer, address, $"{address}?handler={handler}", fields)).Content.ReadAsStringAsync()
            );
        Assert.DoesNotContain("Or the path is right", await Page(address));
        var page = await Post("Edit&field=vessel", ("text", "Wrong Name"), ("reason", "a test"));
        Assert.Contains($"Or the path is right: it says Vessel {document.Record["vessel"]}.", page);
        page = await Post("FollowPath");
        Assert.Contains("The record now says what the path says", page);
        Assert.Equal(document.Record["vessel"], app.Get<Database>().Read(c => DocumentStore.Find(c, document.Id))!.Record["vessel"]);
        Assert.DoesNotContain("Or the path is right", page);

        Assert.Contains("Not looked at yet", await Page("/Repository/IntegrityCheck"));
        await PageForms.Post(indexer, "/Repository/IntegrityCheck", "/Repository/IntegrityCheck?handler=Look");
        await Until.Holds(() => app.Get<IntegrityCheck>().Last is not null);
        Assert.Contains("Everything is where its record says", await Page("/Repository/IntegrityCheck"));
        Assert.Equal(
            HttpStatusCode.Redirect,
            (await (await app.SignedIn(Roles.Searcher)).GetAsync("/Repository/IntegrityCheck")).StatusCode
        );
    }

    [GeneratedRegex("""<td><a href="/Repository/Document/\d+">([^<]+)</a>""")]
    private static partial Regex NameCell();
}
