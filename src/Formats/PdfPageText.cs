using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Vocabularies;
using UglyToad.PdfPig;
using Page = UglyToad.PdfPig.Content.Page;

namespace ClearLexicon.Formats;

/// <summary>What a PDF says of one of its pages.</summary>
/// <param name="Text">The words of its text layer, boxes from the top left.</param>
/// <param name="PictureDpi">Resolution of the largest picture on it, in dots per inch, when that covers most of it; null otherwise.</param>
internal sealed record PdfPageText(PageText Text, int? PictureDpi)
{
    /// <summary>The page's picture when that is all there is on it (<see cref="ScannedPicture"/>); the caller disposes it.</summary>
    public required Func<int, int, SkiaSharp.SKBitmap?> Scanned { get; init; }

    /// <summary>Whether nothing on it can have a colour (<see cref="PlainPage"/>).</summary>
    public required bool IsPlain { get; init; }

    private const double MostOfIt = 0.8;

    /// <summary>Whether a picture covers most of the page, so that words on it were recognised by somebody.</summary>
    public bool IsScan => PictureDpi is not null;

    /// <summary>Reads a page.</summary>
    /// <exception cref="InvalidDataException">The page has no size that a page can have, or too many words.</exception>
    public static PdfPageText Read(PdfDocument pdf, int number)
    {
        var page = pdf.GetPage(number);
        double w = page.Width,
            h = page.Height;
        if (!(w >= 1 && h >= 1 && w <= PageReading.LongestSide && h <= PageReading.LongestSide))
            throw new InvalidDataException($"page {number} has no size that a page can have.");
        var words = page.GetWords()
            .Where(word => !string.IsNullOrWhiteSpace(word.Text))
            .Take(PageReading.MostWords + 1)
            .Select(word =>
            {
                var box = word.BoundingBox;
                return new Word(
                    CodePoints.Repaired(word.Text),
                    new Box(Share(box.Left / w), Share(1 - box.Top / h), Share(box.Width / w), Share(box.Height / h))
                );
            })
            .ToList();
        if (words.Count > PageReading.MostWords)
            throw new InvalidDataException($"page {number} holds more than {PageReading.MostWords:N0} words.");
        return new PdfPageText(new PageText(w, h, words, "text layer"), Resolution(page, w, h))
        {
            Scanned = (least, most) => ScannedPicture.Of(page, least, most),
            IsPlain = PlainPage.Is(pdf, page),
        };
    }

    // Damaged fonts give boxes without a measure; a word without a place is one at the edge.
    private static double Share(double share) => double.IsFinite(share) ? Math.Clamp(share, -1, 2) : 0;

    private static int? Resolution(Page page, double w, double h)
    {
        foreach (var picture in page.GetImages())
        {
            var bounds = picture.BoundingBox;
            if (bounds.Width * bounds.Height >= MostOfIt * w * h)
                return (int)Math.Clamp(picture.WidthInSamples / Math.Max(1, bounds.Width) * 72, 1, 10_000);
        }
        return null;
    }
}
