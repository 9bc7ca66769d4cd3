using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A number has no more decimal places than stated; zeros at its end count.</summary>
public sealed class DecimalPlaces : IRuleKind
{
    private static readonly FieldKind[] Broken = [FieldKind.Decimal, FieldKind.Amount];

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "decimal-places";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A number has so many decimal places";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [RuleParameter.Field("Number", Broken), RuleParameter.Number("most", "at most, places")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} has at most {rule["most"]} decimal places";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        Exact.Count(RuleKinds.Number(rule["most"])) is >= 0 and <= 28 ? null : "at most, places: write a number from 0 to 28.";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var most = (int)RuleKinds.Number(rule["most"])!.Value;
        var found = rule.Found(Code, rule["field"], scope.Type.LabelOf(rule["field"]), rule["most"]);
        return (record, _) => record[at].IsGood && record[at].Number.Scale > most ? found : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var most = (int)RuleKinds.Number(rule["most"])!.Value;
        yield return (rule["field"], most == 0 ? "7" : "7." + new string('5', most));
        yield return (rule["field"], "7." + new string('5', most + 1));
    }
}
