using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Vocabularies;
using OpenCvSharp;
using SkiaSharp;
using ZXing;
using ZXing.Common;

namespace ClearLexicon.Formats;

/// <summary>
/// Reads the codes of a page, of one and two dimensions, several on a page, at any quarter turn. What may be a code is found by its
/// ink: a block as dense as no text is. Only these blocks are decoded, at other scales and thresholds before one is given up.
/// </summary>
public static class CodeReading
{
    /// <summary>Most codes of one page.</summary>
    public const int Most = 40;

    /// <summary>Most attempts on one page: a page of halftones is full of what may be a code.</summary>
    private const int MostTries = 12;

    /// <summary>Pixels of the longer side at which blocks that may be codes are looked for.</summary>
    internal const int Side = 1200;

    private const double LeastInk = 0.3;
    private const double LeastFilled = 0.4;
    private const double OneWay = 0.5;
    private const double LeastContrast = 40;
    private const double LargestCut = 900;
    private const double LeastAskew = 1.5;
    private const double FineDetail = 1.65;
    private const double LeastReach = 0.76;
    private const double Margin = 1 / 6.0;
    private static readonly double[] Gaps = [1 / 40.0, 1 / 90.0];

    private static readonly Dictionary<BarcodeFormat, string> Names = new()
    {
        [BarcodeFormat.CODE_128] = "Code 128",
        [BarcodeFormat.CODE_39] = "Code 39",
        [BarcodeFormat.CODE_93] = "Code 93",
        [BarcodeFormat.CODABAR] = "Codabar",
        [BarcodeFormat.ITF] = "Interleaved 2 of 5",
        [BarcodeFormat.EAN_8] = "EAN-8",
        [BarcodeFormat.EAN_13] = "EAN-13",
        [BarcodeFormat.UPC_A] = "UPC-A",
        [BarcodeFormat.UPC_E] = "UPC-E",
        [BarcodeFormat.QR_CODE] = "QR",
        [BarcodeFormat.DATA_MATRIX] = "Data Matrix",
        [BarcodeFormat.PDF_417] = "PDF417",
        [BarcodeFormat.AZTEC] = "Aztec",
    };

    /// <summary>The codes of a page in reading order.</summary>
    public static IReadOnlyList<PageCode> Read(SKBitmap page)
    {
        using var gray = Pictures.Gray(page);
        using var small = Pictures.Small(gray, Side);
        return Read(gray, small).Codes;
    }

    /// <summary>The codes of a page in reading order, and the places of what looks like bars and could not be read.</summary>
    /// <param name="gray">The page.</param>
    /// <param name="small">The page with at most <see cref="Side"/> pixels a side.</param>
    internal static (IReadOnlyList<PageCode> Codes, IReadOnlyList<Box> Unread) Read(Mat gray, Mat small)
    {
        var scale = (double)small.Width / gray.Width;
        Rect Full(Rect r) => new((int)(r.X / scale), (int)(r.Y / scale), (int)(r.Width / scale), (int)(r.Height / scale));
        var codes = new List<(Rect Block, PageCode Code)>();
        var unread = new List<Rect>();
        var tries = MostTries;
        foreach (var block in Blocks(small).Select(Full).Where(b => !codes.Exists(c => c.Block.IntersectsWith(b))))
        {
            var place = Share(block, gray.Size());
            if (PatchReading.Read(gray, block) is { } patch)
            {
                codes.Add((block, new PageCode(PatchCode.Kind, patch, place)));
                continue;
            }
            using var cut = Cut(gray, block);
            if ((Decode(cut, ref tries) ?? DecodeStraight(cut, ref tries)) is { } result)
                codes.Add((block, new PageCode(Names[result.BarcodeFormat], CodePoints.Repaired(result.Text), place)));
            else if (PatchReading.IsBarred(gray, block))
                unread.Add(block);
        }
        return (
            [.. codes.Select(c => c.Code).OrderBy(c => c.Box.Y).ThenBy(c => c.Box.X).Take(Most)],
            [.. unread.Where(u => !codes.Exists(c => c.Block.IntersectsWith(u))).Select(u => Share(u, gray.Size())).Take(Most)]
        );
    }

