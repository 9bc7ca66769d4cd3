using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using System.Xml.Linq;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>Documents over the API, and the pages of stacks, ways in and sheets over HTTP.</summary>
public sealed class DocumentApiTests(HarbourApp app) : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("api").FullName;

    private static async Task<JsonElement> Json(HttpResponseMessage answer) =>
        JsonDocument.Parse(await answer.Content.ReadAsStringAsync()).RootElement;

    private byte[] Drawn(HarbourPage page)
    {
        HarbourDocuments.Draw(page, _folder);
        return File.ReadAllBytes(Path.Combine(_folder, page.FileName));
    }

    private static HarbourPage Sound => HarbourDocuments.Incoming().First(p => !p.Scan && p.Design.TypeCode == "vessel-call-record");

    private async Task<JsonElement> Settled(HttpClient client, string address)
    {
        if (app.Get<Jobs>().Running(Intake.Subject) is { } job)
            await job.Completion;
        return await Json(await client.GetAsync(address));
    }

    [Fact]
    public async Task Reading_that_was_stopped_is_told_and_continues_when_asked()
    {
        var indexer = await app.SignedIn(Roles.Indexer);
        var folder = app.Get<DataFolder>();
        var path = Path.Combine(folder.Brought, "stopped.pdf");
        await File.WriteAllBytesAsync(path, Drawn(Sound));
        var batch = app.Get<Database>()
            .Write(c =>
            {
                var id = BatchStore.Add(c, "stopped.pdf", "Tobias", DateTimeOffset.UtcNow, "upload");
                BatchStore.AddFile(c, id, "stopped.pdf", folder.Relative(path), null, null);
                return id;
            });
        var desk = await indexer.GetStringAsync("/Desk");
        Assert.Contains("Reading was stopped; 1 file waits.", desk);
        (await PageForms.Post(indexer, "/Desk", "/Desk?handler=Read")).EnsureSuccessStatusCode();
        await app.Get<Intake>().Start()!.Completion;
        Assert.DoesNotContain("Reading was stopped", await indexer.GetStringAsync("/Desk"));
        Assert.Equal(FileState.Taken, Assert.Single(app.Get<Database>().Read(c => BatchStore.FilesOf(c, batch))).State);
    }

    [Fact]
    public async Task A_document_is_brought_corrected_looked_at_and_filed_and_a_delivery_counts_once()
    {
        var client = app.Api();
        async Task<HttpResponseMessage> Bring(string? key)
        {
            using var form = new MultipartFormDataContent { { new ByteArrayContent(Drawn(Sound)), "file", "call.pdf" } };
            using var request = new HttpRequestMessage(HttpMethod.Post, "/api/v1/documents?way-in=upload") { Content = form };
            if (key is not null)
                request.Headers.Add("Idempotency-Key", key);
            return await client.SendAsync(request);
        }
        var brought = await Bring("delivery-1");
        Assert.Equal(HttpStatusCode.Accepted, brought.StatusCode);
        var address = brought.Headers.Location!.ToString();
        Assert.Equal(address, (await Bring("delivery-1")).Headers.Location!.ToString());
        var batch = await Settled(client, address);
        Assert.Equal(
            ("open", "the stack begins"),
            (batch.GetProperty("state").GetString(), batch.GetProperty("pages")[0].GetProperty("begins").GetString())
        );
        var id = batch.GetProperty("documents")[0].GetInt64();

        // Whose pages are read, and of whose pages no documents are made yet, is not finished.
        void Made(bool made) =>
            app.Get<Database>()
                .Write(c => BatchStore.SetSeparated(c, BatchStore.FilesOf(c, batch.GetProperty("id").GetInt64())[0].Id, made));
        Made(false);
        Assert.Equal("reading", (await Json(await client.GetAsync(address))).GetProperty("state").GetString());
        Made(true);
        Assert.Equal("open", (await Json(await client.GetAsync(address))).GetProperty("state").GetString());

        var document = await Json(await client.GetAsync($"/api/v1/documents/{id}"));
        var imo = document.GetProperty("values").GetProperty("imo");
        Assert.Equal(Sound.Truth["imo"], imo.GetProperty("text").GetString());
        var evidence = imo.GetProperty("evidence");
        Assert.Equal((1, "text layer"), (evidence.GetProperty("page").GetInt32(), evidence.GetProperty("source").GetString()));
        Assert.All(evidence.GetProperty("box").EnumerateArray(), b => Assert.InRange(b.GetDouble(), 0, 1));

        // All or none: one unknown field leaves the others as they were.
        var values = new Dictionary<string, string> { ["master"] = "A. Reed", ["no-such-field"] = "x" };
        var refused = await client.PutAsJsonAsync($"/api/v1/documents/{id}/values", values);
        Assert.Equal(HttpStatusCode.BadRequest, refused.StatusCode);
        Assert.Contains("no-such-field", (await Json(refused)).GetProperty("detail").GetString(), StringComparison.Ordinal);
        values = new() { ["master"] = "A. Reed", ["call-number"] = "VC-2024-91919" };
        var set = await Json(await client.PutAsJsonAsync($"/api/v1/documents/{id}/values", values));
        Assert.Equal("A. Reed", set.GetProperty("values").GetProperty("master").GetProperty("text").GetString());
        Assert.Empty(set.GetProperty("problems").EnumerateArray());
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await client.PutAsync($"/api/v1/documents/{id}/values", new StringContent("[1"))).StatusCode
        );

        var alto = XDocument.Parse(await client.GetStringAsync($"/api/v1/documents/{id}/pages/1?as=alto"));
        Assert.Contains(alto.Descendants(), e => e.Name.LocalName == "String" && e.Attribute("CONTENT")!.Value == Sound.Truth["imo"]);
        Assert.Contains("ocrx_word", await client.GetStringAsync($"/api/v1/documents/{id}/pages/1?as=hocr"), StringComparison.Ordinal);
        Assert.Equal("image/png", (await client.GetAsync($"/api/v1/documents/{id}/pages/1")).Content.Headers.ContentType!.MediaType);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"/api/v1/documents/{id}/pages/2")).StatusCode);

        var filed = await client.PostAsync($"/api/v1/documents/{id}/file", null);
        Assert.True(filed.IsSuccessStatusCode, await filed.Content.ReadAsStringAsync());
        Assert.Contains("VC-2024-91919", (await Json(filed)).GetProperty("path").GetString(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.Conflict, (await client.PostAsync($"/api/v1/documents/{id}/file", null)).StatusCode);
        Assert.Equal("filed", (await Json(await client.GetAsync($"/api/v1/documents/{id}"))).GetProperty("state").GetString());
        // The file as it came, byte for byte.
        var steward = await app.SignedIn(Roles.Steward);
        Assert.Equal(Drawn(Sound), await steward.GetByteArrayAsync($"/original/{id}"));
        Assert.Equal(HttpStatusCode.NotFound, (await (await app.SignedIn(Roles.Searcher)).GetAsync($"/original/{id}")).StatusCode);
    }

    [Fact]
    public async Task What_cannot_be_brought_is_a_problem_that_says_why()
    {
        var client = app.Api();
        async Task<string> Refused(HttpStatusCode status, string address, HttpContent content)
        {
            var answer = await client.PostAsync(address, content);
            Assert.Equal(status, answer.StatusCode);
            return (await Json(answer)).GetProperty("detail").GetString()!;
        }
        var raw = new ByteArrayContent([1, 2, 3]);
        raw.Headers.ContentType = new MediaTypeHeaderValue("application/pdf");
        Assert.Contains("?name=", await Refused(HttpStatusCode.BadRequest, "/api/v1/documents", raw), StringComparison.Ordinal);
        Assert.Contains(
            "no way in “nowhere”",
            await Refused(HttpStatusCode.NotFound, "/api/v1/documents?way-in=nowhere&name=a.pdf", raw),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "No file",
            await Refused(HttpStatusCode.BadRequest, "/api/v1/documents", new MultipartFormDataContent { { new StringContent("x"), "a" } }),
            StringComparison.Ordinal
        );
        // A bad file is a batch whose file was refused, by name.
        var bad = await client.PostAsync("/api/v1/documents?name=bad.pdf", raw);
        Assert.Equal(HttpStatusCode.Accepted, bad.StatusCode);
        var file = (await Json(bad)).GetProperty("files")[0];
        Assert.Equal("refused", file.GetProperty("state").GetString());
        Assert.Contains("bad.pdf", file.GetProperty("message").GetString(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/v1/batches/999999")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/v1/documents/999999")).StatusCode);
    }

    [Fact]
    public async Task A_stack_is_looked_at_cut_by_hand_made_and_given_up_over_its_page()
    {
        var stack = Path.Combine(_folder, "stack.pdf");
        StackDrawing.Pdf(stack, HarbourStacks.Goods(), 100, 1);
        var (batch, job, _) = await app.Get<Intake>()
            .BringAsync("stack.pdf", [new BroughtFile("stack.pdf", () => File.OpenRead(stack))], "Maren Holt", "goods");
        await job!.Completion;
        var client = await app.SignedIn(Roles.Indexer);
        var page = $"/Desk/Stack/{batch}";
        async Task<string> Send(string handler, params (string, string)[] fields) =>
            await (await PageForms.Post(client, page, $"{page}?handler={handler}", fields)).Content.ReadAsStringAsync();
        Assert.Contains("waits for a person", await client.GetStringAsync("/Desk/WaysIn"), StringComparison.Ordinal);
        Assert.Contains("stack.pdf", await client.GetStringAsync("/Desk/WaysIn?state=look&way=goods"), StringComparison.Ordinal);
        Assert.DoesNotContain("stack.pdf", await client.GetStringAsync("/Desk/WaysIn?state=filed&way=goods"), StringComparison.Ordinal);
        // A look at another method keeps nothing.
        var looked = await client.GetStringAsync(page + "?method=pages&pages=5&ends-with-file=on");
        Assert.Contains("This is only a preview", looked, StringComparison.Ordinal);
        Assert.Contains("10 pages → 2 documents", WebUtility.HtmlDecode(looked), StringComparison.Ordinal);
        Assert.Contains(
            "is not a number of pages",
            WebUtility.HtmlDecode(await client.GetStringAsync(page + "?method=pages&pages=x")),
            StringComparison.Ordinal
        );
        var keys = app.Get<Stacks>().Look(batch, "Maren Holt")!.Pages.Select(p => p.Key).ToList();
        Assert.Contains(
            "10 pages → 1 document",
            WebUtility.HtmlDecode(await Send("Separation", ("method", "file"), ("ends-with-file", "on"))),
            StringComparison.Ordinal
        );
        Assert.Contains("2 documents", WebUtility.HtmlDecode(await Send("Edit", ("edit", $"cut {keys[6]}"))), StringComparison.Ordinal);
        Assert.Contains("no such page", await Send("Edit", ("edit", "cut 0/0")), StringComparison.Ordinal);
        Assert.Contains("1 document", WebUtility.HtmlDecode(await Send("Undo")), StringComparison.Ordinal);
        Assert.Contains("One document is on the desk", await Send("Make"), StringComparison.Ordinal);
        Assert.Equal("image/jpeg", (await client.GetAsync($"/picture/stack/{keys[0]}/small")).Content.Headers.ContentType!.MediaType);
        Assert.Contains("given up", await Send("GiveUp"), StringComparison.Ordinal);
        Assert.Contains("This batch was given up", await client.GetStringAsync(page), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_way_in_is_saved_with_all_it_was_given_and_what_is_wrong_is_said_and_kept()
    {
        var client = await app.SignedIn(Roles.Steward);
        async Task<string> Save(params (string, string)[] fields) =>
            WebUtility.HtmlDecode(
                await (await PageForms.Post(client, "/Desk/WayIn", "/Desk/WayIn?handler=Save", fields)).Content.ReadAsStringAsync()
            );
        (string, string)[] sound =
        [
            ("name", "Night post"),
            ("folder", "night post"),
            ("watches", "on"),
            ("method", "words"),
            ("words", @"No \d{4}"),
            ("is-pattern", "on"),
            ("left", "50"),
            ("top", "0"),
            ("width", "50"),
            ("height", "20.5"),
            ("stays", "on"),
            ("drop-blanks", "on"),
            ("blank-share", "0.2"),
            ("look-first", "Always"),
            ("type", "hot-work-permit"),
            ("constants", "fire-watch: yes\nwork: Welding: of a hatch"),
            ("names", "{berth}/{*}.pdf"),
            ("language", "eng"),
            ("person", "Maren Holt"),
        ];
        Assert.Contains("is not a percentage", await Save([.. sound, ("height", "much")]), StringComparison.Ordinal);
        Assert.Contains(
            "is not a field, a colon and its value",
            await Save([.. sound.Where(f => f.Item1 != "constants"), ("constants", "just words")]),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "The pattern cannot be used",
            await Save([.. sound.Where(f => f.Item1 != "words"), ("words", "(")]),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "keeps its own files",
            await Save([.. sound.Where(f => f.Item1 != "folder"), ("folder", "repository/x")]),
            StringComparison.Ordinal
        );
        Assert.Contains("Saved.", await Save(sound), StringComparison.Ordinal);
        var way = app.Get<WaysIn>().Find("night-post")!;
        Assert.Equal((LookFirst.Always, "hot-work-permit", "eng", "night post"), (way.LookFirst, way.TypeCode, way.Languages, way.Folder));
        Assert.Equal(("Welding: of a hatch", "yes"), (way.Constants["work"], way.Constants["fire-watch"]));
        Assert.Equal((0.5, 0.205), (way.Separation.Region!.Value.X, Math.Round(way.Separation.Region.Value.H, 6)));
        Assert.True(way.Separation is { IsPattern: true, Stays: true, Blanks: BlankPages.Drop, BlankShare: 0.002, EndsWithFile: false });
        // What was saved is shown, and saved again the same.
        var shown = await client.GetStringAsync("/Desk/WayIn?key=night-post");
        Assert.Contains("20.5", shown, StringComparison.Ordinal);
        Assert.Equal(
            HttpStatusCode.Redirect,
            (await PageForms.Post(client, "/Desk/WayIn?key=night-post", "/Desk/WayIn?handler=Remove&key=night-post")).StatusCode
        );
        Assert.Null(app.Get<WaysIn>().Find("night-post"));
    }

    [Fact]
    public async Task Sheets_are_a_pdf_or_a_reason()
    {
        var client = await app.SignedIn(Roles.Indexer);
        var made = await PageForms.Post(client, "/Desk/Sheets", "/Desk/Sheets?handler=Separators", ("count", "3"));
        Assert.Equal("application/pdf", made.Content.Headers.ContentType!.MediaType);
        using (var pdf = UglyToad.PdfPig.PdfDocument.Open(await made.Content.ReadAsByteArrayAsync()))
            Assert.Equal(3, pdf.NumberOfPages);
        made = await PageForms.Post(
            client,
            "/Desk/Sheets?type=pilotage-certificate",
            "/Desk/Sheets?handler=Covers&type=pilotage-certificate",
            ("rows", "Holder\nA. Reed\nB. Marsh"),
            ("value.examiner", "Z. Lind"),
            ("box", "class")
        );
        using (var pdf = UglyToad.PdfPig.PdfDocument.Open(await made.Content.ReadAsByteArrayAsync()))
            Assert.Contains("Z. Lind", string.Join(' ', pdf.GetPage(2).GetWords().Select(w => w.Text)), StringComparison.Ordinal);
        var refused = await PageForms.Post(client, "/Desk/Sheets", "/Desk/Sheets?handler=Separators", ("count", "501"));
        Assert.Contains("1 to 500 sheets", await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
