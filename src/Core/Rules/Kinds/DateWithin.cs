using System.Globalization;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A date lies within stated dates, both inclusive.</summary>
public sealed class DateWithin : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "date-within";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A date lies within dates";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        RuleParameter.Field("Date", FieldKind.Date),
        new("earliest", "from", ParameterKind.Date, []),
        new("latest", "to", ParameterKind.Date, []),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{type.LabelOf(rule["field"])} lies {Within.Words(rule["earliest"], rule["latest"])}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        Within.Finding(rule["earliest"], rule["latest"], string.CompareOrdinal(rule["earliest"], rule["latest"]) > 0);

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        if (!FieldParsing.TryDate(rule["earliest"], out var earliest))
            earliest = DateOnly.MinValue;
        if (!FieldParsing.TryDate(rule["latest"], out var latest))
            latest = DateOnly.MaxValue;
        var found = rule.Found(
            "not-within",
            rule["field"],
            scope.Type.LabelOf(rule["field"]),
            Within.Signs(rule["earliest"], rule["latest"])
        );
        return (record, _) => record[at].IsGood && (record[at].Date < earliest || record[at].Date > latest) ? found : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        foreach (var (border, outward) in new[] { (rule["earliest"], -1), (rule["latest"], 1) })
            if (FieldParsing.TryDate(border, out var date))
                foreach (var step in new[] { 0, outward })
                    if (Exact.AddDays(date, step) is { } near)
                        yield return (rule["field"], near.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
    }
}
