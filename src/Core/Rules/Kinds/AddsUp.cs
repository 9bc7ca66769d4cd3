using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Parts add up to a total within a tolerance, both in the fields' own unit. A part is a field, or the sum of a table's
/// column. An empty part counts as zero; the rule holds when the total is empty, no part is filled, or any part cannot be read.
/// </summary>
public sealed class AddsUp : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "adds-up";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Parts add up to a total";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        new("parts", "Parts", ParameterKind.Parts, RuleKinds.Numbers),
        new("total", "Total", ParameterKind.Field, RuleKinds.Numbers),
        RuleParameter.Number("tolerance", "Tolerance"),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var parts = string.Join(" + ", rule.Keys("parts").Select(type.LabelOf));
        var within = Tolerance(rule) > 0 ? $" within {rule["tolerance"]}" : "";
        return $"{parts} = {type.LabelOf(rule["total"])}{within}";
    }

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var parts = rule.Keys("parts").Select(scope.Type.PlaceOf).ToArray();
        var total = scope.Type.OrdinalOf(rule["total"]);
        var tolerance = Tolerance(rule);
        var label = scope.Type.LabelOf(rule["total"]);
        var names = string.Join(" + ", rule.Keys("parts").Select(scope.Type.LabelOf));
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
                        return rule.Found(Exact.Code, rule["total"], names);
                    any |= record[field].IsGood;
                    continue;
                }
                foreach (var row in record[field].Rows)
                {
                    if (row[column].State == ValueState.Unreadable)
                        return null;
                    if (!Exact.TryAdd(sum, row[column].Number, out sum))
                        return rule.Found(Exact.Code, rule["total"], names);
                    any |= row[column].IsGood;
                }
            }
            return !any || Exact.Distance(sum, record[total].Number) <= tolerance
                ? null
                : rule.Found(Code, rule["total"], RuleKinds.Text(sum), label, record[total].Text);
        };
    }

    private static decimal Tolerance(Rule rule) => Math.Abs(RuleKinds.Number(rule["tolerance"]) ?? 0);
}
