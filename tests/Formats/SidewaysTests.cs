using System.Diagnostics;
using System.Globalization;
using System.Text;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Formats.Tests;

/// <summary>Words have their place where they are seen, however page and text lie: held against the ink that another program
/// draws.</summary>
public class SidewaysTests
{
    public static TheoryData<int, int, bool> Ways
    {
        get
        {
            var ways = new TheoryData<int, int, bool>();
            foreach (var page in new[] { 0, 90, 180, 270 })
            foreach (var text in new[] { 0, 90, 180, 270, 25 })
                ways.Add(page, text, page == 90);
            return ways;
        }
    }

    [Theory]
    [MemberData(nameof(Ways))]
    public void The_boxes_of_words_cover_their_ink(int page, int text, bool landscape)
    {
        var (cos, sin) = (Math.Cos(text * Math.PI / 180), Math.Sin(text * Math.PI / 180));
        var size = landscape ? "0 0 500 300" : "0 0 300 500";
        var file = Path.GetTempFileName();
        File.WriteAllBytes(
            file,
            HandPdf.Of(
                "<</Type/Catalog/Pages 2 0 R>>",
                "<</Type/Pages/Kids[3 0 R]/Count 1>>",
                $"<</Type/Page/Parent 2 0 R/MediaBox[{size}]/Rotate {page}/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>>>",
                HandPdf.Stream(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"BT /F 16 Tf {cos:0.####} {sin:0.####} {-sin:0.####} {cos:0.####} 150 160 Tm (Quillfeather 7734) Tj ET"
                    )
                ),
                "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"
            )
        );
        var read = PageReading.TextLayer(file, 1);
        var words = read.Words;
        // The name stands in a place of its own besides, where the reader found it; here it is found by its letters.
        var masks = new Redaction(
            [new FieldReader(new TextField("name", "Name") { Restricted = true }, new Dictionary<string, VocabularyIndex>())],
            new HashSet<string>(),
            new Dictionary<string, string> { ["name"] = "Quillfeather" },
            new Dictionary<string, Evidence> { ["name"] = new(2, new Box(0, 0, 0.1, 0.1), "Quillfeather", "typed", 1) }
        ).Masks(read, 1);
        var left = string.Concat(words.Where(w => !masks.Contains(w.Box)).Select(w => w.Text));
        Assert.DoesNotContain("feat", left + string.Concat(left.Reverse()));
        var (width, height, ink) = Drawn(file);
        File.Delete(file);
        Assert.Contains(words, w => w.Text.Contains('7', StringComparison.Ordinal));
        var seen = 0;
        for (var y = 0; y < height; y++)
        for (var x = 0; x < width; x++)
            if (ink[y * width + x] < 160)
            {
                seen++;
                var (px, py) = ((x + 0.5) / width, (y + 0.5) / height);
                Assert.True(
                    words.Any(w =>
                        px >= w.Box.X - 0.012 && px <= w.Box.X + w.Box.W + 0.012 && py >= w.Box.Y - 0.012 && py <= w.Box.Y + w.Box.H + 0.012
                    ),
                    $"ink at {px:0.00}, {py:0.00} outside of {string.Join(" ", words.Select(w => $"{w.Text} {w.Box}"))}"
                );
            }
        Assert.True(seen > 200, $"{seen} dark points");
    }

    private static (int Width, int Height, byte[] Ink) Drawn(string pdf)
    {
        using var poppler = Process.Start(
            new ProcessStartInfo("pdftoppm", ["-r", "72", "-gray", pdf]) { RedirectStandardOutput = true, UseShellExecute = false }
        )!;
        using var picture = new MemoryStream();
        poppler.StandardOutput.BaseStream.CopyTo(picture);
        poppler.WaitForExit();
        var bytes = picture.ToArray();
        // P5, width, height, 255, then a byte a point.
        var (at, numbers) = (2, new List<int>());
        while (numbers.Count < 3)
        {
            while (char.IsWhiteSpace((char)bytes[at]))
                at++;
            var from = at;
            while (char.IsAsciiDigit((char)bytes[at]))
                at++;
            numbers.Add(int.Parse(Encoding.ASCII.GetString(bytes, from, at - from), CultureInfo.InvariantCulture));
        }
        return (numbers[0], numbers[1], bytes[(at + 1)..]);
    }

    /// <summary>Letters of lines that run upwards stand beside letters of other lines at the same height.</summary>
    [Theory]
    [InlineData(0, "0 1 -1 0")]
    [InlineData(0, "0 -1 1 0")]
    [InlineData(90, "1 0 0 1")]
    [InlineData(270, "1 0 0 1")]
    public void Lines_beside_one_another_are_read_along_themselves(int page, string direction)
    {
        string[] lines = ["Quillfeather of Merrow", "Grey Heron 7734", "sound in limb"];
        var (dx, dy) = direction.StartsWith('1') ? (0, -40) : (40, 0);
        var text = lines.Select((l, i) => $"BT /F 16 Tf {direction} {150 + i * dx} {250 + i * dy} Tm ({l}) Tj ET");
        var file = Path.GetTempFileName();
        File.WriteAllBytes(
            file,
            HandPdf.Of(
                "<</Type/Catalog/Pages 2 0 R>>",
                "<</Type/Pages/Kids[3 0 R]/Count 1>>",
                $"<</Type/Page/Parent 2 0 R/MediaBox[0 0 500 500]/Rotate {page}/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>>>",
                HandPdf.Stream(string.Join('\n', text)),
                "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"
            )
        );
        Assert.Equal(lines.SelectMany(l => l.Split(' ')).Order(), PageReading.TextLayer(file, 1).Words.Select(w => w.Text).Order());
        File.Delete(file);
    }
}
