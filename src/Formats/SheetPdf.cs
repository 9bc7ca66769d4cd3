using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Sheets;
using SkiaSharp;
using ZXing.QrCode;
using ZXing.QrCode.Internal;

namespace ClearLexicon.Formats;

/// <summary>Writes sheets as a PDF to be printed, one page a sheet, and draws them as pictures.</summary>
public static class SheetPdf
{
    /// <summary>Writes the sheets of a print.</summary>
    /// <exception cref="ArgumentException">They do not fit on a page; see <see cref="SheetLayout.Of"/>.</exception>
    public static byte[] Write(SheetPrint print)
    {
        using var written = new SKDynamicMemoryWStream();
        using (var document = SKDocument.CreatePdf(written, new SKDocumentPdfMetadata { Title = print.Name, Producer = "Clear Lexicon" }))
        {
            for (var row = 1; row <= print.Rows.Count; row++)
            {
                using (var canvas = document.BeginPage((float)SheetLayout.Width, (float)SheetLayout.Height))
                    Draw(canvas, print, row);
                document.EndPage();
            }
            document.Close();
        }
        using var bytes = written.DetachAsData();
        return bytes.ToArray();
    }

    /// <summary>Draws one sheet on a canvas measured in points.</summary>
    /// <param name="canvas">The canvas.</param>
    /// <param name="print">The print.</param>
    /// <param name="row">Which of its sheets, from 1.</param>
    public static void Draw(SKCanvas canvas, SheetPrint print, int row)
    {
        var (lines, boxes, problem) = SheetLayout.Of(print, row);
        if (problem is not null)
            throw new ArgumentException(problem, nameof(print));
        using var ink = new SKPaint { Color = SKColors.Black, IsAntialias = true };
        using var frame = new SKPaint
        {
            Color = new SKColor(0x70, 0x70, 0x70),
            IsStroke = true,
            StrokeWidth = 0.8f,
            IsAntialias = true,
        };
        foreach (var mark in SheetLayout.Marks)
            canvas.DrawRect(Points(mark), ink);
        using var face = SKTypeface.FromFile(SearchablePdf.FontPath) ?? SKTypeface.Default;
        foreach (var line in lines.Where(l => l.Text.Length > 0))
        {
            using var font = new SKFont(face, (float)line.Size) { Embolden = line.Bold, Subpixel = true };
            canvas.DrawText(line.Text, (float)line.X, (float)line.Y, SKTextAlign.Left, font, ink);
        }
        foreach (var box in boxes)
            canvas.DrawRect(Points(box.Place), frame);
        DrawCode(canvas, new SheetToken(print.Token, row).Text, ink);
        if (!print.IsCover)
            DrawPatch(canvas, "T", Points(SheetLayout.Patch), ink);
    }

    /// <summary>Draws a patch code with bars across.</summary>
    public static void DrawPatch(SKCanvas canvas, string patch, SKRect place, SKPaint ink)
    {
        var y = place.Top;
        foreach (var wide in PatchCode.WideBars(patch))
        {
            var height = (float)((wide ? PatchCode.Wide : PatchCode.Narrow) * 72);
            canvas.DrawRect(place.Left, y, place.Width, height, ink);
            y += height + (float)(PatchCode.Narrow * 72);
        }
    }

    // A third of it may be spoiled and it is still read.
    private static void DrawCode(SKCanvas canvas, string text, SKPaint ink)
    {
        var options = new QrCodeEncodingOptions { ErrorCorrection = ErrorCorrectionLevel.H, Margin = 0 };
        var code = new QRCodeWriter().encode(text, ZXing.BarcodeFormat.QR_CODE, 0, 0, options.Hints);
        var place = Points(SheetLayout.Code);
        var side = place.Width / code.Width;
        ink.IsAntialias = false;
        for (var y = 0; y < code.Height; y++)
        for (var x = 0; x < code.Width; x++)
            if (code[x, y])
                canvas.DrawRect(place.Left + x * side, place.Top + y * side, side, side, ink);
        ink.IsAntialias = true;
    }

    private static SKRect Points(Box box) =>
        SKRect.Create(
            (float)(box.X * SheetLayout.Width),
            (float)(box.Y * SheetLayout.Height),
            (float)(box.W * SheetLayout.Width),
            (float)(box.H * SheetLayout.Height)
        );
}
