using System.Globalization;
using System.Runtime.CompilerServices;
using ClearLexicon.Core.Reading;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>A page that waits to be recognised.</summary>
/// <param name="Image">Its picture, which is kept.</param>
/// <param name="Cleaned">The cleaned picture for the recogniser, which is removed when it is read.</param>
/// <param name="Width">Of the cleaned one, in pixels.</param>
/// <param name="Height">Of the cleaned one, in pixels.</param>
internal sealed record WaitingPage(string Image, string Cleaned, int Width, int Height);

/// <summary>What recognition made of a page.</summary>
/// <param name="Text">Its words; null when it could not be read.</param>
/// <param name="Notice">What the person should know; null for nothing.</param>
/// <param name="Upright">The page turned upright; null when it was not turned. The caller disposes it.</param>
/// <param name="Turned">By how many degrees it was turned, clockwise.</param>
internal sealed record RecognisedPage(PageText? Text, string? Notice, SKBitmap? Upright, int Turned);

/// <summary>Reads the text of a page picture with Tesseract, as words with boxes and confidences (its TSV output).</summary>
public static class TextRecognition
{
    /// <summary>Shown where a page has no text because the recogniser is not installed.</summary>
    public const string Missing =
        "Text recognition (Tesseract) is not installed on this machine, so this page has no words. Install the package "
        + "tesseract-ocr and add the page again, or fill the fields by hand.";

    /// <summary>Whether Tesseract can be run here.</summary>
    public static bool Available => ExternalProgram.Exists("tesseract");

    /// <summary>
    /// Languages that are read when they are installed, by Tesseract's names. German stands first: it reads English words as well, and
    /// English first reads ü as u, and is sure of it.
    /// </summary>
    private static readonly string[] Wanted = ["deu", "eng", "fra"];

    // Below this share of words that were read surely, a page may lie on its side or its head.
    private const double SureShare = 0.5;
    private const double Sure = 0.7;
    private const int LeastCharacters = 20;

    private static readonly Lazy<Task<(string Usual, IReadOnlyList<string> All)>> Installed = new(LookAsync);

    /// <summary>Cleans a page for the recogniser, into a file beside its picture.</summary>
    internal static WaitingPage Prepare(SKBitmap page, string image)
    {
        var cleaned = image + ".clean.bmp";
        var (width, height) = PageCleaning.Clean(page, cleaned);
        return new WaitingPage(image, cleaned, width, height);
    }

    /// <summary>
    /// Recognises pages, all by one run: a quarter of what a page takes is the loading of the languages. When that run fails, each is
    /// recognised alone. One that lies on its side or its head is turned and recognised again; what the page says must be surer for it, or
    /// it stays as it came.
    /// </summary>
    /// <param name="pages">The pages; their cleaned pictures are removed.</param>
    /// <param name="turns">Whether they may be turned; not when a person has said how they lie.</param>
    /// <param name="wanted">Languages by Tesseract's names with plus signs between; empty for the usual ones.</param>
    /// <param name="limit">Longest time of each run.</param>
    /// <param name="cancel">Stops.</param>
    /// <returns>An answer for each, in their order.</returns>
    internal static async IAsyncEnumerable<RecognisedPage> ReadAsync(
        IReadOnlyList<WaitingPage> pages,
        string wanted,
        bool turns,
        TimeSpan limit,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        try
        {
            if (!Available)
            {
                foreach (var _ in pages)
                    yield return new RecognisedPage(null, Missing, null, 0);
                yield break;
            }
            var installed = await Installed.Value;
            var languages = Known(wanted, installed.All) ?? installed.Usual;
            var together = pages.Count > 1 ? await TogetherAsync(pages, languages, limit, cancel) : null;
            for (var i = 0; i < pages.Count; i++)
            {
                var page = pages[i];
                var read = together is not null ? together[i] : await RunAsync(page, languages, limit, cancel);
                var sure = read is null ? 0 : read.Words.Count(w => w.Confidence >= Sure) / (double)Math.Max(1, read.Words.Count);
                var upright =
                    turns && installed.All.Contains("osd") && sure < SureShare
                        ? await UprightAsync(page, read, languages, limit, cancel)
                        : null;
                yield return upright
                    ?? new RecognisedPage(
                        read,
                        read is null ? "Text recognition could not read this page; fill the fields by hand." : null,
                        null,
                        0
                    );
            }
        }
        finally
        {
            foreach (var page in pages)
                File.Delete(page.Cleaned);
        }
    }

    /// <summary>The languages that are recognised unless others are asked for, by Tesseract's names with plus signs between.</summary>
    internal static string Usual => Installed.Value.GetAwaiter().GetResult().Usual;

    /// <summary>Languages that are installed, by Tesseract's names.</summary>
    public static IReadOnlyList<string> Languages =>
        Available ? [.. Installed.Value.GetAwaiter().GetResult().All.Where(l => l != "osd")] : [];

    /// <summary>A language as people call it; Tesseract's name where no other is known here.</summary>
    public static string NameOf(string language) =>
        language switch
        {
            "eng" => "English",
            "deu" => "German",
            "fra" => "French",
            _ => language,
        };

    // Those of the wanted languages that are installed; null when none is.
    private static string? Known(string wanted, IReadOnlyList<string> installed)
    {
        var known = wanted.Split('+', StringSplitOptions.RemoveEmptyEntries).Where(l => l != "osd" && installed.Contains(l)).ToList();
        return known.Count == 0 ? null : string.Join('+', known);
    }

