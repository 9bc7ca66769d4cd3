using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Demo;

namespace ClearLexicon.Bench;

/// <summary>Records of twelve fields, nine sound ones and a flawed one in ten, as texts.</summary>
internal static class Records
{
    public const int Count = 1_000;

    public static IReadOnlyDictionary<string, VocabularyIndex> Vocabularies { get; } = new Dictionary<string, VocabularyIndex>
    {
        ["berths"] = new(new Vocabulary("berths", "Berths", [.. HarbourNames.Berths.Select(b => new Term(b.Label, b.Variants, b.Code))])),
        ["vessel-types"] = new(new Vocabulary("vessel-types", "Vessel types", [.. HarbourNames.VesselTypes.Select(t => new Term(t, []))])),
    };

    /// <summary>The call record with ten rules: its own three of the record, and seven more of the same kinds.</summary>
    public static DocumentType Type { get; } = HarbourDesign.VesselCall with
    {
        Rules =
        [
            .. HarbourDesign.VesselCall.Rules.Where(r => r.Kind != "unique"),
            Rule("b1", "one-filled-when", ("when", "vessel-type"), ("is", "Tanker"), ("fields", "gross-tonnage,agent")),
            Rule("b2", "one-filled-when", ("when", "pilot-used"), ("is", "no"), ("fields", "agent,master")),
            Rule("b3", "one-filled-when", ("when", "berth"), ("is", "Ferry Ramp"), ("fields", "vessel-type")),
            Rule("b4", "date-not-after", ("first", "arrived"), ("second", "arrived")),
            Rule("b5", "one-filled-when", ("when", "vessel-type"), ("is", "Tug"), ("fields", "master")),
            Rule("b6", "one-filled-when", ("when", "berth"), ("is", "Timber Wharf"), ("fields", "sailed,agent")),
            Rule("b7", "one-filled-when", ("when", "vessel-type"), ("is", "Bulk carrier"), ("fields", "gross-tonnage")),
        ],
    };

    public static string?[][] Texts { get; } = Make();

    private static Rule Rule(string id, string kind, params (string, string)[] parameters) => new(id, kind, Level.Must, parameters.ToDictionary(p => p.Item1, p => p.Item2));

    private static string?[][] Make()
    {
        var random = new Random(5);
        return [.. Enumerable.Range(0, Count).Select(i =>
        {
            var vessel = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)];
            var arrived = new DateOnly(2024, 1, 1).AddDays(random.Next(300));
            var flawed = i % 10 == 0;
            return new string?[]
            {
                $"VC-2024-{i:00000}", vessel.Name, flawed ? "9074720" : vessel.Imo, vessel.Type, HarbourNames.Berths[random.Next(HarbourNames.Berths.Length)].Label,
                arrived.ToString("yyyy-MM-dd"), arrived.AddDays(flawed ? -1 : 3).ToString("yyyy-MM-dd"), vessel.Tonnage.ToString(), "Holm Brokers", "Frida Lund", "yes", "PC-1234",
            };
        })];
    }
}
