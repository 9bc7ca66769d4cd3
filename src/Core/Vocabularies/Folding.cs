using System.Buffers;
using System.Globalization;
using System.Text;

namespace ClearLexicon.Core.Vocabularies;

/// <summary>
/// Reduces a spelling to what people mean by it: lower case, no accents, punctuation as single blanks.
/// Two spellings that fold alike are the same word to every look-up of the product.
/// </summary>
public static class Folding
{
    /// <summary>Folds a text; <c>"Öster-Quay  No.3"</c> becomes <c>"oster quay no 3"</c>.</summary>
    public static string Fold(string text)
    {
        if (text.Length == 0)
            return text;
        char[]? rented = null;
        Span<char> buffer = text.Length * 3 <= 512 ? stackalloc char[512] : (rented = ArrayPool<char>.Shared.Rent(text.Length * 3));
        var folded = new string(buffer[..Fold(text, buffer)]);
        if (rented is not null)
            ArrayPool<char>.Shared.Return(rented);
        return folded;
    }

    /// <summary>Folds into a buffer and returns the length written.</summary>
    /// <param name="text">Any text.</param>
    /// <param name="into">At least three times as long as <paramref name="text"/>.</param>
    public static int Fold(ReadOnlySpan<char> text, Span<char> into)
    {
        foreach (var c in text)
            if (c > 127)
                return FoldBeyondAscii(text.ToString(), into);
        return Squeeze(text, into);
    }

    private static int FoldBeyondAscii(string text, Span<char> into)
    {
        var spread = new StringBuilder(text.Length);
        foreach (var c in CodePoints.Normal(text, NormalizationForm.FormD))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.NonSpacingMark)
                continue;
            // Letters that Unicode does not decompose.
            _ = c switch
            {
                'ß' => spread.Append("ss"),
                'ø' or 'Ø' => spread.Append('o'),
                'æ' or 'Æ' => spread.Append("ae"),
                'œ' or 'Œ' => spread.Append("oe"),
                'ł' or 'Ł' => spread.Append('l'),
                'đ' or 'Đ' => spread.Append('d'),
                _ => spread.Append(c),
            };
        }
        return Squeeze(spread.ToString().AsSpan(0, Math.Min(spread.Length, into.Length)), into);
    }

    private static int Squeeze(ReadOnlySpan<char> text, Span<char> into)
    {
        var n = 0;
        var blank = false;
        foreach (var c in text)
        {
            if (!char.IsLetterOrDigit(c))
            {
                blank = n > 0;
                continue;
            }
            if (blank)
            {
                into[n++] = ' ';
                blank = false;
            }
            into[n++] = char.IsAsciiLetterUpper(c) ? (char)(c | 0x20) : char.ToLowerInvariant(c);
        }
        return n;
    }

    /// <summary>The words of a phrase, each folded; none when nothing of it can be compared.</summary>
    public static string[] Words(string phrase) => Fold(phrase).Split(' ', StringSplitOptions.RemoveEmptyEntries);
}
