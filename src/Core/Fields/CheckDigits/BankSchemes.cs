using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields.CheckDigits;

/// <summary>Numbers of banks, cards, securities and legal entities.</summary>
internal static class BankSchemes
{
    public static CheckScheme[] All { get; } =
    [
        new("iban", "IBAN", "ISO 13616-1", "NO9386011117947", true, Iban),
        new("luhn", "Card or account number (Luhn)", "ISO/IEC 7812-1", "4539578763621486", true, Luhn),
        new("lei", "LEI", "ISO 17442-1", "5493001KJTIIGC8Y1R12", true, Lei),
        new("isin", "ISIN", "ISO 6166", "US0378331005", true, Isin),
    ];

    // Shape of the national part by country, in the order of the IBAN registry that ISO 13616-2 establishes: n digits, a capital letters,
    // c either.
    private static readonly Dictionary<string, string> Shapes = (
        "AD8n12c AE19n AL8n16c AT16n AZ4a20c BA16n BE12n BG4a6n8c BH4a14c BI23n BR23n1a1c BY4c4n16c CH5n12c CR18n CY8n16c CZ20n "
        + "DE18n DJ23n DK14n DO4c20n EE16n EG25n ES20n FI14n FK2a12n FO14n FR10n11c2n GB4a14n GE2a16n GI4a15c GL14n GR7n16c GT24c "
        + "HN4a20n HR17n HU24n IE4a14n IL19n IQ4a15n IS22n IT1a10n12c JO4a4n18c KW4a22c KZ3n13c LB4n20c LC4a24c LI5n12c LT16n "
        + "LU3n13c LV4a13c LY21n MC10n11c2n MD20c ME18n MK3n10c2n MN16n MR23n MT4a5n18c MU4a19n3a NI4a20n NL4a10n NO11n OM3n16c "
        + "PK4a16c PL24n PS4a21c PT21n QA4a21c RO4a16c RS18n RU14n15c SA2n18c SC4a20n3a SD14n SE20n SI15n SK20n SM1a10n12c SO19n "
        + "ST21n SV4a20n TL19n TN20n TR6n16c UA6n19c VA18n VG4a16n XK16n YE4a4n18c"
    )
        .Split(' ')
        .ToDictionary(p => p[..2], p => Spread(p[2..]), StringComparer.Ordinal);

    // 4a20n as one letter a character.
    private static string Spread(string shape)
    {
        var spread = new System.Text.StringBuilder();
        for (int i = 0, count = 0; i < shape.Length; i++)
            if (char.IsAsciiDigit(shape[i]))
                count = count * 10 + shape[i] - '0';
            else
                (_, count) = (spread.Append(shape[i], count), 0);
        return spread.ToString();
    }

    // ISO 3166-1 alpha-2, with codes that numbers of former countries still carry, and the letters kept for numbers of no country.
    private static readonly HashSet<string> IsinPrefixes = (
        "AD AE AF AG AI AL AM AN AO AQ AR AS AT AU AW AX AZ BA BB BD BE BF BG BH BI BJ BL BM BN BO BQ BR BS BT BV BW BY BZ CA "
        + "CC CD CF CG CH CI CK CL CM CN CO CR CS CU CV CW CX CY CZ DE DJ DK DM DO DZ EC EE EG EH ER ES ET FI FJ FK FM FO FR GA "
        + "GB GD GE GF GG GH GI GL GM GN GP GQ GR GS GT GU GW GY HK HM HN HR HT HU ID IE IL IM IN IO IQ IR IS IT JE JM JO JP KE "
        + "KG KH KI KM KN KP KR KW KY KZ LA LB LC LI LK LR LS LT LU LV LY MA MC MD ME MF MG MH MK ML MM MN MO MP MQ MR MS MT MU "
        + "MV MW MX MY MZ NA NC NE NF NG NI NL NO NP NR NU NZ OM PA PE PF PG PH PK PL PM PN PR PS PT PW PY QA RE RO RS RU RW SA "
        + "SB SC SD SE SG SH SI SJ SK SL SM SN SO SR SS ST SV SX SY SZ TC TD TF TG TH TJ TK TL TM TN TO TR TT TV TW TZ UA UG UM "
        + "US UY UZ VA VC VE VG VI VN VU WF WS XK YE YT ZA ZM ZW EU XA XB XC XD XF XS QS QT QW QX QY QZ"
    )
        .Split(' ')
        .ToHashSet(StringComparer.Ordinal);

