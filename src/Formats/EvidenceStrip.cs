using ClearLexicon.Core.Reading;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>A picture of just the place that a value was read from, at the page's own resolution.</summary>
public static class EvidenceStrip
{
    /// <summary>Cuts a place out of a page, with an outline around it.</summary>
    /// <param name="imagePath">Picture of the page.</param>
    /// <param name="place">The place, in shares of the page.</param>
    /// <param name="margin">Margin around it, in shares of the page's width; 0 to 0.05.</param>
    /// <param name="masks">Regions of the page that are blacked out.</param>
    /// <returns>PNG.</returns>
    public static byte[] Png(string imagePath, Box place, double margin, IReadOnlyList<Box> masks)
    {
        using var page = Pictures.Decode(imagePath) ?? throw new IOException($"The picture {Path.GetFileName(imagePath)} cannot be read.");
        SearchablePdf.Mask(page, masks);
        var around = (int)Math.Round(Math.Clamp(margin, 0, 0.05) * page.Width);
        var inner = SKRectI.Intersect(
            new SKRectI(0, 0, page.Width, page.Height),
            new SKRectI(
                (int)(place.X * page.Width),
                (int)(place.Y * page.Height),
                (int)Math.Ceiling((place.X + place.W) * page.Width),
                (int)Math.Ceiling((place.Y + place.H) * page.Height)
            )
        );
        var outer = SKRectI.Intersect(new SKRectI(0, 0, page.Width, page.Height), SKRectI.Inflate(inner, around, around));
        using var strip = new SKBitmap(Math.Max(1, outer.Width), Math.Max(1, outer.Height));
        using (var canvas = new SKCanvas(strip))
        {
            canvas.DrawBitmap(page, -outer.Left, -outer.Top, SKSamplingOptions.Default);
            using var line = new SKPaint
            {
                Color = new SKColor(0x0F, 0x5C, 0x63),
                Style = SKPaintStyle.Stroke,
                StrokeWidth = Math.Max(1, page.Width / 900f),
            };
            // Around the letters, not through them.
            var outline = SKRect.Create(inner.Left - outer.Left, inner.Top - outer.Top, inner.Width, inner.Height);
            outline.Inflate(around / 2f, around / 2f);
            canvas.DrawRect(outline, line);
        }
        using var data = strip.Encode(SKEncodedImageFormat.Png, 90);
        return data.ToArray();
    }
}
