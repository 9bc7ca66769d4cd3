using OpenCvSharp;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>
/// Sets a scanned page upright before its text is recognised. The skew is where the rows of dark pixels, summed along lines
/// of that slope, differ most from one another: text lines and the white between them.
/// </summary>
public static class Deskew
{
    /// <summary>Greatest skew looked for, in degrees either way.</summary>
    public const double MaxDegrees = 10;

    /// <summary>Skew that is left alone: straightening costs more sharpness than it gains.</summary>
    public const double Least = 0.15;

    private const int Side = 1000;
    private const int Darker = 40;
    private const double Edge = 0.03;

    /// <summary>The skew of a page in degrees, clockwise positive.</summary>
    public static double Measure(SKBitmap page)
    {
        using var whole = Pictures.Gray(page);
        // The edge of the glass, and a line along it, are straight however the paper lies.
        var (x, y) = ((int)(page.Width * Edge), (int)(page.Height * Edge));
        using var gray = whole.SubMat(new Rect(x, y, page.Width - 2 * x, page.Height - 2 * y));
        using var small = new Mat();
        var scale = Math.Min(1, (double)Side / Math.Max(page.Width, page.Height));
        Cv2.Resize(gray, small, new Size(), scale, scale, InterpolationFlags.Area);
        using var even = Pictures.Evened(small);
        using var ink = Pictures.Ink(even, Darker);
        // Of a page on its side the lines run down; its skew is the same.
        using var side = new Mat();
        Cv2.Rotate(ink, side, RotateFlags.Rotate90Clockwise);
        // Whole degrees show on a page half as fine.
        using var coarse = new Mat();
        using var coarseSide = new Mat();
        Cv2.Resize(ink, coarse, new Size(), 0.5, 0.5, InterpolationFlags.Area);
        Cv2.Rotate(coarse, coarseSide, RotateFlags.Rotate90Clockwise);
        var (across, down) = (BestOf(coarse, Steps(0, 10, 1)), BestOf(coarseSide, Steps(0, 10, 1)));
        var (lines, rough) = across.Score >= down.Score ? (ink, across.Angle) : (side, down.Angle);
        return BestOf(lines, Steps(BestOf(lines, Steps(rough, 10, 0.1)).Angle, 4, 0.025)).Angle;
    }

    /// <summary>Turns a page upright; null when it is upright already.</summary>
    public static SKBitmap? Straighten(SKBitmap page) => Straighten(page, out _);

    /// <summary>Turns a page upright; null when it is upright already.</summary>
    /// <param name="page">The page.</param>
    /// <param name="skew">By how many degrees it lay askew, clockwise positive; 0 when it is left alone.</param>
    public static SKBitmap? Straighten(SKBitmap page, out double skew)
    {
        skew = Measure(page);
        if (Math.Abs(skew) < Least)
        {
            skew = 0;
            return null;
        }
        var upright = new SKBitmap(new SKImageInfo(page.Width, page.Height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var canvas = new SKCanvas(upright);
        canvas.Clear(page.GetPixel(page.Width / 2, 4));
        canvas.RotateDegrees((float)-skew, page.Width / 2f, page.Height / 2f);
        using var image = SKImage.FromBitmap(page);
        canvas.DrawImage(image, 0, 0, new SKSamplingOptions(SKCubicResampler.Mitchell));
        return upright;
    }

    private static IEnumerable<double> Steps(double middle, int each, double step) =>
        Enumerable.Range(-each, 2 * each + 1).Select(i => middle + i * step);

    private static (double Angle, double Score) BestOf(Mat ink, IEnumerable<double> angles)
    {
        double best = 0,
            bestScore = -1;
        using var turned = new Mat();
        using var rows = new Mat();
        foreach (var angle in angles)
        {
            // Only along the rows: a shear tells what a turn would, and moves no ink out of the picture sideways.
            using var shear = Mat.FromArray(
                new[,]
                {
                    { 1, 0, 0 },
                    { -Math.Tan(angle * Math.PI / 180), 1, ink.Width / 2.0 * Math.Tan(angle * Math.PI / 180) },
                }
            );
            Cv2.WarpAffine(ink, turned, shear, ink.Size(), InterpolationFlags.Nearest);
            Cv2.Reduce(turned, rows, ReduceDimension.Column, ReduceTypes.Sum, MatType.CV_32S);
            rows.GetArray(out int[] sums);
            double score = 0;
            for (var i = 1; i < sums.Length; i++)
            {
                var change = (sums[i] - sums[i - 1]) / 255.0;
                score += change * change;
            }
            // Slopes too small to move a row score alike; the most upright of them is meant.
            if (score > bestScore * 1.001 || (score > bestScore * 0.999 && Math.Abs(angle) < Math.Abs(best)))
            {
                bestScore = Math.Max(score, bestScore);
                best = angle;
            }
        }
        return (best, bestScore);
    }
}
