namespace ClearLexicon.Core.Rules.CheckDigits;

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

    // Length of an IBAN by country: the IBAN registry that ISO 13616-2 establishes.
    private static readonly Dictionary<string, int> Lengths = (
        "AD24 AE23 AL28 AT20 AZ28 BA20 BE16 BG22 BH22 BI27 BR29 BY28 CH21 CR22 CY28 CZ24 DE22 DJ27 DK18 DO28 EE20 EG29 ES24 FI18 FK18 FO18 FR27 GB22 GE22 GI23 GL18 GR27 " +
        "GT28 HN28 HR21 HU28 IE22 IL23 IQ23 IS26 IT27 JO30 KW30 KZ20 LB28 LC32 LI21 LT20 LU20 LV21 LY25 MC27 MD24 ME22 MK19 MN20 MR27 MT31 MU30 NI28 NL18 NO15 OM23 PK24 PL28 " +
        "PS29 PT25 QA29 RO24 RS22 RU33 SA24 SC31 SD18 SE24 SI19 SK24 SM27 SO23 ST25 SV28 TL23 TN24 TR26 UA29 VA22 VG24 XK20 YE30")
        .Split(' ').ToDictionary(p => p[..2], p => int.Parse(p[2..]), StringComparer.Ordinal);

    private static CheckFault? Iban(string text)
    {
        if (Digits.LettersAndDigits(text) is { } strange) return strange;
        if (text.Length < 4) return Digits.Length("15–34", text.Length);
        if (!Lengths.TryGetValue(text[..2], out var length)) return new CheckFault("check-country", text[..2]);
        if (text.Length != length) return Digits.Length(length.ToString(), text.Length);
        if (Digits.Only(text.AsSpan(2, 2), 2) is not null) return new CheckFault("check-character", text[char.IsAsciiDigit(text[2]) ? 3 : 2].ToString(), char.IsAsciiDigit(text[2]) ? "4" : "3");
        var expected = 98 - Digits.Mod97("00", Digits.Mod97(text.AsSpan(0, 2), Digits.Mod97(text.AsSpan(4))));
        return text.AsSpan(2, 2).SequenceEqual(expected.ToString("00")) ? null : new CheckFault("check-digit", expected.ToString("00"));
    }

    private static CheckFault? Luhn(string text)
    {
        if (text.Length < 2) return Digits.Length("2–30", text.Length);
        return Digits.Only(text, text.Length) ?? (text.Length > 30 ? Digits.Length("2–30", text.Length) : Digits.Last(text, Digits.Luhn(text.AsSpan(0, text.Length - 1))));
    }

    private static CheckFault? Lei(string text)
    {
        if (Digits.LettersAndDigits(text) is { } strange) return strange;
        if (text.Length != 20) return Digits.Length("20", text.Length);
        var expected = 98 - Digits.Mod97("00", Digits.Mod97(text.AsSpan(0, 18)));
        return text.AsSpan(18).SequenceEqual(expected.ToString("00")) ? null : new CheckFault("check-digit", expected.ToString("00"));
    }

    private static CheckFault? Isin(string text)
    {
        if (Digits.LettersAndDigits(text) is { } strange) return strange;
        if (text.Length != 12) return Digits.Length("12", text.Length);
        if (Digits.LettersAt(text, 0..2) is { } noCountry) return noCountry;
        Span<char> spread = stackalloc char[24];
        var n = 0;
        foreach (var c in text.AsSpan(0, 11))
        {
            var value = Digits.Value(c);
            if (value > 9) spread[n++] = (char)('0' + value / 10);
            spread[n++] = (char)('0' + value % 10);
        }
        return Digits.Last(text, Digits.Luhn(spread[..n]));
    }
}
