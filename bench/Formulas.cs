using BenchmarkDotNet.Attributes;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Bench;

/// <summary>The same constraint over 1,000 records as a built-in kind (parts add up) and as a formula.</summary>
public class Formulas
{
    private static readonly DocumentType Type = DocumentType.Empty("bench", "Bench") with
    {
        Fields = [.. new[] { "net", "tax", "total" }.Select(k => new DecimalField(k, k))],
    };

    private readonly Check _builtIn = Compile("adds-up", ("parts", "net,tax"), ("total", "total"), ("tolerance", "0.01"));
    private readonly Check _formula = Compile("formula", ("formula", "Abs([net] + [tax] - [total]) <= 0.01"));
    private readonly FieldValue[][] _records =
    [
        .. Enumerable
            .Range(0, 1_000)
            .Select(i =>
                new[] { i, i / 5, i + i / 5 + (i % 10 == 0 ? 1 : 0) }.Select(n => FieldKind.Decimal.Parse(n.ToString())).ToArray()
            ),
    ];

    [GlobalSetup]
    public void Agree()
    {
        if (BuiltIn() != Formula() || BuiltIn() != 100)
            throw new InvalidOperationException($"{BuiltIn()} and {Formula()} problems.");
    }

    [Benchmark(Baseline = true)]
    public int BuiltIn() => Count(_builtIn);

    [Benchmark]
    public int Formula() => Count(_formula);

    private int Count(Check check)
    {
        var found = 0;
        foreach (var record in _records)
            if (check(record, Records.Now) is not null)
                found++;
        return found;
    }

    private static Check Compile(string kind, params (string, string)[] parameters) =>
        RuleKinds.Compile(
            new Rule("r", kind, Level.Must, parameters.ToDictionary(p => p.Item1, p => p.Item2)),
            new RuleScope(Type, Records.Vocabularies, RuleScope.NoTables)
        )!;
}
