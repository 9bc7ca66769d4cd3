using System.Text;

namespace ClearLexicon.Core.Fields;

/// <summary>
/// The one form of a value by which it is equal to another: in conditions, in comparisons and in uniqueness, on every channel. Numbers by
/// amount (1.50 is 1.5, −5 is not 5), dates and yes/no as they are kept, texts regardless of case, of how letters are composed (Unicode
/// NFC) and of
/// whether blanks or dashes stand between their parts (VC-2024-1 is vc 2024 1), identifiers without their separators, several terms
/// regardless of order. Which key a value has is a matter of its kind (<see cref="FieldKind.Key"/>).
/// </summary>
public static class ValueKey
{
    /// <summary>Form of the keys that are kept; when it changes, kept keys are made anew.</summary>
    public const int Form = 2;

    /// <summary>Whether a character counts as a blank between the parts of a text.</summary>
    public static bool Separates(char c) => char.IsWhiteSpace(c) || c is '-' or '\u2010' or '\u2011' or '\u2012' or '\u2013' or '\u2014';

    /// <summary>A text regardless of case, composition, and runs of blanks and dashes.</summary>
    public static string Text(string text)
    {
        if (!Ascii.IsValid(text))
            text = text.Normalize(NormalizationForm.FormC);
        var key = new StringBuilder(text.Length);
        foreach (var c in text)
            if (!Separates(c))
                key.Append(char.ToLowerInvariant(c));
            else if (key.Length > 0 && key[^1] != ' ')
                key.Append(' ');
        // A text of nothing but dashes is not the same as none.
        return key.Length == 0 ? text
            : key[^1] == ' ' ? key.ToString(0, key.Length - 1)
            : key.ToString();
    }

    private static readonly System.Buffers.SearchValues<char> Separators = System.Buffers.SearchValues.Create("\t\n\r;-./");

    /// <summary>Whether nothing but case can make it equal to another such text.</summary>
    internal static bool IsPlain(string text) =>
        Ascii.IsValid(text) && !text.Contains("  ", StringComparison.Ordinal) && text.AsSpan().IndexOfAny(Separators) < 0;
}
