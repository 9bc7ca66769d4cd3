using System.Globalization;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A date lies within stated dates, both inclusive.</summary>
public sealed class DateWithin : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Date", FieldKinds.Days);
    private static readonly DateBlank Earliest = new("earliest", "from");
    private static readonly DateBlank Latest = new("latest", "to");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "date-within";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A date is within dates";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Earliest, Latest];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{Subject.LabelIn(rule, type)} lies {Within.Words(Earliest, Latest, rule)}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => Within.Finding(Earliest, Latest, rule, Earliest.Of(rule) > Latest.Of(rule));

    /// <inheritdoc/>
    public IEnumerable<Bound> Bounds(Rule rule, TypeFields type, DateOnly today) =>
        Bound.Between(Subject.Of(rule), Earliest.Of(rule)?.DayNumber, Latest.Of(rule)?.DayNumber);

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var (earliest, latest) = (Earliest.Of(rule) ?? DateOnly.MinValue, Latest.Of(rule) ?? DateOnly.MaxValue);
        var limits = Within.Signs(Earliest, Latest, rule);
        var found = rule.Found(new NotWithin(Subject.LabelIn(rule, scope.Type), limits), Subject.Of(rule));
        return (record, _) => record[at].IsGood && (record[at].Date < earliest || record[at].Date > latest) ? found : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        foreach (var (border, outward) in new[] { (Earliest.Of(rule), -1), (Latest.Of(rule), 1) })
            if (border is { } date)
                foreach (var step in new[] { 0, outward })
                    if (Exact.AddDays(date, step) is { } near)
                        yield return (Subject.Of(rule), near.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
    }
}
