using System.Globalization;
using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Parts add up to a total within a tolerance, both in the fields' own unit. An empty part counts as zero; the rule
/// holds when the total is empty or any part cannot be read.
/// </summary>
public sealed class AddsUp : IRuleKind
{
    private static readonly FieldKind[] Numbers = [FieldKind.Decimal, FieldKind.WholeNumber];

    /// <inheritdoc/>
    public string Code => "adds-up";

    /// <inheritdoc/>
    public string Title => "Parts add up to a total";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        new("parts", "Parts", ParameterKind.Fields, Numbers, 2),
        new("total", "Total", ParameterKind.Field, Numbers),
        new("tolerance", "Tolerance", ParameterKind.Number, []),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, DocumentType type)
    {
        var parts = string.Join(" + ", rule.Keys("parts").Select(type.LabelOf));
        var within = Tolerance(rule) > 0 ? $" within {rule["tolerance"]}" : "";
        return $"{parts} = {type.LabelOf(rule["total"])}{within}";
    }

    /// <inheritdoc/>
    public Check Compile(Rule rule, DocumentType type)
    {
        var parts = rule.Keys("parts").Select(type.OrdinalOf).ToArray();
        var total = type.OrdinalOf(rule["total"]);
        var tolerance = Tolerance(rule);
        var label = type.LabelOf(rule["total"]);
        return record =>
        {
            if (!record[total].IsGood) return null;
            var sum = 0m;
            foreach (var part in parts)
            {
                if (record[part].State == ValueState.Unreadable) return null;
                sum += record[part].Number;
            }
            return Math.Abs(sum - record[total].Number) <= tolerance
                ? null
                : new Problem(Code, rule.Level, rule["total"], sum.ToString(CultureInfo.InvariantCulture), label, record[total].Text, rule.Id, rule.Message);
        };
    }

    private static decimal Tolerance(Rule rule) =>
        decimal.TryParse(rule["tolerance"], NumberStyles.Number, CultureInfo.InvariantCulture, out var t) ? Math.Abs(t) : 0;
}
