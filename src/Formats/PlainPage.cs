using UglyToad.PdfPig;
using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.Graphics.Operations;
using UglyToad.PdfPig.Graphics.Operations.InlineImages;
using UglyToad.PdfPig.Tokens;

namespace ClearLexicon.Formats;

/// <summary>
/// Whether nothing on a page of a PDF can have a colour, so that it may be drawn in gray. What cannot be told by the page alone (pictures,
/// forms, patterns, colour spaces, fonts that draw themselves, notes) may have one.
/// </summary>
internal static class PlainPage
{
    /// <summary>Whether a page is so.</summary>
    /// <param name="pdf">The file.</param>
    /// <param name="page">One of its pages.</param>
    public static bool Is(PdfDocument pdf, Page page)
    {
        try
        {
            return !page.Dictionary.ContainsKey(NameToken.Annots)
                && page.Operations.All(IsPlain)
                && Fonts(pdf, page) is { } fonts
                && fonts.All(f => f.TryGet(NameToken.Subtype, out NameToken kind) && kind.Data != "Type3");
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // A damaged part; whoever draws it may make something of it.
            return false;
        }
    }

    private static bool IsPlain(IGraphicsStateOperation operation) =>
        operation switch
        {
            SetNonStrokeColorDeviceRgb c => c.R == c.G && c.G == c.B,
            SetStrokeColorDeviceRgb c => c.R == c.G && c.G == c.B,
            InvokeNamedXObject or PaintShading or BeginInlineImage or BeginInlineImageData or EndInlineImage => false,
            SetNonStrokeColorSpace or SetNonStrokeColor or SetNonStrokeColorAdvanced or SetNonStrokeColorDeviceCmyk => false,
            SetStrokeColorSpace or SetStrokeColor or SetStrokeColorAdvanced or SetStrokeColorDeviceCmyk => false,
            _ => true,
        };

    // Null when they are not said by the page itself.
    private static List<DictionaryToken>? Fonts(PdfDocument pdf, Page page)
    {
        if (PdfParts.Of(pdf, page.Dictionary, NameToken.Resources) is not { } resources)
            return null;
        if (!resources.TryGet(NameToken.Font, out var named))
            return [];
        var fonts = PdfParts.Dictionary(pdf, named)?.Data.Values.Select(t => PdfParts.Dictionary(pdf, t)).ToList();
        return fonts?.OfType<DictionaryToken>().ToList() is { } known && known.Count == fonts!.Count ? known : null;
    }
}
