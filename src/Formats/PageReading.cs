using System.Globalization;
using ClearLexicon.Core.Reading;
using OpenCvSharp;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>A page taken in: its picture on disk and its text.</summary>
/// <param name="Number">Page from 1.</param>
/// <param name="ImagePath">PNG of the page.</param>
/// <param name="Text">Its words; none when it has no text layer and cannot be recognised.</param>
/// <param name="Notice">What the person should know, e.g. that text recognition is missing; null for nothing.</param>
public sealed record TakenPage(int Number, string ImagePath, PageText Text, string? Notice);

/// <summary>Which pages of a file are wanted.</summary>
/// <param name="First">The first, from 1.</param>
/// <param name="Count">How many.</param>
public sealed record WantedPages(int First, int Count)
{
    /// <summary>Languages they are recognised in, by Tesseract's names with plus signs between; empty for the usual ones.</summary>
    public string Languages { get; init; } = "";

    /// <summary>Whether pages stay as they lie: a person has turned them.</summary>
    public bool AsTheyLie { get; init; }

    /// <summary>The first so many pages.</summary>
    public static implicit operator WantedPages(int count) => new(1, count);
}

/// <summary>Turns a checked file into page pictures and page texts.</summary>
public static class PageReading
{
    /// <summary>Resolution of page pictures made from PDFs, in dots per inch.</summary>
    public const int Dpi = 150;

    /// <summary>
    /// Finest resolution at which pictures in PDFs are recognised, in dots per inch; they are drawn at their own up to this.
    /// </summary>
    public const int ScanDpi = 300;

    /// <summary>Coarsest such resolution: a coarser picture is enlarged to it.</summary>
    public const int LeastScanDpi = 200;

    /// <summary>Longest side of a page, in points of 1/72 inch: 200 inches, as far as PDF goes without a unit of its own.</summary>
    public const double LongestSide = 14_400;

    /// <summary>Most pixels of a page picture; a larger page is drawn less finely, a larger picture made smaller.</summary>
    public const double MostPixels = 20_000_000;

    /// <summary>Most words of one page.</summary>
    public const int MostWords = 100_000;

    /// <summary>Pages that are recognised by one run; their cleaned pictures lie on the disk meanwhile.</summary>
    private const int RecognisedAtOnce = 8;

    internal static readonly TimeSpan PageLimit = TimeSpan.FromSeconds(60);

    /// <summary>Reads pages of a file that <see cref="IntakeCheck"/> let through.</summary>
    /// <param name="path">The file.</param>
    /// <param name="kind">What it is.</param>
    /// <param name="wanted">Which pages.</param>
    /// <param name="imageFolder">Where pictures go, as <c>1.png</c>, <c>2.png</c> …, each with a small one beside it
    /// (<see cref="SmallOf"/>).</param>
    /// <param name="cancel">Stops between and within pages.</param>
    public static async Task<IReadOnlyList<TakenPage>> ReadAsync(
        string path,
        FileKind kind,
        WantedPages wanted,
        string imageFolder,
        CancellationToken cancel
    )
    {
        Directory.CreateDirectory(imageFolder);
        using var came = kind == FileKind.Pdf ? PageFrame.Open(path) : null;
        var copy = came is null ? null : await LaidInNotes.WriteAsync(path, came, wanted, imageFolder, cancel);
        try
        {
            // Words are those of the copy; what is seen is drawn from the file as it came.
            using var laid = copy is null ? null : PageFrame.Open(copy);
            using var drawing = came is null
                ? null
                : new PdfDrawing(path, laid ?? came, laid is null ? 1 : wanted.First, wanted, imageFolder);
            return await ReadAsync(path, kind, drawing, wanted, imageFolder, cancel);
        }
        finally
        {
            if (copy is not null)
                File.Delete(copy);
        }
    }

