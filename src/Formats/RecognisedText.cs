using System.Globalization;
using System.Xml;
using System.Xml.Linq;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Formats;

/// <summary>
/// Recognised text in the open formats for it: ALTO 4 (Library of Congress, namespace <c>ns-v4#</c>) and hOCR 1.2, read and written.
/// </summary>
public static class RecognisedText
{
    /// <summary>Largest file of recognised text, in bytes.</summary>
    public const long Largest = 30_000_000;

    private static readonly XNamespace Alto = "http://www.loc.gov/standards/alto/ns-v4#";
    private static readonly XNamespace Html = "http://www.w3.org/1999/xhtml";

    /// <summary>Endings of files of recognised text that are brought beside a picture.</summary>
    public static IReadOnlyList<string> Endings { get; } = [".hocr", ".xml"];

    /// <summary>Whether a file is called as recognised text is.</summary>
    public static bool IsCalledSo(string name) => Endings.Contains(Path.GetExtension(name).ToLowerInvariant());

    /// <summary>Writes a page as ALTO, measured in pixels of its picture: one text block, a line for each line of words.</summary>
    /// <param name="page">The page.</param>
    /// <param name="picture">Name of its picture.</param>
    public static string WriteAlto(PageText page, string picture)
    {
        var (width, height) = Pixels(page);
        XElement Placed(string name, string? id, Box box, params object?[] inside) =>
            new(
                Alto + name,
                id is null ? null : new XAttribute("ID", id),
                new XAttribute("HPOS", Whole(box.X * width)),
                new XAttribute("VPOS", Whole(box.Y * height)),
                new XAttribute("WIDTH", Whole(box.W * width)),
                new XAttribute("HEIGHT", Whole(box.H * height)),
                inside
            );
        var lines = Lines(page)
            .Select(
                (line, i) =>
                    Placed(
                        "TextLine",
                        $"line{i + 1}",
                        Box.Around(line.Select(w => w.Box))!.Value,
                        line.SelectMany(
                            (word, k) =>
                                new[]
                                {
                                    k == 0 ? null : new XElement(Alto + "SP"),
                                    Placed(
                                        "String",
                                        null,
                                        word.Box,
                                        new XAttribute("CONTENT", Sound(word.Text)),
                                        new XAttribute("WC", word.Confidence.ToString("0.###", CultureInfo.InvariantCulture))
                                    ),
                                }
                        )
                    )
            )
            .ToList();
        var block = lines.Count == 0 ? null : Placed("TextBlock", "block1", Box.Around(page.Words.Select(w => w.Box))!.Value, lines);
        return Text(
            new XElement(
                Alto + "alto",
                new XElement(
                    Alto + "Description",
                    new XElement(Alto + "MeasurementUnit", "pixel"),
                    new XElement(Alto + "sourceImageInformation", new XElement(Alto + "fileName", picture))
                ),
                new XElement(
                    Alto + "Layout",
                    new XElement(
                        Alto + "Page",
                        new XAttribute("ID", "page1"),
                        new XAttribute("PHYSICAL_IMG_NR", 1),
                        new XAttribute("WIDTH", Whole(width)),
                        new XAttribute("HEIGHT", Whole(height)),
                        Placed("PrintSpace", null, new Box(0, 0, 1, 1), block)
                    )
                )
            )
        );
    }

