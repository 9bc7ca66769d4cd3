using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A number is within limits, both inclusive, in the field's own unit.</summary>
public sealed class NumberWithin : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Number", Fields.FieldKinds.Numbers);
    private static readonly NumberBlank Least = new("least", "from");
    private static readonly NumberBlank Most = new("most", "to");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "number-within";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A number is within limits";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Least, Most];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{Subject.LabelIn(rule, type)} lies {Within.Words(Least, Most, rule)}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => Within.Finding(Least, Most, rule, Least.Of(rule) > Most.Of(rule));

    /// <inheritdoc/>
    public IEnumerable<Bound> Bounds(Rule rule, TypeFields type, DateOnly today) =>
        Bound.Between(Subject.Of(rule), Least.Of(rule), Most.Of(rule));

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        decimal least = Least.Of(rule) ?? decimal.MinValue,
            most = Most.Of(rule) ?? decimal.MaxValue;
        var found = rule.Found(new NotWithin(Subject.LabelIn(rule, scope.Type), Within.Signs(Least, Most, rule)), Subject.Of(rule));
        return (record, _) => record[at].IsGood && (record[at].Number < least || record[at].Number > most) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        if (Subject.In(rule, scope.Type)!.Kind.HasCurrency)
            return null;
        var limits = new JsonObject();
        if (Least.Of(rule) is { } least)
            limits["minimum"] = least;
        if (Most.Of(rule) is { } most)
            limits["maximum"] = most;
        return new JsonObject { ["properties"] = new JsonObject { [Subject.Of(rule)] = limits } };
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var step = Subject.In(rule, scope.Type)!.Kind.IsWhole ? 1 : 0.01m;
        foreach (var (border, outward) in new[] { (Least.Of(rule), -step), (Most.Of(rule), step) })
            if (border is { } number)
                foreach (var by in new[] { 0, outward })
                    if (Exact.TryAdd(number, by, out var value))
                        yield return (Subject.Of(rule), Numbers.Text(value));
    }
}
