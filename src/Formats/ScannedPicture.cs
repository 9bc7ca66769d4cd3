using SkiaSharp;
using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.Tokens;

namespace ClearLexicon.Formats;

/// <summary>
/// The picture of a page that is nothing but a scanner's JPEG: taken out as it is, which shows what drawing the page would show and
/// takes a tenth of the time. Any other page is drawn.
/// </summary>
internal static class ScannedPicture
{
    private const double Near = 1;

    /// <summary>The picture; null when the page has anything else on it, or when the picture is not one that stands for the page.</summary>
    /// <param name="page">A page of a PDF.</param>
    /// <param name="least">Least resolution, in dots per inch: a coarser picture is drawn larger.</param>
    /// <param name="most">Most: a finer one is drawn smaller.</param>
    public static SKBitmap? Of(Page page, int least, int most)
    {
        if (page.Rotation.Value != 0 || !page.CropBox.Bounds.Equals(page.MediaBox.Bounds))
            return null;
        if (page.Letters.Count > 0 || page.Paths.Count > 0 || page.GetAnnotations().Any())
            return null;
        if (page.GetImages().Take(2).ToList() is not [var picture] || !Fills(picture, page) || !IsPlainJpeg(picture))
            return null;
        var dpi = picture.WidthInSamples / page.Width * 72;
        if (dpi < least - 1 || dpi > most + 1 || (double)picture.WidthInSamples * picture.HeightInSamples > PageReading.MostPixels)
            return null;
        return SKBitmap.Decode(
            picture.RawBytes,
            new SKImageInfo(picture.WidthInSamples, picture.HeightInSamples, SKColorType.Rgba8888, SKAlphaType.Opaque)
        );
    }

    private static bool Fills(IPdfImage picture, Page page)
    {
        var bounds = picture.BoundingBox;
        return Math.Abs(bounds.BottomLeft.X) < Near
            && Math.Abs(bounds.BottomLeft.Y) < Near
            && Math.Abs(bounds.TopRight.X - page.Width) < Near
            && Math.Abs(bounds.TopRight.Y - page.Height) < Near
            // Neither turned nor mirrored.
            && Math.Abs(bounds.TopLeft.X) < Near
            && Math.Abs(bounds.TopLeft.Y - page.Height) < Near;
    }

    private static bool IsPlainJpeg(IPdfImage picture)
    {
        var facts = picture.ImageDictionary;
        var filter = facts.TryGet(NameToken.Filter, out var token) ? token : null;
        var only = filter is ArrayToken { Data.Count: 1 } list ? list.Data[0] : filter;
        return only is NameToken { Data: "DCTDecode" }
            && facts.TryGet(NameToken.ColorSpace, out var colours)
            && IsGrayOrRgb(colours)
            && !facts.ContainsKey(NameToken.DecodeParms)
            && !facts.ContainsKey(NameToken.Decode)
            && !facts.ContainsKey(NameToken.Smask)
            && !facts.ContainsKey(NameToken.Mask);
    }

    // A profile of one or three channels says how gray or RGB is to look; as scanners write it, it is as it looks without.
    private static bool IsGrayOrRgb(IToken colours) =>
        colours is NameToken { Data: "DeviceGray" or "DeviceRGB" }
        || colours is ArrayToken { Data: [NameToken { Data: "ICCBased" }, StreamToken profile] }
            && profile.StreamDictionary.TryGet(NameToken.N, out var channels)
            && channels is NumericToken { Int: 1 or 3 };
}