    private static Box Share(Rect block, Size page) =>
        new(
            (double)block.X / page.Width,
            (double)block.Y / page.Height,
            (double)block.Width / page.Width,
            (double)block.Height / page.Height
        );

    /// <summary>What may be a code, the coarse before the fine.</summary>
    /// <param name="small">The page with at most <see cref="Side"/> pixels a side.</param>
    internal static IEnumerable<Rect> Blocks(Mat small)
    {
        Cv2.MinMaxLoc(small, out double darkest, out double lightest);
        if (lightest - darkest < LeastContrast)
            yield break;
        using var ink = new Mat();
        Cv2.Threshold(small, ink, 0, 255, ThresholdTypes.BinaryInv | ThresholdTypes.Otsu);
        // A coarse code would fall apart, so that a part of it is read as a shorter one; a fine one runs into the text beside it.
        foreach (var gap in Gaps)
        foreach (var block in Blocks(small, ink, gap))
            yield return block;
    }

    // Blocks of ink, closed over the gaps that a code has within it, dense, filled out, neither as low as a line of text nor as
    // large as the page.
    private static IEnumerable<Rect> Blocks(Mat small, Mat ink, double gapShare)
    {
        using var closed = new Mat();
        var gap = Math.Max(3, (int)(small.Width * gapShare));
        using var square = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(gap, gap));
        Cv2.MorphologyEx(ink, closed, MorphTypes.Close, square);
        // Also what lies within a line around the whole page.
        Cv2.FindContours(closed, out var contours, out _, RetrievalModes.List, ContourApproximationModes.ApproxSimple);
        var least = small.Width * 0.02;
        var found = new List<Rect>();
        foreach (var contour in contours)
        {
            var block = Cv2.BoundingRect(contour);
            var isPage = block.Width > small.Width * 0.95 && block.Height > small.Height * 0.5;
            if (block.Width < least || block.Height < least || isPage)
                continue;
            // A code that lies askew fills a part of its box only, so its ink is compared with what its own outline holds.
            using var part = ink.SubMat(block);
            var area = Math.Max(1, Cv2.ContourArea(contour));
            // The frame of a box that is to be filled has little within its own outline, which runs along both its sides.
            if (area < LeastFilled * Cv2.ContourArea(Cv2.ConvexHull(contour)))
                continue;
            if (Cv2.CountNonZero(part) / area is >= LeastInk and < 0.95 && (IsSquare(contour, area) || RunsOneWay(small, block)))
                found.Add(block);
        }
        return found.OrderByDescending(b => b.Width * b.Height).Take(Most);
    }

    // As codes of two dimensions are: as wide as high, with straight edges.
    private static bool IsSquare(Point[] contour, double area)
    {
        var box = Cv2.MinAreaRect(contour).Size;
        return Math.Min(box.Width, box.Height) > 0.7 * Math.Max(box.Width, box.Height) && area > 0.8 * box.Width * box.Height;
    }

    // As bars do: nearly all edges lie in one direction, whichever. Of text as many lie across as along.
    private static bool RunsOneWay(Mat gray, Rect block)
    {
        using var part = gray.SubMat(block);
        using var dx = new Mat();
        using var dy = new Mat();
        Cv2.Sobel(part, dx, MatType.CV_32F, 1, 0);
        Cv2.Sobel(part, dy, MatType.CV_32F, 0, 1);
        var (xx, yy, xy) = (dx.Dot(dx), dy.Dot(dy), dx.Dot(dy));
        return Math.Sqrt((xx - yy) * (xx - yy) + 4 * xy * xy) >= OneWay * (xx + yy);
    }

    // With the white around it that every code needs.
    private static Mat Cut(Mat gray, Rect block)
    {
        var pad = Math.Max(12, (int)(Math.Min(block.Width, block.Height) * Margin));
        var around = new Rect(block.X - 3, block.Y - 3, block.Width + 6, block.Height + 6).Intersect(
            new Rect(0, 0, gray.Width, gray.Height)
        );
        using var part = gray.SubMat(around);
        var cut = new Mat();
        Cv2.CopyMakeBorder(part, cut, pad, pad, pad, pad, BorderTypes.Constant, new Scalar(Pictures.Paper(gray)));
        return cut;
    }

    // A label that was stuck on askew lies otherwise than its page.
    private static Result? DecodeStraight(Mat cut, ref int tries)
    {
        using var ink = new Mat();
        Cv2.Threshold(cut, ink, 0, 255, ThresholdTypes.BinaryInv | ThresholdTypes.Otsu);
        using var places = new Mat();
        Cv2.FindNonZero(ink, places);
        if (places.Empty())
            return null;
        var angle = Cv2.MinAreaRect(places).Angle;
        angle -= (float)Math.Round(angle / 90) * 90;
        if (Math.Abs(angle) < LeastAskew)
            return null;
        using var turn = Cv2.GetRotationMatrix2D(new Point2f(cut.Width / 2f, cut.Height / 2f), angle, 1);
        using var straight = new Mat();
        Cv2.WarpAffine(cut, straight, turn, cut.Size(), InterpolationFlags.Cubic, BorderTypes.Constant, new Scalar(Pictures.Paper(cut)));
        return Decode(straight, ref tries);
    }

    private static Result? Decode(Mat cut, ref int tries)
    {
        using var even = new Mat();
        Cv2.Normalize(cut, even, 0, 255, NormTypes.MinMax);
        string? before = null;
        var usual = Math.Min(1, LargestCut / Math.Max(cut.Width, cut.Height));
        // A code of thousands of characters is large, and its squares are lost when it is made much smaller.
        (double, Tried)[] ways =
        [
            (1, Tried.AsIs),
            (2, Tried.AsIs),
            (0.5, Tried.Smooth),
            (1, Tried.BlackAndWhite),
            (2, Tried.BlackAndWhite),
            .. usual < 1 / FineDetail ? [(FineDetail, Tried.AsIs)] : Array.Empty<(double, Tried)>(),
        ];
        foreach (var (scale, how) in ways)
        {
            if (usual * scale * Math.Max(cut.Width, cut.Height) is > 2 * LargestCut or < 40)
                continue;
            if (--tries < 0)
                return null;
            using var tried = new Mat();
            Cv2.Resize(
                even,
                tried,
                new Size(),
                usual * scale,
                usual * scale,
                usual * scale < 1 ? InterpolationFlags.Area : InterpolationFlags.Cubic
            );
            if (how == Tried.Smooth)
                Cv2.MedianBlur(tried, tried, 3);
            if (how == Tried.BlackAndWhite)
                Cv2.Threshold(tried, tried, 0, 255, ThresholdTypes.Binary | ThresholdTypes.Otsu);
            tried.GetArray(out byte[] pixels);
            var source = new RGBLuminanceSource(pixels, tried.Width, tried.Height, RGBLuminanceSource.BitmapFormat.Gray8);
            var reader = new BarcodeReaderGeneric
            {
                AutoRotate = true,
                Options = new DecodingOptions { TryHarder = true, PossibleFormats = [.. Names.Keys] },
            };
            if (reader.Decode(source) is not { Text.Length: > 0 } result || !IsWhole(result, tried.Size()))
                continue;
            // A reading without a check of its own counts when it is read so twice.
            if (!IsWeak(result) || result.Text == before)
                return result;
            before = result.Text;
        }
        return null;
    }

    // These have no end of their own, so that a part of one is read as a shorter one: what was read must reach over the block.
    private static bool IsWhole(Result result, Size block)
    {
        if (!IsWeak(result))
            return true;
        var (first, last) = (result.ResultPoints[0], result.ResultPoints[^1]);
        var reach = Math.Sqrt(Math.Pow(first.X - last.X, 2) + Math.Pow(first.Y - last.Y, 2));
        return reach
            >= LeastReach * (Math.Max(block.Width, block.Height) - Math.Min(block.Width, block.Height) * Margin * 2 / (1 + 2 * Margin));
    }

    private static bool IsWeak(Result result) => result.BarcodeFormat is BarcodeFormat.ITF or BarcodeFormat.UPC_E;

    private enum Tried
    {
        AsIs,
        Smooth,
        BlackAndWhite,
    }
}
