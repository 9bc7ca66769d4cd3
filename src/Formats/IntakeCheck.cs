using BitMiracle.LibTiff.Classic;
using SkiaSharp;
using UglyToad.PdfPig;
using UglyToad.PdfPig.Exceptions;

namespace ClearLexicon.Formats;

/// <summary>What a file is by its content, whatever its name says.</summary>
public enum FileKind
{
    /// <summary>Portable Document Format (ISO 32000).</summary>
    Pdf,

    /// <summary>PNG, JPEG.</summary>
    Image,

    /// <summary>TIFF, one or more pages.</summary>
    Tiff,
}

/// <summary>Whether a file can be taken in.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Pages">Number of pages.</param>
/// <param name="Problem">Why it cannot be taken in, in one sentence that names the file; null when it can.</param>
public sealed record IntakeResult(FileKind Kind, int Pages, string? Problem);

/// <summary>Looks at an uploaded file before anything is done with it: by its first bytes, never by its name.</summary>
public static class IntakeCheck
{
    /// <summary>Largest file taken, in bytes.</summary>
    public const long MaxBytes = 500L * 1024 * 1024;

    /// <summary>Most pages of one file.</summary>
    public const int MaxPages = 2_000;

    /// <summary>Least width and height of a page picture, in pixels.</summary>
    public const int MinSide = 200;

    /// <summary>
    /// Greatest width and height of a page picture, in pixels: recognition takes none that is larger, and enlarges by a quarter.
    /// </summary>
    public const int MaxSide = 25_000;

    /// <summary>Most pixels of a page picture: A3 at 600 dpi.</summary>
    public const long MaxPixels = 72_000_000;

    /// <summary>
    /// What can be said of a file by its size and first bytes, without opening it: why it cannot be taken in, or null.
    /// </summary>
    /// <param name="path">Where it lies.</param>
    /// <param name="name">What the person called it.</param>
    public static string? Sniff(string path, string name) => Look(path, name).Problem;

    private static (FileKind Kind, string? Problem) Look(string path, string name)
    {
        var length = new FileInfo(path).Length;
        if (length == 0)
            return (default, $"“{name}” is empty.");
        if (length > MaxBytes)
            return (default, $"“{name}” is {length / 1024 / 1024} MB; at most {MaxBytes / 1024 / 1024} MB are taken.");
        Span<byte> head = stackalloc byte[8];
        using (var file = File.OpenRead(path))
            _ = file.ReadAtLeast(head, 8, throwOnEndOfStream: false);
        if (KindOf(head) is { } kind)
            return (kind, null);
        return (
            default,
            name.EndsWith(".pdf", StringComparison.OrdinalIgnoreCase)
                ? $"“{name}” is called a PDF but its content is not one."
                : $"“{name}” is not a PDF, PNG, JPEG or TIFF."
        );
    }

    private static FileKind? KindOf(ReadOnlySpan<byte> head) =>
        head.StartsWith("%PDF-"u8) ? FileKind.Pdf
        : head.StartsWith(new byte[] { 0x89, 0x50, 0x4E, 0x47 }) || head.StartsWith(new byte[] { 0xFF, 0xD8, 0xFF }) ? FileKind.Image
        : head.StartsWith("II*\0"u8) || head.StartsWith("MM\0*"u8) ? FileKind.Tiff
        : null;

    /// <summary>Checks a file on disk, which opens it.</summary>
    /// <param name="path">Where it lies.</param>
    /// <param name="name">What the person called it.</param>
    public static IntakeResult Check(string path, string name)
    {
        var (kind, problem) = Look(path, name);
        if (problem is not null)
            return Refuse(problem);
        return kind switch
        {
            FileKind.Pdf => CheckPdf(path, name),
            FileKind.Image => CheckImage(path, name),
            _ => CheckTiff(path, name),
        };
    }

    private static IntakeResult CheckPdf(string path, string name)
    {
        if (!EndsComplete(path))
            return Refuse($"“{name}” is cut off: the end of the PDF is missing.");
        try
        {
            using var pdf = PdfDocument.Open(path);
            if (pdf.NumberOfPages == 0)
                return Refuse($"“{name}” is a PDF without pages.");
            return pdf.NumberOfPages > MaxPages
                ? Refuse($"“{name}” has {pdf.NumberOfPages} pages; at most {MaxPages} are taken in one file.")
                : new IntakeResult(FileKind.Pdf, pdf.NumberOfPages, null);
        }
        catch (PdfDocumentEncryptedException)
        {
            return Refuse($"“{name}” is protected by a password; save it without and add it again.");
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // PdfPig throws many kinds on damaged files; all mean the same to the person.
            return Refuse($"“{name}” is damaged and cannot be read as a PDF.");
        }
    }

    private static bool EndsComplete(string path)
    {
        using var file = File.OpenRead(path);
        var tail = new byte[Math.Min(2048, file.Length)];
        file.Seek(-tail.Length, SeekOrigin.End);
        file.ReadExactly(tail);
        return tail.AsSpan().IndexOf("%%EOF"u8) >= 0;
    }

    private static IntakeResult CheckImage(string path, string name)
    {
        using var codec = SKCodec.Create(path);
        return codec is null
            ? Refuse($"“{name}” is damaged and cannot be read as a picture.")
            : CheckSize(codec.Info.Width, codec.Info.Height, name) ?? new IntakeResult(FileKind.Image, 1, null);
    }

    private static IntakeResult CheckTiff(string path, string name)
    {
        try
        {
            return CheckTiffPages(path, name);
        }
        // The library throws many kinds on damaged files; all mean the same to the person.
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return Refuse($"“{name}” is damaged and cannot be read as a TIFF.");
        }
    }

    private static IntakeResult CheckTiffPages(string path, string name)
    {
        TiffPages.Silence();
        using var tiff = Tiff.Open(path, "r");
        if (tiff is null)
            return Refuse($"“{name}” is damaged and cannot be read as a TIFF.");
        int pages = tiff.NumberOfDirectories();
        if (pages > MaxPages)
            return Refuse($"“{name}” has {pages} pages; at most {MaxPages} are taken in one file.");
        for (short page = 0; page < pages; page++)
        {
            tiff.SetDirectory(page);
            if (
                CheckSize(tiff.GetField(TiffTag.IMAGEWIDTH)?[0].ToInt() ?? 0, tiff.GetField(TiffTag.IMAGELENGTH)?[0].ToInt() ?? 0, name) is
                { } refused
            )
                return refused;
        }
        return new IntakeResult(FileKind.Tiff, pages, null);
    }

    private static IntakeResult? CheckSize(int width, int height, string name) =>
        width < MinSide || height < MinSide ? Refuse($"“{name}” is {width} × {height} pixels; a page needs at least {MinSide} × {MinSide}.")
        : (long)width * height > MaxPixels || Math.Max(width, height) > MaxSide
            ? Refuse($"“{name}” is {width} × {height} pixels, more than a page needs; scan it at 600 dpi or less.")
        : null;

    private static IntakeResult Refuse(string problem) => new(FileKind.Pdf, 0, problem);
}
