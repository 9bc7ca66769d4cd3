using System.IO.Compression;
using System.Text;
using ClearLexicon.TestSupport;
using SkiaSharp;

namespace ClearLexicon.Web.Tests;

/// <summary>Files that were made to do harm, and sound ones to be mutated.</summary>
internal static class HostileFiles
{
    private static byte[] Page(string contents, string page = "/MediaBox[0 0 300 300]") =>
        HandPdf.Of(
            "<</Type/Catalog/Pages 2 0 R>>",
            "<</Type/Pages/Kids[3 0 R]/Count 1>>",
            $"<</Type/Page/Parent 2 0 R{page}/Contents 4 0 R/Resources<</Font<</F1<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>>>>>>>",
            contents
        );

    /// <summary>A page of text.</summary>
    public static byte[] SoundPdf(string text = "Grey Heron moored", string page = "/MediaBox[0 0 300 300]") =>
        Page(HandPdf.Stream($"BT /F1 12 Tf 50 150 Td ({text}) Tj ET"), page);

    /// <summary>Contents that are a reference to themselves: the reading library goes round until its stack is full.</summary>
    public static byte[] SelfReference { get; } = Page("4 0 R");

    /// <summary>Objects nested a hundred thousand deep.</summary>
    public static byte[] Nested { get; } = Page(new string('[', 100_000) + new string(']', 100_000));

    /// <summary>A page without a size.</summary>
    public static byte[] NoSize { get; } = SoundPdf(page: "/MediaBox[0 0 0 0]");

    /// <summary>A page of 97 × 97 inches.</summary>
    public static byte[] Huge { get; } = SoundPdf(page: "/MediaBox[0 0 7000 7000]");

    /// <summary>Half a gigabyte of text in some hundred kilobytes.</summary>
    public static byte[] Bomb()
    {
        using var packed = new MemoryStream();
        using (var deflate = new ZLibStream(packed, CompressionLevel.SmallestSize, leaveOpen: true))
        {
            var piece = Encoding.ASCII.GetBytes(
                string.Concat(Enumerable.Repeat("BT /F1 12 Tf 50 150 Td (Grey Heron moored at the quay) Tj ET\n", 1_000))
            );
            for (var i = 0; i < 2_500; i++)
                deflate.Write(piece);
        }
        // Latin-1 keeps every byte of it.
        return Page(HandPdf.Stream(Encoding.Latin1.GetString(packed.ToArray()), "/Filter/FlateDecode"));
    }

    /// <summary>A picture.</summary>
    public static byte[] Picture(SKEncodedImageFormat format)
    {
        using var bitmap = new SKBitmap(260, 260);
        using (var canvas = new SKCanvas(bitmap))
            canvas.Clear(SKColors.White);
        using var data = bitmap.Encode(format, 80);
        return data.ToArray();
    }

    /// <summary>A TIFF of one white page, uncompressed.</summary>
    public static byte[] Tiff()
    {
        using var file = new MemoryStream();
        using var writer = new BinaryWriter(file);
        const int side = 240;
        writer.Write("II*\0"u8);
        writer.Write(8);
        (short Tag, short Type, int Value)[] tags =
        [
            (256, 3, side),
            (257, 3, side),
            (258, 3, 8),
            (259, 3, 1),
            (262, 3, 1),
            (273, 4, 8 + 2 + 9 * 12 + 4),
            (277, 3, 1),
            (278, 3, side),
            (279, 4, side * side),
        ];
        writer.Write((short)tags.Length);
        foreach (var (tag, type, value) in tags)
        {
            writer.Write(tag);
            writer.Write(type);
            writer.Write(1);
            writer.Write(value);
        }
        writer.Write(0);
        writer.Write(Enumerable.Repeat((byte)255, side * side).ToArray());
        return file.ToArray();
    }

