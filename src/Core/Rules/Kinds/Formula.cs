using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules.Formulas;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// A formula is true, for what no other kind says. It holds when a field that it needs is empty; when it cannot be computed
/// (a division by zero, say) that is a problem of its own.
/// </summary>
public sealed class Formula : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "formula";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A formula is true";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [new("formula", "formula", ParameterKind.Formula, []) { Hint = "[total] >= [net] * 1.1" }];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{rule["formula"]}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        CompiledFormula.TryCompile(rule["formula"], type, out _, out var problem) ? null : problem;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        CompiledFormula.TryCompile(rule["formula"], scope.Type, out var formula, out _);
        var at = formula!.Fields is [var first, ..] ? first : null;
        var found = rule.Found(Code, at, rule["formula"]);
        return (record, now) =>
        {
            var value = formula.Evaluate(record, now);
            return value.Kind switch
            {
                FormulaKind.Truth => value.Number != 0 ? null : found,
                FormulaKind.Empty => null,
                FormulaKind.Failed => rule.Found("formula-failed", at, rule["formula"], value.Text),
                _ => rule.Found("formula-failed", at, rule["formula"], "it gives a value, not yes or no"),
            };
        };
    }
}
