using System.Net;
using System.Text.RegularExpressions;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

public partial class SafetyTests(HarbourApp app)
{
    private long FiledCall =>
        app.Get<Database>().Read(c => RepositorySearch.Find(c, new RepositoryQuery { TypeCode = "vessel-call-record" }, 1).Documents)[0].Id;

    [Theory]
    [InlineData("/Design")]
    [InlineData("/Desk")]
    [InlineData("/Repository")]
    [InlineData("/Migration")]
    [InlineData("/Migration/Packages")]
    [InlineData("/picture/document/1/1")]
    [InlineData("/file/1")]
    public async Task Nobody_gets_in_without_signing_in(string address)
    {
        var answer = await app.App.CreateClient(new() { AllowAutoRedirect = false }).GetAsync(address);
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        Assert.StartsWith("/SignIn", answer.Headers.Location!.OriginalString);
    }

    [Theory]
    [InlineData(Roles.Searcher, "/Repository", true)]
    [InlineData(Roles.Searcher, "/Desk", false)]
    [InlineData(Roles.Searcher, "/Design", false)]
    [InlineData(Roles.Indexer, "/Desk", true)]
    [InlineData(Roles.Indexer, "/Readers", false)]
    [InlineData(Roles.Indexer, "/Migration", false)]
    [InlineData(Roles.Indexer, "/Ledger", false)]
    [InlineData(Roles.Steward, "/Migration", true)]
    [InlineData(Roles.Steward, "/Settings", false)]
    [InlineData(Roles.Administrator, "/Settings", true)]
    [InlineData(Roles.Administrator, "/Design", false)]
    public async Task A_place_is_for_its_roles(string role, string address, bool allowed)
    {
        var answer = await (await app.SignedIn(role)).GetAsync(address);
        Assert.Equal(allowed ? HttpStatusCode.OK : HttpStatusCode.Redirect, answer.StatusCode);
        if (!allowed)
            Assert.StartsWith("/Error", answer.Headers.Location!.OriginalString);
    }

