using System.Globalization;
using System.IO.Compression;
using System.Text;
using ClearLexicon.Core.Reading;
using PdfSharp.Drawing;
using PdfSharp.Pdf;

namespace ClearLexicon.Formats;

/// <summary>
/// A PDF of nothing but invisible words (text rendering mode 3, ISO 32000-1, 9.3.6), to be laid over pages so that any viewer finds them.
/// A font without glyphs serves: nothing of it is ever drawn, and its letters are Unicode itself.
/// </summary>
public static class InvisibleText
{
    private const double LetterWidth = 0.5;
    private const string EmptyFont = "/usr/share/tesseract-ocr/5/tessdata/pdf.ttf";

    /// <summary>Writes one page for each text, each as large as its page on paper.</summary>
    public static void Write(string path, IReadOnlyList<PageText> pages)
    {
        using var document = new PdfDocument();
        var font = Font(document);
        foreach (var text in pages)
        {
            var size = text.Size ?? new PageSize(595, 842);
            var page = document.AddPage();
            page.Width = XUnit.FromPoint(size.Width);
            page.Height = XUnit.FromPoint(size.Height);
            var resources = new PdfDictionary(document);
            var fonts = new PdfDictionary(document);
            fonts.Elements.SetReference("/F", font);
            resources.Elements.SetObject("/Font", fonts);
            page.Elements.SetObject("/Resources", resources);
            PicturePdf.SetContent(page, Words(text, size));
        }
        document.Save(path);
    }

    // The words stand on the upright picture; on the page as it came they lie askew by as much as it did.
    private static string Words(PageText text, PageSize size)
    {
        var content = new StringBuilder("BT 3 Tr\n");
        var angle = -text.Lay.Skew * Math.PI / 180;
        var (cos, sin) = (Math.Cos(angle), Math.Sin(angle));
        foreach (var word in text.Words)
        {
            var (w, h) = (word.Box.W * size.Width, word.Box.H * size.Height);
            var letters = Letters(word.Text);
            if (!(w > 0.01 && h > 0.01) || letters.Length == 0)
                continue;
            var height = Math.Clamp(h, 1, 500);
            var across = Math.Clamp(100 * w / (letters.Length / 4 * height * LetterWidth), 1, 2_000);
            // The middle of the word, from the middle of the page, up positive. Each word stands level: viewers take one that does not
            // apart.
            var (x, y) = (word.Box.CentreX * size.Width - size.Width / 2, size.Height / 2 - word.Box.CentreY * size.Height);
            var (left, low) = (x * cos - y * sin + (size.Width - w) / 2, x * sin + y * cos + (size.Height - h) / 2);
            content.Append(
                CultureInfo.InvariantCulture,
                $"/F {height:0.##} Tf {across:0.##} Tz 1 0 0 1 {left:0.##} {low:0.##} Tm <{letters}> Tj\n"
            );
        }
        return content.Append("ET").ToString();
    }

    // Four hexadecimal digits a letter; what lies beyond the first plane of Unicode has no letter of its own here.
    private static string Letters(string word)
    {
        var hex = new StringBuilder();
        foreach (var rune in word.EnumerateRunes())
            hex.Append((rune.IsBmp ? rune.Value : 0xFFFD).ToString("X4", CultureInfo.InvariantCulture));
        return hex.ToString();
    }

    private static PdfDictionary Font(PdfDocument document)
    {
        PdfDictionary Made(params (string Name, PdfItem Value)[] entries)
        {
            var made = new PdfDictionary(document);
            foreach (var (name, value) in entries)
                made.Elements[name] = value;
            document.Internals.AddObject(made);
            return made;
        }
        PdfName Name(string name) => new(name);
        var map = new PdfDictionary(document);
        map.CreateStream(Encoding.ASCII.GetBytes(ToUnicode()));
        document.Internals.AddObject(map);
        // A font of one empty letter, embedded, so that copies of the page can be made by the standard for keeping them (PDF/A): Debian's
        // text recognition brings one. Where it is missing, nothing stands in its place: no viewer needs it to find words.
        (string, PdfItem)[] embedded = [];
        PdfItem toGlyphs = Name("/Identity");
        if (File.Exists(EmptyFont))
        {
            embedded = [("/FontFile2", Stream(document, File.ReadAllBytes(EmptyFont)).Reference!)];
            var glyphs = new byte[2 * 0x10000];
            for (var at = 1; at < glyphs.Length; at += 2)
                glyphs[at] = 1;
            toGlyphs = Stream(document, glyphs).Reference!;
        }
        var descriptor = Made([
            ("/Type", Name("/FontDescriptor")),
            ("/FontName", Name("/Unseen")),
            ("/Flags", new PdfInteger(4)),
            ("/FontBBox", new PdfLiteral("[0 0 500 1000]")),
            ("/ItalicAngle", new PdfInteger(0)),
            ("/Ascent", new PdfInteger(1000)),
            ("/Descent", new PdfInteger(0)),
            ("/CapHeight", new PdfInteger(1000)),
            ("/StemV", new PdfInteger(80)),
            .. embedded,
        ]);
        var letters = Made(
            ("/Type", Name("/Font")),
            ("/Subtype", Name("/CIDFontType2")),
            ("/BaseFont", Name("/Unseen")),
            ("/CIDSystemInfo", new PdfLiteral("<</Registry (Adobe) /Ordering (Identity) /Supplement 0>>")),
            ("/FontDescriptor", descriptor.Reference!),
            ("/DW", new PdfInteger((int)(LetterWidth * 1000))),
            ("/CIDToGIDMap", toGlyphs)
        );
        return Made(
            ("/Type", Name("/Font")),
            ("/Subtype", Name("/Type0")),
            ("/BaseFont", Name("/Unseen")),
            ("/Encoding", Name("/Identity-H")),
            ("/DescendantFonts", new PdfArray(document, letters.Reference!)),
            ("/ToUnicode", map.Reference!)
        );
    }

    private static PdfDictionary Stream(PdfDocument document, byte[] bytes)
    {
        using var packed = new MemoryStream();
        using (var zip = new ZLibStream(packed, CompressionLevel.Optimal, leaveOpen: true))
            zip.Write(bytes);
        var stream = new PdfDictionary(document);
        stream.CreateStream(packed.ToArray());
        stream.Elements["/Filter"] = new PdfName("/FlateDecode");
        stream.Elements["/Length1"] = new PdfInteger(bytes.Length);
        document.Internals.AddObject(stream);
        return stream;
    }

    private static string ToUnicode()
    {
        var map = new StringBuilder(
            """
            /CIDInit /ProcSet findresource begin
            12 dict begin
            begincmap
            /CIDSystemInfo << /Registry (Adobe) /Ordering (UCS) /Supplement 0 >> def
            /CMapName /Adobe-Identity-UCS def
            /CMapType 2 def
            1 begincodespacerange
            <0000> <FFFF>
            endcodespacerange

            """
        );
        // A range may not run over the last byte, and a block holds at most a hundred.
        foreach (var block in Enumerable.Range(0, 256).Where(high => high is < 0xD8 or > 0xDF).Chunk(100))
        {
            map.Append(CultureInfo.InvariantCulture, $"{block.Length} beginbfrange\n");
            foreach (var high in block)
                map.Append(CultureInfo.InvariantCulture, $"<{high:X2}00> <{high:X2}FF> <{high:X2}00>\n");
            map.Append("endbfrange\n");
        }
        return map.Append("endcmap\nCMapName currentdict /CMap defineresource pop\nend\nend").ToString();
    }
}
