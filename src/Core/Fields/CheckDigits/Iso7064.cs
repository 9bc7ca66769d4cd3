using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields.CheckDigits;

/// <summary>The check character systems of ISO/IEC 7064: pure (one modulus and radix) and hybrid (modulus and modulus + 1).</summary>
internal static class Iso7064
{
    private const string Numeric = "0123456789",
        Letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ",
        Both = Numeric + Letters;

    public static CheckScheme[] All { get; } =
    [
        Pure("mod-11-2", "MOD 11-2", 11, 2, Numeric, "X", 1, "07940"),
        Pure("mod-37-2", "MOD 37-2", 37, 2, Both, "*", 1, "G123489654321Y"),
        Pure("mod-97-10", "MOD 97-10", 97, 10, Numeric, "", 2, "79444"),
        Pure("mod-661-26", "MOD 661-26", 661, 26, Letters, "", 2, "BAISDLAFKBM"),
        Pure("mod-1271-36", "MOD 1271-36", 1271, 36, Both, "", 2, "ISO793W"),
        Hybrid("mod-11-10", "MOD 11,10", Numeric, "07945"),
        Hybrid("mod-27-26", "MOD 27,26", Letters, "ABCDR"),
        Hybrid("mod-37-36", "MOD 37,36", Both, "A12425GABC1234002M"),
    ];

    /// <summary>The MOD 11-2 check value 0–10 of digits.</summary>
    public static int Mod11_2(ReadOnlySpan<char> payload)
    {
        var p = 0;
        foreach (var c in payload)
            p = (p + c - '0') * 2 % 11;
        return (12 - p) % 11;
    }

    /// <summary>The MOD 11,10 check digit of digits.</summary>
    public static int Mod11_10(ReadOnlySpan<char> payload) => HybridCheck(payload, Numeric);

    private static CheckScheme Pure(
        string code,
        string name,
        int modulus,
        int radix,
        string alphabet,
        string extra,
        int checks,
        string example
    ) =>
        new(
            code,
            name,
            $"ISO/IEC 7064 {name}",
            example,
            true,
            text =>
            {
                if (Strange(text.AsSpan(0, Math.Max(0, text.Length - checks)), alphabet) is { } problem)
                    return problem;
                if (text.Length <= checks)
                    return Digits.Length($"at least {checks + 1}", text.Length);
                var p = 0;
                foreach (var c in text.AsSpan(0, text.Length - checks))
                    p = (p * radix + alphabet.IndexOf(c)) % modulus;
                for (var i = 0; i < checks; i++)
                    p = p * radix % modulus;
                // MOD 97-10 counts from 2 to 98 (01 and 00 are written 98 and 97), the others from 0 on.
                var value = (modulus + 1 - p) % modulus;
                if (modulus == 97 && value < 2)
                    value += modulus;
                var expected = checks == 1 ? (alphabet + extra)[value].ToString() : $"{alphabet[value / radix]}{alphabet[value % radix]}";
                return text.EndsWith(expected, StringComparison.Ordinal) ? null : new CheckProblem.Digit(expected);
            }
        );

    private static CheckScheme Hybrid(string code, string name, string alphabet, string example) =>
        new(
            code,
            name,
            $"ISO/IEC 7064 {name}",
            example,
            true,
            text =>
            {
                if (Strange(text, alphabet) is { } problem)
                    return problem;
                if (text.Length < 2)
                    return Digits.Length("at least 2", text.Length);
                return Digits.Last(text, alphabet[HybridCheck(text.AsSpan(0, text.Length - 1), alphabet)]);
            }
        );

    private static int HybridCheck(ReadOnlySpan<char> payload, string alphabet)
    {
        var (m, p) = (alphabet.Length, alphabet.Length);
        foreach (var c in payload)
        {
            p = (p + alphabet.IndexOf(c)) % m;
            p = (p == 0 ? m : p) * 2 % (m + 1);
        }
        return (m + 1 - p) % m;
    }

    private static CheckProblem? Strange(ReadOnlySpan<char> text, string alphabet)
    {
        for (var i = 0; i < text.Length; i++)
            if (!alphabet.Contains(text[i]))
                return new CheckProblem.Character(CodePoints.At(text, i), i + 1);
        return null;
    }
}
