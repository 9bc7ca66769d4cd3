using ClearLexicon.Formats;
using ClearLexicon.TestSupport;
using SkiaSharp;
using UglyToad.PdfPig;

namespace ClearLexicon.Formats.Tests;

/// <summary>
/// Pages without colours are drawn in gray. Whatever brings a colour onto a page, it is in the picture that is kept, as it is in one that
/// another program draws in colours.
/// </summary>
public sealed class PlainPageTests : IDisposable
{
    private const string Words = "BT /F1 24 Tf 72 700 Td (Harbour dues) Tj ET";
    private const string Font = "/Font << /F1 << /Type /Font /Subtype /Type1 /BaseFont /Helvetica >> >>";

    private readonly string _folder = Directory.CreateTempSubdirectory("plain").FullName;

    private string At(string name) => Path.Combine(_folder, name);

    /// <summary>A PDF of one page.</summary>
    private string Pdf(string content, string resources, string page, string more, string pages = "")
    {
        string[] objects =
        [
            "<< /Type /Catalog /Pages 2 0 R >>",
            $"<< /Type /Pages /Kids [3 0 R] /Count 1 {pages} >>",
            $"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R {resources} {page} >>",
            HandPdf.Stream(content),
            .. more.Length > 0 ? new[] { more } : [],
        ];
        File.WriteAllBytes(At("page.pdf"), HandPdf.Of(objects));
        return At("page.pdf");
    }

    public static TheoryData<string, bool, bool> Pages =>
        new()
        {
            { "black", true, false },
            { "gray by equal shares", true, false },
            { "red ink", false, true },
            { "red line", false, true },
            { "four inks", false, true },
            { "a colour space", false, false },
            { "a form", false, true },
            { "a shading", false, true },
            { "a picture in the page", false, true },
            { "a font that draws itself", false, true },
            { "a note", false, true },
            { "fonts said elsewhere", false, false },
        };

    private string Made(string kind) =>
        kind switch
        {
            "gray by equal shares" => Pdf($"0.4 0.4 0.4 rg 0.4 0.4 0.4 RG {Words}", Here(Font), "", ""),
            "red ink" => Pdf($"{Words} 1 0 0 rg 72 500 99 9 re f", Here(Font), "", ""),
            "red line" => Pdf($"{Words} 1 0 0 RG 9 w 72 500 m 300 500 l S", Here(Font), "", ""),
            "four inks" => Pdf($"{Words} 0 1 0 0 k 72 500 99 9 re f", Here(Font), "", ""),
            "a colour space" => Pdf($"/DeviceGray cs 0.3 sc {Words}", Here(Font), "", ""),
            "a form" => Pdf(
                $"{Words} /Fm Do",
                Here($"{Font} /XObject << /Fm 5 0 R >>"),
                "",
                HandPdf.Stream("0 0 1 rg 72 500 99 9 re f", "/Type /XObject /Subtype /Form /BBox [0 0 595 842]")
            ),
            "a shading" => Pdf(
                $"{Words} q 72 400 200 50 re W n /Sh sh Q",
                Here($"{Font} /Shading << /Sh 5 0 R >>"),
                "",
                "<< /ShadingType 2 /ColorSpace /DeviceRGB /Coords [72 400 272 400] /Extend [true true] "
                    + "/Function << /FunctionType 2 /Domain [0 1] /C0 [1 0 0] /C1 [0 0 1] /N 1 >> >>"
            ),
            "a picture in the page" => Pdf(
                $"{Words} q 90 0 0 90 72 400 cm BI /W 1 /H 1 /BPC 8 /CS /RGB ID \u00ff\u0001\u0002 EI Q",
                Here(Font),
                "",
                ""
            ),
            "a font that draws itself" => Pdf(
                $"{Words} BT /F2 48 Tf 72 400 Td (A) Tj ET",
                Here(
                    "/Font << /F1 << /Type /Font /Subtype /Type1 /BaseFont /Helvetica >> /F2 << /Type /Font /Subtype /Type3 "
                        + "/FontBBox [0 0 1 1] /FontMatrix [1 0 0 1 0 0] /FirstChar 65 /LastChar 65 /Widths [1] "
                        + "/Encoding << /Type /Encoding /Differences [65 /box] >> /CharProcs << /box 5 0 R >> /Resources << >> >> >>"
                ),
                "",
                HandPdf.Stream("1 0 d0 0 0.6 0 rg 0 0 1 1 re f")
            ),
            "a note" => Pdf(
                Words,
                Here(Font),
                "/Annots [<< /Type /Annot /Subtype /Square /Rect [72 400 172 450] /C [1 0 0] /IC [1 0 0] /F 4 /AP << /N 5 0 R >> >>]",
                HandPdf.Stream("1 0 0 rg 0 0 100 50 re f", "/Type /XObject /Subtype /Form /BBox [0 0 100 50]")
            ),
            "fonts said elsewhere" => Pdf(Words, "", "", "", Here(Font)),
            _ => Pdf($"0 g 0.5 G {Words} 72 600 300 1 re S", Here(Font), "", ""),
        };

    private static string Here(string resources) => $"/Resources << {resources} >>";

    [Theory]
    [MemberData(nameof(Pages))]
    public async Task What_has_a_colour_keeps_it_and_what_has_none_is_drawn_in_gray(string kind, bool plain, bool coloured)
    {
        var path = Made(kind);
        using (var pdf = PdfDocument.Open(path))
            Assert.Equal(plain, PlainPage.Is(pdf, pdf.GetPage(1)));
        var page = (await PageReading.ReadAsync(path, FileKind.Pdf, 1, At("out"), TestContext.Current.CancellationToken))[0];
        using var kept = Pictures.Decode(page.ImagePath)!;
        Assert.Equal(coloured, HasColour(kept));
        // What is gray is as dark as it would be in colours.
        await ExternalProgram.RunAsync("pdftoppm", ["-r", "150", "-png", path, At("other")], TimeSpan.FromMinutes(1), default);
        using var other = SKBitmap.Decode(Directory.GetFiles(_folder, "other*.png")[0]);
        Assert.Equal(coloured, HasColour(other));
        Assert.Equal((other.Width, other.Height), (kept.Width, kept.Height));
        Assert.InRange(other.Pixels.Zip(kept.Pixels).Max(p => Math.Abs(p.First.Green - p.Second.Green)), 0, 1);
    }

    private static bool HasColour(SKBitmap page) => page.Pixels.Any(p => p.Red != p.Green || p.Green != p.Blue);

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
