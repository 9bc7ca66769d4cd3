using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;
using SkiaSharp;

namespace ClearLexicon.Services.Tests;

/// <summary>Sheets made here come back copied, faxed, askew, stained and smaller, and are read.</summary>
public sealed class SheetTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    private static readonly (string Name, Func<SKBitmap, SKBitmap> Make)[] Treatments =
    [
        ("as printed", static page => page.Copy()),
        ("faxed", static page => Black(page, 128)),
        ("faxed dark", static page => Black(page, 190)),
        ("stained", Stained),
        ("copied smaller", static page => Redrawn(page, 0.94f, 0)),
        ("slanting, faxed", static page => Black(Redrawn(page, 1, 5), 128)),
        ("slanting the other way, stained, faxed", static page => Black(Redrawn(Stained(page), 0.97f, -5), 120)),
    ];

    [Fact]
    public void A_sheet_survives_what_offices_do_to_it()
    {
        var (covers, separators) = (Covers(), Separators());
        var boxes = SheetLayout.Of(covers, 1).Boxes;
        foreach (var (name, make) in Treatments)
            for (var chosen = 0; chosen < boxes.Count; chosen++)
            {
                var at = chosen;
                var leaf = new Leaf(
                    canvas =>
                    {
                        SheetPdf.Draw(canvas, covers, 1);
                        StackDrawing.Cross(canvas, boxes[at], new Random(at));
                    },
                    false,
                    true
                );
                using var page = StackDrawing.Picture(leaf, 200, new Random(at));
                using var treated = make(page);
                using var straight = Deskew.Straighten(treated);
                var text = PageReading.WithMarks(new PageText(1, 1, [], "none"), straight ?? treated);
                Assert.True(
                    text.Codes.Any(c => SheetToken.Read(c.Text) == new SheetToken(covers.Token, 1)),
                    $"{name}: its code was not read"
                );
                var image = Path.Combine(_house.Folder.Drafts, "sheet.png");
                using (var file = File.Create(image))
                    (straight ?? treated).Encode(SKEncodedImageFormat.Png, 90).SaveTo(file);
                var (read, doubts) = SheetValue.Read(covers, SheetBoxes.Measure(image, covers, 1));
                Assert.True(read.Count == 1 && doubts.Count == 0, $"{name}, box {chosen}: {read.Count} chosen, {string.Join(' ', doubts)}");
                Assert.Equal(covers.Groups[0].Options[chosen].Value, read[0].Option.Value);
            }
        foreach (var (name, make) in Treatments)
        {
            using var page = StackDrawing.Picture(HarbourStacks.Sheet(separators, 2), 200, new Random(1));
            using var treated = make(page);
            using var straight = Deskew.Straighten(treated);
            var codes = CodeReading.Read(straight ?? treated);
            Assert.Contains(codes, c => SheetToken.Read(c.Text) == new SheetToken(separators.Token, 2));
            Assert.True(codes.Any(c => c.Kind == "Patch code" && c.Text == "T"), $"{name}: its patch code was not read");
        }
    }

    [Fact]
    public async Task What_a_cover_sheet_says_becomes_values_with_places_and_what_is_wrong_is_said_on_the_desk()
    {
        var covers = Covers(3);
        StackDrawing.Pdf(Path.Combine(_house.Folder.Tray, "covered.pdf"), HarbourStacks.Covered(covers), 200, 2);
        var (batch, job) = (await _house.Intake.ScanAsync("me"))!.Value;
        await job!.Completion;
        Assert.Empty(_house.Failures);
        var documents = _house.Desk.Waiting("me", batch).Select(d => d.Document).ToList();
        Assert.Equal([1, 2, 1], documents.Select(d => _house.Desk.Pages(d.Id).Count));
        for (var i = 0; i < 2; i++)
        {
            Assert.Equal("pilotage-certificate", documents[i].TypeCode);
            Assert.Equal($"Holder {i}", documents[i].Record["holder"]);
            Assert.Equal(covers.Groups[0].Options[(i + 1) % covers.Groups[0].Options.Count].Value, documents[i].Record["class"]);
            var evidence = documents[i].Evidence["class"];
            Assert.Equal((0, "marked box"), (evidence.Page, evidence.Method));
            Assert.Equal("typed on the sheet", documents[i].Evidence["holder"].Method);
            Assert.Equal(0, _house.Desk.PagesAndSheet(documents[i].Id)[0].Number);
        }
        Assert.False(documents[2].Record.ContainsKey("class"));
        Assert.Contains("where one is asked", _house.Desk.Pages(documents[2].Id)[0].Notice, StringComparison.Ordinal);
        // A sheet is no page of what is filed, nor of its text.
        Assert.Equal(1, _house.Database.Read(c => DocumentStore.PageCount(c, documents[0].Id)));
    }

    [Fact]
    public void What_cannot_be_printed_is_refused_in_words()
    {
        Assert.Contains("1 to 500", _house.Sheets.Separators(0, "me").Problem, StringComparison.Ordinal);
        Assert.Contains(
            "no field “nothing”",
            Print([new Dictionary<string, string> { ["nothing"] = "x" }]).Problem,
            StringComparison.Ordinal
        );
        Assert.Contains("cannot have boxes", Print([new Dictionary<string, string>()], "holder").Problem, StringComparison.Ordinal);
        Assert.Contains(
            "type is chosen",
            _house.Sheets.Covers("", [new Dictionary<string, string> { ["holder"] = "x" }], [], "me").Problem,
            StringComparison.Ordinal
        );
        var type = _house.Designs.Published["pilotage-certificate"].Type.Type;
        Assert.Contains(
            "Line 3 of the list has 3 values",
            PastedRows.Read("Holder\tExaminer\na\tb\nc\td\te", type).Problem,
            StringComparison.Ordinal
        );
        Assert.Contains("no field “Captain”", PastedRows.Read("Captain\na", type).Problem, StringComparison.Ordinal);
        Assert.Equal(
            ["holder=A. Reed", "holder=B. Marsh,examiner=Z"],
            PastedRows
                .Read("holder; Examiner\r\nA. Reed\r\n\r\nB. Marsh;Z\r\n", type)
                .Value!.Select(r => string.Join(',', r.Select(v => $"{v.Key}={v.Value}")))
        );
    }

    private Result<byte[]> Print(IReadOnlyList<IReadOnlyDictionary<string, string>> rows, params string[] boxes) =>
        _house.Sheets.Covers("pilotage-certificate", rows, boxes, "me");

    private SheetPrint Covers(int count = 1)
    {
        Assert.Null(
            Print(
                [.. Enumerable.Range(0, count).Select(i => new Dictionary<string, string> { ["holder"] = $"Holder {i}" })],
                "class"
            ).Problem
        );
        return _house.Database.Read(SheetStore.Newest)!;
    }

    private SheetPrint Separators()
    {
        Assert.Null(_house.Sheets.Separators(3, "me").Problem);
        return _house.Database.Read(SheetStore.Newest)!;
    }

    private static SKBitmap Redrawn(SKBitmap page, float scale, float degrees)
    {
        var made = new SKBitmap(page.Info);
        using var canvas = new SKCanvas(made);
        canvas.Clear(SKColors.White);
        canvas.Translate(page.Width / 2f, page.Height / 2f);
        canvas.RotateDegrees(degrees);
        canvas.Scale(scale);
        using var image = SKImage.FromBitmap(page);
        canvas.DrawImage(image, -page.Width / 2f, -page.Height / 2f, new SKSamplingOptions(SKCubicResampler.Mitchell));
        return made;
    }

    // Rings and a splash of coffee over a box and a part of the code.
    private static SKBitmap Stained(SKBitmap page)
    {
        var made = page.Copy();
        using var canvas = new SKCanvas(made);
        using var coffee = new SKPaint { Color = new SKColor(0xA8, 0x7C, 0x4A, 120), IsAntialias = true };
        canvas.DrawCircle(page.Width * 0.3f, page.Height * 0.33f, page.Width * 0.16f, coffee);
        using var ring = new SKPaint
        {
            Color = new SKColor(0x8A, 0x5C, 0x2A, 110),
            IsStroke = true,
            StrokeWidth = page.Width * 0.012f,
            IsAntialias = true,
        };
        canvas.DrawCircle(page.Width * 0.72f, page.Height * 0.22f, page.Width * 0.1f, ring);
        return made;
    }

    private static SKBitmap Black(SKBitmap page, byte threshold)
    {
        var made = page.Copy();
        var pixels = System.Runtime.InteropServices.MemoryMarshal.Cast<byte, uint>(made.GetPixelSpan());
        var written = new uint[pixels.Length];
        for (var i = 0; i < pixels.Length; i++)
            written[i] = (pixels[i] & 0xFF) > threshold ? 0xFFFFFFFF : 0xFF000000;
        System.Runtime.InteropServices.Marshal.Copy([.. written.Select(w => unchecked((int)w))], 0, made.GetPixels(), written.Length);
        return made;
    }

    public void Dispose() => _house.Dispose();
}
