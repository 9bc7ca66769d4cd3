using System.Globalization;
using System.Text;

namespace ClearLexicon.Core.Conventions;

/// <summary>Writes Latin letters beyond ASCII with ASCII letters, for names that must travel anywhere.</summary>
public static class Transliteration
{
    /// <summary>
    /// Drops accents (é → e), spells out letters that have none (ß → ss, ø → o, æ → ae, þ → th) and common signs (– → -, ’ → ').
    /// What has no ASCII spelling is left out.
    /// </summary>
    public static string ToAscii(string text)
    {
        if (System.Text.Ascii.IsValid(text))
            return text;
        var ascii = new StringBuilder(text.Length);
        // Unpaired surrogates cannot be normalised.
        foreach (var rune in text.EnumerateRunes())
        foreach (var c in rune.Value == 0xfffd ? "" : rune.ToString().Normalize(NormalizationForm.FormKD))
            if (c < 128)
                ascii.Append(c);
            else if (CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
                ascii.Append(Spelled(c));
        return ascii.ToString();
    }

    private static string Spelled(char c) =>
        c switch
        {
            'ß' => "ss",
            'ẞ' => "SS",
            'ø' => "o",
            'Ø' => "O",
            'æ' => "ae",
            'Æ' => "AE",
            'œ' => "oe",
            'Œ' => "OE",
            'ł' => "l",
            'Ł' => "L",
            'đ' or 'ð' => "d",
            'Đ' or 'Ð' => "D",
            'þ' => "th",
            'Þ' => "Th",
            'ı' => "i",
            'ħ' => "h",
            'Ħ' => "H",
            '–' or '—' or '‐' or '‑' or '−' => "-",
            '’' or '‘' => "'",
            '“' or '”' or '„' or '«' or '»' => "\"",
            '×' => "x",
            '·' => ".",
            _ => "",
        };
}
