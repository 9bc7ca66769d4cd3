using System.Globalization;
using System.Text;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Conventions;

/// <summary>What a piece makes of a value's text.</summary>
public static class PieceText
{
    private const string WordEnds = " -_.";

    /// <summary>Whether the piece takes texts as they are.</summary>
    internal static bool IsPlain(Piece piece) =>
        piece is { Case: LetterCase.AsIs, Extract: Extract.Whole, Ascii: false, Blanks: null, MaxLength: null, Part: 0 };

    /// <summary>Whether two pieces of one field write the same text.</summary>
    internal static bool SameForm(Piece a, Piece b) =>
        (a.Case, a.Extract, a.Ascii, a.Blanks, a.MaxLength, a.Digits, a.Part)
        == (b.Case, b.Extract, b.Ascii, b.Blanks, b.MaxLength, b.Digits, b.Part);

    /// <summary>
    /// The text as the piece writes it, before limits are looked at: part, extract, length, blanks, spelling, case, in this order.
    /// </summary>
    public static string Of(Piece piece, string text)
    {
        if (piece.Part > 0)
            text = text.Split(WordEnds.ToCharArray(), StringSplitOptions.RemoveEmptyEntries).ElementAtOrDefault(piece.Part - 1) ?? "";
        text = piece.Extract switch
        {
            Extract.FirstLetter => FirstLetter(text),
            Extract.Initials => string.Concat(
                text.Split(WordEnds.ToCharArray(), StringSplitOptions.RemoveEmptyEntries).Select(FirstLetter)
            ),
            _ => text,
        };
        if (piece.Ascii)
            text = Transliteration.ToAscii(text);
        if (piece.MaxLength is { } most)
            text = Cut(text, most);
        if (piece.Blanks is { } blank)
            text = text.Replace(" ", blank, StringComparison.Ordinal);
        return piece.Case switch
        {
            LetterCase.Upper => text.ToUpperInvariant(),
            LetterCase.Lower => text.ToLowerInvariant(),
            _ => text,
        };
    }

    /// <summary>The first characters of a text, without tearing a letter from its accents or a pictogram apart.</summary>
    public static string Cut(string text, int most)
    {
        if (text.Length <= most)
            return text;
        if (most <= 0)
            return "";
        var n = most;
        while (n > 0 && Joins(text, n))
            n--;
        return text[..n].TrimEnd();
    }

    private static bool Joins(string text, int at) =>
        char.IsLowSurrogate(text[at])
        || text[at] == '\u200d'
        || text[at - 1] == '\u200d'
        || text[at] is >= '\ufe00' and <= '\ufe0f'
        || CharUnicodeInfo.GetUnicodeCategory(text, at)
            is UnicodeCategory.NonSpacingMark
                or UnicodeCategory.EnclosingMark
                or UnicodeCategory.ModifierSymbol
            && text[at] > 127;

    private static string FirstLetter(string word)
    {
        foreach (var rune in word.EnumerateRunes())
            if (Rune.IsLetterOrDigit(rune))
                return rune.ToString();
        return "";
    }
}
