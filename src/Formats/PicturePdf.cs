using System.Buffers.Binary;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using BitMiracle.LibTiff.Classic;
using ClearLexicon.Core.Reading;
using PdfSharp.Drawing;
using PdfSharp.Pdf;
using PdfSharp.Pdf.Advanced;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>
/// A picture as a PDF of one page that is as large as the picture on paper. JPEG, PNG without transparency and TIFF of fax group 4 are
/// carried over packed as they came, bit by bit; others are unpacked and packed again without loss.
/// </summary>
public static class PicturePdf
{
    /// <summary>Resolution of a picture that does not say its own and would be larger or smaller than paper otherwise.</summary>
    private const double UsualDpi = 200;

    private const double A4 = 595;

    // The packed picture as the PDF holds it, with its size on paper and how it is turned to be seen.
    private sealed record Packed(int Width, int Height, byte[] Bytes, string Filter, string ColourSpace, int Bits)
    {
        public Dictionary<string, int> Parameters { get; init; } = [];

        public bool BlackIs1 { get; init; }

        public byte[]? Palette { get; init; }

        public string? Decode { get; init; }

        public (double X, double Y) Dpi { get; init; }

        public SKEncodedOrigin Origin { get; init; } = SKEncodedOrigin.TopLeft;
    }

    /// <summary>Writes the page.</summary>
    /// <param name="source">The file with the picture.</param>
    /// <param name="kind">What it is; no PDF.</param>
    /// <param name="number">Page of a TIFF, from 1.</param>
    /// <param name="target">The PDF.</param>
    /// <returns>The size of the page.</returns>
    /// <exception cref="InvalidDataException">It is damaged.</exception>
    public static PageSize Write(string source, FileKind kind, int number, string target)
    {
        var packed =
            kind == FileKind.Tiff ? Fax(source, number) ?? Plain(TiffPages.Read(source, number), TiffDpi(source, number)) : Image(source);
        if (packed is null)
            throw new InvalidDataException($"page {number} is damaged.");
        var (w, h) = Paper(packed);
        var swaps =
            packed.Origin
            is SKEncodedOrigin.LeftTop
                or SKEncodedOrigin.RightTop
                or SKEncodedOrigin.RightBottom
                or SKEncodedOrigin.LeftBottom;
        var size = swaps ? new PageSize(h, w) : new PageSize(w, h);
        using var document = new PdfDocument();
        document.Options.CompressContentStreams = false;
        var page = document.AddPage();
        page.Width = XUnit.FromPoint(size.Width);
        page.Height = XUnit.FromPoint(size.Height);
        var picture = Object(document, packed);
        var resources = new PdfDictionary(document);
        var objects = new PdfDictionary(document);
        objects.Elements.SetReference("/P", picture);
        resources.Elements.SetObject("/XObject", objects);
        page.Elements.SetObject("/Resources", resources);
        SetContent(page, $"q {Matrix(packed.Origin, size)} cm /P Do Q");
        document.Save(target);
        return size;
    }

    /// <summary>Gives a page its content.</summary>
    internal static void SetContent(PdfSharp.Pdf.PdfPage page, string content)
    {
        var stream = new PdfDictionary(page.Owner);
        stream.CreateStream(Encoding.ASCII.GetBytes(content));
        page.Owner.Internals.AddObject(stream);
        page.Elements.SetReference("/Contents", stream);
    }

    // The picture is a unit square; this lays it on the page as it is to be seen (EXIF 2.32, orientation).
    private static string Matrix(SKEncodedOrigin origin, PageSize size)
    {
        var (w, h) = (size.Width, size.Height);
        double[] m = origin switch
        {
            SKEncodedOrigin.TopRight => [-w, 0, 0, h, w, 0],
            SKEncodedOrigin.BottomRight => [-w, 0, 0, -h, w, h],
            SKEncodedOrigin.BottomLeft => [w, 0, 0, -h, 0, h],
            SKEncodedOrigin.LeftTop => [0, -h, -w, 0, w, h],
            SKEncodedOrigin.RightTop => [0, -h, w, 0, 0, h],
            SKEncodedOrigin.RightBottom => [0, h, w, 0, 0, 0],
            SKEncodedOrigin.LeftBottom => [0, h, -w, 0, w, 0],
            _ => [w, 0, 0, h, 0, 0],
        };
        return string.Join(' ', m.Select(v => v.ToString("0.###", CultureInfo.InvariantCulture)));
    }

