using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Cleaning;

/// <summary>
/// Swaps characters that text recognition mistakes for one another, only where the field says what must stand there: all
/// of a number, or the digit and letter positions of a fixed-length pattern.
/// </summary>
public static class LookAlikes
{
    private const string Letters = "OQDoIl|iSsBZzGbgqTA";
    private const string Digits = "00001111558226699" + "74";

    /// <summary>The swap for a field; nothing is swapped when the field does not say what stands where.</summary>
    public static Func<string, string> For(Field? field)
    {
        if (field is null)
            return static text => text;
        if (field.Kind.Measure is Measure.Number or Measure.TimeOfDay)
            return static text => LooksNumeric(text) ? string.Concat(text.Select(ToDigit)) : text;
        if (ShapeOf(field) is not { } shape)
            return static text => text;
        return text =>
        {
            var compact = text.Length == shape.Length ? text : text.Replace(" ", "", StringComparison.Ordinal);
            if (compact.Length != shape.Length)
                return text;
            var swapped = string.Create(
                compact.Length,
                (compact, shape),
                static (span, s) =>
                {
                    for (var i = 0; i < span.Length; i++)
                        span[i] = s.shape.At(i) switch
                        {
                            Expected.Digit => ToDigit(s.compact[i]),
                            Expected.UpperLetter => ToLetter(s.compact[i]),
                            _ => s.compact[i],
                        };
                }
            );
            return shape.Matches(swapped) ? swapped : text;
        };
    }

    private static PatternShape? ShapeOf(Field field) =>
        field switch
        {
            TextField text => PatternShape.Parse(text.Pattern),
            IdentifierField number when CheckSchemes.Find(number.Scheme)?.Digits is { } digits => PatternShape.Parse($"[0-9]{{{digits}}}"),
            _ => null,
        };

    /// <summary>At least half of the characters are digits already, so that a word is not turned into a number.</summary>
    private static bool LooksNumeric(string text) => text.Length > 0 && text.Count(char.IsAsciiDigit) * 2 >= text.Length;

    private static char ToDigit(char c) => Letters.IndexOf(c) is var i and >= 0 ? Digits[i] : c;

    private static char ToLetter(char c) =>
        c switch
        {
            '0' => 'O',
            '1' => 'I',
            '5' => 'S',
            '8' => 'B',
            '2' => 'Z',
            _ => c,
        };
}
