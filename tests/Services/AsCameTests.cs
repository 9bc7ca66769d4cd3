using System.Globalization;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using SkiaSharp;

namespace ClearLexicon.Services.Tests;

/// <summary>A page is read alike whichever file brings it, and what is filed is the page as it came.</summary>
public sealed partial class AsCameTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("came").FullName;
    private static readonly HarbourPage Page = HarbourDocuments.AlreadyFiled()[0];

    private static Leaf Askew(float skew, int turned) => HarbourStacks.Document(Page, 1, 1).First() with { Skew = skew, Turned = turned };

    private string At(string name) => Path.Combine(_folder, name);

    private static FileKind KindOf(string path) =>
        Path.GetExtension(path) switch
        {
            ".pdf" => FileKind.Pdf,
            ".tif" => FileKind.Tiff,
            _ => FileKind.Image,
        };

    // In black and white, as a fax or a copier gives it.
    private Dictionary<string, int> Written(Leaf leaf)
    {
        StackDrawing.FaxTiff(At("fax.tif"), [HarbourStacks.Enclosure(1, null), leaf], 200, 1);
        using var page = StackDrawing.Picture(leaf, 200, new Random(1));
        using var black = TiffPages.Read(At("fax.tif"), 2)!;
        foreach (var (name, format) in new[] { ("page.png", SKEncodedImageFormat.Png), ("page.jpg", SKEncodedImageFormat.Jpeg) })
        {
            using var file = File.Create(At(name));
            black.Encode(format, 90).SaveTo(file);
        }
        using (var file = File.Create(At("page.pdf")))
        using (var document = SKDocument.CreatePdf(file))
        using (var image = SKImage.FromEncodedData(At("page.jpg")))
        {
            var (w, h) = (image.Width * 72f / 200, image.Height * 72f / 200);
            using (var canvas = document.BeginPage(w, h))
                canvas.DrawImage(image, new SKRect(0, 0, w, h), SKSamplingOptions.Default);
            document.EndPage();
            document.Close();
        }
        return new()
        {
            ["fax.tif"] = 2,
            ["page.png"] = 1,
            ["page.jpg"] = 1,
            ["page.pdf"] = 1,
        };
    }

    private async Task<TakenPage> Read(string name, int number) =>
        (await PageReading.ReadAsync(At(name), KindOf(name), new WantedPages(number, 1), At(name + ".out"), default))[0];

    private FiledPage Filed(string name, TakenPage page) =>
        File.Exists(PageReading.PageOf(page.ImagePath))
            ? new FiledPage(PageReading.PageOf(page.ImagePath), 1, page.Text)
            : new FiledPage(At(name), page.Number, page.Text);

    [Theory]
    [InlineData(-6, 90)]
    public async Task One_page_by_any_file_gives_the_same_values_and_is_filed_as_it_came(float skew, int turned)
    {
        using var house = new House().WithDesigns();
        var reader = house.Readers.Find(Page.Design.Key)!;
        var type = house.Readers.TypeOf(reader)!;
        IReadOnlyDictionary<string, string> Values(PageText text)
        {
            var claim = Recognition.Try(text, reader);
            Assert.True(claim.Holds);
            // As a vocabulary compares them: a J that reads as j is the same term.
            return DocumentReading.Read([(1, text)], 1, claim, type).Record.ToDictionary(v => v.Key, v => v.Value.ToLowerInvariant());
        }
        var first = (IReadOnlyDictionary<string, string>?)null;
        foreach (var (name, number) in Written(Askew(skew, turned)))
        {
            var read = await Read(name, number);
            var values = Values(read.Text);
            Assert.True(values.Count >= 10, $"{name}: {values.Count} values");
            first ??= values;
            Assert.Equal(first.OrderBy(v => v.Key), values.OrderBy(v => v.Key));
            var filed = name + ".filed.pdf";
            Assert.True(await FiledPdf.WriteAsync([Filed(name, read)], At(filed), default));
            Agree(At(name), number, At(filed));
            Overlap(read.Text, At(filed));
            // It brings its text with it, which is believed, and says the same.
            var again = await Read(filed, 1);
            Assert.Equal("text layer", again.Text.Method);
            Assert.Equal(values.OrderBy(v => v.Key), Values(again.Text).OrderBy(v => v.Key));
        }
    }

    // The packed picture is the one that came, bit by bit.
    private void Agree(string came, int number, string filed)
    {
        byte[] Picture(string pdf, int page)
        {
            Run("pdfimages", "-all", "-f", $"{page}", "-l", $"{page}", pdf, At("picture"));
            var made = Directory.GetFiles(_folder, "picture-*").Where(p => !p.EndsWith(".params", StringComparison.Ordinal)).ToList();
            var bytes = File.ReadAllBytes(Assert.Single(made));
            foreach (var file in Directory.GetFiles(_folder, "picture-*"))
                File.Delete(file);
            return bytes;
        }
        if (came.EndsWith(".pdf", StringComparison.Ordinal))
            Assert.Equal(Picture(came, number), Picture(filed, 1));
        else if (came.EndsWith(".jpg", StringComparison.Ordinal))
            Assert.Equal(File.ReadAllBytes(came), Picture(filed, 1));
        else if (came.EndsWith(".tif", StringComparison.Ordinal))
        {
            using var tiff = BitMiracle.LibTiff.Classic.Tiff.Open(came, "r");
            tiff.SetDirectory((short)(number - 1));
            var raw = new byte[tiff.RawStripSize(0)];
            tiff.ReadRawStrip(0, raw, 0, raw.Length);
            Assert.Equal(raw, Picture(filed, 1));
        }
        else
        {
            Run("pdfimages", "-png", filed, At("picture"));
            using SKBitmap before = SKBitmap.Decode(came),
                after = SKBitmap.Decode(Directory.GetFiles(_folder, "picture-*")[0]);
            Assert.Equal((before.Width, before.Height), (after.Width, after.Height));
            for (var i = 0; i < 4_000; i++)
                Assert.Equal(
                    before.GetPixel(i * 37 % before.Width, i * 91 % before.Height),
                    after.GetPixel(i * 37 % before.Width, i * 91 % before.Height)
                );
            foreach (var file in Directory.GetFiles(_folder, "picture-*"))
                File.Delete(file);
        }
    }

    // Another program finds the words where the ink is: askew as the page came, turned as it is shown.
    private static void Overlap(PageText text, string filed)
    {
        var found = Word().Matches(Run("pdftotext", "-bbox", filed, "-")).Select(m => m.Groups).ToList();
        var size = text.Size!.Value;
        var (good, all) = (0, 0);
        var angle = text.Lay.Skew * Math.PI / 180;
        foreach (var word in text.Words.Where(w => w.Text.Length > 3 && w.Text.All(char.IsAsciiLetterOrDigit)))
        {
            var (x, y) = ((word.Box.CentreX - 0.5) * size.Width, (word.Box.CentreY - 0.5) * size.Height);
            var (cx, cy) = (
                x * Math.Cos(angle) - y * Math.Sin(angle) + size.Width / 2,
                x * Math.Sin(angle) + y * Math.Cos(angle) + size.Height / 2
            );
            var (w, h) = (word.Box.W * size.Width, word.Box.H * size.Height);
            all++;
            good += found.Any(f =>
            {
                double At(string name) => double.Parse(f[name].Value, CultureInfo.InvariantCulture);
                if (f["text"].Value != word.Text)
                    return false;
                var across = Math.Min(At("x1"), cx + w / 2) - Math.Max(At("x0"), cx - w / 2);
                var down = Math.Min(At("y1"), cy + h / 2) - Math.Max(At("y0"), cy - h / 2);
                var both = Math.Max(0, across) * Math.Max(0, down);
                return both / ((At("x1") - At("x0")) * (At("y1") - At("y0")) + w * h - both) >= 0.6;
            })
                ? 1
                : 0;
        }
        Assert.True(all > 15 && good >= 0.95 * all, $"{good} of {all} words lie where their ink is");
    }

    /// <summary>However the scanner laid the page into its file: as one picture, in strips, or small on a larger page.</summary>
    [Theory]
    [InlineData(1, 1f)]
    [InlineData(9, 1f)]
    [InlineData(1, 0.7f)]
    public async Task A_text_layer_that_stands_elsewhere_is_not_believed(int strips, float share)
    {
        using (var picture = StackDrawing.Picture(Askew(0, 0), 200, new Random(1)))
        using (var file = File.Create(At("page.pdf")))
        using (var document = SKDocument.CreatePdf(file))
        {
            var (w, h) = (picture.Width * 72f / 200, picture.Height * 72f / 200);
            using (var canvas = document.BeginPage(w, h))
                for (var i = 0; i < strips; i++)
                {
                    var (top, bottom) = (picture.Height * i / strips, picture.Height * (i + 1) / strips);
                    using var strip = new SKBitmap();
                    Assert.True(picture.ExtractSubset(strip, new SKRectI(0, top, picture.Width, bottom)));
                    using var part = SKImage.FromBitmap(strip);
                    var place = new SKRect(0, h * top / picture.Height * share, w * share, h * bottom / picture.Height * share);
                    canvas.DrawImage(part, place, SKSamplingOptions.Default);
                }
            document.EndPage();
            document.Close();
        }
        var read = await Read("page.pdf", 1);
        var moved = read.Text with
        {
            Words =
            [
                .. read.Text.Words.Select(w =>
                    w with
                    {
                        Text = "Moved",
                        Box = w.Box with { X = w.Box.X / 2 + 0.3, Y = w.Box.Y * 0.8 + 0.17 },
                    }
                ),
            ],
        };
        Assert.True(await FiledPdf.WriteAsync([new FiledPage(At("page.pdf"), 1, moved)], At("moved.pdf"), default));
        var again = await Read("moved.pdf", 1);
        Assert.Equal("recognised", again.Text.Method);
        Assert.DoesNotContain(again.Text.Words, w => w.Text == "Moved");
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task Text_that_is_brought_beside_replaces_recognition_when_it_belongs_to_the_page(bool alto)
    {
        using (var page = StackDrawing.Picture(Askew(0, 0), 200, new Random(1)))
        using (var file = File.Create(At("page.png")))
            page.Encode(SKEncodedImageFormat.Png, 90).SaveTo(file);
        var read = (await Read("page.png", 1)).Text;
        var marked = read with { Words = [.. read.Words.Select(w => w with { Text = w.Text + "ß&<" })] };
        var text = alto ? RecognisedText.WriteAlto(marked, "page.png") : RecognisedText.WriteHocr(marked, "page.png");
        await File.WriteAllTextAsync(PageReading.TextBeside(At("page.png")), text);
        var brought = (await Read("page.png", 1)).Text;
        Assert.Equal("brought", brought.Method);
        Assert.Equal(marked.Words.Select(w => w.Text).Order(), brought.Words.Select(w => w.Text).Order());
        Assert.All(brought.Words, w => Assert.Contains(marked.Words, m => m.Text == w.Text && Math.Abs(m.Box.X - w.Box.X) < 0.002));
        // That of another page stands where there is no ink.
        var other = marked with
        {
            Words = [.. marked.Words.Select(w => w with { Box = w.Box with { Y = 0.62 + w.Box.Y * 0.3 } })],
        };
        await File.WriteAllTextAsync(
            PageReading.TextBeside(At("page.png")),
            alto ? RecognisedText.WriteAlto(other, "x.png") : RecognisedText.WriteHocr(other, "x.png")
        );
        var refused = await Read("page.png", 1);
        Assert.Equal("recognised", refused.Text.Method);
        Assert.Contains("another page", refused.Notice, StringComparison.Ordinal);
        // Numbers that are none do no harm.
        await File.WriteAllTextAsync(
            PageReading.TextBeside(At("page.png")),
            "<alto><Page WIDTH='Infinity' HEIGHT='NaN'><String CONTENT='x' WC='NaN' HPOS='1e400'/></Page></alto>"
        );
        Assert.Contains("no page 1", (await Read("page.png", 1)).Notice, StringComparison.Ordinal);
        await File.WriteAllTextAsync(PageReading.TextBeside(At("page.png")), "<alto><Layout");
        Assert.Contains("line 1", (await Read("page.png", 1)).Notice, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_another_program_recognised_is_read_in_both_forms()
    {
        using (var page = StackDrawing.Picture(Askew(0, 0), 200, new Random(1)))
        using (var file = File.Create(At("page.png")))
            page.Encode(SKEncodedImageFormat.Png, 90).SaveTo(file);
        Run("tesseract", At("page.png"), At("other"), "-l", "eng", "alto", "hocr");
        var texts = new List<PageText>();
        foreach (var ending in RecognisedText.Endings)
        {
            var (text, problem) = RecognisedText.Read(At("other" + ending), 1);
            Assert.Null(problem);
            texts.Add(text!);
            await File.WriteAllBytesAsync(PageReading.TextBeside(At("page.png")), await File.ReadAllBytesAsync(At("other" + ending)));
            Assert.Equal("brought", (await Read("page.png", 1)).Text.Method);
            Assert.Contains("no page 2", RecognisedText.Read(At("other" + ending), 2).Problem, StringComparison.Ordinal);
        }
        Assert.Equal(texts[0].Words.Select(w => w.Text), texts[1].Words.Select(w => w.Text));
        Assert.Contains(texts[0].Words, w => w.Text == "Merrowmouth" && w.Box.CentreY < 0.1 && w.Confidence is > 0.5 and <= 1);
    }

    [Theory]
    [InlineData(SKEncodedOrigin.RightTop, 90)]
    [InlineData(SKEncodedOrigin.BottomRight, 180)]
    public async Task A_photograph_is_seen_and_filed_as_its_file_says_it_was_held(SKEncodedOrigin origin, int turned)
    {
        // The picture lies on its side in the file, and the file says so.
        using (var page = StackDrawing.Picture(Askew(0, 360 - turned), 150, new Random(1)))
            await File.WriteAllBytesAsync(At("photo.jpg"), Held(page.Encode(SKEncodedImageFormat.Jpeg, 85).ToArray(), (byte)origin));
        var read = await Read("photo.jpg", 1);
        Assert.Equal(0, read.Text.Lay.Turned);
        Assert.True(read.Text.Size!.Value.Height > read.Text.Size.Value.Width);
        Assert.Contains(read.Text.Words, w => w.Text == "Merrowmouth" && w.Box.CentreY < 0.1);
        Assert.True(await FiledPdf.WriteAsync([Filed("photo.jpg", read)], At("photo.pdf"), default));
        Run("pdftoppm", "-r", "60", "-png", "-singlefile", At("photo.pdf"), At("drawn"));
        using var drawn = SKBitmap.Decode(At("drawn.png"));
        using var seen = SKBitmap.Decode(read.ImagePath).Resize(drawn.Info, SKSamplingOptions.Default);
        var differ = 0;
        for (var y = 0; y < drawn.Height; y += 2)
        for (var x = 0; x < drawn.Width; x += 2)
            differ += Math.Abs(drawn.GetPixel(x, y).Red - seen.GetPixel(x, y).Red) > 110 ? 1 : 0;
        Assert.True(differ < drawn.Width * drawn.Height / 4 / 20, $"{differ} of {drawn.Width * drawn.Height / 4} points differ");
    }

    // An EXIF block of one entry, the orientation, put behind the start of the JPEG.
    private static byte[] Held(byte[] jpeg, byte origin)
    {
        byte[] exif = [.. "Exif\0\0MM\0*"u8, 0, 0, 0, 8, 0, 1, 0x01, 0x12, 0, 3, 0, 0, 0, 1, 0, origin, 0, 0, 0, 0, 0, 0];
        return [.. jpeg[..2], 0xFF, 0xE1, 0, (byte)(exif.Length + 2), .. exif, .. jpeg[2..]];
    }

    private static string Run(string name, params string[] arguments) => OtherProgram.Run(name, arguments);

    [GeneratedRegex(
        "<word xMin=\"(?<x0>[^\"]+)\" yMin=\"(?<y0>[^\"]+)\" xMax=\"(?<x1>[^\"]+)\" yMax=\"(?<y1>[^\"]+)\">(?<text>[^<]*)</word>"
    )]
    private static partial Regex Word();

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
