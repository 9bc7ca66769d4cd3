using OpenCvSharp;

namespace ClearLexicon.Formats;

/// <summary>How dark the inside of a printed box is.</summary>
internal static class BoxInk
{
    private const double Inside = 0.62;
    private const double Around = 2.4;
    private const double Darker = 0.62;

    /// <summary>Share of the inside that is ink, 0 to 1; null when the box is too small to be measured or lies off the page.</summary>
    /// <param name="gray">The page.</param>
    /// <param name="x">Centre, in pixels.</param>
    /// <param name="y">Centre, in pixels.</param>
    /// <param name="half">Half of the box's side, in pixels.</param>
    public static double? Share(Mat gray, double x, double y, double half)
    {
        var all = new Rect(0, 0, gray.Width, gray.Height);
        Rect Square(double share) =>
            new Rect((int)(x - half * share), (int)(y - half * share), (int)(2 * half * share), (int)(2 * half * share)).Intersect(all);
        var inside = Square(Inside);
        if (inside.Width < 2 || inside.Height < 2)
            return null;
        // What is paper here is told by the surroundings, so that a stain is not taken for ink.
        using var around = gray.SubMat(Square(Around));
        around.GetArray(out byte[] levels);
        Array.Sort(levels);
        var paper = levels[levels.Length * 7 / 10];
        using var part = gray.SubMat(inside);
        using var ink = new Mat();
        Cv2.Threshold(part, ink, paper * Darker, 255, ThresholdTypes.BinaryInv);
        return (double)Cv2.CountNonZero(ink) / (inside.Width * inside.Height);
    }
}
