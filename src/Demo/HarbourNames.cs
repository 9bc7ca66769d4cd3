using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Demo;

/// <summary>A vessel of the invented port.</summary>
/// <param name="Name">Name.</param>
/// <param name="Imo">Ship number with a valid check digit.</param>
/// <param name="Type">Vessel type.</param>
/// <param name="Tonnage">Gross tonnage.</param>
public sealed record Vessel(string Name, string Imo, string Type, int Tonnage);

/// <summary>The invented people, vessels, firms and places of Merrowmouth Harbour Authority.</summary>
public static class HarbourNames
{
    private static readonly string[] First =
    [
        "Grey Heron",
        "Brackwater Star",
        "Corvina",
        "Duneholm",
        "Ebb Fortune",
        "Fjordlys",
        "Gannet Point",
        "Höfnvik",
        "Île Grise",
        "Kelpie Dawn",
        "Lantern Reach",
        "Marsh Harrier",
        "Nøkken",
        "Osprey Ness",
        "Pellworm Light",
        "Quillon",
        "Redshank",
        "Saltby Trader",
        "Tern of Wrack",
        "Ulvesund Lady",
        "Vesper Tide",
        "Whinchat",
        "Yarrow Bay",
        "Zeeland Plover",
        "Ängholm",
        "Bittern Sound",
        "Curlew Queen",
        "Dabchick",
        "Eider Drift",
        "Fulmar Sky",
    ];

    private static readonly string[] Types =
    [
        "General cargo",
        "Bulk carrier",
        "Tanker",
        "Container ship",
        "Ro-ro ferry",
        "Fishing vessel",
        "Tug",
    ];

    /// <summary>The agents.</summary>
    public static readonly string[] Agents =
    [
        "Wrack & Daughters",
        "Saltby Shipping Agency",
        "Holm Brokers",
        "Pellworm Maritime",
        "Tidewater Agents",
    ];

    /// <summary>Those who pay harbour dues.</summary>
    public static readonly string[] Payers =
    [
        "Ebbwell Lines",
        "Duneholm Timber",
        "Osprey Bulk Carriers",
        "Kelpie Ferries",
        "Grey Water Fuels",
        "Nordhavn Fish Sales",
    ];

    /// <summary>Masters of vessels.</summary>
    public static readonly string[] Masters =
    [
        "Aldous Wren",
        "Birgit Solheim",
        "Casimir Pike",
        "Dorte Engel",
        "Emeric Vasse",
        "Frida Lund",
        "Goran Tisch",
    ];

    /// <summary>Berths with the spellings of thirty years.</summary>
    public static readonly (string Label, string[] Variants, string Code)[] Berths =
    [
        ("North Quay 1", ["N. Quay 1", "Nth Qy 1", "Old Coal Staith"], "NQ1"),
        ("North Quay 2", ["N. Quay 2", "Nth Qy 2", "Grain Berth"], "NQ2"),
        ("North Quay 3", ["N. Quay 3", "Nth Qy 3"], "NQ3"),
        ("South Quay 1", ["S. Quay 1", "Sth Qy 1", "Packet Steps"], "SQ1"),
        ("South Quay 2", ["S. Quay 2", "Sth Qy 2"], "SQ2"),
        ("Tanker Jetty A", ["Oil Jetty East", "TJ-A"], "TJA"),
        ("Tanker Jetty B", ["Oil Jetty West", "TJ-B"], "TJB"),
        ("Timber Wharf", ["Deal Wharf", "Timber Whf"], "TW"),
        ("Ferry Ramp", ["Ro-Ro Ramp", "Linkspan"], "FR"),
        ("Fish Dock East", ["Fish Dk E", "Herring Market"], "FDE"),
    ];

    /// <summary>The vessel types.</summary>
    public static IReadOnlyList<string> VesselTypes => Types;

    /// <summary>The fleet, the same in every run.</summary>
    public static IReadOnlyList<Vessel> Fleet { get; } =
    [
        .. First.Select(
            (name, i) =>
            {
                var six = (901_234 + i * 2_917).ToString();
                var type = Types[i * 5 % Types.Length];
                return new Vessel(name, six + TransportSchemes.ImoCheckDigit(six), type, 900 + i * i * 37 % 48_000);
            }
        ),
    ];

    /// <summary>An invented account with valid check digits, in the form of a Norwegian IBAN.</summary>
    public static string Account(Random random)
    {
        var drawn = $"{random.Next(1000, 9999)}{random.Next(1000, 9999)}{random.Next(100, 999)}"[..10];
        // The country's own check digit is the last one; of ten numbers in a row nine have one.
        var number = Enumerable
            .Range(0, 10)
            .Select(i => drawn[..9] + (char)('0' + (drawn[9] - '0' + i) % 10))
            .Select(n => (Number: n, Check: (11 - n.Zip([5, 4, 3, 2, 7, 6, 5, 4, 3, 2], (d, w) => (d - '0') * w).Sum() % 11) % 11))
            .Where(n => n.Check < 10)
            .Select(n => $"{n.Number}{n.Check}")
            .First();
        // Letters count 10–35; the check digits make the whole leave 1 over 97 (ISO 7064).
        var check = 98 - (int)(System.Numerics.BigInteger.Parse($"{number}232400") % 97);
        return $"NO{check:00} {number[..4]} {number[4..8]} {number[8..]}";
    }
}
