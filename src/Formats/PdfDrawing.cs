using System.Globalization;
using SkiaSharp;
using UglyToad.PdfPig;

namespace ClearLexicon.Formats;

/// <summary>
/// Draws pages of a PDF (poppler). Pages with words follow one another at one resolution, so that one run of the program draws several:
/// starting it and opening the file take longer than drawing a page.
/// </summary>
/// <param name="path">The file.</param>
/// <param name="pdf">The same, opened by <see cref="PageFrame.Open"/>; or a copy of some pages whose words are taken.</param>
/// <param name="begins">Number in the file of the first page of that.</param>
/// <param name="wanted">The pages that are asked for, in their order.</param>
/// <param name="folder">Where drawings lie until they are taken.</param>
internal sealed class PdfDrawing(string path, PdfDocument pdf, int begins, WantedPages wanted, string folder) : IDisposable
{
    /// <summary>Most pages that one run draws.</summary>
    private const int Together = 8;

    private readonly Dictionary<int, PdfPageText> _layers = [];

    // Several may draw into one folder.
    private readonly string _stem = Path.Combine(folder, $"drawn-{Guid.NewGuid():N}");

    // Drawn and not yet taken.
    private readonly Dictionary<int, string> _drawn = [];

    /// <summary>What the file says of a page.</summary>
    /// <exception cref="InvalidDataException">The page has no size that a page can have, or too many words.</exception>
    public PdfPageText Layer(int number) =>
        _layers.TryGetValue(number, out var layer) ? layer : _layers[number] = PdfPageText.Read(pdf, number - begins + 1, number);

    /// <summary>
    /// A page as it looks, by its crop box, which is what the words are measured in too; one with words and without colours in gray. The
    /// caller disposes it.
    /// </summary>
    /// <exception cref="InvalidDataException">It cannot be drawn.</exception>
    public async Task<SKBitmap> DrawAsync(int number, CancellationToken cancel)
    {
        if (!_drawn.ContainsKey(number) && IsText(number) && Followers(number) is var last && last > number)
            try
            {
                await DrawAsync(number, last, cancel);
            }
            catch (TimeoutException)
            {
                // A page that holds up a run is found when each is drawn by itself, and is the one that is told.
                Dispose();
            }
        if (!_drawn.ContainsKey(number))
            await DrawAsync(number, number, cancel);
        if (!_drawn.Remove(number, out var drawn))
            throw new InvalidDataException($"page {number} cannot be drawn.");
        _layers.Remove(number);
        try
        {
            return Pictures.LoadPixmap(drawn);
        }
        finally
        {
            File.Delete(drawn);
        }
    }

    /// <summary>Drawings that nobody took are deleted.</summary>
    public void Dispose()
    {
        _drawn.Clear();
        foreach (var drawn in Drawings())
            File.Delete(drawn);
    }

    private bool IsText(int number) => Layer(number) is { IsScan: false, Text.Words.Count: > 0 };

    // The last page behind one that is drawn as it is.
    private int Followers(int number)
    {
        var last = number;
        var (dpi, plain) = (Resolution(Layer(number)), Layer(number).IsPlain);
        while (last + 1 < Math.Min(wanted.First + wanted.Count, number + Together) && CanFollow(last + 1))
            last++;
        return last;

        bool CanFollow(int next)
        {
            try
            {
                return IsText(next) && Resolution(Layer(next)) == dpi && Layer(next).IsPlain == plain;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // It is told when it is its turn.
                return false;
            }
        }
    }

    private async Task DrawAsync(int first, int last, CancellationToken cancel)
    {
        string Text(int number) => number.ToString(CultureInfo.InvariantCulture);
        await ExternalProgram.RunAsync(
            "pdftoppm",
            [
                "-r",
                Text(Resolution(Layer(first))),
                "-cropbox",
                // A third of what is written, and two thirds of the time.
                .. IsText(first) && Layer(first).IsPlain ? new[] { "-gray" } : [],
                "-f",
                Text(first),
                "-l",
                Text(last),
                path,
                _stem,
            ],
            PageReading.PageLimit,
            cancel
        );
        foreach (var drawn in Drawings())
            if (int.TryParse(Path.GetFileNameWithoutExtension(drawn).Split('-')[^1], CultureInfo.InvariantCulture, out var number))
                _drawn[number] = drawn;
    }

    private string[] Drawings() => Directory.GetFiles(folder, $"{Path.GetFileName(_stem)}-*.p?m");

    // Pages without words are recognised, so they are drawn as finely as they came.
    private static int Resolution(PdfPageText page)
    {
        var wanted =
            page.Text.Words.Count > 0
                ? page.IsScan
                    ? Math.Max(PageReading.Dpi, page.PictureDpi ?? 0)
                    : PageReading.Dpi
                : page.PictureDpi is { } own
                    ? Math.Clamp(own, PageReading.LeastScanDpi, PageReading.ScanDpi)
                    : PageReading.ScanDpi;
        return (int)Math.Max(10, Math.Min(wanted, Math.Sqrt(PageReading.MostPixels / (page.Text.Width * page.Text.Height)) * 72));
    }
}
