using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>A small harbour design that the tests of the core share.</summary>
internal static class Harbour
{
    public static IReadOnlyDictionary<string, VocabularyIndex> Vocabularies { get; } =
        new Dictionary<string, VocabularyIndex>
        {
            ["berths"] = new(
                new Vocabulary(
                    "berths",
                    "Berths",
                    [new Term("North Quay 1", ["Old Coal Staith"], "NQ1"), new Term("Timber Wharf", [], null, TermStatus.Retired)]
                )
            ),
        };

    public static DocumentType Call { get; } =
        new(
            "call",
            "Call",
            [
                new TextField("number", "Call number") { Required = true, Pattern = @"VC-\d{4}-\d{5}" },
                new TextField("vessel", "Vessel")
                {
                    Required = true,
                    MinLength = 2,
                    MaxLength = 12,
                },
                new TextField("imo", "IMO number"),
                new TermField("berth", "Berth") { Vocabulary = "berths" },
                new DateField("arrived", "Arrived")
                {
                    Required = true,
                    Min = "1986-01-01",
                    Max = "2030-12-31",
                },
                new DateField("sailed", "Sailed"),
                new DecimalField("net", "Net") { Min = "0", Max = "1000" },
                new DecimalField("tax", "Tax"),
                new DecimalField("total", "Total"),
                new YesNoField("pilot", "Pilot used") { Default = "no" },
                new TextField("certificate", "Certificate"),
                new WholeNumberField("crew", "Crew") { Min = "1" },
            ],
            [
                Rule("r1", "compare", ("first", "arrived"), ("how", "at-most"), ("second", "sailed")),
                Rule("r2", "adds-up", ("parts", "net,tax"), ("total", "total"), ("tolerance", "0.01")),
                Rule("r3", "check-digit", ("field", "imo"), ("scheme", "imo")),
                Rule("r4", "filled", ("fields", "certificate,crew"), ("how", "one")) with
                {
                    When = Condition.When("pilot", Operator.Is, "yes"),
                },
                Rule("r5", "unique", ("fields", "number")) with
                {
                    Level = Level.Should,
                },
            ],
            new Convention(
                [Piece.Literal("Calls"), new Piece(PieceKind.Inside), Piece.Of("arrived") with { DateForm = "yyyy" }],
                [Piece.Of("number"), Piece.Literal(" "), Piece.Of("vessel") with { Case = LetterCase.Upper, MaxLength = 6 }]
            )
        );

    /// <summary>What surrounds every record of these tests: the day is 1 June 2024.</summary>
    public static CheckContext Now { get; } =
        new(new DateOnly(2024, 6, 1), EntryChannel.Desk, ["indexer"], "Tobias Finch")
        {
            Closed = new HashSet<DateOnly> { new(2024, 5, 1) },
        };

    public static CompiledType Compiled { get; } = new(Call, Vocabularies);

    public static Rule Rule(string id, string kind, params (string, string)[] parameters) =>
        new(id, kind, Level.Must, parameters.ToDictionary(p => p.Item1, p => p.Item2));

    /// <summary>A sound record with some fields changed.</summary>
    public static string?[] Record(params (string Key, string? Text)[] changes)
    {
        var texts = new string?[Call.Fields.Count];
        texts[Call.OrdinalOf("number")] = "VC-2024-00001";
        texts[Call.OrdinalOf("vessel")] = "Grey Heron";
        texts[Call.OrdinalOf("arrived")] = "2024-03-05";
        foreach (var (key, text) in changes)
            texts[Call.OrdinalOf(key)] = text;
        return texts;
    }

    public static string[] Codes(params (string Key, string? Text)[] changes) =>
        [.. Compiled.Judge(Record(changes), Now).Problems.Select(p => p.Code)];
}
