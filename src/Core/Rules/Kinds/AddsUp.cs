using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Parts add up to a total within a tolerance, both in the fields' own unit. A part is a field, or the sum of a table's
/// column. An empty part counts as zero; the rule holds when the total is empty, no part is filled, or any part cannot be read.
/// </summary>
public sealed class AddsUp : IRuleKind
{
    private static readonly FieldsBlank Parts = new("parts", "Parts", ParameterKind.Parts) { FieldKinds = RuleKinds.Numbers };
    private static readonly FieldBlank Total = new("total", "Total", RuleKinds.Numbers);
    private static readonly NumberBlank Tolerance = new("tolerance", "Tolerance");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "adds-up";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Parts add up to a total";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Parts, Total, Tolerance];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var parts = string.Join(" + ", Parts.Of(rule).Select(type.LabelOf));
        var within = Within(rule) > 0 ? $" within {Tolerance.Text(rule)}" : "";
        return $"{parts} = {Total.LabelIn(rule, type)}{within}";
    }

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var parts = Parts.Of(rule).Select(scope.Type.PlaceOf).ToArray();
        var total = Total.At(rule, scope.Type);
        var tolerance = Within(rule);
        var label = Total.LabelIn(rule, scope.Type);
        var names = string.Join(" + ", Parts.Of(rule).Select(scope.Type.LabelOf));
        return (record, _) =>
        {
            if (!record[total].IsGood)
                return null;
            var sum = 0m;
            var any = false;
            foreach (var (field, column) in parts)
            {
                if (record[field].State == ValueState.Unreadable)
                    return null;
                if (column < 0)
                {
                    if (!Exact.TryAdd(sum, record[field].Number, out sum))
                        return rule.Found(new TooLarge(names), Total.Of(rule));
                    any |= record[field].IsGood;
                    continue;
                }
                foreach (var row in record[field].Rows)
                {
                    if (row[column].State == ValueState.Unreadable)
                        return null;
                    if (!Exact.TryAdd(sum, row[column].Number, out sum))
                        return rule.Found(new TooLarge(names), Total.Of(rule));
                    any |= row[column].IsGood;
                }
            }
            return !any || Exact.Distance(sum, record[total].Number) <= tolerance
                ? null
                : rule.Found(new DoesNotAddUp(sum, label, record[total].Text), Total.Of(rule));
        };
    }

    private static decimal Within(Rule rule) => Math.Abs(Tolerance.Of(rule) ?? 0);
}

/// <summary>Parts and their total disagree.</summary>
public sealed record DoesNotAddUp(decimal Sum, string Label, string Total) : ProblemKind("adds-up")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Die Teile ergeben {RuleKinds.Text(Sum)}, aber {Label} ist {Total}.",
            "fr" => $"Les parties font {RuleKinds.Text(Sum)}, mais {Label} est {Total}.",
            _ => $"The parts add up to {RuleKinds.Text(Sum)}, but {Label} is {Total}.",
        };
}
