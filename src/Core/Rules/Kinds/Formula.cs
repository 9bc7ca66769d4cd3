using System.Text.RegularExpressions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules.Formulas;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// A formula is true, for what no other kind says. It holds when a field that it needs is empty; when it cannot be computed
/// (a division by zero, say) that is a problem of its own.
/// </summary>
public sealed partial class Formula : IRuleKind
{
    private static readonly TextBlank Written = new("formula", "formula", ParameterKind.Formula) { Hint = "[total] >= [net] * 1.1" };

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "formula";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A formula is true";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Written];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => Said(rule, type);

    // With labels in place of keys.
    private static string Said(Rule rule, TypeFields type) =>
        Key().Replace(Written.Of(rule), named => $"[{type.LabelOf(named.Groups[1].Value)}]");

    [GeneratedRegex(@"\[([^\]]+)\]")]
    private static partial Regex Key();

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        CompiledFormula.TryCompile(Written.Of(rule), type, out _, out var problem) ? null : problem;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        CompiledFormula.TryCompile(Written.Of(rule), scope.Type, out var formula, out _);
        var at = formula!.Fields is [var first, ..] ? first : null;
        var said = Said(rule, scope.Type);
        var found = rule.Found(new FormulaFalse(said), at);
        return (record, now) =>
        {
            var value = formula.Evaluate(record, now);
            return value.Kind switch
            {
                FormulaKind.Truth => value.Number != 0 ? null : found,
                FormulaKind.Empty => null,
                FormulaKind.Failed => rule.Found(new FormulaFailed(said, value.Text), at),
                _ => rule.Found(new FormulaFailed(said, "it gives a value, not yes or no"), at),
            };
        };
    }
}

/// <summary>A formula is false.</summary>
public sealed record FormulaFalse(string Formula) : ProblemKind("formula")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Dies gilt nicht: {Formula}.",
            "fr" => $"Ceci n’est pas vrai : {Formula}.",
            _ => $"This does not hold: {Formula}.",
        };
}

/// <summary>A formula cannot be computed.</summary>
public sealed record FormulaFailed(string Formula, string Reason) : ProblemKind("formula-failed")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Formula} lässt sich nicht berechnen: {Reason}.",
            "fr" => $"{Formula} ne peut pas être calculé : {Reason}.",
            _ => $"{Formula} cannot be computed: {Reason}.",
        };
}
