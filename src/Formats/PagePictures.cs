using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using OpenCvSharp;

namespace ClearLexicon.Formats;

/// <summary>
/// Looks at page pictures for boxes and handwriting. A picture is loaded when it is first looked at and kept until this is disposed.
/// </summary>
/// <param name="imageOf">The picture of a page by its number in the document; null for none.</param>
public sealed class PagePictures(Func<int, string?> imageOf) : IPagePictures, IDisposable
{
    /// <summary>Sides of boxes to be filled with a pen, in shares of the page's width: on A4 from 2 to 9 mm.</summary>
    private const double Least = 0.0095;
    private const double Most = 0.043;

    private static readonly double[] Lengths = [2, 1.3, 0.7];

    /// <summary>Share of each of its four sides that must be drawn.</summary>
    private const double Drawn = 0.7;

    /// <summary>Dark runs at least so long are ruled lines, in shares of the page's width.</summary>
    private const double Rule = 0.03;
    private const int Darker = 45;

    /// <summary>Least extent of handwriting in shares of the page's width, and least share of the page's area that is its ink.</summary>
    private const double Written = 0.012;
    private const double WrittenArea = 1.6e-5;

    private readonly Dictionary<int, Mat?> _pages = [];

    /// <inheritdoc />
    public IReadOnlyList<PrintedBox> Boxes(int page, Box region)
    {
        if (Page(page) is not { } gray || Part(gray, region) is not { Width: > 8, Height: > 8 } at)
            return [];
        using var part = gray.SubMat(at);
        using var ink = Pictures.Ink(part, Darker);
        var (least, most) = (Least * gray.Width, Most * gray.Width);
        var found = new List<PrintedBox>();
        // The strokes of a pen are shorter than the sides of a box; how long those are is not known, so several lengths are tried.
        foreach (var length in Lengths)
        {
            using var sides = Strokes(ink, (int)Math.Max(4, least * length));
            Cv2.FindContours(sides, out var contours, out _, RetrievalModes.External, ContourApproximationModes.ApproxSimple);
            foreach (var box in contours.Select(c => Trimmed(sides, Cv2.BoundingRect(c))))
            {
                if (box.Width < least || box.Height < least || box.Width > most || box.Height > most)
                    continue;
                if (Math.Abs(box.Width - box.Height) > 0.3 * Math.Max(box.Width, box.Height) || !HasSides(sides, box))
                    continue;
                var place = new Box(
                    (double)(at.X + box.X) / gray.Width,
                    (double)(at.Y + box.Y) / gray.Height,
                    (double)box.Width / gray.Width,
                    (double)box.Height / gray.Height
                );
                var (x, y) = (at.X + box.X + box.Width / 2.0, at.Y + box.Y + box.Height / 2.0);
                if (
                    found.TrueForAll(f => !f.Box.Overlaps(place))
                    && BoxInk.Share(gray, x, y, Math.Min(box.Width, box.Height) / 2.0) is { } share
                )
                    found.Add(new PrintedBox(place, share));
            }
        }
        return [.. found.OrderBy(b => Math.Round(b.Box.CentreY / Math.Max(1e-6, b.Box.H))).ThenBy(b => b.Box.X)];
    }

