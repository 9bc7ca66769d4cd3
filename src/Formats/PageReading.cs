using ClearLexicon.Core.Reading;
using SkiaSharp;
using UglyToad.PdfPig;

namespace ClearLexicon.Formats;

/// <summary>A page taken in: its picture on disk and its text.</summary>
/// <param name="Number">Page from 1.</param>
/// <param name="ImagePath">PNG of the page.</param>
/// <param name="Text">Its words; none when it has no text layer and cannot be recognised.</param>
/// <param name="Notice">What the person should know, e.g. that text recognition is missing; null for nothing.</param>
public sealed record TakenPage(int Number, string ImagePath, PageText Text, string? Notice);

/// <summary>Turns a checked file into page pictures and page texts.</summary>
public static class PageReading
{
    /// <summary>Resolution of page pictures made from PDFs, in dots per inch.</summary>
    public const int Dpi = 150;

    /// <summary>Resolution of page pictures made from scanned PDFs, in dots per inch.</summary>
    public const int ScanDpi = 300;

    /// <summary>Longest side of a page, in points of 1/72 inch: 200 inches, as far as PDF goes without a unit of its own.</summary>
    public const double LongestSide = 14_400;

    /// <summary>Most pixels of a drawn page; a larger one is drawn less finely.</summary>
    public const double MostPixels = 20_000_000;

    /// <summary>Most words of one page.</summary>
    public const int MostWords = 100_000;

    private static readonly TimeSpan PageLimit = TimeSpan.FromSeconds(60);

    /// <summary>Reads all pages of a file that <see cref="IntakeCheck"/> let through.</summary>
    /// <param name="path">The file.</param>
    /// <param name="kind">What it is.</param>
    /// <param name="pages">How many pages it has.</param>
    /// <param name="imageFolder">Where pictures go, as <c>1.png</c>, <c>2.png</c> …</param>
    /// <param name="cancel">Stops between and within pages.</param>
    public static async Task<IReadOnlyList<TakenPage>> ReadAsync(
        string path,
        FileKind kind,
        int pages,
        string imageFolder,
        CancellationToken cancel
    )
    {
        Directory.CreateDirectory(imageFolder);
        var taken = new List<TakenPage>();
        for (var number = 1; number <= pages; number++)
        {
            cancel.ThrowIfCancellationRequested();
            var image = Path.Combine(imageFolder, $"{number}.png");
            var text = kind == FileKind.Pdf ? TextLayer(path, number) : null;
            // A page without words is a picture: it is drawn as finely as it is recognised best, and set upright as a scan is.
            var isPicture = text is null or { Words.Count: 0 };
            if (kind == FileKind.Pdf)
                await DrawPdfPageAsync(path, number, Resolution(text!, isPicture), image, cancel);
            else
                DrawImage(path, kind, number, image);
            if (kind == FileKind.Pdf && isPicture)
                Straighten(image);
            string? notice = null;
            if (isPicture)
                (text, notice) = await TextRecognition.ReadAsync(image, PageLimit, cancel);
            taken.Add(new TakenPage(number, image, text! with { Codes = Codes(image) }, notice));
        }
        return taken;
    }

    /// <summary>The words of a PDF page's text layer with their boxes from the top left.</summary>
    public static PageText TextLayer(string path, int number)
    {
        using var pdf = PdfDocument.Open(path);
        var page = pdf.GetPage(number);
        double w = page.Width,
            h = page.Height;
        if (!(w >= 1 && h >= 1 && w <= LongestSide && h <= LongestSide))
            throw new InvalidDataException($"page {number} has no size that a page can have.");
        var words = page.GetWords()
            .Where(word => !string.IsNullOrWhiteSpace(word.Text))
            .Take(MostWords + 1)
            .Select(word =>
            {
                var box = word.BoundingBox;
                return new Word(
                    Core.Vocabularies.CodePoints.Repaired(word.Text),
                    new Box(Share(box.Left / w), Share(1 - box.Top / h), Share(box.Width / w), Share(box.Height / h))
                );
            })
            .ToList();
        if (words.Count > MostWords)
            throw new InvalidDataException($"page {number} holds more than {MostWords:N0} words.");
        return new PageText(w, h, words, "text layer");
    }

    // Damaged fonts give boxes without a measure; a word without a place is one at the edge.
    private static double Share(double share) => double.IsFinite(share) ? Math.Clamp(share, -1, 2) : 0;

    private static int Resolution(PageText page, bool isPicture)
    {
        var wanted = isPicture ? ScanDpi : Dpi;
        return (int)Math.Max(10, Math.Min(wanted, Math.Sqrt(MostPixels / (page.Width * page.Height)) * 72));
    }

    private static IReadOnlyList<PageCode> Codes(string image)
    {
        using var page = Pictures.Load(image);
        return CodeReading.Read(page);
    }

    private static void Straighten(string image)
    {
        using var page = Pictures.Load(image);
        using var upright = Deskew.Straighten(page);
        if (upright is not null)
            Pictures.Save(upright, image);
    }

    private static async Task DrawPdfPageAsync(string path, int number, int dpi, string image, CancellationToken cancel)
    {
        var page = number.ToString();
        var stem = image[..^".png".Length];
        var run = await ExternalProgram.RunAsync(
            "pdftoppm",
            // By the crop box, which is what the words are measured in too.
            ["-r", dpi.ToString(), "-cropbox", "-png", "-singlefile", "-f", page, "-l", page, path, stem],
            PageLimit,
            cancel
        );
        if (run.ExitCode != 0 || !File.Exists(image))
            throw new InvalidDataException($"page {number} cannot be drawn.");
    }

    private static void DrawImage(string path, FileKind kind, int number, string image)
    {
        using var bitmap = kind == FileKind.Tiff ? TiffPages.Read(path, number) : SKBitmap.Decode(path);
        if (bitmap is null)
            throw new InvalidDataException($"page {number} is damaged.");
        using var upright = Deskew.Straighten(bitmap);
        Pictures.Save(upright ?? bitmap, image);
    }
}
