using OpenCvSharp;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>Makes a copy of a scanned page that is easier to recognise: without dust, ruled lines, dark borders and punch holes, and
/// a quarter as large again.</summary>
public static class PageCleaning
{
    /// <summary>
    /// Dark spots of at most this many pixels are dust, unless print is near: then they are points, commas and the dots of i.
    /// </summary>
    private const int Dust = 8;

    /// <summary>Spots of more pixels than this are print, when it is asked what is near.</summary>
    private const int Print = 25;
    private const int Near = 13;

    /// <summary>Dark runs at least this long are ruled lines; no letter of a form is that wide or high at 200 dpi.</summary>
    private const int Rule = 90;

    private const int Darker = 50;
    private const double Enlarged = 1.25;

    /// <summary>Writes the cleaned copy.</summary>
    /// <param name="page">The page.</param>
    /// <param name="picture">The file, a BMP.</param>
    /// <returns>Its width and height in pixels.</returns>
    public static (int Width, int Height) Clean(SKBitmap page, string picture)
    {
        using var came = Pictures.Gray(page);
        using var gray = Pictures.Evened(came);
        var paper = Pictures.Paper(gray);
        using var ink = Pictures.Ink(gray, Darker);
        using var unwanted = Lines(ink);
        AddSpots(ink, unwanted);

        // The soft edge of a line or speck goes with it, but not where it touches a letter.
        using var letters = new Mat();
        Cv2.Subtract(ink, unwanted, letters);
        using var square = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(3, 3));
        Cv2.Dilate(unwanted, unwanted, square);
        unwanted.SetTo(Scalar.Black, letters);
        gray.SetTo(new Scalar(paper), unwanted);

        using var large = new Mat();
        Cv2.Resize(gray, large, new Size(), Enlarged, Enlarged, InterpolationFlags.Cubic);
        Pictures.SaveForReading(large, picture);
        return (large.Width, large.Height);
    }

    private static Mat Lines(Mat ink)
    {
        using var across = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(Rule, 1));
        using var down = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(1, Rule));
        using var horizontal = new Mat();
        using var vertical = new Mat();
        // A line that was a little askew goes in steps of a pixel; what is thicker by one either side runs through.
        using var tall = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(1, 3));
        using var wide = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(3, 1));
        Cv2.Dilate(ink, horizontal, tall);
        Cv2.Dilate(ink, vertical, wide);
        Cv2.MorphologyEx(horizontal, horizontal, MorphTypes.Open, across);
        Cv2.MorphologyEx(vertical, vertical, MorphTypes.Open, down);
        var lines = new Mat();
        Cv2.BitwiseOr(horizontal, vertical, lines);
        Cv2.BitwiseAnd(lines, ink, lines);
        return lines;
    }

    // Dust everywhere; at the margins also round holes and what the lid of the scanner left dark.
    private static void AddSpots(Mat ink, Mat unwanted)
    {
        using var labels = new Mat();
        using var stats = new Mat();
        using var centres = new Mat();
        var count = Cv2.ConnectedComponentsWithStats(ink, labels, stats, centres);
        stats.GetArray(out int[] facts);
        labels.GetArray(out int[] of);
        var gone = new bool[count];
        var near = NearPrint(ink, facts, count);
        for (var i = 1; i < count; i++)
        {
            var (box, area) = (new Rect(facts[i * 5], facts[i * 5 + 1], facts[i * 5 + 2], facts[i * 5 + 3]), facts[i * 5 + 4]);
            gone[i] =
                area <= Dust && near[box.Y * ink.Width + box.X] == 0
                || IsBorder(box, area, ink.Size())
                || MayBeHole(box, ink.Size()) && IsDisc(of, ink.Width, i, box);
        }
        if (!gone.AsSpan().Contains(true))
            return;
        unwanted.GetArray(out byte[] marked);
        var width = ink.Width;
        for (var i = 1; i < count; i++)
            if (gone[i])
                for (var y = facts[i * 5 + 1]; y < facts[i * 5 + 1] + facts[i * 5 + 3]; y++)
                for (var at = y * width + facts[i * 5]; at < y * width + facts[i * 5] + facts[i * 5 + 2]; at++)
                    if (of[at] == i)
                        marked[at] = 255;
        unwanted.SetArray(marked);
    }

    // Where print is near: the boxes of letters, larger by some pixels.
    private static byte[] NearPrint(Mat ink, int[] facts, int count)
    {
        using var near = new Mat(ink.Size(), MatType.CV_8UC1, Scalar.Black);
        for (var i = 1; i < count; i++)
        {
            var (w, h, area) = (facts[i * 5 + 2], facts[i * 5 + 3], facts[i * 5 + 4]);
            if (area > Print && w < Rule && h < Rule)
                near.Rectangle(new Rect(facts[i * 5] - Near, facts[i * 5 + 1] - Near / 2, w + 2 * Near, h + Near), Scalar.White, -1);
        }
        near.GetArray(out byte[] marked);
        return marked;
    }

    // About 4 to 9 mm across, near an edge.
    private static bool MayBeHole(Rect box, Size page)
    {
        var shorter = Math.Min(page.Width, page.Height);
        var margin = shorter * 0.1;
        var nearEdge = box.X < margin || box.Y < margin || box.Right > page.Width - margin || box.Bottom > page.Height - margin;
        return nearEdge
            && box.Width >= shorter * 0.018
            && box.Width <= shorter * 0.045
            && Math.Abs(box.Width - box.Height) <= 0.15 * box.Width;
    }

    // Nearly all of it, and nearly nothing else, lies within the round of its box: no letter does.
    private static bool IsDisc(int[] of, int stride, int label, Rect box)
    {
        var (radius, x0, y0) = ((box.Width + box.Height) / 4.0, box.X + box.Width / 2.0, box.Y + box.Height / 2.0);
        int within = 0,
            inkWithin = 0,
            ink = 0;
        for (var y = box.Top; y < box.Bottom; y++)
        for (var x = box.Left; x < box.Right; x++)
        {
            var (dx, dy) = (x + 0.5 - x0, y + 0.5 - y0);
            var isWithin = dx * dx + dy * dy <= radius * radius;
            var isInk = of[y * stride + x] == label;
            within += isWithin ? 1 : 0;
            ink += isInk ? 1 : 0;
            inkWithin += isWithin && isInk ? 1 : 0;
        }
        return inkWithin > 0.94 * within && inkWithin > 0.94 * ink;
    }

    // A dark band along an edge, longer than a quarter of it and mostly filled.
    private static bool IsBorder(Rect box, int area, Size page)
    {
        var touches = box.X <= 1 || box.Y <= 1 || box.Right >= page.Width - 1 || box.Bottom >= page.Height - 1;
        return touches
            && Math.Max(box.Width / (double)page.Width, box.Height / (double)page.Height) > 0.25
            && area > page.Width * page.Height / 500;
    }
}