    /// <summary>Writes a page as hOCR.</summary>
    /// <param name="page">The page.</param>
    /// <param name="picture">Name of its picture.</param>
    public static string WriteHocr(PageText page, string picture)
    {
        var (width, height) = Pixels(page);
        string Place(Box b) =>
            $"bbox {Whole(b.X * width)} {Whole(b.Y * height)} {Whole((b.X + b.W) * width)} {Whole((b.Y + b.H) * height)}";
        XElement Marked(string name, string kind, string title, params object?[] inside) =>
            new(Html + name, new XAttribute("class", kind), new XAttribute("title", title), inside);
        return Text(
            new XElement(
                Html + "html",
                new XElement(
                    Html + "head",
                    new XElement(Html + "title", picture),
                    new XElement(Html + "meta", new XAttribute("name", "ocr-system"), new XAttribute("content", "Clear Lexicon")),
                    new XElement(
                        Html + "meta",
                        new XAttribute("name", "ocr-capabilities"),
                        new XAttribute("content", "ocr_page ocr_line ocrx_word")
                    )
                ),
                new XElement(
                    Html + "body",
                    Marked(
                        "div",
                        "ocr_page",
                        $"image \"{picture.Replace('"', '\'')}\"; {Place(new Box(0, 0, 1, 1))}",
                        Lines(page)
                            .Select(line =>
                                Marked(
                                    "span",
                                    "ocr_line",
                                    Place(Box.Around(line.Select(w => w.Box))!.Value),
                                    line.SelectMany(w =>
                                        new object[]
                                        {
                                            Marked(
                                                "span",
                                                "ocrx_word",
                                                $"{Place(w.Box)}; x_wconf {Whole(w.Confidence * 100)}",
                                                Sound(w.Text)
                                            ),
                                            " ",
                                        }
                                    )
                                )
                            )
                    )
                )
            )
        );
    }

    /// <summary>Reads the words of one page from a file of ALTO (version 2 to 4) or hOCR.</summary>
    /// <param name="path">The file.</param>
    /// <param name="number">Which of its pages, from 1.</param>
    /// <returns>The words, or in one sentence why there are none.</returns>
    public static (PageText? Page, string? Problem) Read(string path, int number)
    {
        if (new FileInfo(path).Length > Largest)
            return (null, "The text beside it is larger than text of a page can be.");
        var settings = new XmlReaderSettings
        {
            DtdProcessing = DtdProcessing.Ignore,
            XmlResolver = null,
            MaxCharactersInDocument = Largest,
        };
        try
        {
            using var reader = XmlReader.Create(path, settings);
            var root = XDocument.Load(reader).Root!;
            var page = root.Name.LocalName == "alto" ? ReadAlto(root, number) : ReadHocr(root, number);
            return page is null ? (null, $"The text beside it has no page {number}.") : (page, null);
        }
        catch (Exception e) when (e is XmlException or FormatException or OverflowException)
        {
            return (
                null,
                $"The text beside it cannot be read: "
                    + $"{(e is XmlException x ? $"line {x.LineNumber} is no XML" : "a measure in it is no number")}."
            );
        }
    }

    private static PageText? ReadAlto(XElement root, int number)
    {
        if (Named(root, "Page").ElementAtOrDefault(number - 1) is not { } page)
            return null;
        double At(XElement element, string name) => double.Parse(element.Attribute(name)?.Value ?? "0", CultureInfo.InvariantCulture);
        var (width, height) = (At(page, "WIDTH"), At(page, "HEIGHT"));
        if (!IsSize(width, height))
            return null;
        var words = Named(page, "String")
            .Take(PageReading.MostWords)
            .Where(s => !string.IsNullOrWhiteSpace(s.Attribute("CONTENT")?.Value))
            .Select(s => new Word(
                CodePoints.Repaired(s.Attribute("CONTENT")!.Value),
                Shares(At(s, "HPOS") / width, At(s, "VPOS") / height, At(s, "WIDTH") / width, At(s, "HEIGHT") / height),
                s.Attribute("WC") is null ? 1 : Sure(At(s, "WC"))
            ));
        return new PageText(width, height, [.. words], "brought");
    }

    private static PageText? ReadHocr(XElement root, int number)
    {
        if (
            Classed(root, "ocr_page").ElementAtOrDefault(number - 1) is not { } page
            || Place(page) is not [var left, var top, var right, var bottom]
        )
            return null;
        var (width, height) = (right - left, bottom - top);
        if (!IsSize(width, height))
            return null;
        var words = new List<Word>();
        foreach (var word in Classed(page, "ocrx_word").Take(PageReading.MostWords))
        {
            if (Place(word) is not [var x0, var y0, var x1, var y1] || string.IsNullOrWhiteSpace(word.Value))
                continue;
            var sure = Property(word, "x_wconf") is [var percent, ..] ? Sure(percent / 100) : 1;
            words.Add(
                new Word(
                    CodePoints.Repaired(word.Value.Trim()),
                    Shares((x0 - left) / width, (y0 - top) / height, (x1 - x0) / width, (y1 - y0) / height),
                    sure
                )
            );
        }
        return new PageText(width, height, words, "brought");
    }

    private static IEnumerable<XElement> Named(XElement root, string name) => root.Descendants().Where(e => e.Name.LocalName == name);

    private static IEnumerable<XElement> Classed(XElement root, string kind) =>
        root.DescendantsAndSelf().Where(e => e.Attribute("class")?.Value.Split(' ').Contains(kind) == true);

    private static double[]? Place(XElement element) => Property(element, "bbox") is { Length: >= 4 } box ? box[..4] : null;

    private static double[]? Property(XElement element, string name) =>
        element
            .Attribute("title")
            ?.Value.Split(';', StringSplitOptions.TrimEntries)
            .Where(p => p.StartsWith(name + " ", StringComparison.Ordinal))
            .Select(p =>
                p[(name.Length + 1)..]
                    .Split(' ', StringSplitOptions.RemoveEmptyEntries)
                    .Select(n => double.Parse(n, NumberStyles.Float, CultureInfo.InvariantCulture))
                    .ToArray()
            )
            .FirstOrDefault();

    private static bool IsSize(double width, double height) => width is > 0 and < 1_000_000 && height is > 0 and < 1_000_000;

    // What is no number says nothing of how sure somebody was.
    private static double Sure(double share) => double.IsFinite(share) ? Math.Clamp(share, 0, 1) : 0;

    private static Box Shares(double x, double y, double w, double h)
    {
        double Sound(double v) => double.IsFinite(v) ? Math.Clamp(v, 0, 1) : 0;
        return new Box(Sound(x), Sound(y), Sound(w), Sound(h));
    }

    // The picture of a born-digital page is measured as it is drawn.
    private static (double Width, double Height) Pixels(PageText page) =>
        page.Method == "text layer" ? (page.Width * PageReading.Dpi / 72, page.Height * PageReading.Dpi / 72) : (page.Width, page.Height);

    private static List<List<Word>> Lines(PageText page) =>
        [.. ZoneReading.Lines(page.Words.Select(w => (w, w.Box.CentreX, w.Box.CentreY))).Select(l => l.ToList())];

    private static string Whole(double value) => Math.Round(value).ToString(CultureInfo.InvariantCulture);

    // What XML has no place for is left out.
    private static string Sound(string text) => new([.. text.Where(XmlConvert.IsXmlChar)]);

    private static string Text(XElement root) => "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n" + root;
}
