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
        var scale = Math.Min(1, (double)Side / Math.Max(page.Width, page.Height));
        // Averaged to the end: what is only picked makes steps of its own in nearly level lines.
        using var small = Pictures.Smaller(gray, scale, InterpolationFlags.Area);
        using var even = Pictures.Evened(small);
        using var ink = Pictures.Ink(even, Darker);
        var upright = Points(ink);
        // Of a page on its side the lines run down; its skew is the same.
        var (side, sideSize) = (Array.ConvertAll(upright, p => new Point(ink.Height - 1 - p.Y, p.X)), new Size(ink.Height, ink.Width));
        // Whole degrees show on a page half as fine.
        var (coarse, coarseSide) = (Array.ConvertAll(upright, Halved), Array.ConvertAll(side, Halved));
        var across = BestOf(coarse, new Size(ink.Width / 2 + 1, ink.Height / 2 + 1), Steps(0, 10, 1));
        var down = BestOf(coarseSide, new Size(ink.Height / 2 + 1, ink.Width / 2 + 1), Steps(0, 10, 1));
        var (lines, size, rough) = across.Score >= down.Score ? (upright, ink.Size(), across.Angle) : (side, sideSize, down.Angle);
        return BestOf(lines, size, Steps(BestOf(lines, size, Steps(rough, 10, 0.1)).Angle, 4, 0.025)).Angle;
    }

    private static Point Halved(Point p) => new(p.X / 2, p.Y / 2);

    // Where the ink is.
    private static Point[] Points(Mat ink)
    {
        using var places = new Mat();
        Cv2.FindNonZero(ink, places);
        if (places.Empty())
            return [];
        places.GetArray(out Point[] points);
        return points;
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
        using var plain = page.ColorType == SKColorType.Rgba8888 ? null : page.Copy(SKColorType.Rgba8888);
        using var from = Pictures.Pixels(plain ?? page);
        using var to = Pictures.Pixels(upright);
        using var turn = Cv2.GetRotationMatrix2D(new Point2f(page.Width / 2f, page.Height / 2f), skew, 1);
        var paper = page.GetPixel(page.Width / 2, Math.Min(4, page.Height - 1));
        Cv2.WarpAffine(
            from,
            to,
            turn,
            to.Size(),
            InterpolationFlags.Linear,
            BorderTypes.Constant,
            new Scalar(paper.Red, paper.Green, paper.Blue, 255)
        );
        return upright;
    }

    private static IEnumerable<double> Steps(double middle, int each, double step) =>
        Enumerable.Range(-each, 2 * each + 1).Select(i => middle + i * step);

    private static (double Angle, double Score) BestOf(Point[] ink, Size size, IEnumerable<double> angles)
    {
        double best = 0,
            bestScore = -1;
        var rows = new int[size.Height];
        var shifts = new int[size.Width];
        foreach (var angle in angles)
        {
            // Only along the rows: a shear tells what a turn would, and moves no ink out of the picture sideways.
            var slope = Math.Tan(angle * Math.PI / 180);
            for (var x = 0; x < shifts.Length; x++)
                shifts[x] = (int)Math.Round((size.Width / 2.0 - x) * slope);
            Array.Clear(rows);
            foreach (var point in ink)
            {
                var row = point.Y + shifts[point.X];
                if ((uint)row < (uint)rows.Length)
                    rows[row]++;
            }
            double score = 0;
            for (var i = 1; i < rows.Length; i++)
            {
                double change = rows[i] - rows[i - 1];
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