    /// <summary>A workbook of one sheet, with the strings and cells given.</summary>
    public static byte[] Workbook(string shared, string sheet)
    {
        using var file = new MemoryStream();
        using (var zip = new ZipArchive(file, ZipArchiveMode.Create, leaveOpen: true))
        {
            void Put(string name, string xml)
            {
                using var w = new StreamWriter(zip.CreateEntry(name).Open());
                w.Write("<?xml version=\"1.0\"?>" + xml);
            }
            Put(
                "[Content_Types].xml",
                "<Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"><Default Extension=\"rels\" "
                    + "ContentType=\"application/vnd.openxmlformats-package.relationships+xml\"/><Default Extension=\"xml\" "
                    + "ContentType=\"application/xml\"/><Override PartName=\"/xl/workbook.xml\" "
                    + "ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml\"/><Override "
                    + "PartName=\"/xl/worksheets/sheet1.xml\" "
                    + "ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml\"/><Override "
                    + "PartName=\"/xl/sharedStrings.xml\" "
                    + "ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.sharedStrings+xml\"/></Types>"
            );
            Put(
                "_rels/.rels",
                "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"r1\" "
                    + "Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument\" "
                    + "Target=\"xl/workbook.xml\"/></Relationships>"
            );
            Put(
                "xl/workbook.xml",
                "<workbook xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\" "
                    + "xmlns:r=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships\"><sheets><sheet name=\"a\" "
                    + "sheetId=\"1\" r:id=\"r1\"/></sheets></workbook>"
            );
            Put(
                "xl/_rels/workbook.xml.rels",
                "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"r1\" "
                    + "Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet\" "
                    + "Target=\"worksheets/sheet1.xml\"/><Relationship Id=\"r2\" "
                    + "Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings\" "
                    + "Target=\"sharedStrings.xml\"/></Relationships>"
            );
            Put("xl/sharedStrings.xml", $"<sst xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\">{shared}</sst>");
            Put(
                "xl/worksheets/sheet1.xml",
                $"<worksheet xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><sheetData>{sheet}</sheetData></worksheet>"
            );
        }
        return file.ToArray();
    }

    public const string Strings = "<si><t>Key</t></si><si><t>Value</t></si><si><t>a</t></si>";

    public const string Cells =
        "<row r=\"1\"><c r=\"A1\" t=\"s\"><v>0</v></c><c r=\"B1\" t=\"s\"><v>1</v></c></row><row r=\"2\"><c r=\"A2\" "
        + "t=\"s\"><v>2</v></c><c r=\"B2\"><v>5</v></c></row>";

    public const string Turtle =
        "@prefix skos: <http://www.w3.org/2004/02/skos/core#> .\n<http://e.example/a> a skos:Concept ; skos:prefLabel \"Pier\"@en "
        + "; skos:altLabel \"Jetty\"@en .\n<http://e.example/b> a skos:Concept ; skos:prefLabel \"Dock\"@en ; skos:broader "
        + "<http://e.example/a> .\n";

    public const string Rdf =
        "<?xml version=\"1.0\"?>\n<rdf:RDF xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\" "
        + "xmlns:skos=\"http://www.w3.org/2004/02/skos/core#\"><skos:Concept rdf:about=\"http://e.example/a\"><skos:prefLabel "
        + "xml:lang=\"en\">Pier</skos:prefLabel></skos:Concept></rdf:RDF>\n";

    /// <summary>Some bytes changed, doubled, cut or put in.</summary>
    public static byte[] Mutated(byte[] sound, Random random)
    {
        var bytes = sound.ToList();
        for (var i = random.Next(1, 12); i > 0 && bytes.Count > 16; i--)
        {
            var at = random.Next(8, bytes.Count);
            switch (random.Next(5))
            {
                case 0:
                    bytes[at] = (byte)random.Next(256);
                    break;
                case 1:
                    bytes[at] = (byte)"0123456789<>[](){}/&;\"'"[random.Next(23)];
                    break;
                case 2:
                    bytes.RemoveRange(at, Math.Min(random.Next(1, 60), bytes.Count - at));
                    break;
                case 3:
                    bytes.InsertRange(at, bytes.GetRange(at, Math.Min(random.Next(1, 60), bytes.Count - at)));
                    break;
                default:
                    bytes.InsertRange(
                        at,
                        Encoding.ASCII.GetBytes(
                            new[] { "-1", "99999999999", "4 0 R", "<<", "/Kids[2 0 R]", "\0", "<!ENTITY a \"b\">", "&amp;", "\\u0000" }[
                                random.Next(9)
                            ]
                        )
                    );
                    break;
            }
        }
        return [.. bytes];
    }
}
