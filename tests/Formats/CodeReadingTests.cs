using System.Collections.Concurrent;
using System.Diagnostics;
using ClearLexicon.Formats;
using ClearLexicon.TestSupport;
using SkiaSharp;

namespace ClearLexicon.Formats.Tests;

/// <summary>Codes drawn by another program (zint), turned, scanned badly, and read.</summary>
public sealed class CodeReadingTests(ITestOutputHelper output) : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("codes").FullName;

    /// <summary>Kind by our name, its number at zint, what it holds, and what is read, where the kind leaves or adds something.</summary>
    private static readonly (string Kind, int Zint, string Holds, string? Read)[] Kinds =
    [
        ("Code 128", 20, "123456789012", null),
        ("Code 39", 8, "QUAY-7 B", null),
        ("Code 93", 25, "PC-0412", null),
        ("Codabar", 18, "A31117B", "31117"),
        ("Interleaved 2 of 5", 3, "0712345678", null),
        ("EAN-8", 13, "7351353", null),
        ("EAN-13", 13, "590123412345", "5901234123457"),
        ("UPC-A", 34, "01234565", null),
        ("QR", 58, "HW-2024-0007|Grey Heron|2024-03-05|Mole 7|yes", null),
        ("Data Matrix", 71, "DG-2024-0107 Höfnvik", null),
        ("PDF417", 55, "Merrowmouth Harbour Authority, note of dues 240004", null),
        ("Aztec", 92, "Berth NQ1, 05.03.2024", null),
    ];

    private static readonly (string Name, Func<SKBitmap, SKBitmap> Make)[] Scans =
    [
        ("clean", static page => page.Copy()),
        ("blurred", static page => Filtered(page, SKImageFilter.CreateBlur(1.1f, 1.1f))),
        ("fax", Faxed),
        ("pale", static page => Mapped(page, level => (byte)(150 + level * 70 / 255))),
    ];

    /// <summary>CODES=all takes three sizes and five angles, 720 codes in all; otherwise a fifth of them.</summary>
    private static bool All => Environment.GetEnvironmentVariable("CODES") == "all";

    private static (int Dpi, float Scale)[] Sizes => All ? [(200, 1.5f), (300, 2f), (300, 3f)] : [(200, 2f)];

    [Fact]
    public void Codes_of_every_kind_are_read_however_they_lie_and_were_scanned()
    {
        var rates = new ConcurrentDictionary<(string Kind, string Scan), (int Right, int Of)>();
        var wrong = new ConcurrentBag<string>();
        var codes = Kinds.SelectMany(k =>
            Sizes.Select(s =>
                (k.Kind, k.Zint, Reads: k.Read ?? (k.Zint is 13 or 34 ? null : k.Holds), s.Dpi, Code: Zint(k.Zint, k.Holds, s.Scale))
            )
        );
        Parallel.ForEach(
            codes.ToList(),
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            each =>
            {
                foreach (var angle in All ? (int[])[0, 90, 180, 7, -7] : [0, 90, 7])
                foreach (var (scan, make) in Scans)
                {
                    using var page = Page(each.Code, angle, each.Dpi);
                    using var scanned = make(page);
                    // As pages come in: what lies askew is set upright first.
                    using var upright = Deskew.Straighten(scanned);
                    var found = CodeReading.Read(upright ?? scanned);
                    var right = found.Any(c => c.Kind == each.Kind && (each.Reads is null || c.Text == each.Reads));
                    rates.AddOrUpdate((each.Kind, scan), _ => (right ? 1 : 0, 1), (_, r) => (r.Right + (right ? 1 : 0), r.Of + 1));
                    foreach (var other in found.Where(c => c.Kind != each.Kind || each.Reads is not null && c.Text != each.Reads))
                        wrong.Add($"{each.Kind} {scan} {angle}° {each.Dpi} dpi: {other.Kind} “{other.Text}”");
                }
                each.Code.Dispose();
            }
        );
        output.WriteLine($"{"kind", -20}{string.Concat(Scans.Select(s => $"{s.Name, 12}"))}");
        foreach (var (kind, _, _, _) in Kinds)
            output.WriteLine(
                $"{kind, -20}{string.Concat(Scans.Select(s => $"{rates[(kind, s.Name)].Right, 9}/{rates[(kind, s.Name)].Of, 2}"))}"
            );
        foreach (var each in wrong)
            output.WriteLine("misread: " + each);
        double Rate(bool clean)
        {
            var cells = rates.Where(r => r.Key.Scan == "clean" == clean).ToList();
            return (double)cells.Sum(r => r.Value.Right) / cells.Sum(r => r.Value.Of);
        }
        output.WriteLine($"clean {Rate(true):P1}, degraded {Rate(false):P1}, of {rates.Sum(r => r.Value.Of)}");
        Assert.Equal(All ? 720 : 144, rates.Sum(r => r.Value.Of));
        Assert.True(Rate(true) >= 0.99, $"clean: {Rate(true):P1}");
        Assert.True(Rate(false) >= 0.9, $"degraded: {Rate(false):P1}");
        Assert.Empty(wrong);
    }

    [Fact]
    public void Several_codes_of_a_page_come_in_reading_order_with_their_places_and_text_is_no_code()
    {
        using var page = Page(null, 0, 200);
        using var first = Zint(20, "123456789012", 2);
        using var second = Zint(58, "second", 3);
        using (var canvas = new SKCanvas(page))
        {
            canvas.DrawBitmap(second, 600, 560, SKSamplingOptions.Default);
            canvas.DrawBitmap(first, 100, 80, SKSamplingOptions.Default);
        }
        var codes = CodeReading.Read(page);
        Assert.Equal([("Code 128", "123456789012"), ("QR", "second")], codes.Select(c => (c.Kind, c.Text)));
        Assert.InRange(codes[0].Box.CentreX * page.Width, 100, 100 + first.Width);
        Assert.InRange(codes[1].Box.CentreY * page.Height, 560, 560 + second.Height);
        using var text = Page(null, 0, 200);
        Assert.Empty(CodeReading.Read(text));
    }

    /// <summary>Forms are full of frames; each that is tried costs as much as the rest of its page.</summary>
    [Fact]
    public void Frames_to_be_filled_are_not_tried_as_codes_and_codes_beside_lines_are()
    {
        using var page = new SKBitmap(new SKImageInfo(1240, 1754, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var code = Zint(20, "123456789012", 2);
        using var line = new SKPaint { IsStroke = true, StrokeWidth = 2 };
        using var small = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 19);
        using var large = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), 24);
        using var ink = new SKPaint();
        using (var canvas = new SKCanvas(page))
        {
            canvas.Clear(SKColors.White);
            foreach (
                var (label, value) in new[] { ("GT", "2232"), ("In", "5"), ("IMO", "9187368"), ("Out", ""), ("Vessel", "Gannet Point") }
            )
            {
                canvas.Translate(0, 121);
                canvas.DrawText(label, 641, 290, SKTextAlign.Left, small, ink);
                // The sides are too pale to be seen.
                canvas.DrawLine(641, 305, 1142, 305, line);
                canvas.DrawLine(641, 361, 1142, 361, line);
                canvas.DrawText(value, 658, 343, SKTextAlign.Left, large, ink);
            }
        }
        Assert.Empty(Blocks());
        using (var canvas = new SKCanvas(page))
        {
            canvas.DrawBitmap(code, 600, 60, SKSamplingOptions.Default);
            canvas.DrawLine(100, 60 + code.Height + 6, 1140, 60 + code.Height + 6, line);
        }
        Assert.NotEmpty(Blocks());
        Assert.Equal("123456789012", Assert.Single(CodeReading.Read(page)).Text);

        IReadOnlyList<OpenCvSharp.Rect> Blocks()
        {
            using var gray = Pictures.Gray(page);
            using var seen = Pictures.Small(gray, CodeReading.Side);
            return [.. CodeReading.Blocks(seen)];
        }
    }

    [Fact]
    public void A_code_of_three_kilobytes_with_signs_that_control_is_read_whole()
    {
        var holds = "VC-2024-00031;\u001d\u001b[31m\r\n" + string.Concat(Enumerable.Range(0, 550).Select(i => $"{i:0000};"));
        using var code = Zint(58, holds, 4);
        using var page = new SKBitmap(new SKImageInfo(2480, 3508, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using (var canvas = new SKCanvas(page))
        {
            canvas.Clear(SKColors.White);
            canvas.DrawBitmap(code, 400, 900, SKSamplingOptions.Default);
        }
        Assert.InRange(code.Width, 1300, 1700);
        Assert.Equal(holds, Assert.Single(CodeReading.Read(page)).Text);
    }

    /// <summary>The zero that a number begins with is part of it.</summary>
    [Fact]
    public void F91_a_number_of_thirteen_digits_keeps_its_first() =>
        OpenFault.Shows(
            91,
            () =>
            {
                using var code = Zint(13, "012345678901", 2);
                using var page = Page(code, 0, 200);
                Assert.Equal("0123456789012", Assert.Single(CodeReading.Read(page)).Text);
            }
        );

    private SKBitmap Zint(int kind, string holds, float scale)
    {
        var path = Path.Combine(_folder, "code.png");
        string[] how = ["-b", kind.ToString(), "-d", holds, "-o", path, "--scale", scale.ToString("0.0"), "--height", "50", "--notext"];
        if (kind is 58 or 71 or 55 or 92)
            how = [.. how.SkipLast(3), "--notext"];
        using var zint = Process.Start(new ProcessStartInfo("zint", how) { UseShellExecute = false })!;
        zint.WaitForExit();
        Assert.Equal(0, zint.ExitCode);
        return SKBitmap.Decode(path);
    }

    // A5 with text below, as letters and labels have it.
    private static SKBitmap Page(SKBitmap? code, int angle, int dpi)
    {
        var page = new SKBitmap(new SKImageInfo((int)(5.83 * dpi), (int)(8.27 * dpi), SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var canvas = new SKCanvas(page);
        canvas.Clear(SKColors.White);
        using var ink = new SKPaint { Color = SKColors.Black, IsAntialias = true };
        using var font = new SKFont(SKTypeface.FromFile(SearchablePdf.FontPath), dpi / 8f);
        for (var y = page.Height * 0.6f; y < page.Height * 0.95f; y += dpi / 5f)
            canvas.DrawText("The pilot boards at the outer buoy and waits for the tide.", dpi / 3f, y, SKTextAlign.Left, font, ink);
        if (code is null)
            return page;
        canvas.Translate(page.Width / 2f, page.Height * 0.28f);
        canvas.RotateDegrees(angle);
        using var image = SKImage.FromBitmap(code);
        canvas.DrawImage(image, -code.Width / 2f, -code.Height / 2f, new SKSamplingOptions(SKCubicResampler.Mitchell));
        return page;
    }

    private static SKBitmap Filtered(SKBitmap page, SKImageFilter filter)
    {
        var made = new SKBitmap(page.Info);
        using var canvas = new SKCanvas(made);
        using var paint = new SKPaint { ImageFilter = filter };
        canvas.DrawBitmap(page, 0, 0, SKSamplingOptions.Default, paint);
        return made;
    }

    // Black and white only, with dust.
    private static SKBitmap Faxed(SKBitmap page)
    {
        var made = Mapped(page, level => (byte)(level > 140 ? 255 : 0));
        var random = new Random(7);
        for (var i = 0; i < made.Width * made.Height / 400; i++)
            made.SetPixel(random.Next(made.Width), random.Next(made.Height), random.Next(2) == 0 ? SKColors.Black : SKColors.White);
        return made;
    }

    private static SKBitmap Mapped(SKBitmap page, Func<byte, byte> map)
    {
        byte[] same = [.. Enumerable.Range(0, 256).Select(level => (byte)level)];
        var table = Array.ConvertAll(same, level => map(level));
        using var filter = SKColorFilter.CreateTable(same, table, table, table);
        return Filtered(page, SKImageFilter.CreateColorFilter(filter));
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
