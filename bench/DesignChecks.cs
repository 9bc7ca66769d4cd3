using BenchmarkDotNet.Attributes;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Designs.Threads;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Demo;

namespace ClearLexicon.Bench;

/// <summary>
/// The design check of a type of 60 fields and 80 rules, each rule with an example, among the harbour's published types and readers; it
/// runs on each edit, so well under 200 ms. And the threads of that type, put in order.
/// </summary>
public class DesignChecks
{
    private static readonly DocumentType Large = Make();

    private readonly DesignSurroundings _around = new(Records.Vocabularies, RuleScope.NoTables, static _ => null, Records.Now)
    {
        Readers = [.. PageDesigns.Known.Select(HarbourReaders.Teach)],
        Published =
        [
            .. new[] { HarbourDesign.VesselCall, Records.Type with { Code = "other" }, Large with { Code = "larger" } }.Select(
                t => new CompiledType(t, Records.Vocabularies)
            ),
        ],
        Languages = ["en", "de", "fr"],
    };

    private readonly ThreadPicture _picture = Weaving.Weave(
        new CompiledType(Large, Records.Vocabularies),
        [],
        new ThreadedDocument(
            Large.Fields.ToDictionary(f => f.Key, _ => "2024-03-05"),
            Large
                .Fields.Select((f, i) => (f.Key, i))
                .ToDictionary(
                    f => f.Key,
                    f => new Evidence(1 + f.i * 7 % 3, new Box(0.1, f.i * 37 % 60 / 60.0, 0.2, 0.01), "x", "recognised", 1)
                ),
            Records.Now
        )
    );

    [Benchmark]
    public int Findings() => DesignCheck.Findings(Large, _around).Count();

    [Benchmark]
    public long ThreadsInOrder() => ThreadOrder.Fewest(_picture).Crossings;

    // The call record five times over, each time with its fields and rules under names of their own.
    private static DocumentType Make()
    {
        var fields = Enumerable
            .Range(0, 5)
            .SelectMany(n => Records.Type.Fields.Select(f => f with { Key = $"{f.Key}-{n}", Label = $"{f.Label} {n}" }))
            .ToList();
        var rules = Enumerable
            .Range(0, 5)
            .SelectMany(n =>
                Records
                    .Type.Rules.Take(16)
                    .Select(r =>
                        r with
                        {
                            Id = $"{r.Id}-{n}",
                            Parameters = r.Parameters.ToDictionary(
                                p => p.Key,
                                p => string.Join(',', p.Value.Split(',').Select(k => Records.Type.Find(k) is null ? k : $"{k}-{n}"))
                            ),
                            When = r.When is { } w
                                ? w with
                                {
                                    Comparisons = [.. w.Comparisons.Select(c => c with { Subject = $"{c.Subject}-{n}" })],
                                }
                                : null,
                            Examples =
                            [
                                new RuleExample(
                                    true,
                                    new Dictionary<string, string> { [$"vessel-{n}"] = "Grey Heron", [$"arrived-{n}"] = "2024-03-05" }
                                ),
                            ],
                        }
                    )
            )
            .ToList();
        if (fields.Count != 60 || rules.Count != 80)
            throw new InvalidOperationException($"{fields.Count} fields, {rules.Count} rules.");
        return Records.Type with
        {
            Code = "large",
            Name = "Large",
            Fields = fields,
            Rules = rules,
            Convention = Records.Type.Convention with
            {
                Folder = [],
                Name =
                [
                    Core.Conventions.Piece.Of("call-number-0"),
                    Core.Conventions.Piece.Literal(" "),
                    Core.Conventions.Piece.Of("vessel-3"),
                ],
            },
        };
    }
}
