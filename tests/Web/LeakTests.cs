using System.Diagnostics;
using System.Net;
using System.Text;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.AspNetCore.Mvc.Testing.Handlers;
using Microsoft.Extensions.DependencyInjection;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// Papers of a type all of whose telling fields are restricted, made in every shape that a value may hide in; then everything that a
/// searcher can fetch: pages, files, pictures, the API; as it comes, unpacked, as text and recognised at four angles.
/// </summary>
public sealed class LeakTests(ITestOutputHelper output)
{
    private const string Steward = "Stina Weld",
        Searcher = "Sol Tarn",
        Password = "four plain harbour words";

    private static readonly Dictionary<string, string> Values = new()
    {
        ["name"] = "Zebulon Quastenberg",
        ["born"] = "1963-11-08",
        ["account"] = "DE89370400440532013000",
        ["pay"] = "98765.43",
        ["ward"] = "Fever house",
        ["kin"] = """[{"who":"Ottoline Brackenth","when":"1991-02-17"}]""",
    };

    // Each as somebody would look for it, folded: letters and digits only.
    private static readonly string[] Secrets =
    [
        "zebulon",
        "quastenberg",
        "19631108",
        "081163",
        "8november1963",
        "achternovember1963",
        "6311087",
        "0532013000",
        "370400440532013000",
        "9876543",
        "feverhouse",
        "ottoline",
        "brackenth",
        "19910217",
    ];

    private const string Lines =
        "Crew paper of the ship Grey Heron|Name Zebulon Quastenberg|Born 8 November 1963|am achten November 1963|UTO6311087M2501017|"
        + "Account 0532 013 000 at bank 370 400 44|Pay 98,765.43 EUR|Lies in the Fever house|Kin Ottoline Brackenth 17.02.1991|"
        + "Remarks sound in wind and limb";

    private readonly string _work = Directory.CreateTempSubdirectory("leaks").FullName;
    private readonly List<string> _leaks = [];
    private readonly HashSet<string> _recognised = [];
    private int _looked;

    [Fact]
    public async Task Nothing_that_is_restricted_reaches_a_searcher_by_any_way()
    {
        await using var app = new App();
        T Get<T>()
            where T : notnull => app.Services.GetRequiredService<T>();
        foreach (var (name, role) in new[] { (Steward, Roles.Steward), (Searcher, Roles.Searcher) })
            Assert.Null(Get<Accounts>().Add(name, Password, [role], "me").Problem);
        Design(Get<Vocabularies>(), Get<Drafts>());

        var files = new Dictionary<string, byte[]>
        {
            ["upright"] = Paper(),
            ["on its side"] = Paper(rotate: 90),
            ["text runs upwards"] = Paper(upwards: true),
            ["with company"] = Paper(company: true),
            ["called Quastenberg"] = Paper(),
            ["typed nowhere"] = Paper(),
            ["corrected"] = Paper(),
            ["overridden"] = Paper(),
            ["retyped"] = Paper(),
            ["open at first"] = Paper(),
            ["scanned"] = Scan(Paper()),
        };
        var ids = new Dictionary<string, long>();
        foreach (var (what, bytes) in files)
            ids[what] = await Filed(what, bytes, Get<Intake>(), Get<DeskDocuments>(), Get<Filer>());
        await Changed(ids, Get<FiledDocuments>(), Get<Drafts>(), Get<Retyping>(), Get<Rebuilding>(), Get<Jobs>());
        Assert.Null(
            Get<Views>()
                .Save("Everything", ViewStore.Everyone, new ViewDefinition { Type = "crew-paper" }, Steward, new Rights([Roles.Steward]))
                .Problem
        );
        Assert.Null(
            Get<Views>()
                .Save(
                    "Paid as he is",
                    ViewStore.Everyone,
                    new ViewDefinition { Type = "crew-paper", Ask = "Name is Zebulon Quastenberg" },
                    Steward,
                    new Rights([Roles.Steward])
                )
                .Problem
        );

        // Whoever may see all finds it, or the test would look for nothing.
        using var seesAll = await SignedIn(app, Steward);
        Assert.Contains("quastenberg", Folded(await seesAll.GetStringAsync($"/Repository/Document/{ids["upright"]}")));

        using var searcher = await SignedIn(app, Searcher);
        await Crawl(searcher);
        // The page of what became an open note is open; its past is not.
        ids.Remove("retyped");
        foreach (var (what, id) in ids)
            await Fetch(searcher, what, id);
        using var api = app.CreateClient();
        api.DefaultRequestHeaders.Authorization = new(
            "Bearer",
            Get<Accounts>().MakeToken(Get<Accounts>().Find(Searcher)!, "a searcher's", Scopes.All, null, Steward)
        );
        foreach (var (what, id) in ids)
        foreach (var way in new[] { "", "/pages/1?as=alto", "/pages/1?as=hocr", "/pages/1" })
            await Look($"API, {what}{way}", await api.GetAsync($"/api/v1/documents/{id}{way}"));
        foreach (var form in new[] { "jsonl", "csv", "xlsx", "xml" })
            await Look($"view as {form}", await api.GetAsync($"/api/v1/views/{Uri.EscapeDataString("Everything")}?as={form}"));
        foreach (var secret in new[] { "Quastenberg", "0532013000", "Brackenth", "98765.43", "1963-11-08", "Fever house" })
            Assert.DoesNotContain(
                "/Repository/Document/",
                await searcher.GetStringAsync($"/Repository?type=crew-paper&anywhere={Uri.EscapeDataString(secret)}")
            );
        output.WriteLine(
            $"{ids.Count} papers, {_looked} answers looked through, {_recognised.Count} pictures recognised, {_leaks.Count} leaks"
        );
        foreach (var leak in _leaks.Distinct())
            output.WriteLine(leak);
        Assert.Empty(_leaks);
        Directory.Delete(_work, recursive: true);
    }

