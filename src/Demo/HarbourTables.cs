using ClearLexicon.Core.Rules;

namespace ClearLexicon.Demo;

/// <summary>The reference tables of the invented port.</summary>
public static class HarbourTables
{
    private static readonly string[] FlagCodes = ["NO", "DK", "SE", "FI", "DE", "NL", "GB", "IS"];

    /// <summary>The vessel register by IMO number.</summary>
    public static ReferenceTable Register { get; } =
        new(
            "vessel-register",
            "Vessel register",
            ["IMO number", "Vessel", "Flag", "Vessel type", "Gross tonnage"],
            [.. HarbourNames.Fleet.Select((v, i) => new[] { v.Imo, v.Name, FlagCodes[i % FlagCodes.Length], v.Type, v.Tonnage.ToString() })]
        );

    /// <summary>Those who pay harbour dues.</summary>
    public static ReferenceTable Payers { get; } = new("payers", "Payers", ["Payer", "Place", "Account"], Rows());

    private static List<string[]> Rows()
    {
        string[] places = ["Merrowmouth", "Saltby", "Holm", "Pellworm Reach", "Duneholm", "Nordhavn"];
        var random = new Random(41);
        return [.. HarbourNames.Payers.Select((p, i) => new[] { p, places[i % places.Length], HarbourNames.Account(random) })];
    }
}
