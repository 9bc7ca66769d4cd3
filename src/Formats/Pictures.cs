using OpenCvSharp;
using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>Page pictures as matrices of brightness, 0 black to 255 white, which is what pages are measured and cleaned by.</summary>
internal static class Pictures
{
    /// <summary>A page picture that was written here.</summary>
    /// <exception cref="InvalidDataException">It cannot be decoded.</exception>
    public static SKBitmap Load(string image) => SKBitmap.Decode(image) ?? throw new InvalidDataException("a page could not be drawn.");

    /// <summary>Writes a page picture as PNG.</summary>
    public static void Save(SKBitmap page, string image)
    {
        using var data = page.Encode(SKEncodedImageFormat.Png, 90);
        using var file = File.Create(image);
        data.SaveTo(file);
    }

    /// <summary>A page in gray.</summary>
    public static Mat Gray(SKBitmap page)
    {
        using var gray = new SKBitmap(new SKImageInfo(page.Width, page.Height, SKColorType.Gray8, SKAlphaType.Opaque));
        using (var canvas = new SKCanvas(gray))
        {
            canvas.Clear(SKColors.White);
            canvas.DrawBitmap(page, 0, 0, SKSamplingOptions.Default);
        }
        using var shared = Mat.FromPixelData(gray.Height, gray.Width, MatType.CV_8UC1, gray.GetPixels(), gray.RowBytes);
        return shared.Clone();
    }

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
