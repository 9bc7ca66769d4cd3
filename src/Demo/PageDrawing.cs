using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using SkiaSharp;

namespace ClearLexicon.Demo;

/// <summary>One label and value on a page design; places in points from the top left of A4.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Label">What is printed as label.</param>
/// <param name="X">Left edge of the label.</param>
/// <param name="Y">Baseline of the label.</param>
/// <param name="ValueX">Left edge of the value.</param>
/// <param name="ValueY">Baseline of the value.</param>
/// <param name="Width">Room for the value.</param>
public sealed record Cell(string Field, string Label, float X, float Y, float ValueX, float ValueY, float Width)
{
    /// <summary>The zone a careful steward would draw around the value, in shares of the page.</summary>
    public Box Zone =>
        new((ValueX - 4) / PageDrawing.Width, (ValueY - 14) / PageDrawing.Height, Width / PageDrawing.Width, 19 / PageDrawing.Height);
}

/// <summary>A page design: heading, cells, and how its values are printed.</summary>
/// <param name="Key">Key of the reader made for it.</param>
/// <param name="Name">Name of that reader.</param>
/// <param name="TypeCode">Document type it carries.</param>
/// <param name="Heading">Printed heading.</param>
/// <param name="Issuer">Printed above the heading.</param>
/// <param name="DateForm">How dates are printed.</param>
/// <param name="Boxed">Draws a box around each value instead of a line under it.</param>
/// <param name="Cells">The cells.</param>
public sealed record PageDesign(
    string Key,
    string Name,
    string TypeCode,
    string Heading,
    string Issuer,
    string DateForm,
    bool Boxed,
    IReadOnlyList<Cell> Cells
);

/// <summary>Draws page designs as PDFs with text, or as scans with skew, speckle and faint print.</summary>
public static class PageDrawing
{
    /// <summary>Width of A4 in points.</summary>
    public const float Width = 595;

    /// <summary>Height of A4 in points.</summary>
    public const float Height = 842;

    private const float ScanScale = 200f / 72;
    private static readonly Lazy<SKTypeface> Face = new(() => SKTypeface.FromFile(SearchablePdf.FontPath) ?? SKTypeface.Default);
    private static readonly Lazy<SKTypeface> Bold = new(() =>
        SKTypeface.FromFile(SearchablePdf.FontPath.Replace("DejaVuSans.", "DejaVuSans-Bold.", StringComparison.Ordinal))
        ?? SKTypeface.Default
    );

    /// <summary>Draws a PDF with a text layer.</summary>
    public static void Pdf(string path, PageDesign design, IReadOnlyDictionary<string, string> printed) =>
        Pdf(path, design.Heading, [(design, printed)]);

    /// <summary>Draws a PDF with a text layer, a page each.</summary>
    public static void Pdf(string path, string title, IEnumerable<(PageDesign Design, IReadOnlyDictionary<string, string> Printed)> pages)
    {
        using var file = File.Create(path);
        using var document = SKDocument.CreatePdf(file, new SKDocumentPdfMetadata { Title = title });
        foreach (var (design, printed) in pages)
        {
            using (var canvas = document.BeginPage(Width, Height))
                Draw(canvas, design, printed, new SKColor(0x11, 0x11, 0x11));
            document.EndPage();
        }
        document.Close();
    }

    /// <summary>Draws a scan at 200 dpi.</summary>
    /// <param name="design">The design.</param>
    /// <param name="printed">Values as printed, by field key.</param>
    /// <param name="skew">Rotation in degrees, clockwise positive.</param>
    /// <param name="ink">Darkness of the print: 0 black to 255 invisible.</param>
    /// <param name="speckles">Number of specks.</param>
    /// <param name="random">Where they fall.</param>
    public static SKBitmap Scan(
        PageDesign design,
        IReadOnlyDictionary<string, string> printed,
        float skew,
        byte ink,
        int speckles,
        Random random
    )
    {
        var bitmap = new SKBitmap(
            new SKImageInfo((int)(Width * ScanScale), (int)(Height * ScanScale), SKColorType.Rgba8888, SKAlphaType.Opaque)
        );
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(new SKColor(0xF6, 0xF5, 0xF2));
        canvas.Save();
        canvas.Scale(ScanScale);
        canvas.RotateDegrees(skew, Width / 2, Height / 2);
        canvas.Translate((float)(random.NextDouble() * 8 - 4), (float)(random.NextDouble() * 8 - 4));
        Draw(canvas, design, printed, new SKColor(ink, ink, ink));
        canvas.Restore();
        using var dust = new SKPaint { Color = new SKColor(0x60, 0x60, 0x60), IsAntialias = false };
        for (var i = 0; i < speckles; i++)
            canvas.DrawRect(random.Next(bitmap.Width), random.Next(bitmap.Height), random.Next(1, 3), random.Next(1, 3), dust);
        return bitmap;
    }

    internal static void Draw(SKCanvas canvas, PageDesign design, IReadOnlyDictionary<string, string> printed, SKColor ink)
    {
        using var paint = new SKPaint { Color = ink, IsAntialias = true };
        using var rule = new SKPaint
        {
            Color = ink.WithAlpha(120),
            IsStroke = true,
            StrokeWidth = 0.7f,
            IsAntialias = true,
        };
        Text(canvas, design.Issuer, 48, 52, 10, Face.Value, paint);
        Text(canvas, design.Heading, 48, 82, 19, Bold.Value, paint);
        canvas.DrawLine(48, 94, Width - 48, 94, rule);
        foreach (var cell in design.Cells)
        {
            Text(canvas, cell.Label, cell.X, cell.Y, 9, Face.Value, paint);
            if (design.Boxed)
                canvas.DrawRect(cell.ValueX - 7, cell.ValueY - 19, cell.Width + 8, 27, rule);
            else
                canvas.DrawLine(cell.ValueX - 4, cell.ValueY + 6, cell.ValueX + cell.Width - 4, cell.ValueY + 6, rule);
            if (printed.TryGetValue(cell.Field, out var value))
                Text(canvas, value, cell.ValueX, cell.ValueY, 11.5f, Face.Value, paint);
        }
        Text(canvas, "Merrowmouth Harbour Authority · Quayside House · kept for seven years", 48, Height - 40, 8, Face.Value, paint);
    }

    internal static void Plain(SKCanvas canvas, string text, float x, float y, float size)
    {
        using var ink = new SKPaint { Color = new SKColor(0x11, 0x11, 0x11), IsAntialias = true };
        Text(canvas, text, x, y, size, Face.Value, ink);
    }

    private static void Text(SKCanvas canvas, string text, float x, float y, float size, SKTypeface face, SKPaint paint)
    {
        using var font = new SKFont(face, size) { Subpixel = true };
        canvas.DrawText(text, x, y, SKTextAlign.Left, font, paint);
    }
}
