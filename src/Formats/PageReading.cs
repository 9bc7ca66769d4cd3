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

    private static readonly TimeSpan PageLimit = TimeSpan.FromSeconds(60);

    /// <summary>Reads all pages of a file that <see cref="IntakeCheck"/> let through.</summary>
    /// <param name="path">The file.</param>
    /// <param name="kind">What it is.</param>
    /// <param name="pages">How many pages it has.</param>
    /// <param name="imageFolder">Where pictures go, as <c>1.png</c>, <c>2.png</c> …</param>
    /// <param name="cancel">Stops between and within pages.</param>
    public static async Task<IReadOnlyList<TakenPage>> ReadAsync(string path, FileKind kind, int pages, string imageFolder, CancellationToken cancel)
    {
        Directory.CreateDirectory(imageFolder);
        var taken = new List<TakenPage>();
        for (var number = 1; number <= pages; number++)
        {
            cancel.ThrowIfCancellationRequested();
            var image = Path.Combine(imageFolder, $"{number}.png");
            if (kind == FileKind.Pdf) await DrawPdfPageAsync(path, number, image, cancel);
            else DrawImage(path, kind, number, image);
            var text = kind == FileKind.Pdf ? TextLayer(path, number) : null;
            string? notice = null;
            if (text is null or { Words.Count: 0 })
                (text, notice) = await TextRecognition.ReadAsync(image, PageLimit, cancel);
            taken.Add(new TakenPage(number, image, text, notice));
        }
        return taken;
    }

    /// <summary>The words of a PDF page's text layer with their boxes from the top left.</summary>
    public static PageText TextLayer(string path, int number)
    {
        using var pdf = PdfDocument.Open(path);
        var page = pdf.GetPage(number);
        double w = page.Width, h = page.Height;
        return new PageText(w, h, [.. page.GetWords().Where(word => !string.IsNullOrWhiteSpace(word.Text)).Select(word =>
        {
            var box = word.BoundingBox;
            return new Word(word.Text, new Box(box.Left / w, 1 - box.Top / h, box.Width / w, box.Height / h));
        })], "text layer");
    }

    private static async Task DrawPdfPageAsync(string path, int number, string image, CancellationToken cancel)
    {
        var page = number.ToString();
        var stem = image[..^".png".Length];
        var run = await ExternalProgram.RunAsync("pdftoppm",
            ["-r", Dpi.ToString(), "-png", "-singlefile", "-f", page, "-l", page, path, stem], PageLimit, cancel);
        if (run.ExitCode != 0 || !File.Exists(image)) throw new InvalidDataException($"Page {number} cannot be drawn: {run.Error.Trim()}");
    }

    private static void DrawImage(string path, FileKind kind, int number, string image)
    {
        using var bitmap = kind == FileKind.Tiff ? TiffPages.Read(path, number) : SKBitmap.Decode(path);
        if (bitmap is null) throw new InvalidDataException($"Page {number} is damaged.");
        using var upright = Deskew.Straighten(bitmap);
        using var data = (upright ?? bitmap).Encode(SKEncodedImageFormat.Png, 90);
        using var file = File.Create(image);
        data.SaveTo(file);
    }
}
