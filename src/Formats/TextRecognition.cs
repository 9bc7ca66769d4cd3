using System.Globalization;
using ClearLexicon.Core.Reading;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>Reads the text of a page picture with Tesseract, as words with boxes and confidences (its TSV output).</summary>
public static class TextRecognition
{
    /// <summary>Shown where a page has no text because the recogniser is not installed.</summary>
    public const string Missing =
        "Text recognition (Tesseract) is not installed on this machine, so this page has no words. Install the package "
        + "tesseract-ocr and add the page again, or fill the fields by hand.";

    /// <summary>Whether Tesseract can be run here.</summary>
    public static bool Available => ExternalProgram.Exists("tesseract");

    /// <summary>Recognises one page picture.</summary>
    public static async Task<(PageText Text, string? Notice)> ReadAsync(string image, TimeSpan limit, CancellationToken cancel)
    {
        using var page = SKBitmap.Decode(image) ?? throw new InvalidDataException("a page could not be drawn.");
        int width = page.Width,
            height = page.Height;
        if (!Available)
            return (new PageText(width, height, [], "none"), Missing);
        var cleaned = image + ".clean.png";
        (width, height) = PageCleaning.Clean(page, cleaned);
        // Page segmentation 11 looks for text wherever it stands, which suits forms: boxes and rules do not chain cells together.
        var run = await ExternalProgram.RunAsync(
            "tesseract",
            [cleaned, "stdout", "--dpi", "300", "--psm", "11", "-l", "eng", "tsv"],
            limit,
            cancel
        );
        File.Delete(cleaned);
        return run.ExitCode == 0
            ? (new PageText(width, height, Parse(run.Output, width, height), "recognised"), null)
            : (new PageText(width, height, [], "none"), "Text recognition could not read this page; fill the fields by hand.");
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
