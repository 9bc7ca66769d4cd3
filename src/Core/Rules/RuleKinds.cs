using System.Globalization;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>The kinds of rule there are.</summary>
public static class RuleKinds
{
    /// <summary>All kinds, in the order the editor offers them.</summary>
    public static IReadOnlyList<IRuleKind> All { get; } =
    [
        new Filled(),
        new Compare(),
        new DateToday(),
        new DateWithin(),
        new DateOn(),
        new NumberWithin(),
        new MultipleOf(),
        new DecimalPlaces(),
        new TextLength(),
        new Characters(),
        new Pattern(),
        new Repeats(),
        new CheckDigit(),
        new TermIn(),
        new HowMany(),
        new AddsUp(),
        new Multiplies(),
        new Unique(),
        new InTable(),
        new Formula(),
    ];

    private static readonly Dictionary<string, IRuleKind> ByCode = All.ToDictionary(k => k.Code, StringComparer.Ordinal);

    /// <summary>The kind with a code, or null.</summary>
    public static IRuleKind? Find(string code) => ByCode.GetValueOrDefault(code);

    /// <summary>The whole rule as a sentence.</summary>
    public static string Sentence(Rule rule, TypeFields type)
    {
        var holds = Find(rule.Kind)?.Sentence(rule, type) ?? rule.Kind;
        return rule.When is { Comparisons.Count: > 0 } when ? $"When {when.InWords(type)}: {holds}" : holds;
    }

    /// <summary>Compiles a rule with its condition; null when it is not answered by the record alone.</summary>
    public static Check? Compile(Rule rule, RuleScope scope)
    {
        if (Find(rule.Kind)!.Compile(rule, scope) is not { } check)
            return null;
        if (rule.When is not { Comparisons.Count: > 0 } when)
            return check;
        var holds = when.Compile(scope.Type, scope.Vocabularies);
        return (record, now) => holds(record, now) ? check(record, now) : null;
    }

    /// <summary>Why a rule cannot be compiled for a type, in one sentence; null when it can.</summary>
    public static string? Finding(Rule rule, TypeFields type)
    {
        if (Find(rule.Kind) is not { } kind)
            return $"There is no rule kind “{rule.Kind}”.";
        foreach (var parameter in kind.Parameters)
            if (parameter.Finding(rule, type) is { } finding)
                return finding;
        return rule.When?.Finding(type) ?? kind.Finding(rule, type);
    }
}