    // Page segmentation 11 looks for text wherever it stands, which suits forms: boxes and rules do not chain cells together.
    private static Task<ExternalProgram.Result> RunAsync(string cleaned, string languages, TimeSpan limit, CancellationToken cancel) =>
        ExternalProgram.RunAsync("tesseract", [cleaned, "stdout", "--dpi", "300", "--psm", "11", "-l", languages, "tsv"], limit, cancel);

    private static async Task<PageText?> RunAsync(WaitingPage page, string languages, TimeSpan limit, CancellationToken cancel)
    {
        var run = await RunAsync(page.Cleaned, languages, limit, cancel);
        return run.ExitCode == 0 ? TextOf(page, run.Output, 1) : null;
    }

    // Null when one of them ends the run or holds it up.
    private static async Task<IReadOnlyList<PageText>?> TogetherAsync(
        IReadOnlyList<WaitingPage> pages,
        string languages,
        TimeSpan limit,
        CancellationToken cancel
    )
    {
        var list = pages[0].Cleaned + ".list";
        try
        {
            await File.WriteAllLinesAsync(list, pages.Select(p => p.Cleaned), cancel);
            // Time enough for several of the largest; a page that hangs is found when each is read alone.
            var run = await RunAsync(list, languages, limit * 2, cancel);
            return run.ExitCode == 0 ? [.. pages.Select((p, i) => TextOf(p, run.Output, i + 1))] : null;
        }
        catch (Exception e) when (e is TimeoutException or InvalidDataException)
        {
            return null;
        }
        finally
        {
            File.Delete(list);
        }
    }

    private static PageText TextOf(WaitingPage page, string tsv, int number) =>
        new(page.Width, page.Height, Parse(tsv, number, page.Width, page.Height), "recognised");

    // The page turned upright and recognised so; null when it cannot be told how, or when it says less so.
    private static async Task<RecognisedPage?> UprightAsync(
        WaitingPage page,
        PageText? read,
        string languages,
        TimeSpan limit,
        CancellationToken cancel
    )
    {
        if (await TurnAsync(page.Image, limit, cancel) is not { } degrees)
            return null;
        using var came = Pictures.Decode(page.Image) ?? throw new InvalidDataException("a page could not be drawn.");
        var upright = Turned(came, degrees);
        var again = await RunAsync(Prepare(upright, page.Image), languages, limit, cancel);
        if (again is not null && again.Words.Sum(w => w.Confidence) > (read?.Words.Sum(w => w.Confidence) ?? 0))
            return new RecognisedPage(again, null, upright, degrees);
        upright.Dispose();
        return null;
    }

    // By how many degrees, clockwise, the page is to be turned to stand upright; null when that cannot be told.
    private static async Task<int?> TurnAsync(string image, TimeSpan limit, CancellationToken cancel)
    {
        var run = await ExternalProgram.RunAsync(
            "tesseract",
            [image, "stdout", "--dpi", "200", "--psm", "0", "-l", "osd", "-c", $"min_characters_to_try={LeastCharacters}"],
            limit,
            cancel
        );
        if (run.ExitCode != 0)
            return null;
        const string says = "Rotate:";
        var line = run.Output.Split('\n').FirstOrDefault(l => l.StartsWith(says, StringComparison.Ordinal));
        return int.TryParse(line?[says.Length..].Trim(), out var degrees) && degrees is 90 or 180 or 270 ? degrees : null;
    }

    private static SKBitmap Turned(SKBitmap page, int degrees)
    {
        var across = degrees % 180 == 0;
        var info = new SKImageInfo(
            across ? page.Width : page.Height,
            across ? page.Height : page.Width,
            SKColorType.Rgba8888,
            SKAlphaType.Opaque
        );
        var turned = new SKBitmap(info);
        using var canvas = new SKCanvas(turned);
        canvas.Clear(SKColors.White);
        canvas.Translate(turned.Width / 2f, turned.Height / 2f);
        canvas.RotateDegrees(degrees);
        canvas.DrawBitmap(page, -page.Width / 2f, -page.Height / 2f, SKSamplingOptions.Default);
        return turned;
    }

    private static async Task<(string, IReadOnlyList<string>)> LookAsync()
    {
        var run = await ExternalProgram.RunAsync("tesseract", ["--list-langs"], TimeSpan.FromSeconds(20), CancellationToken.None);
        // The first line says where they lie.
        var known = run.Output.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Skip(1).ToList();
        var languages = Wanted.Where(known.Contains).ToList();
        return (languages.Count > 0 ? string.Join('+', languages) : "eng", known);
    }

    /// <summary>Words of one page of Tesseract's TSV: those of level 5; confidence is 0 to 100.</summary>
    /// <param name="tsv">Its table, of any number of pages.</param>
    /// <param name="number">The page, from 1.</param>
    /// <param name="width">Of the picture, in pixels.</param>
    /// <param name="height">Of the picture, in pixels.</param>
    public static IReadOnlyList<Word> Parse(string tsv, int number, double width, double height)
    {
        var page = number.ToString(CultureInfo.InvariantCulture);
        var words = new List<Word>();
        foreach (var line in tsv.Split('\n').Skip(1))
        {
            var cells = line.TrimEnd('\r').Split('\t');
            if (cells.Length < 12 || cells[0] != "5" || cells[1] != page || string.IsNullOrWhiteSpace(cells[11]))
                continue;
            double At(int i) => double.Parse(cells[i], CultureInfo.InvariantCulture);
            var box = new Box(At(6) / width, At(7) / height, At(8) / width, At(9) / height);
            // Ruled lines and speckle come out as hairline or dust-sized words.
            if (At(8) < 3 || At(9) < 6)
                continue;
            words.Add(new Word(cells[11], box, Math.Clamp(At(10) / 100, 0, 1)));
        }
        return words;
    }
}
