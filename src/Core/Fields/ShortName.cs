using System.Text;
using AnyAscii;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>Keys of fields, vocabularies and tables, made from their names.</summary>
public static class ShortName
{
    private const int Longest = 40;

    /// <summary>
    /// Makes a key from a label of any script: <c>"Gross tonnage (GT)"</c> → <c>gross-tonnage-gt</c>, <c>"名前"</c> → <c>mingqian</c>.
    /// Empty for
    /// a label without letters and digits.
    /// </summary>
    public static string From(string label)
    {
        var key = Ascii(Folding.Letters(label));
        // What is left of “名前 2” would be the number alone: other scripts are written with Latin letters.
        if (key.Length == 0 || Folding.Letters(label).Any(c => c > 127 && char.IsLetter(c)))
            key = Ascii(Folding.Letters(Latin(label)));
        if (key.Length > 0 && char.IsAsciiDigit(key[0]))
            key = "n-" + key;
        return key.Length > Longest ? key[..Longest].Trim('-') : key;
    }

    private static string Ascii(string folded) => string.Concat(folded.Select(c => char.IsAsciiLetterOrDigit(c) ? c : '-')).Trim('-');

    private static string Latin(string label)
    {
        var latin = new StringBuilder(label.Length);
        foreach (var rune in label.EnumerateRunes())
            latin.Append(rune.Value < 128 || !Rune.IsLetterOrDigit(rune) ? rune.ToString() : rune.ToString().Transliterate());
        return latin.ToString();
    }
}
