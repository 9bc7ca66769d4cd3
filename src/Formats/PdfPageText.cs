using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Vocabularies;
using UglyToad.PdfPig;
using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.DocumentLayoutAnalysis.WordExtractor;
using UglyToad.PdfPig.Util;
using IPdfImage = UglyToad.PdfPig.Content.IPdfImage;
using Page = UglyToad.PdfPig.Content.Page;
using Word = ClearLexicon.Core.Reading.Word;

namespace ClearLexicon.Formats;

/// <summary>What a PDF says of one of its pages.</summary>
/// <param name="Text">The words of its text layer, boxes from the top left; none when its fonts do not say what they are.</param>
/// <param name="PictureDpi">
/// Resolution of the largest picture on it, in dots per inch, when pictures cover most of it or its words are not drawn; null otherwise.
/// </param>
internal sealed record PdfPageText(PageText Text, int? PictureDpi)
{
    /// <summary>The page's picture when that is all there is on it (<see cref="ScannedPicture"/>); the caller disposes it.</summary>
    public required Func<int, int, SkiaSharp.SKBitmap?> Scanned { get; init; }

    /// <summary>Whether nothing on it can have a colour (<see cref="PlainPage"/>).</summary>
    public required bool IsPlain { get; init; }

    private const double MostOfIt = 0.8;

    /// <summary>Whether what is seen of the page are pictures, so that words on it were recognised by somebody.</summary>
    public bool IsScan => PictureDpi is not null;

    /// <summary>Whether its content cannot be read.</summary>
    public bool IsDamaged { get; init; }

    /// <summary>What the person should know of it; null for nothing.</summary>
    public string? Notice => IsDamaged ? "This page is damaged in its file; what can be seen of it was recognised." : null;

    /// <summary>Reads a page. One whose content cannot be read has no words: what others draw of it is recognised.</summary>
    /// <param name="pdf">The file, opened by <see cref="PageFrame.Open"/>.</param>
    /// <param name="place">Where the page is in it, from 1.</param>
    /// <param name="number">Its number as the person knows it.</param>
    /// <exception cref="InvalidDataException">The page has no size that a page can have, or too many words.</exception>
    public static PdfPageText Read(PdfDocument pdf, int place, int number)
    {
        try
        {
            return Read(pdf, pdf.GetPage(place), number);
        }
        // The library throws many kinds at damaged content.
        catch (Exception e) when (e is not (InvalidDataException or OutOfMemoryException))
        {
            var frame = pdf.GetPage<PageFrame>(place);
            Check(frame.Width, frame.Height, number);
            return new PdfPageText(new PageText(frame.Width, frame.Height, [], "text layer"), null)
            {
                Scanned = (_, _) => null,
                IsPlain = false,
                IsDamaged = true,
            };
        }
    }

    private static void Check(double w, double h, int number)
    {
        if (!(w >= 1 && h >= 1 && w <= PageReading.LongestSide && h <= PageReading.LongestSide))
            throw new InvalidDataException($"page {number} has no size that a page can have.");
    }

    private static PdfPageText Read(PdfDocument pdf, Page page, int number)
    {
        double w = page.Width,
            h = page.Height;
        Check(w, h, number);
        var words = (LegibleText.Is(pdf, page) ? Words(page.Letters) : [])
            .Where(word => !string.IsNullOrWhiteSpace(word.Text))
            .Take(PageReading.MostWords + 1)
            .Select(word => new Word(CodePoints.Repaired(word.Text), AsSeen(word.BoundingBox, w, h)))
            .ToList();
        if (words.Count > PageReading.MostWords)
            throw new InvalidDataException($"page {number} holds more than {PageReading.MostWords:N0} words.");
        return new PdfPageText(new PageText(w, h, words, "text layer"), Resolution(page, w, h))
        {
            Scanned = (least, most) => ScannedPicture.Of(page, least, most),
            IsPlain = PlainPage.Is(pdf, page),
        };
    }

    // Letters of upright lines are put together along them. Those of lines that run otherwise stand beside letters of other lines at the
    // same height, so that they are put together by what is nearest along their own.
    private static IEnumerable<UglyToad.PdfPig.Content.Word> Words(IReadOnlyList<Letter> letters)
    {
        var askew = letters.Where(l => l.TextOrientation != TextOrientation.Horizontal).ToList();
        return askew.Count == 0
            ? DefaultWordExtractor.Instance.GetWords(letters)
            :
            [
                .. DefaultWordExtractor.Instance.GetWords([.. letters.Where(l => l.TextOrientation == TextOrientation.Horizontal)]),
                .. NearestNeighbourWordExtractor.Instance.GetWords(askew),
            ];
    }

    // A box that lies askew has width and height along its own sides: on the page it takes what lies between its corners.
    private static Box AsSeen(UglyToad.PdfPig.Core.PdfRectangle box, double w, double h)
    {
        ReadOnlySpan<UglyToad.PdfPig.Core.PdfPoint> corners = [box.TopLeft, box.TopRight, box.BottomLeft, box.BottomRight];
        var (left, right, low, high) = (corners[0].X, corners[0].X, corners[0].Y, corners[0].Y);
        foreach (var corner in corners[1..])
        {
            (left, right) = (Math.Min(left, corner.X), Math.Max(right, corner.X));
            (low, high) = (Math.Min(low, corner.Y), Math.Max(high, corner.Y));
        }
        return new Box(Share(left / w), Share(1 - high / h), Share((right - left) / w), Share((high - low) / h));
    }

    // Damaged fonts give boxes without a measure; a word without a place is one at the edge.
    private static double Share(double share) => double.IsFinite(share) ? Math.Clamp(share, -1, 2) : 0;

    // Scanners cut pages into strips, lay a small picture on a large page, or trace it: what is read of the page is then never drawn.
    private static int? Resolution(Page page, double w, double h)
    {
        var pictures = page.GetImages().ToList();
        double Area(IPdfImage picture) => Math.Min(picture.BoundingBox.Width, w) * Math.Min(picture.BoundingBox.Height, h);
        var isPicture = pictures.Sum(Area) >= MostOfIt * w * h;
        if (!isPicture && !IsUnseen(page))
            return null;
        return pictures.MaxBy(Area) is { } largest
            ? (int)Math.Clamp(largest.WidthInSamples / Math.Max(1, largest.BoundingBox.Width) * 72, 1, 10_000)
            : PageReading.ScanDpi;
    }

    private static bool IsUnseen(Page page) =>
        page.Letters.Count > 0
        && page.Letters.Count(l => l.RenderingMode == UglyToad.PdfPig.Core.TextRenderingMode.Neither) * 2 > page.Letters.Count;
}
