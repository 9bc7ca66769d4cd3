using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields.CheckDigits;

/// <summary>A scheme that says whether a number can be right by its own check digit.</summary>
/// <param name="Code">Stable code, e.g. <c>iban</c>.</param>
/// <param name="Name">Name shown to people.</param>
/// <param name="Standard">The standard it follows.</param>
/// <param name="Example">A number that passes.</param>
/// <param name="CatchesEveryDigit">Whether the scheme promises to notice any single changed digit.</param>
/// <param name="Check">The problem of a number without blanks, dots and dashes, in upper case; null when it passes. Pure and
/// thread-safe.</param>
public sealed record CheckScheme(
    string Code,
    string Name,
    string Standard,
    string Example,
    bool CatchesEveryDigit,
    Func<string, CheckProblem?> Check
)
{
    /// <summary>Writes a sound number as it is kept; most are kept without separators.</summary>
    public Func<string, string> Write { get; init; } = static compact => compact;

    /// <summary>Number of digits when the number is digits only and always as long; then look-alike letters can be swapped.</summary>
    public int? Digits { get; init; }

    /// <summary>
    /// The problem of a number as people write it; null when it passes. A number of more than <see cref="Longest"/> characters is not
    /// looked at.
    /// </summary>
    public CheckProblem? Problem(string text) =>
        Compact(text) is var compact && compact.Length > Longest
            ? new CheckProblem.Length($"at most {Longest}", compact.Length)
            : Check(compact);

    /// <summary>Longest number that is computed, in characters without separators.</summary>
    public const int Longest = 100;

    /// <summary>Takes separators out and writes letters in upper case.</summary>
    public static string Compact(string text)
    {
        foreach (var c in text)
            if (!char.IsAsciiDigit(c) && !char.IsAsciiLetterUpper(c))
                return string.Concat(
                    text.Where(c => !char.IsWhiteSpace(c) && c is not ('-' or '.' or '/' or '–')).Select(char.ToUpperInvariant)
                );
        return text;
    }
}

/// <summary>The schemes there are.</summary>
public static class CheckSchemes
{
    /// <summary>Code of an organisation's own scheme; its weights and modulus follow, see <see cref="HouseScheme"/>.</summary>
    public const string House = "house";

    /// <summary>All published schemes in the order they are offered.</summary>
    public static IReadOnlyList<CheckScheme> All { get; } =
    [.. BankSchemes.All, .. TransportSchemes.All, .. TradeSchemes.All, .. Iso7064.All, EuVat.Scheme];

    private static readonly Dictionary<string, CheckScheme> ByCode = All.ToDictionary(s => s.Code, StringComparer.Ordinal);

    /// <summary>The scheme with a code, or the house scheme it describes; null when there is none.</summary>
    public static CheckScheme? Find(string? code) =>
        code is null ? null
        : ByCode.TryGetValue(code, out var scheme) ? scheme
        : code.StartsWith(House, StringComparison.Ordinal) && HouseScheme.TryParse(code[House.Length..], out var own, out _) ? own
        : null;
}

/// <summary>What the schemes share.</summary>
internal static class Digits
{
    public static CheckProblem? Only(ReadOnlySpan<char> text, int length)
    {
        for (var i = 0; i < text.Length; i++)
            if (!char.IsAsciiDigit(text[i]))
                return new CheckProblem.Character(CodePoints.At(text, i), i + 1);
        return text.Length == length ? null : Length(length.ToString(), text.Length);
    }

    public static CheckProblem Length(string expected, int actual) => new CheckProblem.Length(expected, actual);

    public static CheckProblem? Last(ReadOnlySpan<char> text, int expected) => Last(text, expected == 10 ? 'X' : (char)('0' + expected));

    public static CheckProblem? Last(ReadOnlySpan<char> text, char expected) =>
        text[^1] == expected ? null : new CheckProblem.Digit(expected.ToString());

    /// <summary>Value of a digit, or 10–35 for a letter A–Z.</summary>
    public static int Value(char c) => c <= '9' ? c - '0' : c - 'A' + 10;

    public static int Weighted(ReadOnlySpan<char> digits, ReadOnlySpan<int> weights)
    {
        var sum = 0;
        for (var i = 0; i < weights.Length; i++)
            sum += (digits[i] - '0') * weights[i];
        return sum;
    }

    /// <summary>Check digit by ISO/IEC 7812: every second digit from the right doubled.</summary>
    public static int Luhn(ReadOnlySpan<char> payload)
    {
        var sum = 0;
        for (var i = 0; i < payload.Length; i++)
        {
            var d = payload[^(i + 1)] - '0';
            if (i % 2 == 0)
                d = d > 4 ? d * 2 - 9 : d * 2;
            sum += d;
        }
        return (10 - sum % 10) % 10;
    }

    /// <summary>Remainder by 97 of a number in which letters stand for 10–35.</summary>
    public static int Mod97(ReadOnlySpan<char> text, int start = 0)
    {
        foreach (var c in text)
            start = c <= '9' ? (start * 10 + c - '0') % 97 : (start * 100 + c - 'A' + 10) % 97;
        return start;
    }

    /// <summary>The first character that is neither a digit nor a letter A–Z.</summary>
    public static CheckProblem? LettersAndDigits(ReadOnlySpan<char> text)
    {
        for (var i = 0; i < text.Length; i++)
            if (!char.IsAsciiDigit(text[i]) && !char.IsAsciiLetterUpper(text[i]))
                return new CheckProblem.Character(CodePoints.At(text, i), i + 1);
        return null;
    }

    public static CheckProblem? LettersAt(ReadOnlySpan<char> text, Range letters)
    {
        var (start, length) = letters.GetOffsetAndLength(text.Length);
        for (var i = start; i < start + length; i++)
            if (!char.IsAsciiLetterUpper(text[i]))
                return new CheckProblem.Character(CodePoints.At(text, i), i + 1);
        return null;
    }
}
