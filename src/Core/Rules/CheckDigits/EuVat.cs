namespace ClearLexicon.Core.Rules.CheckDigits;

/// <summary>
/// VAT identification numbers of the European Union (Council Directive 2006/112/EC, article 215): two letters for the
/// country and a national part, whose check digits each country publishes with its number.
/// </summary>
internal static class EuVat
{
    public static CheckScheme Scheme { get; } = new("eu-vat", "EU VAT number", "Council Directive 2006/112/EC, art. 215", "LU15027442", false, Check);

    private static readonly Dictionary<string, Func<string, CheckFault?>> Countries = new(StringComparer.Ordinal)
    {
        ["AT"] = static n => n.Length > 0 && n[0] != 'U' ? new CheckFault("check-character", n[0].ToString(), "3") : n.Length == 0 ? Digits.Length("9", 0) : Digits.Only(n.AsSpan(1), 8) ?? Digits.Last(n, Austria(n.AsSpan(1))),
        ["BE"] = static n => Digits.Only(n, 10) ?? Ends(n, 97 - int.Parse(n.AsSpan(0, 8)) % 97),
        ["CY"] = static n => n.Length != 9 ? Digits.Length("9", n.Length) : Digits.Only(n.AsSpan(0, 8), 8) ?? Digits.Last(n, Cyprus(n)),
        ["CZ"] = static n => Digits.Only(n, 8) ?? Digits.Last(n, (11 - Digits.Weighted(n, [8, 7, 6, 5, 4, 3, 2]) % 11) switch { 10 => 0, 11 => 1, var c => c }),
        ["DE"] = static n => Digits.Only(n, 9) ?? Digits.Last(n, Iso7064.Mod11_10(n.AsSpan(0, 8))),
        ["DK"] = static n => Digits.Only(n, 8) ?? Digits.Last(n, Complement11(n, [2, 7, 6, 5, 4, 3, 2])),
        ["EE"] = static n => Digits.Only(n, 9) ?? Digits.Last(n, (10 - Digits.Weighted(n, [3, 7, 1, 3, 7, 1, 3, 7]) % 10) % 10),
        ["EL"] = static n => Digits.Only(n, 9) ?? Digits.Last(n, Digits.Weighted(n, [256, 128, 64, 32, 16, 8, 4, 2]) % 11 % 10),
        ["ES"] = Spain,
        ["FI"] = static n => Digits.Only(n, 8) ?? Digits.Last(n, Complement11(n, [7, 9, 10, 5, 8, 4, 2])),
        ["FR"] = France,
        ["HR"] = static n => Digits.Only(n, 11) ?? Digits.Last(n, Iso7064.Mod11_10(n.AsSpan(0, 10))),
        ["HU"] = static n => Digits.Only(n, 8) ?? Digits.Last(n, (10 - Digits.Weighted(n, [9, 7, 3, 1, 9, 7, 3]) % 10) % 10),
        ["IE"] = static n => n.Length is not (8 or 9) ? Digits.Length("8–9", n.Length) : Digits.Only(n.AsSpan(0, 7), 7) ?? (n[7] == Ireland(n) ? null : new CheckFault("check-digit", Ireland(n).ToString())),
        ["IT"] = static n => Digits.Only(n, 11) ?? Digits.Last(n, Digits.Luhn(n.AsSpan(0, 10))),
        ["LT"] = static n => Digits.Only(n, 9) ?? Digits.Last(n, Lithuania(n)),
        ["LU"] = static n => Digits.Only(n, 8) ?? Ends(n, int.Parse(n.AsSpan(0, 6)) % 89),
        ["MT"] = static n => Digits.Only(n, 8) ?? Ends(n, 37 - Digits.Weighted(n, [3, 4, 6, 7, 8, 9]) % 37),
        ["NL"] = Netherlands,
        ["PL"] = static n => Digits.Only(n, 10) ?? Digits.Last(n, Digits.Weighted(n, [6, 5, 7, 2, 3, 4, 5, 6, 7]) % 11),
        ["PT"] = static n => Digits.Only(n, 9) ?? Digits.Last(n, Complement11(n, [9, 8, 7, 6, 5, 4, 3, 2]) % 10),
        ["RO"] = static n => n.Length is < 2 or > 10 ? Digits.Length("2–10", n.Length) : Digits.Only(n, n.Length) ?? Digits.Last(n, Digits.Weighted(n[..^1].PadLeft(9, '0'), [7, 5, 3, 2, 1, 7, 5, 3, 2]) * 10 % 11 % 10),
        ["SE"] = static n => Digits.Only(n, 12) ?? Digits.Last(n.AsSpan(0, 10), Digits.Luhn(n.AsSpan(0, 9))),
        ["SI"] = static n => Digits.Only(n, 8) ?? Digits.Last(n, Complement11(n, [8, 7, 6, 5, 4, 3, 2]) % 10),
        ["SK"] = static n => Digits.Only(n, 10) ?? (long.Parse(n) % 11 == 0 ? null : Slovakia(n)),
    };

