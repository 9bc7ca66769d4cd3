using System.Net;
using System.Text;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// Sessions end with the right they came from; guessing is slow; tokens do what they are for; what goes out is written down.
/// </summary>
public sealed class TrustTests(HarbourApp app)
{
    private const string Password = "tarpaulin over the hatch 7";

    private readonly Accounts _people = app.Get<Accounts>();

    private async Task<(Person Person, HttpClient Client)> Somebody(params string[] roles)
    {
        var name = $"Somebody {Guid.NewGuid():N}"[..20];
        Assert.Null(_people.Add(name, Password, roles, "test").Problem);
        return (_people.Find(name)!, await SignIn(name, Password));
    }

    private async Task<HttpClient> SignIn(string name, string password)
    {
        var client = app.App.CreateClient(new() { AllowAutoRedirect = false, HandleCookies = true });
        await PageForms.Post(client, "/SignIn", "/SignIn", ("name", name), ("password", password));
        return client;
    }

    private static async Task<bool> IsIn(HttpClient client) => (await client.GetAsync("/Repository")).StatusCode == HttpStatusCode.OK;

    [Fact]
    public async Task A_session_ends_at_once_when_the_person_their_roles_or_their_password_go()
    {
        var (removed, first) = await Somebody(Roles.Indexer);
        var (changed, second) = await Somebody(Roles.Indexer);
        var (reset, third) = await Somebody(Roles.Searcher, Roles.Indexer);
        foreach (var client in new[] { first, second, third })
            Assert.True(await IsIn(client));
        Assert.Null(_people.Remove(removed.Id, "test").Problem);
        Assert.Null(_people.SetRoles(changed.Id, [Roles.Searcher], "test").Problem);
        var word = _people.Reset(reset.Id, "test").Value!;
        foreach (var client in new[] { first, second, third })
            Assert.False(await IsIn(client));

        // The one-time password leads to one's own page only, until it is replaced.
        var again = await SignIn(reset.Name, word);
        Assert.Equal("/Person", (await again.GetAsync("/Repository")).Headers.Location?.ToString());
        var other = await SignIn(reset.Name, word);
        await PageForms.Post(
            again,
            "/Person",
            "/Person?handler=Password",
            ("old", word),
            ("password", "a rope ladder, seven rungs"),
            ("again", "a rope ladder, seven rungs")
        );
        Assert.True(await IsIn(again));
        Assert.False(await IsIn(other));
        Assert.False(await IsIn(await SignIn(reset.Name, word)));
    }

