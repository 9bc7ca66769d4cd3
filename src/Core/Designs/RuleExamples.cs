using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Rules.Formulas;

namespace ClearLexicon.Core.Designs;

/// <summary>What became of one example of a rule.</summary>
/// <param name="Example">The example.</param>
/// <param name="Holds">Whether the rule behaves as the example says.</param>
/// <param name="Found">The problem that the rule found, or null.</param>
public sealed record ExampleOutcome(RuleExample Example, bool Holds, Problem? Found);

/// <summary>Runs the examples of rules, and suggests some.</summary>
public static class RuleExamples
{
    /// <summary>Runs all examples of a rule.</summary>
    /// <param name="rule">A rule without <see cref="RuleKinds.Finding"/>.</param>
    /// <param name="type">Its type, compiled.</param>
    /// <param name="now">CheckContext to judge in.</param>
    public static IEnumerable<ExampleOutcome> Run(Rule rule, CompiledType type, CheckContext now)
    {
        if (rule.Examples.Count == 0 || RuleKinds.Compile(rule, type.Scope) is not { } check)
            yield break;
        foreach (var example in rule.Examples)
        {
            var found = check(Read(example.Record, type, now), now);
            yield return new ExampleOutcome(example, found is null == example.Passes, found);
        }
    }

    /// <summary>
    /// Suggests examples from the rule's own boundary values and from records that exist; each is judged, so it says what is so today.
    /// </summary>
    /// <param name="rule">A rule without <see cref="RuleKinds.Finding"/>.</param>
    /// <param name="type">Its type, compiled.</param>
    /// <param name="filed">Texts of records that exist, by field key.</param>
    /// <param name="now">CheckContext to judge in.</param>
    public static IReadOnlyList<RuleExample> Suggest(
        Rule rule,
        CompiledType type,
        IEnumerable<IReadOnlyDictionary<string, string>> filed,
        CheckContext now
    )
    {
        if (RuleKinds.Compile(rule, type.Scope) is not { } check)
            return [];
        var named = Fields(rule, type.Type).ToHashSet(StringComparer.Ordinal);
        var base_ = SampleRecords.For(type.Type, type.Scope.Vocabularies)[0];
        var plain = type
            .Type.Fields.Select((f, i) => (f.Key, Text: base_[i]))
            .Where(p => named.Contains(p.Key) && p.Text is not null)
            .ToDictionary(p => p.Key, p => p.Text!, StringComparer.Ordinal);
        foreach (var comparison in rule.When?.Comparisons ?? [])
            if (comparison.Operator is Operator.Is or Operator.AtLeast or Operator.AtMost && type.OrdinalOf(comparison.Subject) >= 0)
                plain[comparison.Subject] = comparison.Value;

        var candidates = new List<IReadOnlyDictionary<string, string>>();
        foreach (var (field, text) in RuleKinds.Find(rule.Kind)!.BoundaryValues(rule, type.Scope))
            candidates.Add(new Dictionary<string, string>(plain, StringComparer.Ordinal) { [field] = text });
        var conditional = rule.When?.Comparisons.Select(c => c.Subject).ToHashSet(StringComparer.Ordinal) ?? [];
        candidates.Add(plain.Where(p => conditional.Contains(p.Key)).ToDictionary(StringComparer.Ordinal));
        foreach (var key in named)
        {
            candidates.Add(plain.Where(p => p.Key != key).ToDictionary(StringComparer.Ordinal));
            if (plain.Count < named.Count)
                candidates.Add(plain);
        }
        candidates.AddRange(
            filed
                .Take(200)
                .Select(r => (IReadOnlyDictionary<string, string>)r.Where(p => named.Contains(p.Key)).ToDictionary(StringComparer.Ordinal))
                .Where(r => r.Count > 0)
        );

        var suggested = new List<RuleExample>();
        foreach (var record in candidates)
        {
            var passes = check(Read(record, type, now), now) is null;
            if (suggested.Concat(rule.Examples).Any(e => Same(e.Record, record)) || suggested.Count(e => e.Passes == passes) >= 3)
                continue;
            suggested.Add(new RuleExample(passes, record));
        }
        return [.. suggested.OrderByDescending(e => e.Passes)];
    }

    /// <summary>Keys of the fields that a rule names, in its blanks and its condition.</summary>
    public static IEnumerable<string> Fields(Rule rule, DocumentType type) =>
        (RuleKinds.Find(rule.Kind)?.Parameters.SelectMany(p => p.FieldsOf(rule, type)) ?? [])
            .Concat(rule.When?.Comparisons.Select(c => c.Subject).Where(s => !s.StartsWith('@')) ?? [])
            .Distinct(StringComparer.Ordinal);

    private static bool Same(IReadOnlyDictionary<string, string> a, IReadOnlyDictionary<string, string> b) =>
        a.Count == b.Count && a.All(p => b.GetValueOrDefault(p.Key) == p.Value);

    private static FieldValue[] Read(IReadOnlyDictionary<string, string> record, CompiledType type, CheckContext now)
    {
        var values = new FieldValue[type.Width];
        for (var i = 0; i < values.Length; i++)
            values[i] = type.ReaderOf(i).Read(record.GetValueOrDefault(type.Type.Fields[i].Key));
        return values;
    }
}
