using OpenCvSharp;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>Page pictures as matrices of brightness, 0 black to 255 white, which is what pages are measured and cleaned by.</summary>
internal static class Pictures
{
    // Scanned paper is noise: trying harder makes the file a few percent smaller and takes five times as long.
    private static readonly SKPngEncoderOptions Quickly = new(SKPngEncoderFilterFlags.Sub, 2);

    /// <summary>A pixmap, in gray (PGM) or in colours (PPM), that was drawn here.</summary>
    /// <exception cref="InvalidDataException">It is none.</exception>
    public static SKBitmap LoadPixmap(string image)
    {
        using var drawn = Cv2.ImRead(image, ImreadModes.Unchanged);
        if (drawn is null || drawn.Empty())
            throw new InvalidDataException("a page could not be drawn.");
        var isGray = drawn.Channels() == 1;
        var page = new SKBitmap(
            new SKImageInfo(drawn.Width, drawn.Height, isGray ? SKColorType.Gray8 : SKColorType.Rgba8888, SKAlphaType.Opaque)
        );
        using var pixels = isGray ? Levels(page) : Pixels(page);
        if (isGray)
            drawn.CopyTo(pixels);
        else
            Cv2.CvtColor(drawn, pixels, ColorConversionCodes.BGR2RGBA);
        return page;
    }

    /// <summary>A page picture to draw on: one that is kept in gray in colours too. Null when it cannot be decoded.</summary>
    public static SKBitmap? Decode(string image)
    {
        using var codec = SKCodec.Create(image);
        if (codec is null)
            return null;
        // What may be seen through is decoded as such: Skia refuses to take it for opaque.
        var alpha = codec.Info.AlphaType == SKAlphaType.Opaque ? SKAlphaType.Opaque : SKAlphaType.Premul;
        return SKBitmap.Decode(codec, codec.Info.WithColorType(SKColorType.Rgba8888).WithAlphaType(alpha));
    }

    /// <summary>A page picture that was written here, in gray.</summary>
    /// <exception cref="InvalidDataException">It cannot be decoded.</exception>
    public static Mat LoadGray(string image)
    {
        var gray = Cv2.ImRead(image, ImreadModes.Grayscale);
        return gray is null || gray.Empty() ? throw new InvalidDataException("a page could not be drawn.") : gray;
    }

    /// <summary>Writes a page picture as PNG; one without colours in gray, which is a third of the work and the size.</summary>
    /// <param name="page">The page.</param>
    /// <param name="gray">The same in gray.</param>
    /// <param name="image">The file.</param>
    public static void Save(SKBitmap page, Mat gray, string image)
    {
        if (!IsGray(page, gray))
        {
            Save(page, image);
            return;
        }
        using var plain = new SKPixmap(
            new SKImageInfo(gray.Width, gray.Height, SKColorType.Gray8, SKAlphaType.Opaque),
            gray.Data,
            (int)gray.Step()
        );
        Write(plain, image);
    }

    // Gray in RGBA is the same number three times.
    private static bool IsGray(SKBitmap page, Mat gray)
    {
        if (page is not { ColorType: SKColorType.Rgba8888, AlphaType: SKAlphaType.Opaque })
            return page.ColorType == SKColorType.Gray8;
        using var colours = Pixels(page);
        using var same = new Mat();
        Cv2.CvtColor(gray, same, ColorConversionCodes.GRAY2RGBA);
        return Cv2.Norm(colours, same, NormTypes.INF) == 0;
    }

    /// <summary>Writes a page picture as PNG.</summary>
    public static void Save(SKBitmap page, string image)
    {
        using var pixels = page.PeekPixels();
        Write(pixels, image);
    }

    private static void Write(SKPixmap? pixels, string image)
    {
        using var data = pixels?.Encode(Quickly) ?? throw new InvalidDataException("a page could not be drawn.");
        using var file = File.Create(image);
        data.SaveTo(file);
    }

    /// <summary>Writes a small picture of a page, for ribbons of pages.</summary>
    public static void SaveSmall(Mat gray, string path)
    {
        using var small = Small(gray, SmallSide);
        small.SaveImage(path, new ImageEncodingParam(ImwriteFlags.JpegQuality, 80));
    }

    /// <summary>
    /// Writes a picture in gray for the recogniser, as BMP: without packing, because it lives for one run, and taken in whole. Of a pixmap
    /// the recogniser fetches each pixel by itself, which is a fifth of its time.
    /// </summary>
    public static void SaveForReading(Mat gray, string path) => gray.SaveImage(path);

    private const int SmallSide = 320;

    /// <summary>A page made smaller, so that its longer side has at most so many pixels; most measures need no more.</summary>
    public static Mat Small(Mat gray, int side)
    {
        return Smaller(gray, Math.Min(1, (double)side / Math.Max(gray.Width, gray.Height)));
    }

