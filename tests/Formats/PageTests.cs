using System.Text;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.TestSupport;
using SkiaSharp;

namespace ClearLexicon.Formats.Tests;

public sealed class PageTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("pages").FullName;

    private string At(string name) => Path.Combine(_folder, name);

    /// <summary>A page with three lines of text, turned by some degrees.</summary>
    private static SKBitmap Drawn(float degrees)
    {
        var bitmap = new SKBitmap(new SKImageInfo(1200, 1600, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColors.White);
        canvas.RotateDegrees(degrees, 600, 800);
        using var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 34);
        using var ink = new SKPaint { Color = SKColors.Black, IsAntialias = true };
        string[] lines = ["Arrival of the Grey Heron", "North Quay berth one", "Tonnage 12345"];
        for (var i = 0; i < lines.Length; i++)
            canvas.DrawText(lines[i], 150, 400 + i * 120, SKTextAlign.Left, font, ink);
        return bitmap;
    }

    private string Png(SKBitmap bitmap, string name)
    {
        using var data = bitmap.Encode(SKEncodedImageFormat.Png, 90);
        File.WriteAllBytes(At(name), data.ToArray());
        return At(name);
    }

    [Theory]
    [InlineData(-2f)]
    [InlineData(0.6f)]
    [InlineData(1.7f)]
    [InlineData(6.3f)]
    [InlineData(-9.4f)]
    public void A_skewed_page_is_measured_and_set_upright(float degrees)
    {
        using var page = Drawn(degrees);
        Assert.Equal(degrees, Deskew.Measure(page), 0.15);
        using var upright = Deskew.Straighten(page);
        Assert.Equal(0, Deskew.Measure(upright!), 0.2);
        using var straight = Drawn(0);
        Assert.Null(Deskew.Straighten(straight));
    }

    /// <summary>Pages with words are drawn several at a time; each is what it is when it is drawn alone.</summary>
    [Fact]
    public async Task Pages_drawn_together_are_those_drawn_alone()
    {
        const int pages = 20;
        using (var file = File.Create(At("text.pdf")))
        using (var pdf = SKDocument.CreatePdf(file))
        using (var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 20))
        {
            for (var n = 1; n <= pages; n++)
            {
                // One lies across, one is poster-sized and so drawn less finely, one has no word and is drawn as a scan would be.
                var (width, height) = n switch
                {
                    4 => (842, 595),
                    11 => (4_000, 6_000),
                    _ => (595, 842),
                };
                using var canvas = pdf.BeginPage(width, height);
                using var ink = new SKPaint { Color = n == 6 ? SKColors.Firebrick : SKColors.Black, IsAntialias = true };
                if (n == 9)
                    canvas.DrawRect(100, 100, 30, 30, ink);
                else
                    canvas.DrawText($"Leaf {n * 37} of the ledger", 80, 40 + n * 30, SKTextAlign.Left, font, ink);
                pdf.EndPage();
            }
            pdf.Close();
        }
        var together = await PageReading.ReadAsync(
            At("text.pdf"),
            FileKind.Pdf,
            new WantedPages(1, pages),
            At("together"),
            CancellationToken.None
        );
        Assert.Equal(Enumerable.Range(1, pages), together.Select(p => p.Number));
        foreach (var page in together)
        {
            var alone = Assert.Single(
                await PageReading.ReadAsync(
                    At("text.pdf"),
                    FileKind.Pdf,
                    new WantedPages(page.Number, 1),
                    At("alone"),
                    CancellationToken.None
                )
            );
            Assert.Equal(await File.ReadAllBytesAsync(alone.ImagePath), await File.ReadAllBytesAsync(page.ImagePath));
            if (page.Number == 9)
                continue;
            Assert.Contains(page.Text.Words, w => w.Text == $"{page.Number * 37}");
            // Where the words are said to stand there is ink, in the colour it came in.
            using var picture = SKBitmap.Decode(page.ImagePath);
            var word = page.Text.Words[0].Box;
            var ink = Enumerable
                .Range(0, 400)
                .Select(i =>
                    picture.GetPixel(
                        (int)((word.X + word.W * (i % 20) / 20) * picture.Width),
                        (int)((word.Y + word.H * (i / 20) / 20) * picture.Height)
                    )
                )
                .MinBy(c => c.Red + c.Green + c.Blue);
            Assert.True(ink.Green < 120, $"page {page.Number}: {ink}");
            Assert.Equal(page.Number == 6, ink.Red > ink.Green + 60);
        }
        Assert.Empty(Directory.GetFiles(At("together"), "*.ppm"));
    }

    /// <summary>Such a page looks right, and its text layer says “3RUW” where “Port” is seen.</summary>
    [Theory]
    [InlineData(0, "text layer")]
    [InlineData(1, "text layer")]
    [InlineData(2, "recognised")]
    public async Task A_page_whose_fonts_do_not_say_what_their_shapes_are_is_recognised(int fontsWithout, string method)
    {
        using (var file = File.Create(At("fonts.pdf")))
        using (var pdf = SKDocument.CreatePdf(file))
        {
            using (var canvas = pdf.BeginPage(595, 842))
            using (var ink = new SKPaint { IsAntialias = true })
                foreach (var (name, text, y) in new[] { ("", "Port Cashier of Merrowmouth", 200), ("-Bold", "Dues", 260) })
                {
                    var path = SearchablePdf.FontPath.Replace(".ttf", name + ".ttf", StringComparison.Ordinal);
                    using var font = new SKFont(SKTypeface.FromFile(path), 13);
                    canvas.DrawText(text, 60, y, SKTextAlign.Left, font, ink);
                }
            pdf.EndPage();
            pdf.Close();
        }
        var bytes = Encoding.Latin1.GetString(await File.ReadAllBytesAsync(At("fonts.pdf")));
        var tables = Regex.Matches(bytes, "/ToUnicode").Select(m => m.Index).ToList();
        Assert.Equal(2, tables.Count);
        // The second font has few letters, as signs before items of a list have.
        foreach (var at in tables.AsEnumerable().Reverse().Take(fontsWithout))
            bytes = bytes.Remove(at, 10).Insert(at, "/NoUnicode");
        await File.WriteAllBytesAsync(At("fonts.pdf"), Encoding.Latin1.GetBytes(bytes));
        var read = Assert.Single(await PageReading.ReadAsync(At("fonts.pdf"), FileKind.Pdf, 1, At("fonts"), default));
        Assert.Equal(method, read.Text.Method);
        Assert.Subset(read.Text.Words.Select(w => w.Text).ToHashSet(), new HashSet<string> { "Port", "Cashier", "Merrowmouth" });
    }

    /// <summary>Fonts that name their shapes say what they are where the names are letters'; a drawing on the page has fonts of its
    /// own.</summary>
    [Theory]
    [InlineData("/F 5 0 R", "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>", true)]
    [InlineData("/F 5 0 R", "<</Type/Font/Subtype/Type1/BaseFont/Helvetica/Encoding<</Differences[65/H/e/r/o/n/uni00E9]>>>>", true)]
    [InlineData("/F 5 0 R", "<</Type/Font/Subtype/Type1/BaseFont/Helvetica/Encoding<</Differences[65/g1/g2/g3/g4/g5/H]>>>>", false)]
    [InlineData("/F 9 0 R", "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>", null)]
    [InlineData("/F 5 0 R", "(no font at all)", null)]
    public void Words_are_taken_where_fonts_say_what_they_show(string use, string font, bool? words)
    {
        const string text = "BT /F 12 Tf 60 700 Td (ABCDE) Tj ET";
        foreach (var within in new[] { false, true })
        {
            var resources = within ? "/XObject<</X 6 0 R>>" : $"/Font<<{use}>>";
            File.WriteAllBytes(
                At("named.pdf"),
                HandPdf.Of(
                    "<</Type/Catalog/Pages 2 0 R>>",
                    "<</Type/Pages/Kids[3 0 R]/Count 1>>",
                    $"<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Contents 4 0 R/Resources<<{resources}>>>>",
                    HandPdf.Stream(within ? "/X Do" : text),
                    font,
                    HandPdf.Stream(text, $"/Type/XObject/Subtype/Form/BBox[0 0 595 842]/Resources<</Font<<{use}>>>>")
                )
            );
            using var pdf = PageFrame.Open(At("named.pdf"));
            var read = PdfPageText.Read(pdf, 1, 1);
            Assert.Equal((595, 842), (read.Text.Width, read.Text.Height));
            Assert.Equal(words == true ? 1 : 0, read.Text.Words.Count);
            // A page without its font can still be drawn, and the rest of its file is sound.
            Assert.Equal(words is null, read.Notice is not null);
        }
    }

    [Fact]
    public async Task A_page_that_cannot_be_read_does_not_spoil_its_file()
    {
        const string page = "/Type/Page/Parent 2 0 R/MediaBox[0 0 300 400]/Rotate 90/CropBox[0 0 200 400]/Contents 5 0 R/Resources";
        const string text = "BT /F 12 Tf 0 1 -1 0 100 60 Tm (Heron) Tj ET 40 200 80 60 re f";
        await File.WriteAllBytesAsync(
            At("half.pdf"),
            HandPdf.Of(
                "<</Type/Catalog/Pages 2 0 R>>",
                "<</Type/Pages/Kids[3 0 R 4 0 R]/Count 2>>",
                $"<<{page}<</Font<</F 9 0 R>>>>>>",
                $"<<{page}<</Font<</F 6 0 R>>>>>>",
                HandPdf.Stream(text),
                "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"
            )
        );
        var read = await PageReading.ReadAsync(At("half.pdf"), FileKind.Pdf, 2, At("half"), default);
        Assert.Equal(["recognised", "text layer"], read.Select(p => p.Text.Method));
        Assert.Contains("damaged", read[0].Notice);
        Assert.Null(read[1].Notice);
        Assert.Equal("Heron", Assert.Single(read[1].Text.Words).Text);
        Assert.All(read, p => Assert.Equal(new PageSize(400, 200), p.Text.Size));
        using var drawn = SKBitmap.Decode(read[0].ImagePath);
        Assert.Equal(2, (double)drawn.Width / drawn.Height, 0.01);
        // Where nothing can be seen of it either, it must not pass for a blank page, which may vanish.
        var bare = Encoding
            .Latin1.GetString(await File.ReadAllBytesAsync(At("half.pdf")))
            .Replace(" re f", " re n", StringComparison.Ordinal);
        await File.WriteAllBytesAsync(At("bare.pdf"), Encoding.Latin1.GetBytes(bare));
        var refused = await Assert.ThrowsAsync<InvalidDataException>(() =>
            PageReading.ReadAsync(At("bare.pdf"), FileKind.Pdf, 2, At("bare"), default)
        );
        Assert.Contains("page 1 is damaged", refused.Message);
    }

    /// <summary>A form that was filled on a screen: its labels are the page's, its values lie beside it.</summary>
    [Fact]
    public async Task What_was_filled_in_or_stamped_is_read_where_it_is_seen_and_what_is_hidden_is_not()
    {
        string Note(string subtype, string place, string more, int look) =>
            $"<</Type/Annot/Subtype/{subtype}/Rect[{place}]/P 3 0 R/AP<</N {look} 0 R>>{more}>>";
        string Look(string text) =>
            HandPdf.Stream(
                $"/Tx BMC BT /F 12 Tf 2 5 Td ({text}) Tj ET EMC",
                "/Type/XObject/Subtype/Form/BBox[0 0 120 20]/Resources<</Font<</F 5 0 R>>>>"
            );
        const string label = "BT /F 12 Tf 60 300 Td (IMO) Tj ET";
        await File.WriteAllBytesAsync(
            At("form.pdf"),
            HandPdf.Of(
                "<</Type/Catalog/Pages 2 0 R/AcroForm<</Fields[6 0 R 8 0 R]>>>>",
                "<</Type/Pages/Kids[14 0 R 3 0 R]/Count 2>>",
                "<</Type/Page/Parent 2 0 R/MediaBox[0 0 400 400]/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>"
                    + "/Annots[6 0 R 8 0 R 10 0 R 12 0 R]>>",
                HandPdf.Stream(label),
                "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>",
                Note("Widget", "120 296 240 316", "/FT/Tx/T(imo)/V(9187368)/F 4", 7),
                Look("9187368"),
                Note("Widget", "120 196 240 216", "/FT/Tx/T(secret)/V(Pilot)/F 2", 9),
                Look("Pilot"),
                Note("FreeText", "200 100 320 120", "/Contents(PAID)/F 4", 11),
                Look("PAID"),
                Note("Link", "10 10 100 30", "/F 4", 13),
                Look("Elsewhere"),
                "<</Type/Page/Parent 2 0 R/MediaBox[0 0 400 400]/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>>>"
            )
        );
        var read = Assert.Single(await PageReading.ReadAsync(At("form.pdf"), FileKind.Pdf, new WantedPages(2, 1), At("form"), default));
        Assert.Equal(2, read.Number);
        Assert.Equal("text layer", read.Text.Method);
        Assert.Equal(
            ["9187368", "IMO", "PAID"],
            read.Text.Words.Select(w => w.Text).Where(w => w != "Elsewhere").Order(StringComparer.Ordinal)
        );
        using var picture = SKBitmap.Decode(read.ImagePath);
        foreach (var word in read.Text.Words.Where(w => w.Text != "Elsewhere"))
            Assert.Contains(
                Enumerable.Range(0, 900),
                i =>
                    picture
                        .GetPixel(
                            (int)((word.Box.X + word.Box.W * (i % 30) / 30) * picture.Width),
                            (int)((word.Box.Y + word.Box.H * (i / 30) / 30) * picture.Height)
                        )
                        .Red < 120
            );
        Assert.Empty(Directory.GetFiles(At("form"), "*.pdf"));
    }

    [Fact]
    public async Task A_scan_is_recognised_with_boxes_and_confidences()
    {
        using var page = Drawn(1.5f);
        var taken = Assert.Single(await PageReading.ReadAsync(Png(page, "scan.png"), FileKind.Image, 1, At("out"), CancellationToken.None));
        Assert.Equal("recognised", taken.Text.Method);
        var heron = Assert.Single(taken.Text.Words, w => w.Text == "Heron");
        Assert.InRange(heron.Confidence, 0.6, 1);
        Assert.InRange(heron.Box.CentreY, 0.22, 0.27);
        Assert.Contains(taken.Text.Words, w => w.Text == "12345");
        Assert.True(File.Exists(taken.ImagePath));
        Assert.Equal(
            [PageReading.PageOf(taken.ImagePath), taken.ImagePath, PageReading.SmallOf(taken.ImagePath)],
            Directory.GetFiles(At("out")).Order()
        );
    }

    /// <summary>As a feeder takes them: on the side, on the head; the picture that is kept stands upright.</summary>
    [Theory]
    [InlineData(90)]
    [InlineData(180)]
    [InlineData(270)]
    public async Task A_page_on_its_side_or_head_is_set_upright_and_read(int degrees)
    {
        using var upright = new SKBitmap(new SKImageInfo(1200, 1600, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using (var canvas = new SKCanvas(upright))
        {
            canvas.Clear(SKColors.White);
            using var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 34);
            using var ink = new SKPaint { Color = SKColors.Black, IsAntialias = true };
            for (var i = 0; i < 8; i++)
                canvas.DrawText($"Harbour dues of Grüne Möwe line {i + 1}", 150, 200 + i * 90, SKTextAlign.Left, font, ink);
        }
        var across = degrees == 180;
        using var page = new SKBitmap(
            new SKImageInfo(across ? 1200 : 1600, across ? 1600 : 1200, SKColorType.Rgba8888, SKAlphaType.Opaque)
        );
        using (var canvas = new SKCanvas(page))
        {
            canvas.Translate(page.Width / 2f, page.Height / 2f);
            canvas.RotateDegrees(degrees);
            canvas.DrawBitmap(upright, -600, -800, SKSamplingOptions.Default);
        }
        var taken = Assert.Single(await PageReading.ReadAsync(Png(page, "scan.png"), FileKind.Image, 1, At("out"), CancellationToken.None));
        Assert.Equal(8, taken.Text.Words.Count(w => w.Text == "Grüne"));
        Assert.InRange(taken.Text.Words.First(w => w.Text == "Harbour").Box.CentreY, 0.08, 0.16);
        using var kept = SKBitmap.Decode(taken.ImagePath);
        Assert.True(kept.Height > kept.Width);
    }

    [Fact]
    public async Task A_filed_scan_is_found_by_its_words_and_masked_words_leave_no_trace()
    {
        using var page = Drawn(0);
        var text = new PageText(
            1200,
            1600,
            [new Word("Heron", new Box(0.3, 0.23, 0.1, 0.03)), new Word("Secret", new Box(0.3, 0.5, 0.1, 0.03))],
            "recognised"
        );
        var image = Png(page, "page.png");
        SearchablePdf.Write(At("open.pdf"), [new PdfPage(image, text, [])], "open");
        var words = PageReading.TextLayer(At("open.pdf"), 1).Words;
        Assert.Equal(["Heron", "Secret"], words.Select(w => w.Text));
        Assert.Equal(0.3, words[0].Box.X, 0.02);
        Assert.Equal(0.245, words[0].Box.CentreY, 0.02);

        SearchablePdf.Write(At("masked.pdf"), [new PdfPage(image, text, [text.Words[1].Box])], "masked");
        Assert.Equal(["Heron"], PageReading.TextLayer(At("masked.pdf"), 1).Words.Select(w => w.Text));
        var drawn = await PageReading.ReadAsync(At("masked.pdf"), FileKind.Pdf, 1, At("masked"), CancellationToken.None);
        using var shown = SKBitmap.Decode(drawn[0].ImagePath);
        Assert.True(shown.GetPixel((int)(0.35 * shown.Width), (int)(0.515 * shown.Height)).Red < 60);
    }

    [Fact]
    public void Dust_rules_holes_and_dark_edges_go_and_letters_stay()
    {
        using var page = Drawn(0);
        using (var canvas = new SKCanvas(page))
        {
            using var ink = new SKPaint { Color = SKColors.Black };
            canvas.DrawRect(100, 900, 900, 3, ink);
            canvas.DrawRect(300, 1200, 2, 2, ink);
            canvas.DrawCircle(50, 800, 22, ink);
            canvas.DrawRect(1180, 0, 20, 1600, ink);
        }
        Assert.Equal((1500, 2000), PageCleaning.Clean(page, this.At("clean.png")));
        using var clean = SKBitmap.Decode(this.At("clean.png"));
        var scale = (float)clean.Width / page.Width;
        byte At(float x, float y) => clean.GetPixel((int)(x * scale), (int)(y * scale)).Red;
        Assert.InRange(At(500, 901), 230, 255);
        Assert.InRange(At(301, 1201), 230, 255);
        Assert.InRange(At(50, 800), 230, 255);
        Assert.InRange(At(1190, 700), 230, 255);
        Assert.Contains(Enumerable.Range(150, 300), x => At(x, 390) < 80);
    }

    /// <summary>Pictures in every form that scanners and people save: read, and packed into a page without loss.</summary>
    [Theory]
    [InlineData("gray 16", 0, 16)]
    [InlineData("one bit", 0, 1)]
    [InlineData("four shades", 0, 2)]
    [InlineData("colour 16", 2, 16)]
    [InlineData("indexed", 3, 8)]
    [InlineData("indexed, 4 bits", 3, 4)]
    [InlineData("gray and clear", 4, 8)]
    [InlineData("colour and clear", 6, 8)]
    public async Task Odd_pictures_are_read_and_kept(string name, byte colour, byte bits)
    {
        File.WriteAllBytes(At("odd.png"), OddPng(colour, bits));
        Assert.Null(IntakeCheck.Check(At("odd.png"), name).Problem);
        var page = (await PageReading.ReadAsync(At("odd.png"), FileKind.Image, 1, At("odd"), default))[0];
        using var seen = SKBitmap.Decode(page.ImagePath);
        // Left half dark, right half light, whatever the form.
        Assert.True(seen.GetPixel(80, 240).Red < 90 && seen.GetPixel(880, 240).Red > 160, name);
        Assert.True(await FiledPdf.WriteAsync([new FiledPage(PageReading.PageOf(page.ImagePath), 1, page.Text)], At("odd.pdf"), default));
        var run = await ExternalProgram.RunAsync(
            "pdftoppm",
            ["-r", "72", "-png", "-singlefile", At("odd.pdf"), At("odd-drawn")],
            TimeSpan.FromSeconds(20),
            default
        );
        Assert.Equal(0, run.ExitCode);
        using var drawn = SKBitmap.Decode(At("odd-drawn.png"));
        Assert.True(
            drawn.GetPixel(drawn.Width / 8, drawn.Height / 2).Red < 90 && drawn.GetPixel(drawn.Width * 7 / 8, drawn.Height / 2).Red > 160,
            name
        );
    }

    /// <summary>What printers and photographs come in, made by another program; and a picture of more pixels than a page needs.</summary>
    [Theory]
    [InlineData("tiff32nc", "odd.tif", 200)]
    [InlineData("tiff48nc", "odd.tif", 200)]
    [InlineData("jpegcmyk", "odd.jpg", 200)]
    [InlineData("pnggray", "odd.png", 700)]
    public async Task Pictures_in_four_inks_sixteen_bits_or_far_too_fine_read_alike(string device, string name, int dpi)
    {
        using (var document = SKDocument.CreatePdf(At("came.pdf")))
        {
            using (var canvas = document.BeginPage(595, 842))
            using (var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 16))
            using (var ink = new SKPaint { Color = SKColors.DarkBlue })
                canvas.DrawText("Grey Heron moored", 80, 200, SKTextAlign.Left, font, ink);
            document.EndPage();
            document.Close();
        }
        string[] how = ["-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", $"-sDEVICE={device}", $"-r{dpi}", "-o", At(name), At("came.pdf")];
        Assert.Equal(0, (await ExternalProgram.RunAsync("gs", how, TimeSpan.FromSeconds(30), default)).ExitCode);
        var checkedFile = IntakeCheck.Check(At(name), name);
        Assert.Null(checkedFile.Problem);
        var page = (await PageReading.ReadAsync(At(name), checkedFile.Kind, 1, At("odd"), default))[0];
        Assert.Equal(["Grey", "Heron", "moored"], page.Text.Words.Select(w => w.Text));
        // A page is as large as it came, however fine its picture.
        Assert.InRange(page.Text.Size!.Value.Width, 594, 596);
        using var seen = SKBitmap.Decode(page.ImagePath);
        Assert.InRange((double)seen.Width * seen.Height, 1_000_000, PageReading.MostPixels);
    }

    // 960 × 640: the left half nearly black, the right half nearly white.
    private static byte[] OddPng(byte colour, byte bits)
    {
        using var rows = new MemoryStream();
        var channels = colour switch
        {
            2 => 3,
            4 => 2,
            6 => 4,
            _ => 1,
        };
        for (var y = 0; y < 640; y++)
        {
            rows.WriteByte(0);
            int held = 0,
                filled = 0;
            for (var x = 0; x < 960; x++)
            for (var c = 0; c < channels; c++)
            {
                var isAlpha = colour is 4 or 6 && c == channels - 1;
                var most = (1 << Math.Min((int)bits, 8)) - 1;
                var value =
                    colour == 3 ? (x < 480 ? 0 : 1)
                    : isAlpha || x >= 480 ? most
                    : 0;
                if (bits >= 8)
                    rows.Write(bits == 16 ? [(byte)value, (byte)value] : [(byte)value]);
                else
                {
                    held = held << bits | value;
                    if ((filled += bits) == 8)
                    {
                        rows.WriteByte((byte)held);
                        (held, filled) = (0, 0);
                    }
                }
            }
        }
        using var png = new MemoryStream();
        png.Write([0x89, .. "PNG\r\n\u001a\n"u8]);
        void Chunk(string kind, byte[] data)
        {
            byte[] body = [.. System.Text.Encoding.ASCII.GetBytes(kind), .. data];
            Span<byte> number = stackalloc byte[4];
            System.Buffers.Binary.BinaryPrimitives.WriteInt32BigEndian(number, data.Length);
            png.Write(number);
            png.Write(body);
            System.Buffers.Binary.BinaryPrimitives.WriteUInt32BigEndian(number, System.IO.Hashing.Crc32.HashToUInt32(body));
            png.Write(number);
        }
        Chunk("IHDR", [0, 0, 3, 192, 0, 0, 2, 128, bits, colour, 0, 0, 0]);
        if (colour == 3)
            Chunk("PLTE", [0x20, 0x20, 0x30, 0xEE, 0xF0, 0xFF]);
        using var packed = new MemoryStream();
        using (var zip = new System.IO.Compression.ZLibStream(packed, System.IO.Compression.CompressionLevel.Fastest, leaveOpen: true))
            zip.Write(rows.ToArray());
        Chunk("IDAT", packed.ToArray());
        Chunk("IEND", []);
        return png.ToArray();
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