    /// <summary>A second click, sent when the first has signed them in, has a token of nobody.</summary>
    [Fact]
    public async Task Sign_in_clicked_twice_leads_where_one_click_does_and_a_foreign_form_signs_nobody_in_or_out()
    {
        var (person, _) = await Somebody(Roles.Searcher);
        using var client = app.App.CreateClient(new() { AllowAutoRedirect = false, HandleCookies = true });
        var token = await PageForms.AntiforgeryOf(client, "/SignIn");
        async Task<HttpResponseMessage> Click(string address, string with)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, address)
            {
                Content = new FormUrlEncodedContent(new Dictionary<string, string> { ["name"] = person.Name, ["password"] = Password }),
            };
            request.Headers.Add("X-Antiforgery", with);
            return await client.SendAsync(request, TestContext.Current.CancellationToken);
        }
        Assert.Equal(HttpStatusCode.BadRequest, (await Click("/SignIn", "of another page")).StatusCode);
        Assert.False(await IsIn(client));
        foreach (var _ in new[] { 1, 2 })
            Assert.Equal("/", (await Click("/SignIn", token)).Headers.Location?.ToString());
        Assert.Equal("/", (await Click("/SignIn?handler=Out", "of another page")).Headers.Location?.ToString());
        Assert.True(await IsIn(client));
    }

    [Fact]
    public async Task Guessing_is_slowed_by_name_and_written_down_and_the_right_password_waits_too()
    {
        var (person, _) = await Somebody(Roles.Searcher);
        for (var i = 0; i < 6; i++)
            Assert.Null(_people.SignIn(person.Name, $"wrong {i}", "192.0.2.7").Person);
        var verdict = _people.SignIn(person.Name, Password, "192.0.2.7");
        Assert.Null(verdict.Person);
        Assert.Contains("Too many attempts", verdict.Problem);
        // From elsewhere the person still gets in; guesses from many places are slowed by the name.
        Assert.NotNull(_people.SignIn(person.Name, Password, "192.0.2.8").Person);
        for (var i = 0; i < 31; i++)
            _people.SignIn(person.Name, "wrong", $"198.51.100.{i}");
        Assert.Contains("Too many attempts", _people.SignIn(person.Name, Password, "192.0.2.9").Problem);
        Assert.True(
            app.Get<Database>()
                .Read(c => LedgerStore.Find(c, new LedgerFilter { Object = person.Name, Action = "failed to sign in" }, 100))
                .Count >= 30
        );
    }

    [Fact]
    public void Common_passwords_are_refused()
    {
        foreach (var weak in (string[])["aaaaaaaaaa", "          ", "password12", "1234567890", "qwertyuiop", "Somebody X1"])
            Assert.NotNull(_people.Add("Somebody X", weak, [Roles.Searcher], "test").Problem);
    }

    [Theory]
    [InlineData(Scopes.Check, true, false, false)]
    [InlineData(Scopes.Read, false, true, false)]
    [InlineData(Scopes.Design, false, false, true)]
    public async Task A_token_does_what_it_is_for_and_no_more(string scope, bool checks, bool reads, bool designs)
    {
        var steward = _people.All().First(p => p.Roles.Contains(Roles.Steward));
        var client = app.App.CreateClient(new() { AllowAutoRedirect = false });
        client.DefaultRequestHeaders.Authorization = new("Bearer", _people.MakeToken(steward, $"{scope} only", [scope], 1));
        var check = await client.PostAsync(
            "/api/v1/document-types/vessel-call-record/check",
            new StringContent("""{"records":[]}""", Encoding.UTF8, "application/json")
        );
        Assert.Equal(checks ? HttpStatusCode.OK : HttpStatusCode.Forbidden, check.StatusCode);
        Assert.Equal(reads ? HttpStatusCode.OK : HttpStatusCode.Forbidden, (await client.GetAsync("/api/v1/document-types")).StatusCode);
        var design = await client.GetAsync("/api/v1/design");
        Assert.Equal(designs ? HttpStatusCode.OK : HttpStatusCode.Forbidden, design.StatusCode);
        if (!designs)
            Assert.Equal("application/problem+json", design.Content.Headers.ContentType?.MediaType);
        // Pages are not for tokens.
        Assert.NotEqual(HttpStatusCode.OK, (await client.GetAsync("/Repository")).StatusCode);
    }

    [Fact]
    public async Task What_is_exported_is_written_down_and_reading_pages_writes_nothing()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var database = app.Get<Database>();
        long Lines() => database.Read(c => c.Scalar<long>("SELECT max(seq) FROM ledger"));
        var before = Lines();
        foreach (
            var export in (string[])
                [
                    "/Repository?handler=Csv",
                    "/Ledger?handler=Csv",
                    "/Design/File?handler=Export",
                    "/Design/Vocabulary/berths?handler=Export&form=ttl",
                    "/Migration/Inventory/1?handler=Left",
                ]
        )
        {
            Assert.Equal(HttpStatusCode.OK, (await steward.GetAsync(export)).StatusCode);
            Assert.Contains("exported", database.Read(c => LedgerStore.Newest(c, 1))[0].Action);
        }
        Assert.Equal(before + 5, Lines());
        var writes = database.Writes;
        foreach (
            var page in (string[])
                [
                    "/",
                    "/Design",
                    "/Design/Type/vessel-call-record",
                    "/Design/Publish/vessel-call-record",
                    "/Design/Vocabulary/berths",
                    "/Desk",
                    "/Repository",
                    "/Ledger",
                    "/Migration",
                    "/Migration/Inventory/1",
                    "/Readers",
                    "/Person",
                ]
        )
            Assert.Equal(HttpStatusCode.OK, (await steward.GetAsync(page)).StatusCode);
        Assert.Equal(writes, database.Writes);
    }

    [Fact]
    public async Task A_restricted_value_leaves_by_no_door()
    {
        var (designs, database, desk) = (app.Get<Designs>(), app.Get<Database>(), app.Get<DeskDocuments>());
        var id = database.Read(c =>
            c.Scalar<long>("SELECT min(id) FROM documents WHERE state = 'filed' AND type_code = 'vessel-call-record' AND wave_id IS NULL")
        );
        var document = desk.Find(id, "Maren Holt")!.Document;
        var surname = document.Record["master"].Split(' ')[^1];
        var (searcher, indexer) = (await app.SignedIn(Roles.Searcher), await app.SignedIn(Roles.Indexer));
        try
        {
            // Told by everything that is about the document: why it is parked, what the file was called, how it was changed.
            database.Write(c =>
            {
                DocumentStore.Park(c, id, $"Master “{surname}” is too short.");
                c.Execute(
                    "UPDATE documents SET source_name = $name WHERE id = $id",
                    ("$id", id),
                    ("$name", $"call of {surname.ToUpperInvariant()}s.pdf")
                );
                ValueHistoryStore.Add(
                    c,
                    id,
                    new ValueChange("master", "", document.Record["master"], "typed", new Instant(DateTimeOffset.UtcNow), "Tobias Finch")
                );
                FullText.Index(c, DocumentStore.Find(c, id)!, designs.Published["vessel-call-record"].Type, DocumentStore.Pages(c, id));
            });
            string Seen(HttpClient client, string address) =>
                WebUtility.HtmlDecode(client.GetStringAsync(address).GetAwaiter().GetResult());
            Assert.Contains($"Master “{surname}” is too short.", Seen(indexer, $"/Repository/Document/{id}"));
            foreach (
                var address in (string[])
                    [
                        $"/Repository/Document/{id}",
                        "/Repository",
                        "/Repository?type=vessel-call-record",
                        "/Repository?type=vessel-call-record&sort=master",
                        $"/Repository?type=vessel-call-record&field=master&text=zzz",
                        "/Repository?handler=Csv&type=vessel-call-record",
                        "/",
                    ]
            )
                Assert.DoesNotContain(surname, Seen(searcher, address), StringComparison.OrdinalIgnoreCase);
            foreach (var words in (string[])[surname, surname.ToUpperInvariant() + "s", surname[..4]])
            {
                Assert.Contains("Nothing", Seen(searcher, $"/Repository?anywhere={words}&type=vessel-call-record"));
                Assert.Contains($">{document.Name}<", Seen(indexer, $"/Repository?anywhere={words}&type=vessel-call-record"));
            }
            // Nor by what a search for it would count: the field cannot be asked at all.
            string Count(string address) =>
                System.Text.RegularExpressions.Regex.Match(Seen(searcher, address), @"[\d,]+ of [\d,]+ documents").Value;
            Assert.Equal(
                Count("/Repository?type=vessel-call-record"),
                Count($"/Repository?type=vessel-call-record&field=master&text={surname}")
            );

            // A browser keeps no picture that the next person to sign in there would be shown.
            foreach (var kept in (string[])[$"/picture/document/{id}/1", $"/file/{id}"])
                Assert.True((await indexer.GetAsync(kept)).Headers.CacheControl!.NoStore);

            // Typed without a place: no page is shown, as picture or in the copy.
            database.Write(c =>
                DocumentStore.Save(
                    c,
                    DocumentStore.Find(c, id)! with
                    {
                        Evidence = document.Evidence.Where(e => e.Key != "master").ToDictionary(),
                    }
                )
            );
            Assert.Contains("kept back until somebody has marked", Seen(searcher, $"/Repository/Document/{id}"));
            Assert.DoesNotContain("<image", Seen(searcher, $"/Repository/Document/{id}"));
            var copy = Path.Combine(app.App.Data, "withheld.pdf");
            await File.WriteAllBytesAsync(copy, await searcher.GetByteArrayAsync($"/file/{id}"));
            Assert.Empty(Formats.PageReading.TextLayer(copy, 1).Words);
            Assert.Contains("No page shows it", Seen(indexer, $"/Repository/Document/{id}"));
            await PageForms.Post(indexer, $"/Repository/Document/{id}", $"/Repository/Document/{id}?handler=Place", ("field", "master"));
            Assert.Contains("<image", Seen(searcher, $"/Repository/Document/{id}"));
        }
        finally
        {
            database.Write(c =>
            {
                DocumentStore.Park(c, id, null);
                DocumentStore.Save(c, document with { Revision = DocumentStore.Find(c, id)!.Revision });
                c.Execute("UPDATE documents SET source_name = $name WHERE id = $id", ("$id", id), ("$name", document.SourceName));
                FullText.Index(c, document, designs.Published["vessel-call-record"].Type, DocumentStore.Pages(c, id));
            });
        }
    }

    /// <summary>A copied cookie is good for nothing once its session was signed out of; a reset ends tokens when that is asked.</summary>
    [Fact]
    public async Task What_was_signed_out_of_stays_closed_for_a_copy_of_its_cookie()
    {
        var people = app.Get<Accounts>();
        Assert.Null(people.Add("Copied", "kettle-under-moss-71", [Roles.Searcher], "test").Problem);
        var client = app.App.CreateClient(new() { AllowAutoRedirect = false, HandleCookies = false });
        async Task<HttpResponseMessage> Send(HttpMethod verb, string address, string cookies, params (string, string)[] fields)
        {
            using var request = new HttpRequestMessage(verb, address);
            request.Headers.Add("Cookie", cookies);
            if (verb == HttpMethod.Post)
                request.Content = new FormUrlEncodedContent(fields.Select(f => new KeyValuePair<string, string>(f.Item1, f.Item2)));
            return await client.SendAsync(request);
        }
        static string Cookies(HttpResponseMessage answer) =>
            string.Join("; ", answer.Headers.GetValues("Set-Cookie").Select(c => c.Split(';')[0]));
        static string Token(string page) =>
            System.Text.RegularExpressions.Regex.Match(WebUtility.HtmlDecode(page), "\"X-Antiforgery\":\"([^\"]+)\"").Groups[1].Value;
        var form = await client.GetAsync("/SignIn");
        var anonymous = Cookies(form);
        var signedIn = await Send(
            HttpMethod.Post,
            "/SignIn",
            anonymous,
            ("name", "Copied"),
            ("password", "kettle-under-moss-71"),
            ("__RequestVerificationToken", Token(await form.Content.ReadAsStringAsync()))
        );
        var copy = $"{anonymous}; {Cookies(signedIn)}";
        var today = await Send(HttpMethod.Get, "/", copy);
        Assert.Equal(HttpStatusCode.OK, today.StatusCode);
        await Send(
            HttpMethod.Post,
            "/SignIn?handler=Out",
            copy,
            ("__RequestVerificationToken", Token(await today.Content.ReadAsStringAsync()))
        );
        Assert.Equal(HttpStatusCode.Redirect, (await Send(HttpMethod.Get, "/", copy)).StatusCode);

        var person = people.Find("Copied")!;
        var token = people.MakeToken(person, "night run");
        Assert.True(people.Reset(person.Id, "test").Ok);
        Assert.NotNull(people.ByToken(token));
        Assert.True(people.Reset(person.Id, "test", tokens: true).Ok);
        Assert.Null(people.ByToken(token));
    }
}
