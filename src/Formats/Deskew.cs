using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>
/// Sets a scanned page upright before its text is recognised. The skew is where the rows of dark pixels, summed along lines
/// of that slope, differ most from one another: text lines and the white between them.
/// </summary>
public static class Deskew
{
    /// <summary>Greatest skew looked for, in degrees either way.</summary>
    public const double MaxDegrees = 3;

    /// <summary>Skew that is left alone: straightening costs more sharpness than it gains.</summary>
    public const double Least = 0.15;

    private const int Side = 1000;

    /// <summary>The skew of a page in degrees, clockwise positive.</summary>
    public static double Measure(SKBitmap page)
    {
        var scale = (double)Side / Math.Max(page.Width, page.Height);
        int width = (int)(page.Width * scale),
            height = (int)(page.Height * scale);
        using var small = page.Resize(
            new SKImageInfo(width, height, SKColorType.Gray8, SKAlphaType.Opaque),
            new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear)
        );
        var dark = DarkPixels(small);
        var best = BestOf(dark, width, height, Enumerable.Range(-12, 25).Select(i => i * MaxDegrees / 12));
        return BestOf(dark, width, height, Enumerable.Range(-10, 21).Select(i => best + i * 0.025));
    }

    /// <summary>Turns a page upright; null when it is upright already.</summary>
    public static SKBitmap? Straighten(SKBitmap page)
    {
        var skew = Measure(page);
        if (Math.Abs(skew) < Least)
            return null;
        var upright = new SKBitmap(new SKImageInfo(page.Width, page.Height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var canvas = new SKCanvas(upright);
        canvas.Clear(page.GetPixel(page.Width / 2, 4));
        canvas.RotateDegrees((float)-skew, page.Width / 2f, page.Height / 2f);
        using var image = SKImage.FromBitmap(page);
        canvas.DrawImage(image, 0, 0, new SKSamplingOptions(SKCubicResampler.Mitchell));
        return upright;
    }

    private static List<(int X, int Y)> DarkPixels(SKBitmap small)
    {
        var dark = new List<(int, int)>();
        var pixels = small.GetPixelSpan();
        var paper = 0;
        for (var i = 0; i < pixels.Length; i += 97)
            paper = Math.Max(paper, pixels[i]);
        var threshold = paper - 40;
        for (var y = 0; y < small.Height; y++)
        for (var x = 0; x < small.Width; x++)
            if (pixels[y * small.RowBytes + x] < threshold)
                dark.Add((x, y));
        return dark;
    }

    private static double BestOf(List<(int X, int Y)> dark, int width, int height, IEnumerable<double> angles)
    {
        double best = 0,
            bestScore = -1;
        var rows = new int[height + width];
        foreach (var angle in angles)
        {
            Array.Clear(rows);
            var slope = Math.Tan(angle * Math.PI / 180);
            foreach (var (x, y) in dark)
            {
                var row = (int)(y - x * slope + width * 0.1);
                if (row >= 0 && row < rows.Length)
                    rows[row]++;
            }
            double score = 0;
            for (var i = 1; i < rows.Length; i++)
                score += (double)(rows[i] - rows[i - 1]) * (rows[i] - rows[i - 1]);
            // Slopes too small to move a row score alike; the most upright of them is meant.
            if (score > bestScore * 1.001 || (score > bestScore * 0.999 && Math.Abs(angle) < Math.Abs(best)))
            {
                bestScore = Math.Max(score, bestScore);
                best = angle;
            }
        }
        return best;
    }
}
