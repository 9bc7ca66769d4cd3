using System.Runtime.InteropServices;
using BitMiracle.LibTiff.Classic;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Formats;
using SkiaSharp;
using ZXing;
using ZXing.Common;

namespace ClearLexicon.Demo;

/// <summary>One side of paper in a stack.</summary>
/// <param name="Draw">Draws it on a canvas of A4 in points.</param>
/// <param name="Begins">Whether a document begins with it.</param>
/// <param name="Vanishes">Whether it is no page of a document.</param>
public sealed record Leaf(Action<SKCanvas> Draw, bool Begins, bool Vanishes)
{
    /// <summary>By how many degrees it lies turned: 0, 90, 180 or 270.</summary>
    public int Turned { get; init; }

    /// <summary>By how many degrees it lies askew.</summary>
    public float Skew { get; init; }
}

/// <summary>Draws stacks as a copier delivers them: pictures in a PDF or a TIFF of several pages.</summary>
public static class StackDrawing
{
    /// <summary>A side as a picture.</summary>
    /// <param name="leaf">The side.</param>
    /// <param name="dpi">Resolution in dots per inch.</param>
    /// <param name="random">Where dust falls.</param>
    public static SKBitmap Picture(Leaf leaf, int dpi, Random random)
    {
        var scale = dpi / 72f;
        var (w, h) = ((int)(PageDrawing.Width * scale), (int)(PageDrawing.Height * scale));
        var bitmap = new SKBitmap(
            new SKImageInfo(leaf.Turned % 180 == 0 ? w : h, leaf.Turned % 180 == 0 ? h : w, SKColorType.Rgba8888, SKAlphaType.Opaque)
        );
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(new SKColor(0xF6, 0xF5, 0xF2));
        canvas.Save();
        canvas.Translate(bitmap.Width / 2f, bitmap.Height / 2f);
        canvas.RotateDegrees(leaf.Turned + leaf.Skew);
        canvas.Translate(-w / 2f, -h / 2f);
        canvas.Scale(scale);
        leaf.Draw(canvas);
        canvas.Restore();
        using var dust = new SKPaint { Color = new SKColor(0x60, 0x60, 0x60), IsAntialias = false };
        for (var i = 0; i < 80; i++)
            canvas.DrawRect(random.Next(bitmap.Width), random.Next(bitmap.Height), random.Next(1, 3), random.Next(1, 3), dust);
        return bitmap;
    }

    /// <summary>Writes a stack as a PDF of JPEG pictures.</summary>
    public static void Pdf(string path, IReadOnlyList<Leaf> leaves, int dpi, int seed)
    {
        var random = new Random(seed);
        using var file = File.Create(path);
        using var document = SKDocument.CreatePdf(file, new SKDocumentPdfMetadata { Producer = "Harbour copier" });
        foreach (var leaf in leaves)
        {
            using var picture = Picture(leaf, dpi, random);
            using var data = picture.Encode(SKEncodedImageFormat.Jpeg, 70);
            using var image = SKImage.FromEncodedData(data);
            var (w, h) = (picture.Width * 72f / dpi, picture.Height * 72f / dpi);
            using (var canvas = document.BeginPage(w, h))
                canvas.DrawImage(image, new SKRect(0, 0, w, h), SKSamplingOptions.Default);
            document.EndPage();
        }
        document.Close();
    }

    /// <summary>Writes a stack as a TIFF in black and white, packed as faxes are (CCITT group 4).</summary>
    public static void FaxTiff(string path, IReadOnlyList<Leaf> leaves, int dpi, int seed)
    {
        var random = new Random(seed);
        TiffPages.Silence();
        using var tiff = Tiff.Open(path, "w");
        foreach (var leaf in leaves)
        {
            using var picture = Picture(leaf, dpi, random);
            AddFax(tiff, picture, dpi);
        }
    }

    /// <summary>Adds a page in black and white to a TIFF.</summary>
    public static void AddFax(Tiff tiff, SKBitmap picture, int dpi)
    {
        tiff.SetField(TiffTag.IMAGEWIDTH, picture.Width);
        tiff.SetField(TiffTag.IMAGELENGTH, picture.Height);
        tiff.SetField(TiffTag.BITSPERSAMPLE, 1);
        tiff.SetField(TiffTag.SAMPLESPERPIXEL, 1);
        tiff.SetField(TiffTag.PHOTOMETRIC, Photometric.MINISWHITE);
        tiff.SetField(TiffTag.COMPRESSION, Compression.CCITTFAX4);
        tiff.SetField(TiffTag.ROWSPERSTRIP, picture.Height);
        tiff.SetField(TiffTag.XRESOLUTION, (double)dpi);
        tiff.SetField(TiffTag.YRESOLUTION, (double)dpi);
        tiff.SetField(TiffTag.RESOLUTIONUNIT, ResUnit.INCH);
        var pixels = MemoryMarshal.Cast<byte, uint>(picture.GetPixelSpan());
        var row = new byte[(picture.Width + 7) / 8];
        for (var y = 0; y < picture.Height; y++)
        {
            Array.Clear(row);
            for (var x = 0; x < picture.Width; x++)
                if ((pixels[y * picture.Width + x] & 0xFF) < 128)
                    row[x / 8] |= (byte)(0x80 >> (x % 8));
            tiff.WriteScanline(row, y);
        }
        tiff.WriteDirectory();
    }

    /// <summary>Draws a code of bars or squares into a place in points.</summary>
    public static void Code(SKCanvas canvas, BarcodeFormat kind, string text, SKRect place)
    {
        var made = new MultiFormatWriter().encode(text, kind, 0, 0, new Dictionary<EncodeHintType, object> { [EncodeHintType.MARGIN] = 0 });
        using var ink = new SKPaint { Color = SKColors.Black, IsAntialias = false };
        var isFlat = made.Height == 1 || kind is BarcodeFormat.CODE_128;
        var (w, h) = (place.Width / made.Width, isFlat ? place.Height : place.Height / made.Height);
        for (var y = 0; y < (isFlat ? 1 : made.Height); y++)
        for (var x = 0; x < made.Width; x++)
            if (made[x, y])
                canvas.DrawRect(place.Left + x * w, place.Top + y * h, w, h, ink);
    }

    /// <summary>Fills a box of a sheet as a pen does: a cross that misses the corners.</summary>
    public static void Cross(SKCanvas canvas, SheetBox box, Random random)
    {
        float At(double share, double size) => (float)(share * size);
        var (x, y) = (At(box.Place.X, PageDrawing.Width), At(box.Place.Y, PageDrawing.Height));
        var (w, h) = (At(box.Place.W, PageDrawing.Width), At(box.Place.H, PageDrawing.Height));
        using var pen = new SKPaint
        {
            Color = new SKColor(0x1a, 0x2a, 0x6a),
            IsStroke = true,
            StrokeWidth = 1.6f,
            StrokeCap = SKStrokeCap.Round,
            IsAntialias = true,
        };
        float Off() => (float)(random.NextDouble() * 2 - 1);
        canvas.DrawLine(x + 1 + Off(), y + 1 + Off(), x + w - 1 + Off(), y + h - 1 + Off(), pen);
        canvas.DrawLine(x + w - 1 + Off(), y + 1 + Off(), x + 1 + Off(), y + h - 1 + Off(), pen);
    }
}