    private static async Task<IReadOnlyList<TakenPage>> ReadAsync(
        string path,
        FileKind kind,
        PdfDrawing? drawing,
        WantedPages wanted,
        string imageFolder,
        CancellationToken cancel
    )
    {
        var taken = new List<TakenPage>();
        var waiting = new List<WaitingPage>();
        try
        {
            for (var number = wanted.First; number < wanted.First + wanted.Count; number++)
            {
                cancel.ThrowIfCancellationRequested();
                var (page, cleaned) = await TakeAsync(path, kind, drawing, number, Path.Combine(imageFolder, $"{number}.png"), cancel);
                taken.Add(page);
                if (cleaned is not null)
                    waiting.Add(cleaned);
                if (waiting.Count == RecognisedAtOnce)
                    await RecogniseAsync();
            }
            await RecogniseAsync();
            return taken;
        }
        finally
        {
            waiting.ForEach(w => File.Delete(w.Cleaned));
        }

        async Task RecogniseAsync()
        {
            var next = 0;
            await foreach (var read in TextRecognition.ReadAsync(waiting, wanted.Languages, !wanted.AsTheyLie, PageLimit, cancel))
            {
                var image = waiting[next++].Image;
                var at = taken.FindIndex(t => t.ImagePath == image);
                using var upright = read.Upright;
                taken[at] = Recognised(taken[at], read, wanted.Languages);
            }
            waiting.Clear();
        }
    }

    // The page with what recognition says of it; one that was turned is kept upright.
    private static TakenPage Recognised(TakenPage page, RecognisedPage read, string languages)
    {
        var (text, notice) = (page.Text, read.Notice ?? page.Notice);
        if (read.Text is not { } words)
            return page with { Notice = notice };
        words = words with { Languages = languages.Length > 0 ? languages : null };
        if (read.Upright is not { } upright)
            return page with
            {
                Text = words with { Codes = text.Codes, Unread = text.Unread, Ink = text.Ink, Lay = text.Lay, Size = text.Size },
                Notice = notice,
            };
        var size = text.Size is { } s && read.Turned % 180 != 0 ? new PageSize(s.Height, s.Width) : text.Size;
        return Keep(upright, page.ImagePath, words with { Lay = new PageOrientation(text.Lay.Skew, read.Turned), Size = size }, notice);
    }

    /// <summary>The small picture that lies beside a page picture.</summary>
    public static string SmallOf(string image) => image[..^".png".Length] + ".small.jpg";

    /// <summary>Where recognised text lies that was brought beside a file.</summary>
    public static string TextBeside(string path) => path + ".text";

    /// <summary>The page as it came, as a PDF of one page, that lies beside a page picture when that is no page of a PDF itself.</summary>
    public static string PageOf(string image) => image[..^".png".Length] + ".page.pdf";

    // The page with its own words, or without words and cleaned for the recogniser.
    private static async Task<(TakenPage Page, WaitingPage? Waiting)> TakeAsync(
        string path,
        FileKind kind,
        PdfDrawing? drawing,
        int number,
        string image,
        CancellationToken cancel
    )
    {
        var layer = drawing?.Layer(number);
        // A page without words is a picture: it is drawn as finely as it came, and set upright as a scan is.
        var isPicture = layer is null or { Text.Words.Count: 0 };
        using var came = layer is null
            ? Decode(path, kind, number)
            : layer.Scanned(LeastScanDpi, ScanDpi) ?? await drawing!.DrawAsync(number, cancel);
        // Taken for a blank one, it would vanish from its stack.
        if (layer is { IsDamaged: true } && ShowsNothing(came))
            throw new InvalidDataException($"page {number} is damaged, and nothing of it can be seen.");
        if (layer is { Text.Words.Count: > 0, IsScan: true } && !TextOverInk.Trusts(layer.Text, came))
            isPicture = true;
        // A picture is kept as it came, as a page that can be filed; a page of a PDF is taken from it.
        var size = layer is not null ? new PageSize(layer.Text.Width, layer.Text.Height) : AsCame(path, kind, number, came, PageOf(image));
        if (!isPicture)
            return (KeepOwn(came, image, layer!, size), null);
        // Text that was brought beside the file is taken for its own where it stands over the ink; then the picture stays as it lies.
        string? notBrought = null;
        if (File.Exists(TextBeside(path)))
        {
            var (brought, problem) = RecognisedText.Read(TextBeside(path), number);
            if (brought is not null && (brought.Words.Count == 0 || TextOverInk.Trusts(brought, came)))
                return (Keep(came, image, brought with { Size = size }, null), null);
            notBrought =
                problem
                ?? "The text beside it stands where this page has no ink, so it belongs to another page; the page was recognised again.";
        }
        using var straight = Deskew.Straighten(came, out var skew);
        var upright = straight ?? came;
        var unread = new PageText(upright.Width, upright.Height, [], "none") { Lay = new PageOrientation(skew, 0), Size = size };
        return (Keep(upright, image, unread, notBrought ?? layer?.Notice), TextRecognition.Prepare(upright, image));
    }

