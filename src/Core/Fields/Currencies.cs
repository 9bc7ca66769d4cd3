namespace ClearLexicon.Core.Fields;

/// <summary>Currencies in use (ISO 4217) and the number of decimal places of their minor unit.</summary>
public static class Currencies
{
    private const string TwoPlaces =
        "AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BGN BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CNY COP CRC CUP CVE "
        + "CZK DKK DOP DZD EGP ERN ETB EUR "
        + "FJD FKP GBP GEL GHS GIP GMD GTQ GYD HKD HNL HTG HUF IDR ILS INR IRR JMD KES KGS KHR KPW KYD KZT LAK LBP LKR LRD LSL MAD "
        + "MDL MGA MKD MMK MNT MOP MRU MUR MVR "
        + "MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD PAB PEN PGK PHP PKR PLN QAR RON RSD RUB SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD "
        + "SSP STN SVC SYP SZL THB TJS TMT TOP "
        + "TRY TTD TWD TZS UAH USD UYU UZS VED VES WST XCD YER ZAR ZMW ZWG";

    private static readonly Dictionary<string, int> Places = Make();

    /// <summary>All codes.</summary>
    public static IReadOnlyCollection<string> All => Places.Keys;

    /// <summary>Decimal places of a currency's minor unit; null when there is no such currency.</summary>
    public static int? PlacesOf(string code) => Places.TryGetValue(code, out var places) ? places : null;

    /// <summary>A text as a number and the currency beside it, by its code; the currency is null when there is none.</summary>
    public static (string Number, string? Currency) Divided(string text)
    {
        var bare = text.Trim();
        if (bare.Length > Code && IsCode(bare[^Code..]) && !char.IsLetter(bare[^(Code + 1)]))
            return (bare[..^Code].Trim(), bare[^Code..].ToUpperInvariant());
        return bare.Length > Code && IsCode(bare[..Code]) && !char.IsLetter(bare[Code])
            ? (bare[Code..].Trim(), bare[..Code].ToUpperInvariant())
            : (bare, null);
    }

    /// <summary>
    /// The currency that a sign stands for: of the given ones, or where none are given, of all; null when it can be several or none.
    /// </summary>
    /// <param name="sign">A sign such as <c>£</c>.</param>
    /// <param name="allowed">Codes to choose from; null or empty for any.</param>
    public static string? OfSign(string sign, IReadOnlyList<string>? allowed)
    {
        if (!Signs.TryGetValue(sign, out var codes))
            return null;
        var possible = allowed is { Count: > 0 } ? codes.Where(allowed.Contains).ToArray() : codes;
        return possible is [var one] ? one : null;
    }

    private const int Code = 3;

    private static bool IsCode(string text) => text.All(char.IsAsciiLetter);

    private static readonly Dictionary<string, string[]> Signs = new(StringComparer.Ordinal)
    {
        ["€"] = ["EUR"],
        ["£"] = ["GBP"],
        ["$"] = ["USD", "AUD", "CAD", "HKD", "NZD", "SGD", "TWD"],
        ["¥"] = ["JPY", "CNY"],
    };

    private static Dictionary<string, int> Make()
    {
        var places = TwoPlaces.Split(' ').ToDictionary(c => c, _ => 2, StringComparer.Ordinal);
        foreach (var code in "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX VND VUV XAF XOF XPF".Split(' '))
            places[code] = 0;
        foreach (var code in "BHD IQD JOD KWD LYD OMR TND".Split(' '))
            places[code] = 3;
        return places;
    }
}
