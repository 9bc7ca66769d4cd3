using System.Text;

namespace ClearLexicon.Core.Vocabularies;

/// <summary>Counts characters as people and JSON Schema do: in code points (RFC 8259), so that 𝄞 is one and not two.</summary>
public static class CodePoints
{
    /// <summary>How many code points a text has; half of a pair counts as one.</summary>
    public static int Count(string text)
    {
        var count = text.Length;
        for (var i = 1; i < text.Length; i++)
            if (char.IsLowSurrogate(text[i]) && char.IsHighSurrogate(text[i - 1]))
                count--;
        return count;
    }

    /// <summary>The first code points of a text; never half of a pair.</summary>
    public static string First(string text, int count)
    {
        var at = 0;
        for (; count > 0 && at < text.Length; count--)
            at += char.IsHighSurrogate(text[at]) && at + 1 < text.Length && char.IsLowSurrogate(text[at + 1]) ? 2 : 1;
        return text[..at];
    }

    /// <summary>The character at a place, whole also where it takes two; U+FFFD for half of one.</summary>
    public static string At(ReadOnlySpan<char> text, int at) =>
        Rune.DecodeFromUtf16(text[at..], out var rune, out _) == System.Buffers.OperationStatus.Done ? rune.ToString() : "\uFFFD";

    /// <summary>
    /// A text in a normal form of Unicode; halves of pairs become the sign for what cannot be shown, instead of an exception.
    /// </summary>
    public static string Normal(string text, NormalizationForm form = NormalizationForm.FormC)
    {
        if (!AreSound(text))
            text = Repaired(text);
        return Ascii.IsValid(text) ? text : text.Normalize(form);
    }

    /// <summary>A text with U+FFFD in place of NUL, of U+FFFE (a byte order mark read backwards) and of halves of pairs.</summary>
    public static string Repaired(string text) =>
        Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text)).Replace('\0', '\uFFFD').Replace('\uFFFE', '\uFFFD');

    /// <summary>Whether every surrogate of a text has its other half, and no character is NUL or U+FFFE.</summary>
    public static bool AreSound(ReadOnlySpan<char> text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] is '\0' or '\uFFFE' || char.IsLowSurrogate(text[i]))
                return false;
            if (char.IsHighSurrogate(text[i]) && (++i >= text.Length || !char.IsLowSurrogate(text[i])))
                return false;
        }
        return true;
    }
}