    private static void Design(Vocabularies vocabularies, Drafts drafts)
    {
        Assert.Null(vocabularies.Create("Wards", "Fever house", Steward).Problem);
        Field Shut(Field field) => field with { Restricted = true };
        Field[] fields =
        [
            Shut(new TextField("name", "Name")),
            Shut(new DateField("born", "Born")),
            Shut(new IdentifierField("account", "Account") { Scheme = "iban" }),
            Shut(new DecimalField("pay", "Pay")),
            Shut(new TermField("ward", "Ward") { Vocabulary = "wards" }),
            Shut(new TableField("kin", "Kin") { Columns = [new TextField("who", "Who"), new DateField("when", "When")] }),
            new TextField("ship", "Ship"),
            new TextField("paper", "Paper"),
            new TextField("remarks", "Remarks"),
        ];
        Field[] open = [.. fields.Select(f => f with { Restricted = false })];
        foreach (var (name, own) in new[] { ("Crew paper", fields), ("Loose paper", open), ("Note", open[..1].Concat(open[6..])) })
        {
            var code = drafts.Create(name, Steward).Value!;
            Assert.Null(
                drafts
                    .Change(
                        code,
                        "fields",
                        Steward,
                        t =>
                            t with
                            {
                                Fields = [.. own],
                                Rules = [new Rule("r1", "unique", Level.Should, new Dictionary<string, string> { ["fields"] = "ship" })],
                                Convention = new Convention([Piece.Literal(name), Piece.Inside, Piece.Of("ship")], [Piece.Of("paper")]),
                            }
                    )
                    .Problem
            );
            Assert.Null(drafts.Publish(code, Steward).Problem);
        }
    }

    // Each is read by nobody: a person says what it is, and shows where it stands, but for what the case is about.
    private static async Task<long> Filed(string what, byte[] bytes, Intake intake, DeskDocuments desk, Filer filer)
    {
        var (batch, job, _) = await intake.BringAsync("Papers", [new BroughtFile($"{what}.pdf", () => new MemoryStream(bytes))], Steward);
        await job!.Completion;
        var id = Assert.Single(desk.Waiting(Steward, batch)).Document.Id;
        Assert.Null(desk.SetType(id, what is "open at first" ? "loose-paper" : "crew-paper", Steward).Problem);
        var page = desk.Pages(id)[0].Text;
        foreach (var (field, text) in Values)
        {
            var words = page.Words.Where(w => Folded(text).Contains(Folded(w.Text)) && w.Text.Length > 3).ToList();
            var place =
                what == "typed nowhere" ? Evidence.NoPlace
                : words.Count > 0 && field == "name"
                    ? new Evidence(1, words[0].Box, string.Join(' ', words.Select(w => w.Text)), "picked", 1)
                : new Evidence(1, new Box(0.95, 0.98, 0.01, 0.01), "", "marked", 1);
            Assert.Null(desk.SetValue(id, field, what == "corrected" && field == "name" ? "Zeb Quast" : text, place, Steward).Problem);
        }
        Assert.Null(desk.SetValue(id, "ship", "Grey Heron", null, Steward).Problem);
        Assert.Null(desk.SetValue(id, "paper", what.Split(' ')[0], null, Steward).Problem);
        // What stood on the line of an open value.
        Assert.Null(
            desk.SetValue(
                id,
                "remarks",
                "sound",
                new Evidence(1, new Box(0, 0, 0.1, 0.1), "Quastenberg is sound", "picked", 1),
                Steward
            ).Problem
        );
        foreach (var problem in desk.Find(id, Steward)!.Judged!.All.ToList())
            _ = desk.Override(id, problem.Id, "as printed for Quastenberg", Steward);
        Assert.Null(filer.File(id, Steward).Problem);
        return id;
    }

