using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.TestSupport;
using SkiaSharp;

namespace ClearLexicon.Formats.Tests;

/// <summary>Pages are recognised several by one run of the recogniser; each says what it says alone, whatever the others are.</summary>
public sealed class RecognitionTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("recognition").FullName;

    private string At(string name) => Path.Combine(_folder, name);

    [Fact]
    public void Only_words_are_taken_from_the_recognisers_table()
    {
        const string tsv =
            "level\tpage_num\tblock_num\tpar_num\tline_num\tword_num\tleft\ttop\twidth\theight\tconf\ttext\n"
            + "4\t1\t1\t1\t1\t0\t10\t10\t100\t20\t-1\t\n5\t1\t1\t1\t1\t1\t10\t10\t50\t20\t96.5\tGrey\n5\t1\t1\t1\t1\t2\t70\t10\t1\t20\t30\t|\n5\t1\t1\t1\t1\t3\t70\t10\t40\t20\t91\t \n"
            + "1\t2\t0\t0\t0\t0\t0\t0\t100\t100\t-1\t\n5\t2\t1\t1\t1\t1\t10\t10\t50\t20\t80\tHeron\n";
        var word = Assert.Single(TextRecognition.Parse(tsv, 1, 200, 100));
        Assert.Equal(new Word("Grey", new Box(0.05, 0.1, 0.25, 0.2), 0.965), word);
        Assert.Equal(new Word("Heron", new Box(0.1, 0.1, 0.5, 0.2), 0.8), Assert.Single(TextRecognition.Parse(tsv, 2, 100, 100)));
        Assert.Empty(TextRecognition.Parse(tsv, 3, 100, 100));
    }

    /// <summary>A scanned stack: skewed, on its side, blank, with words of its own.</summary>
    [Fact]
    public async Task A_stack_recognised_by_one_run_says_what_its_pages_say_alone()
    {
        float[] degrees = [1.8f, 90, 0, 0];
        using (var file = File.Create(At("stack.pdf")))
        using (var pdf = SKDocument.CreatePdf(file))
        {
            for (var n = 1; n <= degrees.Length; n++)
            {
                using var canvas = pdf.BeginPage(595, 842);
                using var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 16);
                using var ink = new SKPaint { Color = SKColors.Black };
                using var page = Drawn(n, degrees[n - 1]);
                using var picture = SKImage.FromBitmap(page);
                if (n == 4)
                    canvas.DrawText("Leaf 4 of its own words", 80, 100, SKTextAlign.Left, font, ink);
                else
                    canvas.DrawImage(picture, new SKRect(0, 0, 595, 842), SKSamplingOptions.Default);
                pdf.EndPage();
            }
            pdf.Close();
        }
        var together = await Read(new WantedPages(1, degrees.Length), "together");
        Assert.Equal(Enumerable.Range(1, degrees.Length), together.Select(p => p.Number));
        foreach (var page in together)
        {
            var alone = Assert.Single(await Read(new WantedPages(page.Number, 1), $"alone{page.Number}"));
            Assert.Equal(alone.Text.Words, page.Text.Words);
            Assert.Equal((alone.Text.Lay, alone.Text.Size, alone.Text.Ink), (page.Text.Lay, page.Text.Size, page.Text.Ink));
            Assert.Equal(await File.ReadAllBytesAsync(alone.ImagePath), await File.ReadAllBytesAsync(page.ImagePath));
        }
        Assert.Equal([0, 270, 0, 0], together.Select(p => p.Text.Lay.Turned));
        Assert.Equal(["recognised", "recognised", "recognised", "text layer"], together.Select(p => p.Text.Method));
        foreach (var n in new[] { 1, 2, 4 })
            Assert.Contains(together[n - 1].Text.Words, w => w.Text == (n == 4 ? "4" : $"{n * 1237}"));
        Assert.Empty(together[2].Text.Words);
        // The page on its side is kept as it is read, with its sides changed over.
        Assert.Equal((842, 595), (Math.Round(together[1].Text.Size!.Value.Width), Math.Round(together[1].Text.Size!.Value.Height)));
        Assert.DoesNotContain(Directory.GetFiles(At("together")), f => f.Contains(".clean", StringComparison.Ordinal));

        Task<IReadOnlyList<TakenPage>> Read(WantedPages wanted, string folder) =>
            PageReading.ReadAsync(At("stack.pdf"), FileKind.Pdf, wanted, At(folder), CancellationToken.None);
    }

    /// <summary>A long stack is recognised by several runs, some pages each; no page gets the words of another.</summary>
    [Fact]
    public async Task Pages_beyond_those_of_one_run_get_their_own_words()
    {
        string[] words =
        [
            "Anchor",
            "Basin",
            "Cargo",
            "Dredger",
            "Estuary",
            "Freight",
            "Gangway",
            "Harbour",
            "Island",
            "Jetty",
            "Keeper",
            "Lantern",
            "Mooring",
            "North",
            "Outward",
            "Pilotage",
            "Quarter",
            "Rudder",
        ];
        using (var file = File.Create(At("long.pdf")))
        using (var pdf = SKDocument.CreatePdf(file))
        {
            for (var n = 1; n <= words.Length; n++)
            {
                using var canvas = pdf.BeginPage(300, 100);
                using var strip = new SKBitmap(new SKImageInfo(1250, 416, SKColorType.Rgba8888, SKAlphaType.Opaque));
                using (var on = new SKCanvas(strip))
                using (var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 60))
                using (var ink = new SKPaint { Color = SKColors.Black })
                {
                    on.Clear(SKColors.White);
                    on.DrawText($"The {words[n - 1]}", 80, 200, SKTextAlign.Left, font, ink);
                }
                using var picture = SKImage.FromBitmap(strip);
                canvas.DrawImage(picture, new SKRect(0, 0, 300, 100), SKSamplingOptions.Default);
                pdf.EndPage();
            }
            pdf.Close();
        }
        var taken = await PageReading.ReadAsync(
            At("long.pdf"),
            FileKind.Pdf,
            new WantedPages(1, words.Length),
            At("long"),
            CancellationToken.None
        );
        Assert.Equal(words, taken.Select(p => p.Text.Words[^1].Text));
        Assert.All(taken, p => Assert.Equal($"{p.Number}.png", Path.GetFileName(p.ImagePath)));
    }

    /// <summary>What the recogniser cannot read ends the run for all; then each is read alone, and only that one has no words.</summary>
    [Fact]
    public async Task A_page_that_ends_the_run_costs_only_its_own_words()
    {
        var pages = new List<WaitingPage>();
        foreach (var n in new[] { 1, 2, 4 })
        {
            using var page = Drawn(n, 0);
            pages.Add(TextRecognition.Prepare(page, At($"{n}.png")));
        }
        await File.WriteAllTextAsync(pages[1].Cleaned, "no picture");
        var read = new List<RecognisedPage>();
        var limit = TimeSpan.FromMinutes(1);
        await foreach (var page in TextRecognition.ReadAsync(pages, "", false, limit, CancellationToken.None))
            read.Add(page);
        Assert.Equal([false, true, false], read.Select(r => r.Text is null));
        Assert.Contains("could not read this page", read[1].Notice);
        Assert.Contains(read[2].Text!.Words, w => w.Text == $"{4 * 1237}");
        Assert.Empty(Directory.GetFiles(_folder));
    }

    private static SKBitmap Drawn(int number, float degrees)
    {
        var across = degrees is 90;
        var bitmap = new SKBitmap(new SKImageInfo(1240, 1754, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColors.White);
        canvas.RotateDegrees(degrees, 620, 877);
        using var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 34);
        using var ink = new SKPaint { Color = SKColors.Black, IsAntialias = true };
        for (var i = 0; i < 7 && number != 3; i++)
            canvas.DrawText(
                i == 4 ? $"Tonnage {number * 1237} of the vessel" : "The harbour office keeps a record of each call",
                across ? 60 : 150,
                (across ? 560 : 400) + i * 60,
                SKTextAlign.Left,
                font,
                ink
            );
        return bitmap;
    }

    /// <summary>A digit that stands alone in a column is a word like any other.</summary>
    [Fact]
    public async Task F88_lone_digits_of_a_column_are_recognised()
    {
        using (var page = new SKBitmap(new SKImageInfo(1240, 1754, SKColorType.Rgba8888, SKAlphaType.Opaque)))
        {
            using var canvas = new SKCanvas(page);
            canvas.Clear(SKColors.White);
            using var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 24);
            using var ink = new SKPaint { Color = SKColors.Black, IsAntialias = true };
            for (var row = 0; row < 20; row++)
            {
                canvas.DrawText($"Fender no. {row + 40}", 120, 300 + row * 50, SKTextAlign.Left, font, ink);
                canvas.DrawText($"{1 + row % 9}", 800, 300 + row * 50, SKTextAlign.Right, font, ink);
            }
            using var data = page.Encode(SKEncodedImageFormat.Png, 100);
            await using var file = File.Create(At("digits.png"));
            data.SaveTo(file);
        }
        var read = Assert.Single(
            await PageReading.ReadAsync(At("digits.png"), FileKind.Image, new WantedPages(1, 1), At("digits"), CancellationToken.None)
        );
        await OpenFault.Shows(
            88,
            () =>
            {
                Assert.Equal(20, read.Text.Words.Count(w => w.Text.Length == 1 && char.IsAsciiDigit(w.Text[0])));
                return Task.CompletedTask;
            }
        );
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
