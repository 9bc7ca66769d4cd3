using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Demo;

namespace ClearLexicon.Bench;

/// <summary>Records of twelve fields, nine sound ones and a flawed one in ten, as texts.</summary>
internal static class Records
{
    public const int Count = 1_000;

    public static IReadOnlyDictionary<string, VocabularyIndex> Vocabularies { get; } =
        new Dictionary<string, VocabularyIndex>
        {
            ["berths"] = new(
                new Vocabulary("berths", "Berths", [.. HarbourNames.Berths.Select(b => new Term(b.Label, b.Variants, b.Code))])
            ),
            ["vessel-types"] = new(
                new Vocabulary("vessel-types", "Vessel types", [.. HarbourNames.VesselTypes.Select(t => new Term(t, []))])
            ),
        };

    public static CheckContext Now { get; } = new(new DateOnly(2025, 6, 1), EntryChannel.Migration);

    /// <summary>The call record with twenty rules of many kinds: its own two of the record alone, and eighteen more.</summary>
    public static DocumentType Type { get; } =
        HarbourDesign.VesselCall with
        {
            Rules =
            [
                .. HarbourDesign.VesselCall.Rules.Where(r => r.Kind != "unique"),
                Filled("b1", "gross-tonnage,agent", "vessel-type", "Tanker"),
                Filled("b2", "agent,master", "pilot-used", "no"),
                Filled("b3", "vessel-type", "berth", "Ferry Ramp"),
                Rule("b4", "compare", ("first", "sailed"), ("how", "at-most"), ("second", "arrived"), ("shift", "days"), ("by", "400")),
                Filled("b5", "master", "vessel-type", "Tug"),
                Filled("b6", "sailed,agent", "berth", "Timber Wharf"),
                Filled("b7", "gross-tonnage", "vessel-type", "Bulk carrier"),
                Rule("c1", "number-within", ("field", "gross-tonnage"), ("least", "100"), ("most", "200000")),
                Rule("c2", "multiple-of", ("field", "gross-tonnage"), ("step", "1")),
                Rule("c3", "date-within", ("field", "arrived"), ("earliest", "1990-01-01"), ("latest", "2030-12-31")),
                Rule("c4", "date-today", ("field", "arrived"), ("how", "not-future")),
                Rule("c5", "length", ("field", "vessel"), ("least", "2"), ("most", "40")),
                Rule("c6", "characters", ("field", "pilot-certificate"), ("set", "capitals-digits"), ("also", "-")),
                Rule("c7", "matches", ("field", "call-number"), ("pattern", @"VC-\d{4}-\d{5}")),
                Rule("c8", "filled", ("fields", "agent,master"), ("how", "one")),
                Rule("c9", "compare", ("first", "vessel"), ("how", "not-equal"), ("second", "agent"), ("shift", ""), ("by", "")),
                Rule("c10", "date-today", ("field", "sailed"), ("how", "near-field"), ("days", "400"), ("other", "arrived")),
                Rule("c11", "filled", ("fields", "arrived,vessel"), ("how", "all")),
            ],
        };

    public static string?[][] Texts { get; } = Make();

    private static Rule Rule(string id, string kind, params (string, string)[] parameters) =>
        new(id, kind, Level.Must, parameters.ToDictionary(p => p.Item1, p => p.Item2));

    private static Rule Filled(string id, string fields, string when, string value) =>
        Rule(id, "filled", ("fields", fields), ("how", "one")) with
        {
            When = Condition.When(when, Operator.Is, value),
        };

    private static string?[][] Make()
    {
        var random = new Random(5);
        return
        [
            .. Enumerable
                .Range(0, Count)
                .Select(i =>
                {
                    var vessel = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)];
                    var arrived = new DateOnly(2024, 1, 1).AddDays(random.Next(300));
                    var flawed = i % 10 == 0;
                    return new string?[]
                    {
                        $"VC-2024-{i:00000}",
                        vessel.Name,
                        flawed ? "9074720" : vessel.Imo,
                        vessel.Type,
                        HarbourNames.Berths[random.Next(HarbourNames.Berths.Length)].Label,
                        arrived.ToString("yyyy-MM-dd"),
                        arrived.AddDays(flawed ? -1 : 3).ToString("yyyy-MM-dd"),
                        vessel.Tonnage.ToString(),
                        "Holm Brokers",
                        "Frida Lund",
                        "yes",
                        "PC-1234",
                    };
                }),
        ];
    }
}