    private static PdfDictionary Object(PdfDocument document, Packed packed)
    {
        var picture = new PdfDictionary(document);
        picture.Elements.SetName("/Type", "/XObject");
        picture.Elements.SetName("/Subtype", "/Image");
        picture.Elements.SetInteger("/Width", packed.Width);
        picture.Elements.SetInteger("/Height", packed.Height);
        picture.Elements.SetInteger("/BitsPerComponent", packed.Bits);
        if (packed.Palette is { } palette)
            picture.Elements["/ColorSpace"] = new PdfArray(
                document,
                new PdfName("/Indexed"),
                new PdfName("/DeviceRGB"),
                new PdfInteger(palette.Length / 3 - 1),
                new PdfString(new string([.. palette.Select(b => (char)b)]), PdfStringEncoding.RawEncoding)
            );
        else
            picture.Elements.SetName("/ColorSpace", packed.ColourSpace);
        picture.Elements.SetName("/Filter", packed.Filter);
        if (packed.Parameters.Count > 0)
        {
            var parameters = new PdfDictionary(document);
            foreach (var (name, value) in packed.Parameters)
                parameters.Elements.SetInteger(name, value);
            if (packed.BlackIs1)
                parameters.Elements.SetBoolean("/BlackIs1", true);
            picture.Elements.SetObject("/DecodeParms", parameters);
        }
        if (packed.Decode is { } decode)
            picture.Elements["/Decode"] = new PdfLiteral(decode);
        picture.CreateStream(packed.Bytes);
        document.Internals.AddObject(picture);
        return picture;
    }

    private static (double W, double H) Paper(Packed packed)
    {
        var (x, y) = packed.Dpi;
        if (!(x is >= 50 and <= 2_400 && y is >= 50 and <= 2_400))
            x = y =
                Math.Abs(packed.Width * 72 / UsualDpi - A4) < A4 / 2
                    ? UsualDpi
                    : Math.Max(50, Math.Min(packed.Width, packed.Height) * 72 / A4);
        return (Side(packed.Width * 72 / x), Side(packed.Height * 72 / y));
    }

    private static double Side(double points) => Math.Round(Math.Clamp(points, 3, PageReading.LongestSide), 2);

    private static Packed? Image(string source)
    {
        var bytes = File.ReadAllBytes(source);
        using var codec = SKCodec.Create(source);
        if (codec is null)
            return null;
        var carried = codec.EncodedFormat == SKEncodedImageFormat.Jpeg ? Jpeg(bytes) : Png(bytes);
        return carried is not null ? carried with { Origin = codec.EncodedOrigin } : Plain(UprightImage.Read(source), (0, 0));
    }

    private static Packed? Jpeg(byte[] bytes)
    {
        var (dpi, adobe) = ((0.0, 0.0), false);
        for (var at = 2; at + 9 < bytes.Length && bytes[at] == 0xFF; )
        {
            var (marker, length) = (bytes[at + 1], BinaryPrimitives.ReadUInt16BigEndian(bytes.AsSpan(at + 2)));
            var data = bytes.AsSpan(Math.Min(at + 4, bytes.Length), Math.Clamp(length - 2, 0, bytes.Length - at - 4));
            if (marker == 0xE0 && data.Length >= 12 && data.StartsWith("JFIF\0"u8))
            {
                double unit =
                    data[7] == 1 ? 1
                    : data[7] == 2 ? 2.54
                    : 0;
                dpi = (unit * BinaryPrimitives.ReadUInt16BigEndian(data[8..]), unit * BinaryPrimitives.ReadUInt16BigEndian(data[10..]));
            }
            adobe |= marker == 0xEE && data.StartsWith("Adobe"u8);
            // Baseline, extended and progressive; the rarer kinds are unpacked.
            if (marker is 0xC0 or 0xC1 or 0xC2 && data.Length >= 6)
                return new Packed(
                    BinaryPrimitives.ReadUInt16BigEndian(data[3..]),
                    BinaryPrimitives.ReadUInt16BigEndian(data[1..]),
                    bytes,
                    "/DCTDecode",
                    data[5] switch
                    {
                        1 => "/DeviceGray",
                        4 => "/DeviceCMYK",
                        _ => "/DeviceRGB",
                    },
                    data[0]
                )
                {
                    Dpi = dpi,
                    Decode = data[5] == 4 && adobe ? "[1 0 1 0 1 0 1 0]" : null,
                };
            if (marker == 0xDA)
                return null;
            at += 2 + length;
        }
        return null;
    }

