using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using SkiaSharp;
using BarcodeFormat = ZXing.BarcodeFormat;

namespace ClearLexicon.Services.Tests;

/// <summary>All page designs of the demo with what is true of their documents.</summary>
internal static class DemoDesigns
{
    /// <summary>Five designs with zones and codes, six half-fixed; each with documents by number.</summary>
    public static IEnumerable<(Reader Reader, Func<int, FreeDocument> Make)> All()
    {
        foreach (var design in PageDesigns.Known)
        {
            var samples = HarbourDocuments.Samples(design, 60, 0);
            yield return (
                HarbourReaders.Teach(design),
                n => new FreeDocument([canvas => HarbourDocuments.Draw(canvas, samples[n % 60])], samples[n % 60].Truth)
            );
        }
        yield return (
            HarbourReaders.Permit,
            n =>
            {
                var (printed, code, truth) = HarbourStacks.PermitPage(n);
                return new FreeDocument(
                    [
                        canvas =>
                        {
                            HarbourDocuments.Draw(canvas, new HarbourPage("", PageDesigns.Permit, false, printed, truth));
                            StackDrawing.Code(canvas, BarcodeFormat.QR_CODE, code, new SKRect(430, 330, 540, 440));
                        },
                    ],
                    truth
                );
            }
        );
        foreach (var form in HarbourFreeForms.All)
            yield return (form.Reader, form.Make);
    }
}
