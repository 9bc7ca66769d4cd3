using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Sheets;
using OpenCvSharp;

namespace ClearLexicon.Formats;

/// <summary>Lays a sheet that came back straight by its corner marks, and measures how full its boxes are.</summary>
public static class SheetBoxes
{
    private const double Nearest = 0.13;

    /// <summary>The boxes of a sheet; none when fewer than three of its corner marks are found.</summary>
    /// <param name="image">The page's picture, set upright.</param>
    /// <param name="print">The print it belongs to.</param>
    /// <param name="row">Which of its sheets, from 1.</param>
    public static IReadOnlyList<MeasuredBox> Measure(string image, SheetPrint print, int row)
    {
        if (print.Groups.Count == 0)
            return [];
        using var gray = Pictures.LoadGray(image);
        if (Lay(gray) is not { } lay)
            return [];
        return [.. SheetLayout.Of(print, row).Boxes.Select(b => Measure(gray, lay, b))];
    }

    // From shares of the sheet to pixels of the page: x = a·X + b·Y + c, y = d·X + e·Y + f.
    private sealed record Affine(double A, double B, double C, double D, double E, double F)
    {
        public (double X, double Y) To(double x, double y) => (A * x + B * y + C, D * x + E * y + F);
    }

    private static Affine? Lay(Mat gray)
    {
        using var ink = new Mat();
        Cv2.Threshold(gray, ink, 0, 255, ThresholdTypes.BinaryInv | ThresholdTypes.Otsu);
        using var labels = new Mat();
        using var stats = new Mat();
        using var centres = new Mat();
        var count = Cv2.ConnectedComponentsWithStats(ink, labels, stats, centres);
        stats.GetArray(out int[] facts);
        centres.GetArray(out double[] middles);
        var side = SheetLayout.MarkSide / SheetLayout.Width * gray.Width;
        var marks = new List<(Point2d From, Point2d To)>();
        foreach (var mark in SheetLayout.Marks)
        {
            var best = double.MaxValue;
            Point2d? found = null;
            for (var i = 1; i < count; i++)
            {
                var (w, h, area) = (facts[i * 5 + 2], facts[i * 5 + 3], facts[i * 5 + 4]);
                if (w < 0.6 * side || w > 1.6 * side || h < 0.6 * side || h > 1.6 * side || area < 0.72 * w * h)
                    continue;
                var (x, y) = (middles[2 * i], middles[2 * i + 1]);
                var away = Math.Max(Math.Abs(x / gray.Width - mark.CentreX), Math.Abs(y / gray.Height - mark.CentreY));
                if (away < Math.Min(best, Nearest))
                    (best, found) = (away, new Point2d(x, y));
            }
            if (found is { } at)
                marks.Add((new Point2d(mark.CentreX, mark.CentreY), at));
        }
        return marks.Count < 3 ? null : Fit(marks);
    }

    // Least squares over three or four marks.
    private static Affine Fit(List<(Point2d From, Point2d To)> marks)
    {
        using var left = new Mat(marks.Count, 3, MatType.CV_64F);
        using var right = new Mat(marks.Count, 2, MatType.CV_64F);
        for (var i = 0; i < marks.Count; i++)
        {
            var (from, to) = marks[i];
            left.Set(i, 0, from.X);
            left.Set(i, 1, from.Y);
            left.Set(i, 2, 1.0);
            right.Set(i, 0, to.X);
            right.Set(i, 1, to.Y);
        }
        using var solved = new Mat();
        Cv2.Solve(left, right, solved, DecompTypes.SVD);
        double At(int r, int c) => solved.Get<double>(r, c);
        return new Affine(At(0, 0), At(1, 0), At(2, 0), At(0, 1), At(1, 1), At(2, 1));
    }

    private static MeasuredBox Measure(Mat gray, Affine lay, SheetBox box)
    {
        var place = box.Place;
        var (x, y) = lay.To(place.CentreX, place.CentreY);
        var (right, _) = lay.To(place.X + place.W, place.CentreY);
        var half = Math.Max(3, right - x);
        return BoxInk.Share(gray, x, y, half) is { } share
            ? new MeasuredBox(
                box,
                share,
                new Box((x - half) / gray.Width, (y - half) / gray.Height, 2 * half / gray.Width, 2 * half / gray.Height)
            )
            : new MeasuredBox(box, 0, place);
    }
}
