using SkiaSharp;

namespace ClearLexicon.Formats;

/// <summary>Decodes PNG and JPEG as they are meant to be seen: turned as the file says (EXIF), on white where they are clear.</summary>
internal static class UprightImage
{
    /// <summary>The picture; null when it is damaged.</summary>
    /// <exception cref="InvalidDataException">Its end is missing; as much of it as is there would look like a page.</exception>
    public static SKBitmap? Read(string path)
    {
        using var codec = SKCodec.Create(path);
        if (codec is null)
            return null;
        var decoded = new SKBitmap(
            codec.Info.WithAlphaType(codec.Info.AlphaType == SKAlphaType.Opaque ? SKAlphaType.Opaque : SKAlphaType.Premul)
        );
        var result = codec.GetPixels(decoded.Info, decoded.GetPixels());
        if (result is not SKCodecResult.Success)
        {
            decoded.Dispose();
            return result == SKCodecResult.IncompleteInput ? throw new InvalidDataException("it is cut off: its end is missing.") : null;
        }
        var origin = codec.EncodedOrigin;
        if (origin == SKEncodedOrigin.TopLeft && decoded is { AlphaType: SKAlphaType.Opaque, ColorType: SKColorType.Rgba8888 })
            return decoded;
        using (decoded)
            return Drawn(decoded, origin);
    }

    private static SKBitmap Drawn(SKBitmap decoded, SKEncodedOrigin origin)
    {
        var swaps =
            origin is SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightTop or SKEncodedOrigin.RightBottom or SKEncodedOrigin.LeftBottom;
        var upright = new SKBitmap(
            new SKImageInfo(
                swaps ? decoded.Height : decoded.Width,
                swaps ? decoded.Width : decoded.Height,
                SKColorType.Rgba8888,
                SKAlphaType.Opaque
            )
        );
        using var canvas = new SKCanvas(upright);
        canvas.Clear(SKColors.White);
        canvas.Concat(To(origin, upright.Width, upright.Height));
        canvas.DrawBitmap(decoded, 0, 0, SKSamplingOptions.Default);
        return upright;
    }

    /// <summary>From the picture as it is stored to the picture as it is seen, in pixels.</summary>
    private static SKMatrix To(SKEncodedOrigin origin, float w, float h) =>
        origin switch
        {
            SKEncodedOrigin.TopRight => new SKMatrix(-1, 0, w, 0, 1, 0, 0, 0, 1),
            SKEncodedOrigin.BottomRight => new SKMatrix(-1, 0, w, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.BottomLeft => new SKMatrix(1, 0, 0, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.LeftTop => new SKMatrix(0, 1, 0, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightTop => new SKMatrix(0, -1, w, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightBottom => new SKMatrix(0, -1, w, -1, 0, h, 0, 0, 1),
            SKEncodedOrigin.LeftBottom => new SKMatrix(0, 1, 0, -1, 0, h, 0, 0, 1),
            _ => SKMatrix.Identity,
        };
}
