using UglyToad.PdfPig;
using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.Outline.Destinations;
using UglyToad.PdfPig.Tokens;

namespace ClearLexicon.Formats;

/// <summary>A page of a PDF whatever stands on it, which can also be said of one whose content cannot be read.</summary>
/// <param name="Width">Width as it is seen, in points of 1/72 inch.</param>
/// <param name="Height">Height as it is seen, in points.</param>
/// <param name="HasNotes">Whether something is seen on it that lies beside its content, such as a field that was filled.</param>
internal sealed record PageFrame(double Width, double Height, bool HasNotes)
{
    /// <summary>Opens a file whose pages may be asked for their frames.</summary>
    public static PdfDocument Open(string path)
    {
        var pdf = PdfDocument.Open(path);
        pdf.AddPageFactory(new Frames(pdf));
        return pdf;
    }

    private sealed class Frames(PdfDocument pdf) : IPageFactory<PageFrame>
    {
        // By the crop box where it has one, within the media box.
        public PageFrame Create(
            int number,
            DictionaryToken dictionary,
            PageTreeMembers pageTreeMembers,
            NamedDestinations namedDestinations
        )
        {
            var inherited = pageTreeMembers.MediaBox?.Bounds;
            var sheet =
                Box(dictionary, NameToken.MediaBox)
                ?? (
                    inherited is { } b ? (b.Left, b.Bottom, b.Right, b.Top) : throw new InvalidDataException($"page {number} has no size.")
                );
            var (left, low, right, high) = Box(dictionary, NameToken.CropBox) ?? sheet;
            var width = Math.Min(right, sheet.Right) - Math.Max(left, sheet.Left);
            var height = Math.Min(high, sheet.High) - Math.Max(low, sheet.Low);
            var turned = dictionary.TryGet(NameToken.Rotate, out NumericToken own) ? own.Int : pageTreeMembers.Rotation;
            var notes = HasNotes(dictionary);
            return turned % 180 == 0 ? new PageFrame(width, height, notes) : new PageFrame(height, width, notes);
        }

        // Links and the windows of notes show nothing.
        private bool HasNotes(DictionaryToken dictionary) =>
            dictionary.TryGet(NameToken.Annots, out var token)
            && PdfParts.Found(pdf, token) is ArrayToken notes
            && notes.Data.Any(t =>
                PdfParts.Dictionary(pdf, t) is { } note
                && note.TryGet(NameToken.Subtype, out NameToken kind)
                && kind.Data is not ("Link" or "Popup")
            );

        private (double Left, double Low, double Right, double High)? Box(DictionaryToken dictionary, NameToken name)
        {
            if (!dictionary.TryGet(name, out var token) || PdfParts.Found(pdf, token) is not ArrayToken { Data.Count: 4 } array)
                return null;
            var sides = array.Data.Select(t => PdfParts.Found(pdf, t)).OfType<NumericToken>().Select(n => n.Double).ToList();
            return sides is [var x, var y, var across, var up]
                ? (Math.Min(x, across), Math.Min(y, up), Math.Max(x, across), Math.Max(y, up))
                : null;
        }
    }
}
