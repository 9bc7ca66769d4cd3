using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Tests;

/// <summary>What a changed design does to records, against two verdicts taken one by one.</summary>
public class ConsequenceTests
{
    private static readonly string?[][] Records =
    [
        .. Enumerable
            .Range(0, 240)
            .Select(i =>
                Harbour.Record(
                    ("number", $"VC-2024-{i:00000}"),
                    (
                        "vessel",
                        i % 7 == 0 ? "Q"
                        : i % 11 == 0 ? "Sea Lark of Merrow"
                        : "Corvina"
                    ),
                    ("crew", i % 5 == 0 ? "" : $"{i % 30}"),
                    ("net", $"{i * 9}"),
                    ("sailed", i % 13 == 0 ? "2024-03-01" : "2024-03-09"),
                    ("certificate", i % 4 == 0 ? "PC-1" : "")
                )
            ),
    ];

    private static Dictionary<string, string> ByKey(string?[] texts) =>
        Harbour
            .Call.Fields.Select((f, i) => (f.Key, Text: texts[i]))
            .Where(f => !string.IsNullOrEmpty(f.Text))
            .ToDictionary(f => f.Key, f => f.Text!);

    // Changes of many kinds, drawn by a seed.
    private static DocumentType Changed(Random random)
    {
        var type = Harbour.Call;
        Field With(string key, Func<Field, Field> change, Field f) => f.Key == key ? change(f) : f;
        if (random.Next(2) == 0)
            type = type with
            {
                Fields = [.. type.Fields.Select(f => With("net", x => (RangedField)x with { Max = $"{random.Next(100, 3000)}" }, f))],
            };
        if (random.Next(2) == 0)
            type = type with { Fields = [.. type.Fields.Select(f => With("crew", x => x with { Required = true }, f))] };
        if (random.Next(2) == 0)
            type = type with
            {
                Fields =
                [
                    .. type.Fields.Select(f =>
                        With("vessel", x => (TextField)x with { MaxLength = random.Next(6, 30), MinLength = random.Next(0, 3) }, f)
                    ),
                ],
            };
        if (random.Next(2) == 0)
            type = type with { Rules = [.. type.Rules.Where(r => r.Id != "r1")] };
        if (random.Next(2) == 0)
            type = type with
            {
                Rules =
                [
                    .. type.Rules,
                    Harbour.Rule("r9", "filled", ("fields", "certificate,crew"), ("how", "one")) with
                    {
                        Level = random.Next(2) == 0 ? Level.Must : Level.Should,
                    },
                ],
            };
        if (random.Next(2) == 0)
            type = type with { Convention = type.Convention with { Folder = [Piece.Literal("Elsewhere")] } };
        return type;
    }

    [Fact]
    public void Counts_are_those_of_two_verdicts_taken_one_by_one()
    {
        var seen = new HashSet<Effect>();
        for (var seed = 0; seed < 40; seed++)
        {
            var after = new CompiledType(Changed(new Random(seed)), Harbour.Vocabularies);
            var judge = new ConsequenceJudge(Harbour.Compiled, after);
            var effects = new List<Effect>();
            foreach (var texts in Records)
            {
                var (old, would) = (Harbour.Compiled.Judge(texts, Harbour.Now), after.Judge(texts, Harbour.Now));
                bool Passes(Judgement j) => j.All.All(p => p.Level != Level.Must);
                var expected = (Passes(old), Passes(would)) switch
                {
                    (true, false) => Effect.NewlyFailing,
                    (false, true) => Effect.NewlyPassing,
                    (true, true) when old.Placement.Path != would.Placement.Path => Effect.OtherPath,
                    _ => Effect.None,
                };
                judge.Take(ByKey(texts));
                var found = judge.Judge(Harbour.Now, texts[0]!);
                Assert.Equal(expected, found.Effect);
                Assert.Equal(expected == Effect.NewlyFailing, found.Effect == Effect.NewlyFailing && judge.Fresh.Any());
                if (expected == Effect.OtherPath)
                    Assert.Equal((old.Placement.Path, would.Placement.Path), (found.Before, found.After));
                effects.Add(expected);
            }
            var result = judge.Finish();
            Assert.Equal(
                (
                    Records.Length,
                    effects.Count(e => e == Effect.NewlyFailing),
                    effects.Count(e => e == Effect.NewlyPassing),
                    effects.Count(e => e == Effect.OtherPath)
                ),
                ((int)result.Looked, (int)result.Failing, (int)result.Passing, (int)result.Moved)
            );
            // Each record stands in one group, each group has its cause and a few of its records.
            Assert.Equal(effects.Count(e => e != Effect.None), result.Groups.Sum(g => g.Count));
            Assert.All(result.Groups, g => Assert.True(g.Cause.Length > 0 && g.Samples.Count == Math.Min(5, g.Count)));
            seen.UnionWith(effects);
        }
        Assert.Equal(4, seen.Count);
    }

    [Fact]
    public void The_cause_is_the_change_that_finds_the_problem()
    {
        (long, string)[] Causes(DocumentType after, CompiledCarrying? carrying = null)
        {
            var judge = new ConsequenceJudge(Harbour.Compiled, new CompiledType(after, Harbour.Vocabularies), carrying);
            foreach (var texts in Records)
            {
                judge.Take(ByKey(texts));
                judge.Judge(Harbour.Now, "x");
            }
            return [.. judge.Finish().Groups.Select(g => (g.Count, g.Cause))];
        }
        Assert.Contains(
            Causes(Harbour.Call with { Fields = [.. Harbour.Call.Fields.Select(f => f.Key == "crew" ? f with { Required = true } : f)] }),
            g => g.Item2 == "Crew is now required."
        );
        Assert.All(
            Causes(Harbour.Call with { Rules = [.. Harbour.Call.Rules.Where(r => r.Id != "r1")] }),
            g => Assert.Equal("Gone: Arrived ≤ Sailed.", g.Item2)
        );
        // A renamed must-field fails everywhere; carried through, nowhere.
        var renamed = Harbour.Call with
        {
            Fields = [.. Harbour.Call.Fields.Select(f => f.Key == "number" ? f with { Key = "no", Label = "No" } : f)],
            Rules = [.. Harbour.Call.Rules.Where(r => r.Id != "r5")],
            Convention = Harbour.Call.Convention with { Name = [Piece.Of("no"), .. Harbour.Call.Convention.Name.Skip(1)] },
        };
        var passed = Records.Count(r => Harbour.Compiled.Judge(r, Harbour.Now).All.All(p => p.Level != Level.Must));
        Assert.Equal([(passed, "No is new: text, required.")], Causes(renamed));
        Assert.Empty(Causes(renamed, new CompiledCarrying([new("no", CarryHow.Whole, ["number"])], Harbour.Call, renamed)));
    }
}
