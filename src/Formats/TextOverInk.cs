using ClearLexicon.Core.Reading;
using OpenCvSharp;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>Whether the text layer of a scanned page stands where its ink stands.</summary>
internal static class TextOverInk
{
    private const int Side = 1200;
    private const int Darker = 60;
    private const double LeastOfWords = 0.7;
    private const double LeastOfInk = 0.4;
    private const double Lowest = 0.004,
        Highest = 0.05;

    /// <summary>
    /// Whether nearly all words have ink under them, and the words cover much of what is as high as letters are: a layer that was moved
    /// or belongs to another page hits ink by chance only.
    /// </summary>
    public static bool Trusts(PageText text, SKBitmap page)
    {
        using var gray = Pictures.Gray(page);
        using var small = Pictures.Small(gray, Side);
        using var ink = Pictures.Ink(small, Darker);
        using var letters = LettersOf(ink);
        var all = Cv2.CountNonZero(letters);
        if (all == 0)
            return false;
        using var covered = new Mat(letters.Size(), MatType.CV_8UC1, Scalar.Black);
        var onInk = 0;
        foreach (var word in text.Words)
        {
            var box = Of(word.Box, letters.Size());
            if (box.Width < 1 || box.Height < 1)
                continue;
            using var part = letters.SubMat(box);
            onInk += Cv2.CountNonZero(part) > box.Width * box.Height / 25 ? 1 : 0;
            Cv2.Rectangle(covered, box, Scalar.White, -1);
        }
        using var under = new Mat();
        Cv2.BitwiseAnd(letters, covered, under);
        return onInk >= LeastOfWords * text.Words.Count && Cv2.CountNonZero(under) >= LeastOfInk * all;
    }

    private static Rect Of(Box box, Size page) =>
        new Rect(
            (int)(box.X * page.Width) - 1,
            (int)(box.Y * page.Height) - 1,
            (int)(box.W * page.Width) + 2,
            (int)(box.H * page.Height) + 2
        ).Intersect(new Rect(0, 0, page.Width, page.Height));

    private static Mat LettersOf(Mat ink)
    {
        using var labels = new Mat();
        using var stats = new Mat();
        using var centres = new Mat();
        var count = Cv2.ConnectedComponentsWithStats(ink, labels, stats, centres);
        stats.GetArray(out int[] facts);
        labels.GetArray(out int[] of);
        var isLetter = new bool[count];
        for (var i = 1; i < count; i++)
        {
            var (width, height) = (facts[i * 5 + 2], facts[i * 5 + 3]);
            isLetter[i] = height >= Lowest * ink.Height && height <= Highest * ink.Height && width <= 0.3 * ink.Width;
        }
        var letters = new byte[of.Length];
        for (var i = 0; i < of.Length; i++)
            letters[i] = isLetter[of[i]] ? (byte)255 : (byte)0;
        var made = new Mat(ink.Size(), MatType.CV_8UC1);
        made.SetArray(letters);
        return made;
    }
}
