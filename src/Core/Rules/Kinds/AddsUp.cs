using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Parts add up to a total within a tolerance, both in the fields' own unit. A part is a field, or the sum of a table's
/// column. An empty part counts as zero, a table without rows too; only an empty or unreadable total is left to other rules. Amounts add up
/// in one currency only, and what cannot be read cannot be added up: the rule says so.
/// </summary>
public sealed class AddsUp : IRuleKind
{
    private static readonly FieldsBlank Parts = new("parts", "Parts", ParameterKind.Parts) { FieldKinds = Fields.FieldKinds.Numbers };
    private static readonly FieldBlank Total = new("total", "Total", Fields.FieldKinds.Numbers);
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
        var labels = Parts.Of(rule).Select(scope.Type.LabelOf).ToArray();
        return (record, _) =>
        {
            if (!record[total].IsGood)
                return null;
            var sum = 0m;
            for (var i = 0; i < parts.Length; i++)
            {
                var (field, column) = parts[i];
                if (record[field].State == ValueState.Unreadable)
                    return rule.Found(new CannotBeAdded(labels[i], label), Total.Of(rule));
                if (column < 0)
                {
                    if (Added(record[field], record[total], ref sum, i) is { } problem)
                        return problem;
                    continue;
                }
                foreach (var row in record[field].Rows)
                    if (Added(row[column], record[total], ref sum, i) is { } problem)
                        return problem;
            }
            return Exact.Distance(sum, record[total].Number) <= tolerance
                ? null
                : rule.Found(new DoesNotAddUp(sum, label, record[total].Text), Total.Of(rule));
        };

        Problem? Added(in FieldValue part, in FieldValue whole, ref decimal sum, int i) =>
            part.State == ValueState.Unreadable ? rule.Found(new CannotBeAdded(labels[i], label), Total.Of(rule))
            : part.Currency is { } a && whole.Currency is { } b && a != b
                ? rule.Found(new CurrenciesDiffer(labels[i], label), Total.Of(rule))
            : !Exact.TryAdd(sum, part.Number, out sum) ? rule.Found(new TooLarge(names), Total.Of(rule))
            : null;
    }

    private static decimal Within(Rule rule) => Math.Abs(Tolerance.Of(rule) ?? 0);
}

/// <summary>A part that cannot be read, so that nobody knows whether the total is right.</summary>
public sealed record CannotBeAdded(string Part, string Label) : ProblemKind("cannot-be-added")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} kann nicht nachgerechnet werden, weil {Part} nicht gelesen werden kann.",
            "fr" => $"{Label} ne peut pas être recalculé, car {Part} ne peut pas être lu.",
            _ => $"{Label} cannot be checked, because {Part} cannot be read.",
        };
}

/// <summary>Parts and their total disagree.</summary>
public sealed record DoesNotAddUp(decimal Sum, string Label, string Total) : ProblemKind("adds-up")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Die Teile ergeben {Numbers.Text(Sum)}, aber {Label} ist {Total}.",
            "fr" => $"Les parties font {Numbers.Text(Sum)}, mais {Label} est {Total}.",
            _ => $"The parts add up to {Numbers.Text(Sum)}, but {Label} is {Total}.",
        };
}