    private static Packed? Png(byte[] bytes)
    {
        using var data = new MemoryStream();
        byte[]? palette = null;
        var dpi = (0.0, 0.0);
        int width = 0,
            height = 0,
            bits = 0,
            colour = -1;
        for (var at = 8; at + 12 <= bytes.Length; )
        {
            var length = BinaryPrimitives.ReadInt32BigEndian(bytes.AsSpan(at));
            if (length < 0 || length > bytes.Length - at - 12)
                return null;
            var chunk = bytes.AsSpan(at + 8, length);
            switch (Encoding.ASCII.GetString(bytes, at + 4, 4))
            {
                case "IHDR" when length >= 13:
                    (width, height) = (BinaryPrimitives.ReadInt32BigEndian(chunk), BinaryPrimitives.ReadInt32BigEndian(chunk[4..]));
                    (bits, colour) = (chunk[8], chunk[9]);
                    // Alpha and interlaced rows have no form of their own in a PDF.
                    if (colour is not (0 or 2 or 3) || chunk[12] != 0)
                        return null;
                    break;
                case "PLTE":
                    palette = chunk.ToArray();
                    break;
                case "tRNS":
                    return null;
                case "pHYs" when length >= 9 && chunk[8] == 1:
                    dpi = (BinaryPrimitives.ReadInt32BigEndian(chunk) * 0.0254, BinaryPrimitives.ReadInt32BigEndian(chunk[4..]) * 0.0254);
                    break;
                case "IDAT":
                    data.Write(chunk);
                    break;
            }
            at += 12 + length;
        }
        if (width < 1 || height < 1 || data.Length == 0 || colour == 3 && palette is null)
            return null;
        return new Packed(width, height, data.ToArray(), "/FlateDecode", colour == 2 ? "/DeviceRGB" : "/DeviceGray", bits)
        {
            Palette = colour == 3 ? palette : null,
            Dpi = dpi,
            Parameters = new()
            {
                ["/Predictor"] = 15,
                ["/Colors"] = colour == 2 ? 3 : 1,
                ["/BitsPerComponent"] = bits,
                ["/Columns"] = width,
            },
        };
    }

    private static Packed? Fax(string source, int number)
    {
        TiffPages.Silence();
        using var tiff = Tiff.Open(source, "r");
        if (tiff is null || !tiff.SetDirectory((short)(number - 1)))
            return null;
        int Field(TiffTag tag, int otherwise) => tiff.GetField(tag)?[0].ToInt() ?? otherwise;
        if (
            Field(TiffTag.COMPRESSION, 1) != (int)Compression.CCITTFAX4
            || tiff.NumberOfStrips() != 1
            || tiff.IsTiled()
            || Field(TiffTag.ORIENTATION, 1) != (int)Orientation.TOPLEFT
        )
            return null;
        var length = tiff.RawStripSize(0);
        if (length is <= 0 or > int.MaxValue / 2)
            return null;
        var bytes = new byte[length];
        if (tiff.ReadRawStrip(0, bytes, 0, (int)length) != length)
            return null;
        if (Field(TiffTag.FILLORDER, 1) == (int)FillOrder.LSB2MSB)
            Tiff.ReverseBits(bytes, bytes.Length);
        var (width, height) = (Field(TiffTag.IMAGEWIDTH, 0), Field(TiffTag.IMAGELENGTH, 0));
        return new Packed(width, height, bytes, "/CCITTFaxDecode", "/DeviceGray", 1)
        {
            Dpi = TiffDpi(source, number),
            Parameters = new()
            {
                ["/K"] = -1,
                ["/Columns"] = width,
                ["/Rows"] = height,
            },
            BlackIs1 = Field(TiffTag.PHOTOMETRIC, 0) == (int)Photometric.MINISBLACK,
        };
    }

    private static (double, double) TiffDpi(string source, int number)
    {
        using var tiff = Tiff.Open(source, "r");
        if (tiff is null || !tiff.SetDirectory((short)(number - 1)))
            return default;
        var unit = tiff.GetField(TiffTag.RESOLUTIONUNIT)?[0].ToInt() == (int)ResUnit.CENTIMETER ? 2.54 : 1;
        double At(TiffTag tag) => (tiff.GetField(tag)?[0].ToDouble() ?? 0) * unit;
        return (At(TiffTag.XRESOLUTION), At(TiffTag.YRESOLUTION));
    }

    // Unpacked to red, green and blue, or to gray when it has no colour, and packed without loss.
    private static Packed? Plain(SKBitmap? bitmap, (double, double) dpi)
    {
        if (bitmap is null)
            return null;
        using (bitmap)
        {
            var pixels = bitmap.GetPixelSpan();
            var isGray = true;
            for (var i = 0; i + 3 < pixels.Length && isGray; i += 4)
                isGray = pixels[i] == pixels[i + 1] && pixels[i] == pixels[i + 2];
            var plain = new byte[bitmap.Width * bitmap.Height * (isGray ? 1 : 3)];
            for (int i = 0, to = 0; i + 3 < pixels.Length && to < plain.Length; i += 4)
            {
                plain[to++] = pixels[i];
                if (isGray)
                    continue;
                plain[to++] = pixels[i + 1];
                plain[to++] = pixels[i + 2];
            }
            using var packed = new MemoryStream();
            using (var zip = new ZLibStream(packed, CompressionLevel.Optimal, leaveOpen: true))
                zip.Write(plain);
            return new Packed(bitmap.Width, bitmap.Height, packed.ToArray(), "/FlateDecode", isGray ? "/DeviceGray" : "/DeviceRGB", 8)
            {
                Dpi = dpi,
            };
        }
    }
}
