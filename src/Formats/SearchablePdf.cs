using ClearLexicon.Core.Reading;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>One page to write.</summary>
/// <param name="ImagePath">Its picture.</param>
/// <param name="Text">Its words, laid under the picture so that they are found but not seen.</param>
/// <param name="Masks">Regions blacked out in the picture; words that touch them are left out.</param>
public sealed record PdfPage(string ImagePath, PageText Text, IReadOnlyList<Box> Masks);

/// <summary>Writes a PDF of page pictures with their words under them, so that any viewer can search it.</summary>
public static class SearchablePdf
{
    /// <summary>Where Debian keeps a font with the letters of European languages; pages are drawn and searched with it.</summary>
    public const string FontPath = "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf";

    /// <summary>Writes the pages. A4 width is assumed; the height follows the picture.</summary>
    public static void Write(string path, IReadOnlyList<PdfPage> pages, string title)
    {
        using var typeface = File.Exists(FontPath) ? SKTypeface.FromFile(FontPath) : SKTypeface.Default;
        // Into memory first: a disk that fills would throw inside a call of the drawing library, which ends the process.
        using var written = new SKDynamicMemoryWStream();
        using var document = SKDocument.CreatePdf(
            written,
            new SKDocumentPdfMetadata
            {
                Title = title,
                Producer = "Clear Lexicon",
                RasterDpi = 200,
                EncodingQuality = 85,
            }
        );
        foreach (var page in pages)
        {
            using var bitmap =
                Pictures.Decode(page.ImagePath) ?? throw new IOException($"The picture {Path.GetFileName(page.ImagePath)} cannot be read.");
            const float width = 595;
            var height = width * bitmap.Height / bitmap.Width;
            using var canvas = document.BeginPage(width, height);
            foreach (var word in page.Text.Words.Where(w => !page.Masks.Any(m => m.Overlaps(w.Box))))
                DrawWord(canvas, word, width, height, typeface);
            Mask(bitmap, page.Masks);
            using var data = bitmap.Encode(SKEncodedImageFormat.Jpeg, 85);
            using var image = SKImage.FromEncodedData(data);
            canvas.DrawImage(image, new SKRect(0, 0, width, height), SKSamplingOptions.Default);
            document.EndPage();
        }
        document.Close();
        using var bytes = written.DetachAsData();
        using var file = File.Create(path);
        // A document without pages gives no bytes at all.
        if (bytes.Size > 0)
            file.Write(bytes.AsSpan());
    }

    /// <summary>Blacks out regions of a picture.</summary>
    public static void Mask(SKBitmap bitmap, IReadOnlyList<Box> masks)
    {
        if (masks.Count == 0)
            return;
        using var canvas = new SKCanvas(bitmap);
        using var ink = new SKPaint { Color = new SKColor(0x1D, 0x2B, 0x2F) };
        foreach (var m in masks)
            canvas.DrawRect(
                new SKRect(
                    (float)((m.X - 0.004) * bitmap.Width),
                    (float)((m.Y - 0.003) * bitmap.Height),
                    (float)((m.X + m.W + 0.004) * bitmap.Width),
                    (float)((m.Y + m.H + 0.003) * bitmap.Height)
                ),
                ink
            );
    }

    /// <summary>A copy of a picture with regions blacked out, as PNG.</summary>
    public static byte[] MaskedPng(string imagePath, IReadOnlyList<Box> masks)
    {
        using var bitmap =
            Pictures.Decode(imagePath) ?? throw new IOException($"The picture {Path.GetFileName(imagePath)} cannot be read.");
        Mask(bitmap, masks);
        using var data = bitmap.Encode(SKEncodedImageFormat.Png, 90);
        return data.ToArray();
    }

    private static void DrawWord(SKCanvas canvas, Word word, float width, float height, SKTypeface typeface)
    {
        using var font = new SKFont(typeface, Math.Clamp((float)word.Box.H * height, 4, 72));
        var natural = font.MeasureText(word.Text);
        if (natural > 0)
            font.ScaleX = Math.Clamp((float)word.Box.W * width / natural, 0.2f, 5f);
        using var paint = new SKPaint { Color = SKColors.White };
        canvas.DrawText(word.Text, (float)word.Box.X * width, (float)(word.Box.Y + word.Box.H) * height, SKTextAlign.Left, font, paint);
    }
}
