using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>Keys of fields, vocabularies and tables, made from their names.</summary>
public static class ShortName
{
    /// <summary>Makes a key from a label: <c>"Gross tonnage (GT)"</c> → <c>gross-tonnage-gt</c>.</summary>
    public static string From(string label)
    {
        var key = string.Concat(Folding.Fold(label).Select(c => char.IsAsciiLetterOrDigit(c) ? c : '-')).Trim('-');
        if (key.Length > 0 && char.IsAsciiDigit(key[0]))
            key = "n-" + key;
        return key.Length > 40 ? key[..40].Trim('-') : key;
    }
}
