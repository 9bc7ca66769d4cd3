using System.Diagnostics;
using System.Net;
using System.Text;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using SkiaSharp;

namespace ClearLexicon.Web.Tests;

/// <summary>Files that kill, hang or swell whoever reads them: each costs itself a refusal, and nobody else anything.</summary>
public sealed class HostileFileTests(HarbourApp app) : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("hostile").FullName;

    private string Put(string name, byte[] content)
    {
        var path = Path.Combine(_folder, name);
        File.WriteAllBytes(path, content);
        return path;
    }

    private async Task<string> Refused(string name, byte[] content)
    {
        var reader = app.Get<IFileReader>();
        var path = Put(name, content);
        var check = await reader.CheckAsync(path, name, default);
        if (check.Problem is { } problem)
            return problem;
        return (
            await Assert.ThrowsAsync<FileRefusedException>(() =>
                reader.PagesAsync(path, name, check.Kind, check.Pages, Path.Combine(_folder, "pages"), default)
            )
        ).Message;
    }

    [Fact]
    public async Task A_file_that_kills_its_reader_is_refused_and_the_next_one_is_read()
    {
        Assert.Contains("“round.pdf”", await Refused("round.pdf", HostileFiles.SelfReference));
        Assert.Contains("“deep.pdf”", await Refused("deep.pdf", HostileFiles.Nested));
        Assert.Contains("no size that a page can have", await Refused("flat.pdf", HostileFiles.NoSize));
        var reader = app.Get<IFileReader>();
        var sound = Put("sound.pdf", HostileFiles.SoundPdf());
        Assert.Null((await reader.CheckAsync(sound, "sound.pdf", default)).Problem);
        var page = Assert.Single(await reader.PagesAsync(sound, "sound.pdf", FileKind.Pdf, 1, Path.Combine(_folder, "sound"), default));
        Assert.Equal(["Grey", "Heron", "moored"], page.Text.Words.Select(w => w.Text));
    }

    [Fact]
    public async Task A_worker_that_takes_too_much_memory_or_too_long_is_ended()
    {
        using var reader = new WorkerReader(Start() with { Memory = 260L * 1024 * 1024, PerPage = TimeSpan.FromSeconds(5) });
        var bomb = Put("bomb.pdf", HostileFiles.Bomb());
        Assert.InRange(new FileInfo(bomb).Length, 50_000, 3_000_000);
        var refused = await Assert.ThrowsAsync<FileRefusedException>(() =>
            reader.PagesAsync(bomb, "bomb.pdf", FileKind.Pdf, 1, Path.Combine(_folder, "b"), default)
        );
        Assert.Matches("more memory|breaks off|damaged|too long", refused.Message);
        using var hasty = new WorkerReader(Start() with { PerPage = TimeSpan.FromMilliseconds(60) });
        var slow = await Assert.ThrowsAsync<FileRefusedException>(() =>
            hasty.PagesAsync(bomb, "bomb.pdf", FileKind.Pdf, 1, Path.Combine(_folder, "c"), default)
        );
        Assert.Contains("takes too long", slow.Message);
    }

    private WorkerStart Start() =>
        new(
            "dotnet",
            [
                "exec",
                "--runtimeconfig",
                Directory.GetFiles(AppContext.BaseDirectory, "*.Web.Tests.runtimeconfig.json")[0],
                typeof(Program).Assembly.Location,
                FileWorker.Switch,
            ],
            _folder
        );

    /// <summary>
    /// A page of 97 inches is drawn less finely; words and picture are measured in the same box, also where the page is cropped.
    /// </summary>
    [Fact]
    public async Task Large_and_cropped_pages_are_drawn_within_bounds_and_their_words_stand_where_the_ink_stands()
    {
        var reader = app.Get<IFileReader>();
        foreach (
            var (name, content, words) in new[]
            {
                ("huge.pdf", HostileFiles.Huge, 3),
                ("cropped.pdf", HostileFiles.SoundPdf(page: "/MediaBox[0 0 600 600]/CropBox[20 100 280 300]"), 3),
            }
        )
        {
            var page = Assert.Single(
                await reader.PagesAsync(Put(name, content), name, FileKind.Pdf, 1, Path.Combine(_folder, name + ".pages"), default)
            );
            Assert.Equal(words, page.Text.Words.Count);
            using var picture = SKBitmap.Decode(page.ImagePath);
            Assert.InRange(picture.Width * (long)picture.Height, 10_000, (long)PageReading.MostPixels + 10_000);
            if (name == "huge.pdf")
                continue;
            // The darkest place of the picture lies in the box of a word.
            var dark = Enumerable
                .Range(0, picture.Height)
                .SelectMany(y =>
                    Enumerable
                        .Range(0, picture.Width)
                        .Where(x => picture.GetPixel(x, y).Red < 100)
                        .Select(x => (X: (double)x / picture.Width, Y: (double)y / picture.Height))
                )
                .ToList();
            Assert.NotEmpty(dark);
            Assert.All(
                dark,
                d =>
                    Assert.Contains(
                        page.Text.Words,
                        w =>
                            d.X > w.Box.X - 0.02 && d.X < w.Box.X + w.Box.W + 0.02 && d.Y > w.Box.Y - 0.03 && d.Y < w.Box.Y + w.Box.H + 0.03
                    )
            );
        }
    }

    [Fact]
    public async Task Tables_and_terms_are_bounded_and_nothing_outside_the_file_is_asked_for()
    {
        var reader = app.Get<IFileReader>();
        async Task<string?> Table(string name, byte[] content) => (await reader.TableAsync(Put(name, content), name, default)).Problem;
        Assert.Null(await Table("good.xlsx", HostileFiles.Workbook(HostileFiles.Strings, HostileFiles.Cells)));
        Assert.Contains(
            "“index.xlsx”",
            await Table("index.xlsx", HostileFiles.Workbook(HostileFiles.Strings, HostileFiles.Cells.Replace("<v>2</v>", "<v>99999</v>")))
        );
        Assert.Contains(
            "MB of texts",
            await Table("shared.xlsx", HostileFiles.Workbook("<si><t>" + new string('x', 120_000_000) + "</t></si>", HostileFiles.Cells))
        );
        async Task<string?> Terms(string name, string content) =>
            (await reader.TermsAsync(Put(name, Encoding.UTF8.GetBytes(content)), name, "en", default)).Problem;
        Assert.Null(await Terms("good.rdf", HostileFiles.Rdf));
        Assert.Null(
            await Terms(
                "own.rdf",
                HostileFiles.Rdf.Replace("<rdf:RDF", "<!DOCTYPE rdf:RDF [<!ENTITY p \"Pier\">]><rdf:RDF").Replace(">Pier<", ">&p;<")
            )
        );
        var billion = "<!DOCTYPE rdf:RDF [<!ENTITY a \"" + new string('x', 100_000) + "\">]>";
        Assert.Contains(
            "come to too much",
            await Terms(
                "bomb.rdf",
                HostileFiles
                    .Rdf.Replace("<rdf:RDF", billion + "<rdf:RDF")
                    .Replace(">Pier<", ">" + string.Concat(Enumerable.Repeat("&a;", 5_000)) + "<")
            )
        );
        // A parameter entity that lies elsewhere is not fetched: nobody is asked, and it is not put in.
        using var listener = new HttpListener();
        var address = $"http://127.0.0.1:{Random.Shared.Next(20_000, 60_000)}/";
        listener.Prefixes.Add(address);
        listener.Start();
        var asked = listener.GetContextAsync();
        _ = await Terms(
            "outside.rdf",
            HostileFiles.Rdf.Replace("<rdf:RDF", $"<!DOCTYPE rdf:RDF [<!ENTITY % x SYSTEM \"{address}\"> %x;]><rdf:RDF")
        );
        Assert.False(asked.IsCompleted);
        listener.Abort();
        try
        {
            await asked;
        }
        catch (Exception e) when (e is ObjectDisposedException or HttpListenerException) { }
    }

    /// <summary>
    /// 300 mutated files through the pages: each is taken or refused by name, no answer is an error, others are answered meanwhile.
    /// </summary>
    [Fact]
    public async Task Mutated_files_through_the_pages_are_taken_or_refused_and_others_are_answered_meanwhile()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var other = await app.SignedIn(Roles.Searcher);
        var random = new Random(9);
        (string Name, byte[] Content)[] pages =
        [
            ("a.pdf", HostileFiles.SoundPdf()),
            ("b.png", HostileFiles.Picture(SKEncodedImageFormat.Png)),
            ("c.jpg", HostileFiles.Picture(SKEncodedImageFormat.Jpeg)),
            ("d.tif", HostileFiles.Tiff()),
            (
                "e.pdf",
                HandPdf.Of(
                    "<</Type/Catalog/Pages 2 0 R>>",
                    "<</Type/Pages/Kids[3 0 R]/Count 1>>",
                    "<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 300]>>"
                )
            ),
        ];
        var stop = new CancellationTokenSource();
        var slowest = TimeSpan.Zero;
        var answers = 0;
        var meanwhile = Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested)
            {
                var began = Stopwatch.GetTimestamp();
                Assert.Equal(HttpStatusCode.OK, (await other.GetAsync("/Repository")).StatusCode);
                answers++;
                if (Stopwatch.GetElapsedTime(began) is var took && took > slowest)
                    slowest = took;
                await Task.Delay(100);
            }
        });
        var before = app.Get<Database>().Read(c => (BatchStore.Count(c, FileState.Taken), BatchStore.Count(c, FileState.Refused)));
        var token = await Token(steward, "/Desk");
        for (var post = 0; post < 12; post++)
        {
            using var form = new MultipartFormDataContent();
            for (var i = 0; i < 12; i++)
            {
                var (name, content) = pages[random.Next(4) == 0 ? random.Next(pages.Length) : random.Next(2) * 4];
                form.Add(new ByteArrayContent(HostileFiles.Mutated(content, random)), "files", $"{post}-{i}-{name}");
            }
            Assert.Equal(HttpStatusCode.OK, (await Send(steward, "/Desk", form, token)).StatusCode);
        }
        for (var i = 0; i < 60; i++)
        {
            using var form = new MultipartFormDataContent
            {
                {
                    new ByteArrayContent(HostileFiles.Mutated(HostileFiles.Workbook(HostileFiles.Strings, HostileFiles.Cells), random)),
                    "file",
                    $"{i}.xlsx"
                },
            };
            Assert.True((int)(await Send(steward, "/Design/Table/payers", form, token)).StatusCode < 500);
        }
        for (var i = 0; i < 60; i++)
        {
            var (name, text) = i % 2 == 0 ? ("t.ttl", HostileFiles.Turtle) : ("r.rdf", HostileFiles.Rdf);
            using var form = new MultipartFormDataContent
            {
                { new ByteArrayContent(HostileFiles.Mutated(Encoding.UTF8.GetBytes(text), random)), "file", $"{i}-{name}" },
            };
            Assert.True((int)(await Send(steward, "/Design/Import/cargo", form, token)).StatusCode < 500);
        }
        while (app.Get<Jobs>().Running(Intake.Subject) is { } reading)
            await reading.Completion;
        stop.Cancel();
        await meanwhile;
        var after = app.Get<Database>()
            .Read(c =>
                (
                    Taken: BatchStore.Count(c, FileState.Taken),
                    Refused: BatchStore.Count(c, FileState.Refused),
                    Waiting: BatchStore.Count(c, FileState.Waiting)
                )
            );
        Assert.Equal((144L, 0L), (after.Taken - before.Item1 + after.Refused - before.Item2, after.Waiting));
        Assert.True(after.Refused - before.Item2 > 20);
        // In our words, naming the file.
        Assert.All(
            app.Get<Database>().Read(c => BatchStore.Files(c, FileState.Refused)),
            f =>
            {
                Assert.Contains($"“{f.Name}”", f.Message);
                Assert.DoesNotMatch("Object reference|Exception|github|Parameter '", f.Message);
            }
        );
        Assert.True(answers > 20, $"{answers} answers meanwhile, slowest {slowest.TotalMilliseconds:0} ms");
        foreach (var waiting in app.Get<DeskDocuments>().Waiting("Maren Holt").Where(d => d.Document.SourceName.Contains('-')))
            app.Get<DeskDocuments>().Discard(waiting.Document.Id, "test");
    }

    private static async Task<string> Token(HttpClient client, string page) =>
        System
            .Text.RegularExpressions.Regex.Match(WebUtility.HtmlDecode(await client.GetStringAsync(page)), "\"X-Antiforgery\":\"([^\"]+)\"")
            .Groups[1]
            .Value;

    private static async Task<HttpResponseMessage> Send(HttpClient client, string address, HttpContent form, string token)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, address) { Content = form };
        request.Headers.Add("X-Antiforgery", token);
        return await client.SendAsync(request);
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