    /// <inheritdoc />
    public Box? Handwriting(int page, Box region, IReadOnlyList<Box> printed)
    {
        if (Page(page) is not { } gray || Part(gray, region) is not { Width: > 8, Height: > 8 } at)
            return null;
        using var part = gray.SubMat(at);
        using var ink = Pictures.Ink(part, Darker);
        using var lines = Strokes(ink, (int)Math.Max(8, Rule * gray.Width));
        using var wider = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(3, 3));
        Cv2.Dilate(lines, lines, wider);
        ink.SetTo(Scalar.Black, lines);
        foreach (var box in printed)
        {
            // Print has soft edges, and recognition draws its boxes tight.
            var p = Part(gray, new Box(box.X - 0.002, box.Y - 0.002, box.W + 0.004, box.H + 0.004)).Intersect(at);
            if (p.Width > 0 && p.Height > 0)
                ink.Rectangle(new Rect(p.X - at.X, p.Y - at.Y, p.Width, p.Height), Scalar.Black, -1);
        }
        using var labels = new Mat();
        using var stats = new Mat();
        using var centres = new Mat();
        var count = Cv2.ConnectedComponentsWithStats(ink, labels, stats, centres);
        stats.GetArray(out int[] facts);
        var (area, dust) = (0, Math.Max(6, (int)(gray.Width * (long)gray.Height * 3e-6)));
        Rect? all = null;
        for (var i = 1; i < count; i++)
        {
            if (facts[i * 5 + 4] <= dust)
                continue;
            area += facts[i * 5 + 4];
            var box = new Rect(facts[i * 5], facts[i * 5 + 1], facts[i * 5 + 2], facts[i * 5 + 3]);
            all = all is { } known ? known.Union(box) : box;
        }
        return all is { } a && a.Width >= Written * gray.Width && area >= WrittenArea * gray.Width * gray.Height
            ? new Box(
                (double)(at.X + a.X) / gray.Width,
                (double)(at.Y + a.Y) / gray.Height,
                (double)a.Width / gray.Width,
                (double)a.Height / gray.Height
            )
            : null;
    }

    /// <summary>Width in pixels at which pictures are compared: fine enough for a crest, coarse enough for a fax of it.</summary>
    private const int Compared = 480;

    /// <summary>Sides of a piece in pixels at that width: smaller ones look like much else.</summary>
    private const int LeastSide = 12;
    private const int MostSide = 2_000;
    private const double LeastContrast = 12;
    private static readonly double[] Scales = [1, 0.95, 1.05, 0.9, 1.1];
    private static readonly double[] Turns = [0, -1.5, 1.5, -3, 3];

    /// <summary>A region of a page as a piece that can be found again.</summary>
    /// <param name="page">Its number in the document.</param>
    /// <param name="region">In shares of the page.</param>
    /// <returns>The piece, or why it cannot serve.</returns>
    public (PicturePatch? Patch, string? Problem) Cut(int page, Box region)
    {
        using var small = Small(page);
        if (small is null)
            return (null, "The picture of this page is not there.");
        var at = Part(small, region);
        if (at.Width < LeastSide || at.Height < LeastSide)
            return (null, "The region is too small to be known again; draw it at least 6 mm wide and high.");
        using var part = small.SubMat(at).Clone();
        Cv2.MeanStdDev(part, out _, out var deviation);
        if (deviation.Val0 < LeastContrast)
            return (null, "The region is of one colour: nothing in it can be known again.");
        part.GetArray(out byte[] pixels);
        return (new PicturePatch(part.Width, part.Height, pixels), null);
    }

    /// <inheritdoc />
    public (Box Box, double Likeness)? Find(int page, PicturePatch patch, Box? region)
    {
        using var small = Small(page);
        // What comes in a design file may claim any size.
        if (
            small is null
            || patch.Width is < 1 or > MostSide
            || patch.Height is < 1 or > MostSide
            || patch.Pixels.Length != patch.Width * patch.Height
        )
            return null;
        var whole = new Rect(0, 0, small.Width, small.Height);
        // The centre lies in the region, so that the piece may reach beyond it by half its size.
        var at = region is { } r ? Part(small, r) : whole;
        if (region is not null)
        {
            at.Inflate(patch.Width * 2 / 3, patch.Height * 2 / 3);
            at = at.Intersect(whole);
        }
        using var looked = small.SubMat(at);
        using var piece = Mat.FromPixelData(patch.Height, patch.Width, MatType.CV_8UC1, patch.Pixels).Clone();
        using var result = new Mat();
        var (best, box) = (0.0, default(Rect));
        // What has one colour looks like every blank place.
        Cv2.MeanStdDev(piece, out _, out var deviation);
        if (deviation.Val0 < LeastContrast)
            return (default, 0);
        foreach (var turn in Turns)
        foreach (var scale in Scales)
        {
            using var turned = Turned(piece, turn, scale);
            if (turned.Width > looked.Width || turned.Height > looked.Height || turned.Width < 3 || turned.Height < 3)
                continue;
            Cv2.MatchTemplate(looked, turned, result, TemplateMatchModes.CCoeffNormed);
            Cv2.MinMaxLoc(result, out _, out var likeness, out _, out var place);
            if (likeness > best && double.IsFinite(likeness))
                (best, box) = (likeness, new Rect(at.X + place.X, at.Y + place.Y, turned.Width, turned.Height));
        }
        return (
            new Box(
                (double)box.X / small.Width,
                (double)box.Y / small.Height,
                (double)box.Width / small.Width,
                (double)box.Height / small.Height
            ),
            Math.Clamp(best, 0, 1)
        );
    }

    private static Mat Turned(Mat piece, double degrees, double scale)
    {
        using var map = Cv2.GetRotationMatrix2D(new Point2f(piece.Width / 2f, piece.Height / 2f), -degrees, scale);
        var size = new Size(Math.Max(1, (int)Math.Round(piece.Width * scale)), Math.Max(1, (int)Math.Round(piece.Height * scale)));
        map.Set(0, 2, map.At<double>(0, 2) + (size.Width - piece.Width) / 2.0);
        map.Set(1, 2, map.At<double>(1, 2) + (size.Height - piece.Height) / 2.0);
        var turned = new Mat();
        Cv2.WarpAffine(piece, turned, map, size, InterpolationFlags.Linear, BorderTypes.Replicate);
        return turned;
    }

    // Softened, so that the dots of a fax become greys again.
    private Mat? Small(int page)
    {
        if (Page(page) is not { Width: > 0 } gray)
            return null;
        var small = Pictures.Smaller(gray, (double)Compared / gray.Width);
        Cv2.GaussianBlur(small, small, new Size(3, 3), 0);
        return small;
    }

    /// <inheritdoc />
    public IReadOnlyList<IReadOnlyList<string>> ReadAgain(IReadOnlyList<(int Page, Box Box, string Characters)> places)
    {
        var parts = new List<Mat>();
        var of = new List<int>();
        try
        {
            for (var i = 0; i < places.Count; i++)
            {
                if (Page(places[i].Page) is not { } gray || Part(gray, places[i].Box) is not { Width: > 3, Height: > 3 } at)
                    continue;
                parts.Add(gray.SubMat(at).Clone());
                of.Add(i);
            }
            var said = LineRecognition.Read([.. parts.Select((p, i) => (p, places[of[i]].Characters))]);
            var answers = new IReadOnlyList<string>[places.Count];
            Array.Fill(answers, []);
            for (var i = 0; i < of.Count; i++)
                answers[of[i]] = said[i];
            return answers;
        }
        finally
        {
            parts.ForEach(p => p.Dispose());
        }
    }

    /// <inheritdoc />
    public void Dispose()
    {
        foreach (var page in _pages.Values)
            page?.Dispose();
        _pages.Clear();
    }

    private Mat? Page(int number)
    {
        if (_pages.TryGetValue(number, out var known))
            return known;
        var image = imageOf(number);
        if (image is null || !File.Exists(image))
            return _pages[number] = null;
        var gray = Pictures.LoadGray(image);
        var even = Pictures.Evened(gray);
        if (even != gray)
            gray.Dispose();
        return _pages[number] = even;
    }

    private static Rect Part(Mat page, Box region)
    {
        var r = region.OnPage();
        return new Rect(
            (int)(r.X * page.Width),
            (int)(r.Y * page.Height),
            (int)Math.Ceiling(r.W * page.Width),
            (int)Math.Ceiling(r.H * page.Height)
        ).Intersect(new Rect(0, 0, page.Width, page.Height));
    }

    // Runs across and down that are at least so long.
    private static Mat Strokes(Mat ink, int length)
    {
        using var across = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(length, 1));
        using var down = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(1, length));
        using var horizontal = new Mat();
        using var vertical = new Mat();
        // A line that is a degree askew steps by a pixel; what is thicker by one still runs through.
        using var thick = new Mat();
        using var square = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(2, 2));
        Cv2.Dilate(ink, thick, square);
        Cv2.MorphologyEx(thick, horizontal, MorphTypes.Open, across);
        Cv2.MorphologyEx(thick, vertical, MorphTypes.Open, down);
        var strokes = new Mat();
        Cv2.BitwiseOr(horizontal, vertical, strokes);
        return strokes;
    }

    // Without what a tick adds beyond the box: from the first row and column that are drawn over most of their length to the last.
    private static Rect Trimmed(Mat strokes, Rect blob)
    {
        using var part = strokes.SubMat(blob);
        using var rows = new Mat();
        using var columns = new Mat();
        Cv2.Reduce(part, rows, ReduceDimension.Column, ReduceTypes.Sum, MatType.CV_32S);
        Cv2.Reduce(part, columns, ReduceDimension.Row, ReduceTypes.Sum, MatType.CV_32S);
        rows.GetArray(out int[] across);
        columns.GetArray(out int[] down);
        var (top, bottom) = Ends(across, blob.Width);
        var (left, right) = Ends(down, blob.Height);
        return top < 0 || left < 0 ? default : new Rect(blob.X + left, blob.Y + top, right - left + 1, bottom - top + 1);

        static (int First, int Last) Ends(int[] sums, int length) =>
            (Array.FindIndex(sums, s => s >= Drawn * length * 255), Array.FindLastIndex(sums, s => s >= Drawn * length * 255));
    }

    private static bool HasSides(Mat strokes, Rect box)
    {
        var depth = Math.Max(3, Math.Min(box.Width, box.Height) / 6);
        Rect[] bands =
        [
            new(box.X, box.Y, box.Width, depth),
            new(box.X, box.Bottom - depth, box.Width, depth),
            new(box.X, box.Y, depth, box.Height),
            new(box.Right - depth, box.Y, depth, box.Height),
        ];
        return bands.Select((b, i) => Covered(strokes, b, i < 2)).All(share => share >= Drawn);
    }

    // Share of a band's length at which it has ink.
    private static double Covered(Mat strokes, Rect band, bool isAcross)
    {
        using var part = strokes.SubMat(band);
        using var line = new Mat();
        Cv2.Reduce(part, line, isAcross ? ReduceDimension.Row : ReduceDimension.Column, ReduceTypes.Max, MatType.CV_8U);
        return (double)Cv2.CountNonZero(line) / (isAcross ? band.Width : band.Height);
    }
}
