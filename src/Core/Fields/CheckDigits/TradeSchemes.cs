using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields.CheckDigits;

/// <summary>Numbers of goods, books, serials and people who write them.</summary>
internal static class TradeSchemes
{
    public static CheckScheme[] All { get; } =
    [
        Gs1("gtin-8", "GTIN-8", 8, "96385074"),
        Gs1("gtin-12", "GTIN-12", 12, "036000291452"),
        Gs1("gtin-13", "GTIN-13", 13, "4006381333931"),
        Gs1("gtin-14", "GTIN-14", 14, "10012345678902"),
        Gs1("sscc", "SSCC", 18, "106141411234567897"),
        new("isbn-10", "ISBN-10", "ISO 2108", "0306406152", true, static text => Mod11(text, 10)),
        new("isbn-13", "ISBN-13", "ISO 2108", "9780306406157", true, Isbn13) { Digits = 13 },
        new("issn", "ISSN", "ISO 3297", "0378-5955", true, static text => Mod11(text, 8)) { Write = static n => $"{n[..4]}-{n[4..]}" },
        new("orcid", "ORCID", "ISO 27729 with ISO 7064 MOD 11-2", "0000-0002-1825-0097", true, Name)
        {
            Write = static n => $"{n[..4]}-{n[4..8]}-{n[8..12]}-{n[12..]}",
        },
        new("isni", "ISNI", "ISO 27729", "0000000121032683", true, Name),
    ];

    private static CheckScheme Gs1(string code, string name, int length, string example) =>
        new(
            code,
            name,
            "GS1 General Specifications",
            example,
            true,
            text => Digits.Only(text, length) ?? Digits.Last(text, ByThrees(text.AsSpan(0, length - 1)))
        )
        {
            Digits = length,
        };

    // Weights 3 and 1 from the right.
    private static int ByThrees(ReadOnlySpan<char> payload)
    {
        var sum = 0;
        for (var i = 0; i < payload.Length; i++)
            sum += (payload[^(i + 1)] - '0') * (i % 2 == 0 ? 3 : 1);
        return (10 - sum % 10) % 10;
    }

    private static CheckProblem? Isbn13(string text) =>
        Digits.Only(text, 13)
        ?? (
            text.StartsWith("978", StringComparison.Ordinal) || text.StartsWith("979", StringComparison.Ordinal)
                ? Digits.Last(text, ByThrees(text.AsSpan(0, 12)))
                : new CheckProblem.Prefix("978 or 979")
        );

    private static CheckProblem? Mod11(string text, int length)
    {
        if (Shaped(text, length) is { } problem)
            return problem;
        var sum = 0;
        for (var i = 0; i < length - 1; i++)
            sum += (text[i] - '0') * (length - i);
        return Digits.Last(text, (11 - sum % 11) % 11);
    }

    private static CheckProblem? Name(string text) => Shaped(text, 16) ?? Digits.Last(text, Iso7064.Mod11_2(text.AsSpan(0, 15)));

    /// <summary>Digits, of which the last may be X for ten.</summary>
    private static CheckProblem? Shaped(string text, int length)
    {
        if (text.Length > 0 && Digits.Only(text.AsSpan(0, text.Length - 1), text.Length - 1) is { } strange)
            return strange;
        if (text.Length != length)
            return Digits.Length(length.ToString(), text.Length);
        return char.IsAsciiDigit(text[^1]) || text[^1] == 'X'
            ? null
            : new CheckProblem.Character(CodePoints.At(text, text.Length - 1), length);
    }
}