    /// <summary>Countries whose check digits are known.</summary>
    public static IReadOnlyCollection<string> Known => Countries.Keys;

    private static CheckFault? Check(string text)
    {
        if (Digits.LettersAndDigits(text) is { } strange) return strange;
        if (text.Length < 4) return Digits.Length("4–14", text.Length);
        return Countries.TryGetValue(text[..2], out var check) ? check(text[2..]) : new CheckFault("check-country", text[..2]);
    }

    private static CheckFault? Ends(string text, int expected) =>
        text.AsSpan(text.Length - 2).SequenceEqual(expected.ToString("00")) ? null : new CheckFault("check-digit", expected.ToString("00"));

    private static int Complement11(string digits, ReadOnlySpan<int> weights) => (11 - Digits.Weighted(digits, weights) % 11) % 11;

    private static int Austria(ReadOnlySpan<char> digits)
    {
        var sum = 4;
        for (var i = 0; i < 7; i++)
        {
            var d = digits[i] - '0';
            sum += i % 2 == 0 ? d : d * 2 / 10 + d * 2 % 10;
        }
        return (10 - sum % 10) % 10;
    }

    private static char Cyprus(string digits)
    {
        ReadOnlySpan<int> odd = [1, 0, 5, 7, 9, 13, 15, 17, 19, 21];
        var sum = 0;
        for (var i = 0; i < 8; i++) sum += i % 2 == 0 ? odd[digits[i] - '0'] : digits[i] - '0';
        return (char)('A' + sum % 26);
    }

    private static char Ireland(string n)
    {
        var sum = Digits.Weighted(n, [8, 7, 6, 5, 4, 3, 2]) + (n.Length == 9 && n[8] != 'W' ? (n[8] - 'A' + 1) * 9 : 0);
        return "WABCDEFGHIJKLMNOPQRSTUV"[sum % 23];
    }

    private static int Lithuania(string n)
    {
        var remainder = Digits.Weighted(n, [1, 2, 3, 4, 5, 6, 7, 8]) % 11;
        return remainder < 10 ? remainder : Digits.Weighted(n, [3, 4, 5, 6, 7, 8, 9, 1]) % 11 % 10;
    }

    private static CheckFault? Slovakia(string n)
    {
        for (var d = 0; d < 10; d++)
            if (long.Parse(n[..^1] + d) % 11 == 0) return new CheckFault("check-digit", d.ToString());
        return new CheckFault("check-digit", "another number");
    }

    private static CheckFault? France(string n)
    {
        if (n.Length != 11) return Digits.Length("11", n.Length);
        if (Digits.Only(n.AsSpan(2), 9) is { } strange) return strange with { B = (int.Parse(strange.B!) + 4).ToString() };
        if (Digits.Last(n, Digits.Luhn(n.AsSpan(2, 8))) is { } siren) return siren;
        // Keys with letters follow another computation that is not published with the number.
        if (!char.IsAsciiDigit(n[0]) || !char.IsAsciiDigit(n[1])) return null;
        var key = (12 + 3 * (int.Parse(n.AsSpan(2)) % 97)) % 97;
        return n.AsSpan(0, 2).SequenceEqual(key.ToString("00")) ? null : new CheckFault("check-digit", key.ToString("00"));
    }

    private static CheckFault? Netherlands(string n)
    {
        if (n.Length != 12) return Digits.Length("12", n.Length);
        if (Digits.Only(n.AsSpan(0, 9), 9) is { } strange) return strange;
        if (n[9] != 'B') return new CheckFault("check-character", n[9].ToString(), "12");
        if (Digits.Mod97("NL" + n) == 1) return null;
        var expected = Digits.Weighted(n, [9, 8, 7, 6, 5, 4, 3, 2]) % 11;
        return n[8] - '0' == expected ? null : new CheckFault("check-digit", expected == 10 ? "another number" : expected.ToString());
    }

    private static CheckFault? Spain(string n)
    {
        if (n.Length != 9) return Digits.Length("9", n.Length);
        if (Digits.Only(n.AsSpan(1, 7), 7) is { } strange) return strange with { B = (int.Parse(strange.B!) + 3).ToString() };
        if (char.IsAsciiDigit(n[0]) || n[0] is 'X' or 'Y' or 'Z')
        {
            var person = int.Parse((char.IsAsciiDigit(n[0]) ? n[0] : (char)('0' + n[0] - 'X')) + n[1..8]);
            return Digits.Last(n, "TRWAGMYFPDXBNJZSQVHLCKE"[person % 23]);
        }
        var control = Digits.Luhn(n.AsSpan(1, 7));
        return n[0] is 'P' or 'Q' or 'S' or 'K' or 'N' or 'R' or 'W' || !char.IsAsciiDigit(n[8]) ? Digits.Last(n, "JABCDEFGHI"[control]) : Digits.Last(n, control);
    }
}
