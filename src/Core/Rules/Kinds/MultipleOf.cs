using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A number is a multiple of a step.</summary>
public sealed class MultipleOf : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "multiple-of";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A number is a multiple of a step";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [RuleParameter.Field("Number", RuleKinds.Numbers), RuleParameter.Number("step", "a multiple of")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} is a multiple of {rule["step"]}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        RuleKinds.Number(rule["step"]) is > 0 ? null : "a multiple of: write a number above 0.";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var step = RuleKinds.Number(rule["step"])!.Value;
        var found = rule.Found(Code, rule["field"], scope.Type.LabelOf(rule["field"]), rule["step"]);
        return (record, _) => record[at].IsGood && !(Exact.TryRemainder(record[at].Number, step, out var left) && left == 0) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope) =>
        scope.Type.Find(rule["field"])!.Kind == FieldKind.Amount
            ? null
            : new JsonObject
            {
                ["properties"] = new JsonObject { [rule["field"]] = new JsonObject { ["multipleOf"] = RuleKinds.Number(rule["step"]) } },
            };

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var step = RuleKinds.Number(rule["step"])!.Value;
        foreach (var times in new[] { 3m, 3.5m })
            if (Exact.TryMultiply(step, times, out var value))
                yield return (rule["field"], RuleKinds.Text(value));
    }
}
