using UglyToad.PdfPig;
using UglyToad.PdfPig.Tokens;

namespace ClearLexicon.Formats;

/// <summary>Parts of a PDF by what refers to them (ISO 32000-1, 7.3), wherever they stand.</summary>
internal static class PdfParts
{
    private const int Most = 200;

    /// <summary>What a reference leads to; anything else is what it is. Null when it leads nowhere.</summary>
    public static IToken? Found(PdfDocument pdf, IToken? token) =>
        token is IndirectReferenceToken link ? pdf.Structure.GetObject(link.Data)?.Data : token;

    /// <summary>A dictionary, also that of a stream; null when it is none.</summary>
    public static DictionaryToken? Dictionary(PdfDocument pdf, IToken? token) =>
        Found(pdf, token) is var found && found is StreamToken stream ? stream.StreamDictionary : found as DictionaryToken;

    /// <summary>A dictionary within another; null when there is none.</summary>
    public static DictionaryToken? Of(PdfDocument pdf, DictionaryToken owner, NameToken name) =>
        owner.TryGet(name, out var token) ? Dictionary(pdf, token) : null;

    /// <summary>The dictionaries that another one names, two hundred at most.</summary>
    public static IEnumerable<DictionaryToken> All(PdfDocument pdf, DictionaryToken? named) =>
        named is null ? [] : named.Data.Values.Take(Most).Select(t => Dictionary(pdf, t)).OfType<DictionaryToken>();
}