    private static bool ShowsNothing(SKBitmap page)
    {
        using var gray = Pictures.Gray(page);
        return InkShare.Measure(gray) == 0;
    }

    /// <summary>A page's text with what is seen of it besides words: its codes, what looks like one, and its ink.</summary>
    public static PageText WithMarks(PageText text, SKBitmap page)
    {
        using var gray = Pictures.Gray(page);
        using var small = Pictures.Small(gray, CodeReading.Side);
        return WithMarks(text, gray, small);
    }

    // Ink is measured on the page itself: made small twice, what is pale would be paler than it is. What was drawn from letters is not.
    private static PageText WithMarks(PageText text, Mat gray, Mat small)
    {
        var (codes, unread) = CodeReading.Read(gray, small);
        return text with
        {
            Codes = codes,
            Unread = unread,
            Ink = text.Method == "text layer" ? InkShare.MeasureDrawn(small) : InkShare.Measure(gray),
        };
    }

    // A picture that can be seen but not carried over is drawn anew when it is filed.
    private static PageSize AsCame(string path, FileKind kind, int number, SKBitmap came, string target)
    {
        try
        {
            return PicturePdf.Write(path, kind, number, target);
        }
        catch (Exception e) when (e is not (IOException or OutOfMemoryException))
        {
            File.Delete(target);
            return new PageSize(came.Width * 72.0 / LeastScanDpi, came.Height * 72.0 / LeastScanDpi);
        }
    }

    // A scan that brings its words is set upright as any other, and its words with it.
    private static TakenPage KeepOwn(SKBitmap came, string image, PdfPageText layer, PageSize size)
    {
        var text = layer.Text with { Size = size };
        if (!layer.IsScan)
            return Keep(came, image, text, null);
        using var straight = Deskew.Straighten(came, out var skew);
        return straight is null
            ? Keep(came, image, text, null)
            : Keep(straight, image, Upright.Turn(text, skew) with { Lay = new PageOrientation(skew, 0) }, null);
    }

    private static TakenPage Keep(SKBitmap page, string image, PageText text, string? notice)
    {
        using var gray = Pictures.Gray(page);
        using var small = Pictures.Small(gray, CodeReading.Side);
        Pictures.Save(page, gray, image);
        Pictures.SaveSmall(small, SmallOf(image));
        var number = int.Parse(Path.GetFileNameWithoutExtension(image), CultureInfo.InvariantCulture);
        return new TakenPage(number, image, WithMarks(text, gray, small), notice);
    }

    /// <summary>The words of a PDF page's text layer with their boxes from the top left.</summary>
    public static PageText TextLayer(string path, int number)
    {
        using var pdf = PageFrame.Open(path);
        return PdfPageText.Read(pdf, number, number).Text;
    }

    private static SKBitmap Decode(string path, FileKind kind, int number)
    {
        var page =
            (kind == FileKind.Tiff ? TiffPages.Read(path, number) : UprightImage.Read(path))
            ?? throw new InvalidDataException($"page {number} is damaged.");
        var pixels = (double)page.Width * page.Height;
        if (pixels <= MostPixels)
            return page;
        using (page)
            return Pictures.Smaller(page, Math.Sqrt(MostPixels / pixels));
    }
}
