using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields.CheckDigits;

/// <summary>Numbers of ships, containers and vehicles.</summary>
public static class TransportSchemes
{
    internal static CheckScheme[] All { get; } =
    [
        // Weights that share a factor with 10 let some single changes through, e.g. the second digit by five.
        new("imo", "IMO ship number", "IMO Resolution A.1117(30)", "9074729", false, Imo) { Digits = 7 },
        // A remainder of 10 is written 0 and cannot be told from 0.
        new("container", "Freight container number", "ISO 6346", "CSQU3054383", false, Container),
        new("vin", "Vehicle identification number", "ISO 3779, check character by 49 CFR 565", "1M8GDM9AXKP042788", true, Vin),
    ];

    /// <summary>
    /// The check digit of the first six digits of an IMO ship number: the unit digit of their sum weighted 7 down to 2.
    /// Example: 907472 → 9·7+0·6+7·5+4·4+7·3+2·2 = 139 → 9. −1 when they are not six digits.
    /// </summary>
    public static int ImoCheckDigit(ReadOnlySpan<char> digits) =>
        digits.Length < 6 || Digits.Only(digits[..6], 6) is not null ? -1 : Digits.Weighted(digits, [7, 6, 5, 4, 3, 2]) % 10;

    private static CheckProblem? Imo(string text)
    {
        var digits = text.StartsWith("IMO", StringComparison.Ordinal) ? text[3..] : text;
        return Digits.Only(digits, 7) ?? Digits.Last(digits, ImoCheckDigit(digits));
    }

    private static CheckProblem? Container(string text)
    {
        if (text.Length != 11)
            return Digits.Length("11", text.Length);
        if (Digits.LettersAt(text, 0..4) is { } strange)
            return strange;
        if (text[3] is not ('U' or 'J' or 'Z'))
            return new CheckProblem.Character(CodePoints.At(text, 3), 4);
        if (Digits.Only(text.AsSpan(4), 7) is { } noDigit)
            return noDigit.Further(4);
        var sum = 0;
        for (var i = 0; i < 10; i++)
            sum += LetterValue(text[i]) << i;
        return Digits.Last(text, (char)('0' + sum % 11 % 10));
    }

    // Letters count 10, 12, 13 … 38: multiples of 11 are left out.
    private static int LetterValue(char c)
    {
        if (c <= '9')
            return c - '0';
        var value = 10 + (c - 'A');
        return value + (value >= 11 ? 1 : 0) + (value >= 21 ? 1 : 0) + (value >= 31 ? 1 : 0);
    }

    private static readonly int[] VinWeights = [8, 7, 6, 5, 4, 3, 2, 10, 0, 9, 8, 7, 6, 5, 4, 3, 2];

    private static CheckProblem? Vin(string text)
    {
        if (Digits.LettersAndDigits(text) is { } strange)
            return strange;
        if (text.AsSpan().IndexOfAny('I', 'O', 'Q') is var at and >= 0)
            return new CheckProblem.Character(CodePoints.At(text, at), at + 1);
        if (text.Length != 17)
            return Digits.Length("17", text.Length);
        var sum = 0;
        for (var i = 0; i < 17; i++)
            sum += VinWeights[i] * VinValue(text[i]);
        var expected = sum % 11 == 10 ? 'X' : (char)('0' + sum % 11);
        return text[8] == expected ? null : new CheckProblem.Digit(expected.ToString());
    }

    // A–H are 1–8, J–R 1–9, S–Z 2–9.
    private static int VinValue(char c) =>
        c <= '9' ? c - '0'
        : c <= 'H' ? c - 'A' + 1
        : c <= 'R' ? c - 'J' + 1
        : c - 'S' + 2;
}