    private static async Task Changed(
        Dictionary<string, long> ids,
        FiledDocuments filed,
        Drafts drafts,
        Retyping retyping,
        Rebuilding rebuilding,
        Jobs jobs
    )
    {
        Assert.Null(filed.Edit(ids["corrected"], "name", Values["name"], "he is Zebulon Quastenberg", Steward).Problem);
        Assert.Null(filed.Edit(ids["upright"], "remarks", "sound, says Quastenberg", "told by Quastenberg", Steward).Problem);
        Assert.Null(filed.Edit(ids["upright"], "remarks", "sound", "", Steward).Problem);
        // What the name was is nobody's business, whatever the paper is now.
        Assert.Null(filed.Edit(ids["retyped"], "name", "N. N.", "", Steward).Problem);
        var run = retyping.Begin("note", null, ids["retyped"], false, "it is a note", Steward, new Rights([Roles.Steward]));
        Assert.True(run.Ok, run.Problem);
        // A look is over when its job is, not when its state says so.
        await (jobs.Running(Retyping.Subject)?.Completion ?? Task.CompletedTask);
        var changing = retyping.Start(run.Value, Steward);
        Assert.True(changing.Ok, changing.Problem);
        await changing.Value!.Completion;
        Assert.Equal(RunState.Applied, retyping.Find(run.Value)!.State);
        // A field becomes restricted when papers are filed already.
        Assert.Null(
            drafts
                .Change(
                    "loose-paper",
                    "restricted",
                    Steward,
                    t => t with { Fields = [.. t.Fields.Select(f => f with { Restricted = Values.ContainsKey(f.Key) })] }
                )
                .Problem
        );
        Assert.Null(drafts.Publish("loose-paper", Steward).Problem);
        rebuilding.StartDue();
        await Until.Holds(() => rebuilding.Due.Count == 0);
    }

    // A page of lines, upright or not, alone or with all that a file may hold besides.
    private static byte[] Paper(int rotate = 0, bool upwards = false, bool company = false)
    {
        var text = new StringBuilder();
        foreach (var (line, i) in Lines.Split('|').Select((l, i) => (l, i)))
            text.Append(
                upwards
                    ? $"BT /F 14 Tf 0 1 -1 0 {80 + i * 30} 100 Tm ({line}) Tj ET\n"
                    : $"BT /F 14 Tf 1 0 0 1 60 {720 - i * 40} Tm ({line}) Tj ET\n"
            );
        if (company)
            text.Append("BT /F 8 Tf 3 Tr 1 0 0 1 60 40 Tm (unseen Zebulon Quastenberg) Tj ET\n");
        List<string> objects =
        [
            "<</Type/Catalog/Pages 2 0 R" + (company ? "/Names<</EmbeddedFiles<</Names[(a.txt) 7 0 R]>>>>" : "") + ">>",
            "<</Type/Pages/Kids[3 0 R]/Count 1>>",
            $"<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Rotate {rotate}/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>"
                + (company ? "/Annots[6 0 R]" : "")
                + ">>",
            HandPdf.Stream(text.ToString()),
            "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>",
        ];
        if (company)
            objects.AddRange([
                "<</Type/Annot/Subtype/Text/Rect[300 300 320 320]/Contents(Zebulon Quastenberg is ill)/T(Brackenth)>>",
                "<</Type/Filespec/F(a.txt)/EF<</F 8 0 R>>>>",
                HandPdf.Stream("Zebulon Quastenberg, Fever house", "/Type/EmbeddedFile"),
            ]);
        return HandPdf.Of([.. objects]);
    }

    private byte[] Scan(byte[] pdf)
    {
        var path = Path.Combine(_work, "scan.pdf");
        File.WriteAllBytes(path, pdf);
        Run("pdftoppm", "-png", "-r", "150", path, Path.Combine(_work, "scan"));
        return File.ReadAllBytes(Directory.GetFiles(_work, "scan*.png").Single());
    }

    private static async Task<HttpClient> SignedIn(App app, string name)
    {
        var client = app.CreateDefaultClient(new AsRead(), new CookieContainerHandler(new CookieContainer()));
        var answer = await PageForms.Post(client, "/SignIn", "/SignIn", ("name", name), ("password", Password));
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        return client;
    }

