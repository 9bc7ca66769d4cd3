using System.Buffers;
using System.Globalization;
using System.Text;
using UglyToad.PdfPig;
using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.Fonts;
using UglyToad.PdfPig.Tokens;

namespace ClearLexicon.Formats;

/// <summary>
/// Whether a page of a PDF says which letters it shows. A font may number its shapes as it likes; without a table of what they stand for
/// (ISO 32000-1, 9.10) a page looks right and its text is nonsense.
/// </summary>
internal static class LegibleText
{
    private const double MostUnknown = 1 / 3.0;
    private const int MostDrawings = 200;
    private const int MostNames = 200;

    /// <summary>Whether it says so of most of its letters.</summary>
    /// <param name="pdf">The file.</param>
    /// <param name="page">One of its pages.</param>
    public static bool Is(PdfDocument pdf, Page page)
    {
        var letters = page.Letters.Where(l => !string.IsNullOrWhiteSpace(l.Value)).ToList();
        if (letters.Count == 0)
            return true;
        var unnamed = new HashSet<string>(StringComparer.Ordinal);
        try
        {
            Look(pdf, page, unnamed);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // A damaged part; what was found before it counts.
        }
        return letters.Count(l => unnamed.Contains(l.FontName ?? "") || !IsSign(l.Value)) <= MostUnknown * letters.Count;
    }

    private static bool IsSign(string value) =>
        Rune.DecodeFromUtf16(value, out var first, out _) == OperationStatus.Done
        && first != Rune.ReplacementChar
        && Rune.GetUnicodeCategory(first)
            is not (UnicodeCategory.Control or UnicodeCategory.PrivateUse or UnicodeCategory.OtherNotAssigned);

    // Fonts of the page and of the drawings that it uses, and those use.
    private static void Look(PdfDocument pdf, Page page, HashSet<string> unnamed)
    {
        var owners = new List<DictionaryToken> { page.Dictionary };
        for (var i = 0; i < owners.Count; i++)
        {
            if (PdfParts.Of(pdf, owners[i], NameToken.Resources) is not { } resources)
                continue;
            foreach (var font in PdfParts.All(pdf, PdfParts.Of(pdf, resources, NameToken.Font)))
                if (!font.ContainsKey(NameToken.ToUnicode) && (HasNumbersOnly(pdf, font) || HasOwnNames(pdf, font)))
                    unnamed.Add(font.TryGet(NameToken.BaseFont, out NameToken name) ? name.Data : "");
            var drawings = PdfParts
                .All(pdf, PdfParts.Of(pdf, resources, NameToken.Xobject))
                .Where(d => d.TryGet(NameToken.Subtype, out NameToken kind) && kind.Data == "Form");
            owners.AddRange(drawings.Take(MostDrawings - owners.Count));
        }
    }

    // Shapes by number, of no collection that is known.
    private static bool HasNumbersOnly(PdfDocument pdf, DictionaryToken font) =>
        font.TryGet(NameToken.Subtype, out NameToken kind)
        && kind.Data == "Type0"
        && font.TryGet(NameToken.Encoding, out NameToken encoding)
        && encoding.Data is "Identity-H" or "Identity-V"
        && font.TryGet(NameToken.DescendantFonts, out var token)
        && (PdfParts.Found(pdf, token) as ArrayToken)?.Data is [var only, ..]
        && PdfParts.Dictionary(pdf, only) is { } shapes
        && PdfParts.Of(pdf, shapes, NameToken.CidSystemInfo) is { } system
        && system.TryGet(NameToken.Ordering, out var ordering)
        && PdfParts.Found(pdf, ordering) is StringToken { Data: "Identity" } or HexToken { Data: "Identity" };

    // Shapes by names, most of which are no letter's.
    private static bool HasOwnNames(PdfDocument pdf, DictionaryToken font)
    {
        if (PdfParts.Of(pdf, font, NameToken.Encoding) is not { } encoding || !encoding.TryGet(NameToken.Differences, out var token))
            return false;
        var names = (PdfParts.Found(pdf, token) as ArrayToken)?.Data.OfType<NameToken>().Take(MostNames).ToList() ?? [];
        return names.Count(n => GlyphList.AdobeGlyphList.NameToUnicode(n.Data) is null) * 2 > names.Count;
    }
}