    /// <summary>
    /// A page made smaller. Whole pixels are averaged, which is quick; what is left is less than half and is not worth an average over
    /// parts of pixels, which takes ten times as long. At the right and below, less than one pixel of the smaller page is left out.
    /// </summary>
    /// <param name="gray">The page.</param>
    /// <param name="scale">By how much, at most 1; a page that is to be larger is made so.</param>
    /// <param name="rest">How what is left is done.</param>
    public static Mat Smaller(Mat gray, double scale, InterpolationFlags rest = InterpolationFlags.Linear)
    {
        var small = new Mat();
        int Scaled(int length) => Math.Max(1, (int)Math.Round(length * scale));
        var size = new Size(Scaled(gray.Width), Scaled(gray.Height));
        var step = Math.Min(gray.Width / size.Width, gray.Height / size.Height);
        if (step < 2)
        {
            Cv2.Resize(gray, small, size, 0, 0, rest);
            return small;
        }
        var whole = new Size(gray.Width / step, gray.Height / step);
        using var inside = gray.SubMat(new Rect(0, 0, whole.Width * step, whole.Height * step));
        using var averaged = new Mat();
        Cv2.Resize(inside, averaged, whole, 0, 0, InterpolationFlags.Area);
        Cv2.Resize(averaged, small, size, 0, 0, rest);
        return small;
    }

    /// <summary>A page picture made smaller.</summary>
    /// <param name="page">The page, in RGBA.</param>
    /// <param name="scale">By how much, less than 1.</param>
    public static SKBitmap Smaller(SKBitmap page, double scale)
    {
        var (width, height) = (Math.Max(1, (int)(page.Width * scale)), Math.Max(1, (int)(page.Height * scale)));
        var small = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var from = Pixels(page);
        using var to = Pixels(small);
        Cv2.Resize(from, to, to.Size(), 0, 0, InterpolationFlags.Area);
        return small;
    }

    /// <summary>The pixels of a page in RGBA, shared with it.</summary>
    public static Mat Pixels(SKBitmap page) => Mat.FromPixelData(page.Height, page.Width, MatType.CV_8UC4, page.GetPixels(), page.RowBytes);

    // The pixels of a page in gray, shared with it.
    private static Mat Levels(SKBitmap page) =>
        Mat.FromPixelData(page.Height, page.Width, MatType.CV_8UC1, page.GetPixels(), page.RowBytes);

    /// <summary>A page in gray.</summary>
    public static Mat Gray(SKBitmap page)
    {
        if (page is { ColorType: SKColorType.Rgba8888, AlphaType: SKAlphaType.Opaque })
        {
            using var colours = Pixels(page);
            var bright = new Mat();
            Cv2.CvtColor(colours, bright, ColorConversionCodes.RGBA2GRAY);
            return bright;
        }
        if (page.ColorType == SKColorType.Gray8)
        {
            using var same = Levels(page);
            return same.Clone();
        }
        using var gray = new SKBitmap(new SKImageInfo(page.Width, page.Height, SKColorType.Gray8, SKAlphaType.Opaque));
        using (var canvas = new SKCanvas(gray))
        {
            canvas.Clear(SKColors.White);
            canvas.DrawBitmap(page, 0, 0, SKSamplingOptions.Default);
        }
        using var shared = Levels(gray);
        return shared.Clone();
    }

    /// <summary>
    /// A page under even light: where one side of it lies in shade, as in photographs, the paper is made as bright as elsewhere. A page
    /// that is evenly lit is given back as it is.
    /// </summary>
    /// <returns>The page, which may be the one given.</returns>
    public static Mat Evened(Mat gray)
    {
        using var small = Small(gray, ShadeSide);
        using var square = Cv2.GetStructuringElement(MorphShapes.Rect, new Size(7, 7));
        using var paper = new Mat();
        // Print is gone from a small picture whose darker spots are filled with what lies around them.
        Cv2.MorphologyEx(small, paper, MorphTypes.Close, square);
        Cv2.GaussianBlur(paper, paper, new Size(0, 0), 3);
        using var inner = paper.SubMat(
            new Rect(paper.Width / 10, paper.Height / 10, Math.Max(1, paper.Width * 8 / 10), Math.Max(1, paper.Height * 8 / 10))
        );
        Cv2.MinMaxLoc(inner, out double darkest, out double brightest);
        if (darkest > EvenLight * brightest || darkest < DarkestPaper)
            return gray;
        using var shade = new Mat();
        Cv2.Resize(paper, shade, gray.Size(), 0, 0, InterpolationFlags.Linear);
        var even = new Mat();
        Cv2.Divide(gray, shade, even, 245);
        return even;
    }

    private const int ShadeSide = 160;
    private const double EvenLight = 0.9;
    private const double DarkestPaper = 60;

    /// <summary>The commonest brightness, which is the paper's.</summary>
    public static byte Paper(Mat gray)
    {
        using var counts = new Mat();
        Cv2.CalcHist([gray], [0], null, counts, 1, [256], [new Rangef(0, 256)]);
        Cv2.MinMaxLoc(counts, out _, out Point most);
        return (byte)Math.Clamp(most.Y, 0, 255);
    }

    /// <summary>What is darker than the paper by some steps: 255 where ink is, 0 elsewhere.</summary>
    public static Mat Ink(Mat gray, int darker)
    {
        var ink = new Mat();
        Cv2.Threshold(gray, ink, Math.Max(0, Paper(gray) - darker), 255, ThresholdTypes.BinaryInv);
        return ink;
    }
}
