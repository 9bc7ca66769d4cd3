using System.Globalization;
using System.Text;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Fields;

/// <summary>
/// The one form of a value by which it is equal to another: in conditions, in comparisons and in uniqueness, on every channel. Numbers by
/// amount (1.50 is 1.5, −5 is not 5), dates and yes/no as they are kept, texts regardless of case, of how letters are composed (Unicode
/// NFC) and of
/// whether blanks or dashes stand between their parts (VC-2024-1 is vc 2024 1), identifiers without their separators, several terms
/// regardless of order.
/// </summary>
public static class ValueKey
{
    /// <summary>Form of the keys that are kept; when it changes, kept keys are made anew.</summary>
    public const int Form = 2;

    /// <summary>The key of a value that was understood.</summary>
    /// <param name="kind">Kind of its field.</param>
    /// <param name="value">The value.</param>
    public static string Of(FieldKind kind, in FieldValue value) =>
        kind switch
        {
            FieldKind.WholeNumber or FieldKind.Decimal => Number(value.Number),
            FieldKind.Amount => $"{Number(value.Number)} {value.Currency}",
            FieldKind.Date => value.Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            FieldKind.YesNo => value.Number == 1 ? "yes" : "no",
            FieldKind.Identifier => CheckScheme.Compact(value.Text).ToUpperInvariant(),
            FieldKind.Terms => string.Join('\u001e', value.Text.Split("; ").Select(Text).Order(StringComparer.Ordinal)),
            FieldKind.Table => value.Text,
            _ => Text(value.Text),
        };

    /// <summary>Whether two values of one kind are equal.</summary>
    public static bool Same(FieldKind kind, in FieldValue a, in FieldValue b) =>
        kind switch
        {
            FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.YesNo => a.Number == b.Number,
            FieldKind.Amount => a.Number == b.Number && a.Currency == b.Currency,
            FieldKind.Date => a.Date == b.Date,
            _ => string.Equals(a.Text, b.Text, StringComparison.OrdinalIgnoreCase)
                || (!Plain(a.Text) || !Plain(b.Text)) && Of(kind, a) == Of(kind, b),
        };

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

    private static string Number(decimal number) =>
        number.ToString("0.#############################", CultureInfo.InvariantCulture) is var text && text == "-0" ? "0" : text;

    private static readonly System.Buffers.SearchValues<char> Separators = System.Buffers.SearchValues.Create("\t\n\r;-./");

    // Nothing but case can make two of these equal.
    private static bool Plain(string text) =>
        Ascii.IsValid(text) && !text.Contains("  ", StringComparison.Ordinal) && text.AsSpan().IndexOfAny(Separators) < 0;
}
