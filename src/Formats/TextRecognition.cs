using System.Globalization;
using ClearLexicon.Core.Reading;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>What recognition made of a page.</summary>
/// <param name="Text">Its words.</param>
/// <param name="Notice">What the person should know; null for nothing.</param>
/// <param name="Upright">The page turned upright; null when it was not turned. The caller disposes it.</param>
/// <param name="Turned">By how many degrees it was turned, clockwise.</param>
internal sealed record RecognisedPage(PageText Text, string? Notice, SKBitmap? Upright, int Turned);

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

    /// <summary>
    /// Recognises one page. One that lies on its side or its head is turned and recognised again; what the page says must be surer for
    /// it, or it stays as it came.
    /// </summary>
    /// <param name="page">The page.</param>
    /// <param name="image">Where its picture may be written for the recogniser; other files are made beside it and removed.</param>
    /// <param name="turns">Whether it may be turned; not when a person has said how it lies.</param>
    /// <param name="wanted">Languages by Tesseract's names with plus signs between; empty for the usual ones.</param>
    /// <param name="limit">Longest time of each run.</param>
    /// <param name="cancel">Stops.</param>
    internal static async Task<RecognisedPage> ReadAsync(
        SKBitmap page,
        string image,
        string wanted,
        bool turns,
        TimeSpan limit,
        CancellationToken cancel
    )
    {
        if (!Available)
            return new RecognisedPage(new PageText(page.Width, page.Height, [], "none"), Missing, null, 0);
        var installed = await Installed.Value;
        var languages = Known(wanted, installed.All) ?? installed.Usual;
        var read = await RunAsync(page, image, languages, limit, cancel);
        var sure = read is null ? 0 : read.Words.Count(w => w.Confidence >= Sure) / (double)Math.Max(1, read.Words.Count);
        if (turns && installed.All.Contains("osd") && sure < SureShare && await TurnAsync(page, image, limit, cancel) is { } degrees)
        {
            var upright = Turned(page, degrees);
            var again = await RunAsync(upright, image, languages, limit, cancel);
            if (again is not null && again.Words.Sum(w => w.Confidence) > (read?.Words.Sum(w => w.Confidence) ?? 0))
                return new RecognisedPage(again, null, upright, degrees);
            upright.Dispose();
        }
        return read is null
            ? new RecognisedPage(
                new PageText(page.Width, page.Height, [], "none"),
                "Text recognition could not read this page; fill the fields by hand.",
                null,
                0
            )
            : new RecognisedPage(read, null, null, 0);
    }

    /// <summary>The languages that are recognised unless others are asked for, by Tesseract's names with plus signs between.</summary>
    internal static string Usual => Installed.Value.GetAwaiter().GetResult().Usual;

    /// <summary>Languages that are installed, by Tesseract's names.</summary>
    public static async Task<IReadOnlyList<string>> LanguagesAsync() =>
        Available ? [.. (await Installed.Value).All.Where(l => l != "osd")] : [];

    // Those of the wanted languages that are installed; null when none is.
    private static string? Known(string wanted, IReadOnlyList<string> installed)
    {
        var known = wanted.Split('+', StringSplitOptions.RemoveEmptyEntries).Where(l => l != "osd" && installed.Contains(l)).ToList();
        return known.Count == 0 ? null : string.Join('+', known);
    }

    private static async Task<PageText?> RunAsync(SKBitmap page, string image, string languages, TimeSpan limit, CancellationToken cancel)
    {
        // Without packing: it lives for one run.
        var cleaned = image + ".clean.pgm";
        var (width, height) = PageCleaning.Clean(page, cleaned);
        // Page segmentation 11 looks for text wherever it stands, which suits forms: boxes and rules do not chain cells together.
        string[] how = [cleaned, "stdout", "--dpi", "300", "--psm", "11", "-l", languages, "tsv"];
        var run = await ExternalProgram.RunAsync("tesseract", how, limit, cancel);
        File.Delete(cleaned);
        return run.ExitCode == 0 ? new PageText(width, height, Parse(run.Output, width, height), "recognised") : null;
    }

    // By how many degrees, clockwise, the page is to be turned to stand upright; null when that cannot be told.
    private static async Task<int?> TurnAsync(SKBitmap page, string image, TimeSpan limit, CancellationToken cancel)
    {
        Pictures.Save(page, image);
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

    /// <summary>Parses Tesseract's TSV: level 5 lines are words; confidence is 0 to 100.</summary>
    public static IReadOnlyList<Word> Parse(string tsv, double width, double height)
    {
        var words = new List<Word>();
        foreach (var line in tsv.Split('\n').Skip(1))
        {
            var cells = line.TrimEnd('\r').Split('\t');
            if (cells.Length < 12 || cells[0] != "5" || string.IsNullOrWhiteSpace(cells[11]))
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
