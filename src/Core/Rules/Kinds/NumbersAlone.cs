using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A number lies within borders, both inclusive, in the field's own unit.</summary>
public sealed class NumberWithin : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "number-within";

    /// <inheritdoc/>
    public string Title => "A number lies within borders";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Number", RuleKinds.Numbers), RuleParameter.Number("least", "from"), RuleParameter.Number("most", "to")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} lies {Within.Words(rule["least"], rule["most"])}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) => Within.Fault(rule["least"], rule["most"], RuleKinds.Number(rule["least"]) > RuleKinds.Number(rule["most"]));

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        decimal least = RuleKinds.Number(rule["least"]) ?? decimal.MinValue, most = RuleKinds.Number(rule["most"]) ?? decimal.MaxValue;
        var found = rule.Found("not-within", rule["field"], scope.Type.LabelOf(rule["field"]), Within.Signs(rule["least"], rule["most"]));
        return (record, _) => record[at].IsGood && (record[at].Number < least || record[at].Number > most) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        if (scope.Type.Find(rule["field"])!.Kind == FieldKind.Amount) return null;
        var limits = new JsonObject();
        if (RuleKinds.Number(rule["least"]) is { } least) limits["minimum"] = least;
        if (RuleKinds.Number(rule["most"]) is { } most) limits["maximum"] = most;
        return new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = limits } };
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> Borders(Rule rule, RuleScope scope)
    {
        var step = scope.Type.Find(rule["field"])!.Kind == FieldKind.WholeNumber ? 1 : 0.01m;
        foreach (var (border, outward) in new[] { (rule["least"], -step), (rule["most"], step) })
            if (RuleKinds.Number(border) is { } number)
                foreach (var by in new[] { 0, outward })
                    if (Exact.TryAdd(number, by, out var value)) yield return (rule["field"], RuleKinds.Text(value));
    }
}

/// <summary>A number is a multiple of a step.</summary>
public sealed class MultipleOf : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "multiple-of";

    /// <inheritdoc/>
    public string Title => "A number is a multiple of a step";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Number", RuleKinds.Numbers), RuleParameter.Number("step", "a multiple of")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} is a multiple of {rule["step"]}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) => RuleKinds.Number(rule["step"]) is > 0 ? null : "a multiple of: write a number above 0.";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var step = RuleKinds.Number(rule["step"])!.Value;
        var found = rule.Found(Code, rule["field"], scope.Type.LabelOf(rule["field"]), rule["step"]);
        return (record, _) => record[at].IsGood && !(Exact.TryRemainder(record[at].Number, step, out var left) && left == 0) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope) => scope.Type.Find(rule["field"])!.Kind == FieldKind.Amount ? null
        : new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = new JsonObject { ["multipleOf"] = RuleKinds.Number(rule["step"]) } } };

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> Borders(Rule rule, RuleScope scope)
    {
        var step = RuleKinds.Number(rule["step"])!.Value;
        foreach (var times in new[] { 3m, 3.5m })
            if (Exact.TryMultiply(step, times, out var value)) yield return (rule["field"], RuleKinds.Text(value));
    }
}

/// <summary>A number has no more decimal places than stated; zeros at its end count.</summary>
public sealed class DecimalPlaces : IRuleKind
{
    private static readonly FieldKind[] Broken = [FieldKind.Decimal, FieldKind.Amount];

    /// <inheritdoc/>
    public string Code => "decimal-places";

    /// <inheritdoc/>
    public string Title => "A number has so many decimal places";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Number", Broken), RuleParameter.Number("most", "at most, places")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} has at most {rule["most"]} decimal places";

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) => Exact.Count(RuleKinds.Number(rule["most"])) is >= 0 and <= 28 ? null : "at most, places: write a number from 0 to 28.";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var most = (int)RuleKinds.Number(rule["most"])!.Value;
        var found = rule.Found(Code, rule["field"], scope.Type.LabelOf(rule["field"]), rule["most"]);
        return (record, _) => record[at].IsGood && record[at].Number.Scale > most ? found : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> Borders(Rule rule, RuleScope scope)
    {
        var most = (int)RuleKinds.Number(rule["most"])!.Value;
        yield return (rule["field"], most == 0 ? "7" : "7." + new string('5', most));
        yield return (rule["field"], "7." + new string('5', most + 1));
    }
}