    private static CheckProblem? Iban(string text)
    {
        if (Digits.LettersAndDigits(text) is { } strange)
            return strange;
        if (text.Length < 4)
            return Digits.Length("15–34", text.Length);
        if (!Shapes.TryGetValue(text[..2], out var shape))
            return new CheckProblem.Country(text[..2]);
        if (text.Length != shape.Length + 4)
            return Digits.Length((shape.Length + 4).ToString(), text.Length);
        if (Digits.Only(text.AsSpan(2, 2), 2) is not null)
            return new CheckProblem.Character(text[char.IsAsciiDigit(text[2]) ? 3 : 2].ToString(), char.IsAsciiDigit(text[2]) ? 4 : 3);
        for (var i = 0; i < shape.Length; i++)
            if (shape[i] == 'n' && !char.IsAsciiDigit(text[i + 4]) || shape[i] == 'a' && char.IsAsciiDigit(text[i + 4]))
                return new CheckProblem.Character(CodePoints.At(text, i + 4), i + 5);
        var expected = 98 - Digits.Mod97("00", Digits.Mod97(text.AsSpan(0, 2), Digits.Mod97(text.AsSpan(4))));
        if (!text.AsSpan(2, 2).SequenceEqual(expected.ToString("00")))
            return new CheckProblem.Digit(expected.ToString("00"));
        return National(text[..2], text.AsSpan(4)) ? null : new CheckProblem.Digit("another national check digit");
    }

    // Check digits that a country puts into its own part, besides those of the whole: Belgium, Spain, Montenegro and Norway.
    private static bool National(string country, ReadOnlySpan<char> n) =>
        country switch
        {
            "BE" => long.Parse(n[..10]) % 97 is var rest && (rest == 0 ? 97 : rest) == int.Parse(n[10..]),
            "ES" => n[8] == Spanish(n[..8]) && n[9] == Spanish(n[10..]),
            "ME" => Digits.Mod97(n) == 1,
            "NO" => n.StartsWith("0000", StringComparison.Ordinal)
                ? Digits.Luhn(n[4..10]) == n[10] - '0'
                : Digits.Weighted(n[..10], [5, 4, 3, 2, 7, 6, 5, 4, 3, 2]) % 11 is var sum && (11 - sum) % 11 == n[10] - '0',
            _ => true,
        };

    // Powers of two from the right end of ten places, modulo 11.
    private static char Spanish(ReadOnlySpan<char> digits)
    {
        var sum = 0;
        for (var i = 0; i < digits.Length; i++)
            sum += (digits[i] - '0') * (1 << (10 - digits.Length + i));
        return (char)('0' + (sum % 11 is var rest && rest < 2 ? rest : 11 - rest));
    }

    private static CheckProblem? Luhn(string text)
    {
        if (text.Length < 2)
            return Digits.Length("2–30", text.Length);
        return Digits.Only(text, text.Length)
            ?? (text.Length > 30 ? Digits.Length("2–30", text.Length) : Digits.Last(text, Digits.Luhn(text.AsSpan(0, text.Length - 1))));
    }

    private static CheckProblem? Lei(string text)
    {
        if (Digits.LettersAndDigits(text) is { } strange)
            return strange;
        if (text.Length != 20)
            return Digits.Length("20", text.Length);
        var expected = 98 - Digits.Mod97("00", Digits.Mod97(text.AsSpan(0, 18)));
        return text.AsSpan(18).SequenceEqual(expected.ToString("00")) ? null : new CheckProblem.Digit(expected.ToString("00"));
    }

    private static CheckProblem? Isin(string text)
    {
        if (Digits.LettersAndDigits(text) is { } strange)
            return strange;
        if (text.Length != 12)
            return Digits.Length("12", text.Length);
        if (Digits.LettersAt(text, 0..2) is { } noCountry)
            return noCountry;
        if (!IsinPrefixes.Contains(text[..2]))
            return new CheckProblem.Country(text[..2]);
        if (!char.IsAsciiDigit(text[11]))
            return new CheckProblem.Character(CodePoints.At(text, 11), 12);
        Span<char> spread = stackalloc char[24];
        var n = 0;
        foreach (var c in text.AsSpan(0, 11))
        {
            var value = Digits.Value(c);
            if (value > 9)
                spread[n++] = (char)('0' + value / 10);
            spread[n++] = (char)('0' + value % 10);
        }
        return Digits.Last(text, Digits.Luhn(spread[..n]));
    }
}
