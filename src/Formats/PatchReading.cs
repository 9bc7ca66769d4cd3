using ClearLexicon.Core.Reading.Codes;
using OpenCvSharp;

namespace ClearLexicon.Formats;

/// <summary>Reads a block of a page as a patch code: the profile of its bars, measured across them on several lines.</summary>
internal static class PatchReading
{
    private const int Lines = 9;
    private const int LeastLines = 6;
    private const double LongerThanWide = 1.3;
    private const int LeastBars = 10;

    /// <summary>The name of the patch code in a block, or null.</summary>
    public static string? Read(Mat gray, Rect block)
    {
        var across = block.Width > block.Height * LongerThanWide;
        if (!across && block.Height < block.Width * LongerThanWide)
            return null;
        var read = Profiles(gray, block, across).Select(Measure).Select(p => PatchCode.Read(p.Bars, p.Spaces)).OfType<string>().ToList();
        // Lines that a stain or a fold spoils do not outvote the others, but those that can be read must agree.
        return read.Count >= LeastLines && read.Distinct().Count() == 1 ? read[0] : null;
    }

    /// <summary>Whether lines through a block cross as many bars as a code has and no drawing does.</summary>
    public static bool IsBarred(Mat gray, Rect block)
    {
        foreach (var across in new[] { false, true })
        {
            var barred = Profiles(gray, block, across).Count(line => Measure(line).Bars.Count >= LeastBars);
            if (barred >= LeastLines)
                return true;
        }
        return false;
    }

    // Lines of brightness across the bars: down when the bars run across.
    private static IEnumerable<byte[]> Profiles(Mat gray, Rect block, bool across)
    {
        var around = new Rect(block.X - 2, block.Y - 2, block.Width + 4, block.Height + 4).Intersect(
            new Rect(0, 0, gray.Width, gray.Height)
        );
        using var part = gray.SubMat(around);
        using var even = new Mat();
        Cv2.GaussianBlur(part, even, new Size(3, 3), 0);
        even.GetArray(out byte[] pixels);
        var (length, along) = across ? (around.Height, around.Width) : (around.Width, around.Height);
        for (var i = 1; i <= Lines; i++)
        {
            var at = along * i / (Lines + 1);
            var line = new byte[length];
            for (var k = 0; k < length; k++)
                line[k] = across ? pixels[k * around.Width + at] : pixels[at * around.Width + k];
            yield return line;
        }
    }

    // Widths of the dark runs and of the light ones between, at half the contrast of the line.
    private static (List<double> Bars, List<double> Spaces) Measure(byte[] line)
    {
        var (bars, spaces) = (new List<double>(), new List<double>());
        var threshold = (line.Min() + line.Max()) / 2;
        for (int from = 0, to; from < line.Length; from = to)
        {
            var dark = line[from] < threshold;
            for (to = from + 1; to < line.Length && line[to] < threshold == dark; )
                to++;
            if (dark)
                bars.Add(to - from);
            // The paper before the first and after the last bar is no space of the code.
            else if (bars.Count > 0 && to < line.Length)
                spaces.Add(to - from);
        }
        return (bars, spaces);
    }
}
