using System.Buffers;
using System.Globalization;
using System.Text;

namespace ClearLexicon.Core.Vocabularies;

/// <summary>
/// Reduces a spelling to what people mean by it: lower case, no accents, punctuation as single blanks; signs that change what is meant
/// stay.
/// Two spellings that fold alike are the same word to every look-up of the product. What a page shows is compared by its letters and digits
/// alone, since specks are read as signs.
/// </summary>
/// <remarks>
/// What stays: a minus before a number (<c>-18 °C</c> is not <c>18 °C</c>), a plus behind a letter or number (<c>A+</c>), <c>&lt; &gt; ≤
/// ≥ ±
/// % ‰ € £ $ ¥</c> as words of their own, raised and lowered figures as figures (<c>m²</c> is <c>m2</c>), Roman numerals that are one
/// sign as
/// their letters, fractions as figures. Everything else that is no letter and no digit is a blank.
/// </remarks>
public static class Folding
{
    private static readonly SearchValues<char> WordSigns = SearchValues.Create("<>≤≥±%‰€£$¥");

    /// <summary>Folds a text; <c>"Öster-Quay  No.3"</c> becomes <c>"oster quay no 3"</c>, <c>"&lt; 10 %"</c> stays as it is.</summary>
    public static string Fold(string text) => Fold(text, signs: true);

    /// <summary>The letters and digits of a text, folded, with blanks for everything else.</summary>
    public static string Letters(string text) => Fold(text, signs: false);

    private static string Fold(string text, bool signs)
    {
        if (text.Length == 0)
            return text;
        char[]? rented = null;
        Span<char> buffer = text.Length * 3 <= 512 ? stackalloc char[512] : (rented = ArrayPool<char>.Shared.Rent(text.Length * 3));
        var folded = new string(buffer[..Fold(text, buffer, signs)]);
        if (rented is not null)
            ArrayPool<char>.Shared.Return(rented);
        return folded;
    }

    /// <summary>Folds into a buffer and returns the length written.</summary>
    /// <param name="text">Any text.</param>
    /// <param name="into">At least three times as long as <paramref name="text"/>.</param>
    /// <param name="signs">Whether signs that change what is meant stay.</param>
    public static int Fold(ReadOnlySpan<char> text, Span<char> into, bool signs = true)
    {
        foreach (var c in text)
            if (c > 127)
                return FoldBeyondAscii(text.ToString(), into, signs);
        return Squeeze(text, into, signs);
    }

    private static int FoldBeyondAscii(string text, Span<char> into, bool signs)
    {
        var spread = new StringBuilder(text.Length);
        foreach (var c in CodePoints.Normal(text, NormalizationForm.FormD))
        {
            var category = CharUnicodeInfo.GetUnicodeCategory(c);
            if (category == UnicodeCategory.NonSpacingMark)
                continue;
            if (signs && category is UnicodeCategory.OtherNumber or UnicodeCategory.LetterNumber)
            {
                // ² is 2, Ⅳ is IV, ½ is 1 2, apart from the figure before it.
                var plain = c.ToString().Normalize(NormalizationForm.FormKC);
                spread.Append(plain.Contains('\u2044', StringComparison.Ordinal) ? " " : "").Append(plain);
                continue;
            }
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
        return Squeeze(spread.ToString().AsSpan(0, Math.Min(spread.Length, into.Length / 3 * 2)), into, signs);
    }

    private static int Squeeze(ReadOnlySpan<char> text, Span<char> into, bool signs)
    {
        var n = 0;
        var blank = false;
        for (var i = 0; i < text.Length && n < into.Length - 1; i++)
        {
            var c = text[i];
            if (!char.IsLetterOrDigit(c))
            {
                var (before, behind) = (
                    i > 0 && char.IsLetterOrDigit(text[i - 1]),
                    i + 1 < text.Length && char.IsLetterOrDigit(text[i + 1])
                );
                if (signs && (WordSigns.Contains(c) || IsMinus(c) && !before && behind && char.IsDigit(text[i + 1])))
                {
                    if (n > 0 && into[n - 1] != ' ')
                        into[n++] = ' ';
                    into[n++] = IsMinus(c) ? '-' : c;
                    blank = !IsMinus(c);
                    continue;
                }
                if (signs && c == '+' && before && !behind)
                {
                    into[n++] = '+';
                    continue;
                }
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

    private static bool IsMinus(char c) => c is '-' or '\u2212' or '\u2013';

    /// <summary>The words of a phrase as a page shows them, each folded; none when nothing of it can be compared.</summary>
    public static string[] Words(string phrase) => Letters(phrase).Split(' ', StringSplitOptions.RemoveEmptyEntries);
}
