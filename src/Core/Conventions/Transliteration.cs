using System.Text;
using AnyAscii;

namespace ClearLexicon.Core.Conventions;

/// <summary>Writes text of any script with ASCII characters, for names that must travel anywhere (the AnyAscii tables).</summary>
public static class Transliteration
{
    /// <summary>
    /// Drops accents (é → e), spells out letters that have none (ß → ss, æ → ae, þ → th), other scripts (Ж → Zh) and common signs
    /// (– → -, ’ → '). What has no ASCII spelling is left out.
    /// </summary>
    public static string ToAscii(string text)
    {
        if (Ascii.IsValid(text))
            return text;
        var ascii = new StringBuilder(text.Length);
        // An unpaired surrogate is no character; × stands between measures, where its table writes a sign that no file name may have.
        foreach (var rune in text.EnumerateRunes())
            if (rune.Value == '×')
                ascii.Append('x');
            else if (rune.Value != Rune.ReplacementChar.Value)
                ascii.Append(rune.ToString().Transliterate());
        return ascii.ToString();
    }
}