    /// <summary>Every form of every place can be sent by a browser without scripts; a few are, and end in their page.</summary>
    [Fact]
    public async Task Forms_work_without_scripts()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var inventory = app.Get<Database>().Read(InventoryStore.All)[0].Id;
        string[] pages =
        [
            "/Design",
            "/Design/Type/vessel-call-record",
            "/Design/Type/vessel-call-record?open=vessel",
            "/Design/Type/vessel-call-record?open=new",
            "/Design/Type/vessel-call-record?open=new-rule",
            "/Design/Type/harbour-dues-statement?open=services|services--new",
            "/Design/Convention/vessel-call-record",
            "/Design/Publish/vessel-call-record",
            "/Design/Refile/vessel-call-record",
            "/Design/Vocabulary/berths",
            "/Design/Review/cargo",
            "/Design/Table/vessels",
            "/Design/ClosedDays",
            "/Design/Import/berths",
            "/Design/File",
            "/Design/Paths/vessel-call-record",
            "/Readers",
            "/Desk",
            "/Repository",
            $"/Repository/Document/{FiledCall}",
            "/Repository/IntegrityCheck",
            "/Repository/Exports",
            "/Repository/Export?type=vessel-call-record",
            "/Repository/BulkEdit?type=vessel-call-record",
            "/Migration",
            $"/Migration/Inventory/{inventory}",
            "/Person",
        ];
        foreach (var page in pages)
        {
            using var answer = await steward.GetAsync(page, TestContext.Current.CancellationToken);
            if (answer.StatusCode == HttpStatusCode.NotFound && page.StartsWith("/Design/Table", StringComparison.Ordinal))
                continue;
            Assert.True(answer.IsSuccessStatusCode, $"{page}: {answer.StatusCode}");
            foreach (
                Match form in Regex.Matches(
                    await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken),
                    "<form\\b([^>]*)>(.*?)</form>",
                    RegexOptions.Singleline
                )
            )
            {
                var (tag, inside) = (form.Groups[1].Value, form.Groups[2].Value);
                if (tag.Contains("method=\"get\"", StringComparison.Ordinal))
                    continue;
                Assert.True(
                    tag.Contains("method=\"post\"", StringComparison.Ordinal) && Regex.IsMatch(tag, " action=\"[^\"]+\"")
                        || !tag.Contains("hx-", StringComparison.Ordinal) && tag.Contains("method=\"post\"", StringComparison.Ordinal),
                    $"{page}: {tag}"
                );
                Assert.True(
                    Regex.Count(inside, "__RequestVerificationToken") == 1,
                    $"{page}: {tag} has {Regex.Count(inside, "__RequestVerificationToken")} tokens"
                );
                Assert.True(
                    !inside.Contains("type=\"file\"", StringComparison.Ordinal)
                        || tag.Contains("multipart/form-data", StringComparison.Ordinal),
                    $"{page}: {tag} has a file"
                );
            }
        }

        // As a browser sends it: what stands in the form, to its address, with nothing added.
        async Task<string> Send(string page, string handler, params (string, string)[] typed)
        {
            var form = Regex
                .Matches(await steward.GetStringAsync(page), "<form\\b([^>]*)>(.*?)</form>", RegexOptions.Singleline)
                .First(f => f.Groups[1].Value.Contains(handler, StringComparison.Ordinal));
            var fields = Regex
                .Matches(form.Groups[2].Value, "<input[^>]*type=\"hidden\"[^>]*>")
                .Select(i => i.Value)
                .Select(i =>
                    (
                        Regex.Match(i, "name=\"([^\"]*)\"").Groups[1].Value,
                        WebUtility.HtmlDecode(Regex.Match(i, "value=\"([^\"]*)\"").Groups[1].Value)
                    )
                )
                .Concat(typed);
            using var content = new FormUrlEncodedContent(fields.Select(f => new KeyValuePair<string, string>(f.Item1, f.Item2)));
            using var sent = await steward.PostAsync(
                new Uri(
                    new Uri(steward.BaseAddress!, page),
                    WebUtility.HtmlDecode(Regex.Match(form.Groups[1].Value, "action=\"([^\"]*)\"").Groups[1].Value)
                ),
                content
            );
            Assert.Equal(HttpStatusCode.OK, sent.StatusCode);
            return WebUtility.HtmlDecode(await sent.Content.ReadAsStringAsync());
        }
        Assert.Contains("Slip without script", await Send("/Design/Vocabulary/berths", "handler=Add", ("terms", "Slip without script")));
        Assert.True(app.Get<Designs>().Vocabularies["berths"].Find("Slip without script") is not null);
        await Send("/Design/Vocabulary/berths", "handler=Undo");
        Assert.Null(app.Get<Designs>().Vocabularies["berths"].Find("Slip without script"));
    }

    [Fact]
    public async Task Every_page_is_sent_without_anything_inline_and_forbids_it()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var inventory = app.Get<Migrations>().All()[0].Id;
        foreach (
            var page in new[]
            {
                "/",
                "/Design",
                "/Design/Type/vessel-call-record",
                "/Design/Threads/vessel-call-record",
                "/Design/Vocabulary/berths",
                "/Readers",
                "/Readers/Reader/dues-note-older-form",
                "/Desk",
                "/Repository?type=vessel-call-record",
                $"/Repository/Document/{FiledCall}",
                "/Repository/IntegrityCheck",
                "/Migration",
                $"/Migration/Inventory/{inventory}",
                "/Ledger",
                "/Shortcuts",
            }
        )
        {
            var answer = await steward.GetAsync(page);
            Assert.True(answer.StatusCode == HttpStatusCode.OK, page);
            var policy = string.Join(' ', answer.Headers.GetValues("Content-Security-Policy"));
            Assert.DoesNotContain("unsafe", policy);
            Assert.Contains("script-src 'self'", policy);
            Assert.Equal("nosniff", string.Join(' ', answer.Headers.GetValues("X-Content-Type-Options")));
            Assert.DoesNotMatch(Inline(), await answer.Content.ReadAsStringAsync());
        }
    }

    [Fact]
    public async Task A_post_without_its_antiforgery_token_changes_nothing()
    {
        var steward = await app.SignedIn(Roles.Steward);
        using var form = new FormUrlEncodedContent([new("name", "Smuggled")]);
        Assert.Equal(HttpStatusCode.BadRequest, (await steward.PostAsync("/Design?handler=Type", form)).StatusCode);
        Assert.Null(app.Get<Designs>().Find("smuggled"));
    }

    [Fact]
    public async Task An_indexer_cannot_post_what_only_a_steward_may()
    {
        var indexer = await app.SignedIn(Roles.Indexer);
        var answer = await PageForms.Post(indexer, "/Desk", "/Design/Type/vessel-call-record?handler=RemoveField&key=vessel");
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        Assert.NotNull(app.Get<Designs>().Find("vessel-call-record")!.Draft.Find("vessel"));
        var searcher = await app.SignedIn(Roles.Searcher);
        answer = await PageForms.Post(
            searcher,
            "/Repository",
            $"/Repository/Document/{FiledCall}?handler=Edit&field=agent",
            ("text", "Smuggled")
        );
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        Assert.NotEqual("Smuggled", app.Get<DeskDocuments>().Find(FiledCall, "Maren Holt")!.Document.Record["agent"]);
    }

    [Fact]
    public async Task A_searcher_sees_no_restricted_value_anywhere()
    {
        var document = app.Get<DeskDocuments>().Find(FiledCall, "Maren Holt")!.Document;
        var master = document.Record["master"];
        var surname = master.Split(' ')[^1];
        var searcher = await app.SignedIn(Roles.Searcher);
        var indexer = await app.SignedIn(Roles.Indexer);
        Assert.Contains(master, WebUtility.HtmlDecode(await indexer.GetStringAsync($"/Repository/Document/{document.Id}")));
        foreach (
            var address in new[]
            {
                $"/Repository/Document/{document.Id}",
                "/Repository?type=vessel-call-record",
                $"/Repository?handler=Csv&type=vessel-call-record",
                $"/Repository?type=vessel-call-record&ask={Uri.EscapeDataString("Master is zzz")}",
                "/Repository?type=vessel-call-record&sort=master",
            }
        )
            Assert.DoesNotContain(surname, WebUtility.HtmlDecode(await searcher.GetStringAsync(address)));
        Assert.DoesNotContain($">{document.Name}<", await searcher.GetStringAsync($"/Repository?anywhere={surname}"));
        Assert.Contains($">{document.Name}<", WebUtility.HtmlDecode(await indexer.GetStringAsync($"/Repository?anywhere={surname}")));

        var whole = await indexer.GetByteArrayAsync($"/picture/document/{document.Id}/1");
        var masked = await searcher.GetByteArrayAsync($"/picture/document/{document.Id}/1");
        Assert.NotEqual(whole, masked);
        var copy = Path.Combine(app.App.Data, "copy.pdf");
        await File.WriteAllBytesAsync(copy, await searcher.GetByteArrayAsync($"/file/{document.Id}"));
        Assert.DoesNotContain(PageReading.TextLayer(copy, 1).Words, w => w.Text.Contains(surname, StringComparison.Ordinal));
        await File.WriteAllBytesAsync(copy, await indexer.GetByteArrayAsync($"/file/{document.Id}"));
        Assert.Contains(PageReading.TextLayer(copy, 1).Words, w => w.Text.Contains(surname, StringComparison.Ordinal));
    }

    /// <summary>
    /// A restricted field that is taken out of the type does not uncover what it held: not in the history, the full text, or on the page.
    /// </summary>
    [Fact]
    public async Task A_restricted_field_that_is_removed_stays_hidden()
    {
        var (designs, drafts, database) = (app.Get<Designs>(), app.Get<Drafts>(), app.Get<Database>());
        var document = app.Get<DeskDocuments>().Find(FiledCall, "Maren Holt")!.Document;
        var (address, surname) = ($"/Repository/Document/{document.Id}", document.Record["master"].Split(' ')[^1]);
        database.Write(c =>
            ValueHistoryStore.Add(
                c,
                document.Id,
                new ValueChange("master", "", document.Record["master"], "typed", new Instant(DateTimeOffset.UtcNow), "Tobias Finch")
            )
        );
        var searcher = await app.SignedIn(Roles.Searcher);
        var before = await searcher.GetByteArrayAsync($"/picture/document/{document.Id}/1");
        Assert.Null(
            drafts
                .Change(
                    "vessel-call-record",
                    "removed the master",
                    "Maren Holt",
                    t =>
                        t with
                        {
                            Fields = [.. t.Fields.Where(f => f.Key != "master")],
                            Rules = [.. t.Rules.Where(r => !r.Parameters.Values.Any(v => v.Contains("master", StringComparison.Ordinal)))],
                        }
                )
                .Problem
        );
        try
        {
            Assert.Null(drafts.Publish("vessel-call-record", "Maren Holt").Problem);
            database.Write(c =>
                FullText.Index(c, document, designs.Published["vessel-call-record"].Type, DocumentStore.Pages(c, document.Id))
            );
            Assert.DoesNotContain(surname, WebUtility.HtmlDecode(await searcher.GetStringAsync(address)));
            Assert.Contains(surname, WebUtility.HtmlDecode(await (await app.SignedIn(Roles.Indexer)).GetStringAsync(address)));
            Assert.DoesNotContain($">{document.Name}<", await searcher.GetStringAsync($"/Repository?anywhere={surname}"));
            Assert.Equal(before, await searcher.GetByteArrayAsync($"/picture/document/{document.Id}/1"));
        }
        finally
        {
            Assert.Null(
                drafts
                    .Change(
                        "vessel-call-record",
                        "put the master back",
                        "Maren Holt",
                        t => designs.Versions("vessel-call-record").MinBy(v => v.Version)!.Source
                    )
                    .Problem
            );
            Assert.Null(drafts.Publish("vessel-call-record", "Maren Holt").Problem);
            database.Write(c =>
                FullText.Index(c, document, designs.Published["vessel-call-record"].Type, DocumentStore.Pages(c, document.Id))
            );
        }
    }

    [Fact]
    public async Task A_design_with_bad_patterns_and_paths_says_so_and_is_not_published()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var made = app.Get<Drafts>().Create($"Trial {Guid.NewGuid():N}"[..14], "test").Value!;
        var page = $"/Design/Type/{made}";
        async Task<string> Send(string handler, params (string, string)[] fields) =>
            WebUtility.HtmlDecode(
                await (await PageForms.Post(steward, page, $"{page}?handler={handler}", fields)).Content.ReadAsStringAsync()
            );
        Assert.Contains("look-around or back-references", await Send("Field", ("label", "A"), ("kind", "Text"), ("pattern", @"(a)\1")));
        Assert.Contains("cannot be read at character", await Send("Field", ("label", "A"), ("kind", "Text"), ("pattern", "[")));
        Assert.Empty(app.Get<Designs>().Find(made)!.Draft.Fields);
        Assert.DoesNotContain(
            "notice problem",
            await Send("Field", ("label", "A"), ("kind", "Text"), ("pattern", "(a+)+$"), ("required", "on"))
        );
        Assert.Contains("no pieces yet", await Send("Publish"));
        foreach (
            var (text, said) in new[]
            {
                ("..", "lead outside the repository"),
                ("CON", "reserve for devices"),
                (new string('x', 290), "120 are allowed in a folder or file name"),
            }
        )
        {
            await PageForms.Post(steward, page, $"/Design/Convention/{made}?handler=Piece&line=folder", ("text", text));
            await PageForms.Post(steward, page, $"/Design/Convention/{made}?handler=Piece&line=name", ("text", "A"));
            var answer = await Send("Publish");
            Assert.Contains(said, answer);
            Assert.Contains("notice problem", answer);
            await Send("Undo");
            await Send("Undo");
        }
        Assert.Empty(app.Get<Designs>().Versions(made));
    }

    [Fact]
    public async Task The_first_start_asks_for_an_administrator_only_while_there_is_nobody()
    {
        var answer = await app.App.CreateClient(new() { AllowAutoRedirect = false }).GetAsync("/FirstAdministrator");
        Assert.Equal("/SignIn", answer.Headers.Location?.OriginalString);
    }

    [GeneratedRegex("""<script(?![^>]*\bsrc=)|<style|\sstyle\s*=|\son[a-z]+\s*=\s*["']|javascript:""", RegexOptions.IgnoreCase)]
    private static partial Regex Inline();
}
