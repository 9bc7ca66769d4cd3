using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A number lies within limits, both inclusive, in the field's own unit.</summary>
public sealed class NumberWithin : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "number-within";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A number lies within limits";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [RuleParameter.Field("Number", RuleKinds.Numbers), RuleParameter.Number("least", "from"), RuleParameter.Number("most", "to")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} lies {Within.Words(rule["least"], rule["most"])}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        Within.Finding(rule["least"], rule["most"], RuleKinds.Number(rule["least"]) > RuleKinds.Number(rule["most"]));

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        decimal least = RuleKinds.Number(rule["least"]) ?? decimal.MinValue,
            most = RuleKinds.Number(rule["most"]) ?? decimal.MaxValue;
        var found = rule.Found("not-within", rule["field"], scope.Type.LabelOf(rule["field"]), Within.Signs(rule["least"], rule["most"]));
        return (record, _) => record[at].IsGood && (record[at].Number < least || record[at].Number > most) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        if (scope.Type.Find(rule["field"])!.Kind == FieldKind.Amount)
            return null;
        var limits = new JsonObject();
        if (RuleKinds.Number(rule["least"]) is { } least)
            limits["minimum"] = least;
        if (RuleKinds.Number(rule["most"]) is { } most)
            limits["maximum"] = most;
        return new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = limits } };
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var step = scope.Type.Find(rule["field"])!.Kind == FieldKind.WholeNumber ? 1 : 0.01m;
        foreach (var (border, outward) in new[] { (rule["least"], -step), (rule["most"], step) })
            if (RuleKinds.Number(border) is { } number)
                foreach (var by in new[] { 0, outward })
                    if (Exact.TryAdd(number, by, out var value))
                        yield return (rule["field"], RuleKinds.Text(value));
    }
}
