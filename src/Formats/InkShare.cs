using OpenCvSharp;

namespace ClearLexicon.Formats;

/// <summary>How much of a page is dark, which tells blank pages.</summary>
internal static class InkShare
{
    private const int Side = 1000;
    private const int Darker = 70;
    private const double Border = 0.035;

    /// <summary>
    /// Share of the area inside the border that is clearly darker than the paper, 0 to 1. Specks, and what shines through from the other
    /// side, do not count; holes and the shadow of the lid lie in the border.
    /// </summary>
    public static double Measure(Mat gray)
    {
        using var small = Pictures.Small(gray, Side);
        using var inside = Inside(small);
        using var ink = Pictures.Ink(inside, Darker);
        using var labels = new Mat();
        using var stats = new Mat();
        using var centres = new Mat();
        var count = Cv2.ConnectedComponentsWithStats(ink, labels, stats, centres);
        stats.GetArray(out int[] facts);
        var area = 0L;
        for (var i = 1; i < count; i++)
            area += facts[i * 5 + 4] > Speck ? facts[i * 5 + 4] : 0;
        return (double)area / (inside.Width * inside.Height);
    }

    /// <summary>The same of a page that was drawn from letters and lines, which has no specks.</summary>
    /// <param name="small">The page, made smaller.</param>
    public static double MeasureDrawn(Mat small)
    {
        using var inside = Inside(small);
        using var ink = Pictures.Ink(inside, Darker);
        return (double)Cv2.CountNonZero(ink) / (inside.Width * inside.Height);
    }

    private static Mat Inside(Mat page)
    {
        var (x, y) = ((int)(page.Width * Border), (int)(page.Height * Border));
        return page.SubMat(new Rect(x, y, Math.Max(1, page.Width - 2 * x), Math.Max(1, page.Height - 2 * y)));
    }

    private const int Speck = 3;
}