    // Every page that can be reached by links.
    private async Task Crawl(HttpClient client)
    {
        var visitor = new Visitor(client);
        var (seen, next) = (new HashSet<string>(), new Queue<string>(["/", "/Repository?type=crew-paper", "/Repository?type=loose-paper"]));
        while (next.TryDequeue(out var address) && seen.Count < 250)
        {
            if (
                !seen.Add(address)
                || address.StartsWith("/lib/", StringComparison.Ordinal)
                || address.StartsWith("/v/", StringComparison.Ordinal)
            )
                continue;
            var answer = await visitor.Open(address);
            if (answer.Page is not { } page)
                continue;
            _looked++;
            // All that the page carries, also in attributes.
            Told($"page {address}", page.DocumentElement.OuterHtml);
            foreach (var link in page.QuerySelectorAll("a[href], [hx-get], img[src], image[href]"))
                if (
                    (link.GetAttribute("href") ?? link.GetAttribute("hx-get") ?? link.GetAttribute("src")) is { Length: > 0 } to
                    && !to.StartsWith('#')
                )
                    next.Enqueue(Visitor.Resolved(address, to).Split('#')[0]);
        }
        Assert.True(seen.Count > 25, $"only {seen.Count} pages were reached");
    }

    private async Task Fetch(HttpClient client, string what, long id)
    {
        foreach (
            var way in new[]
            {
                $"/file/{id}",
                $"/original/{id}",
                $"/picture/document/{id}/1",
                $"/picture/document/{id}/1/small",
                $"/Repository/Document/{id}",
                $"/Desk/Document/{id}",
            }
        )
            await Look($"{what}: {way}", await client.GetAsync(way));
    }

    private async Task Look(string what, HttpResponseMessage answer)
    {
        _looked++;
        var bytes = await answer.Content.ReadAsByteArrayAsync();
        Told($"{what}, its bytes", Encoding.Latin1.GetString(bytes));
        var media = answer.Content.Headers.ContentType?.MediaType ?? "";
        var path = Path.Combine(_work, $"{_looked}");
        await File.WriteAllBytesAsync(path, bytes);
        if (bytes.AsSpan().StartsWith("%PDF"u8))
        {
            Run("qpdf", "--qdf", "--object-streams=disable", path, path + ".qdf");
            Told($"{what}, unpacked", Encoding.Latin1.GetString(await File.ReadAllBytesAsync(path + ".qdf")));
            Told($"{what}, as text", Run("pdftotext", path, "-"));
            Run("pdftoppm", "-png", "-r", "130", "-gray", path, path);
            foreach (var drawn in Directory.GetFiles(_work, $"{_looked}-*.png"))
                Recognised(what, drawn);
        }
        else if (media is "image/png" or "image/jpeg")
            Recognised(what, path);
        else if (media.Contains("spreadsheet", StringComparison.Ordinal))
            Told($"{what}, unpacked", Run("unzip", "-p", path));
        else
            Told(what, WebUtility.HtmlDecode(Encoding.UTF8.GetString(bytes)));
    }

    // Upright, on either side, and on its head.
    private void Recognised(string what, string picture)
    {
        // The same picture comes by several ways.
        if (!_recognised.Add(DataFolder.HashOf(picture)))
            return;
        foreach (var angle in new[] { 0, 90, 180, 270 })
        {
            using var page = OpenCvSharp.Cv2.ImRead(picture, OpenCvSharp.ImreadModes.Grayscale);
            using var turned = page.Clone();
            if (angle > 0)
                OpenCvSharp.Cv2.Rotate(page, turned, (OpenCvSharp.RotateFlags)(angle / 90 - 1));
            var path = $"{picture}.{angle}.png";
            turned.SaveImage(path);
            Told($"{what}, recognised at {angle}°", Run("tesseract", path, "stdout", "--psm", "11", "--dpi", "130"));
        }
    }

    private void Told(string what, string text)
    {
        var folded = Folded(text);
        foreach (var secret in Secrets.Where(folded.Contains))
            _leaks.Add($"{what}: {secret}");
    }

    private static string Folded(string text) => string.Concat(CodePoints.Repaired(text).ToLowerInvariant().Where(char.IsLetterOrDigit));

    private static string Run(string program, params string[] arguments)
    {
        using var process = Process.Start(
            new ProcessStartInfo(program, arguments)
            {
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                UseShellExecute = false,
            }
        )!;
        process.ErrorDataReceived += static (_, _) => { };
        process.BeginErrorReadLine();
        var said = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return said;
    }
}
