using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A number has no more decimal places than stated; zeros at its end count.</summary>
public sealed class DecimalPlaces : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Number", FieldKinds.Fractions);
    private static readonly NumberBlank Most = new("most", "at most, places");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "decimal-places";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A number has so many decimal places";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Most];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{Subject.LabelIn(rule, type)} has at most {Most.Text(rule)} decimal places";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        Most.Count(rule) is >= 0 and <= 28 ? null : "at most, places: write a number from 0 to 28.";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var most = Most.Count(rule)!.Value;
        var found = rule.Found(new TooManyPlaces(Subject.LabelIn(rule, scope.Type), most), Subject.Of(rule));
        return (record, _) => record[at].IsGood && Numbers.Places(record[at].Number) > most ? found : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var most = Most.Count(rule)!.Value;
        yield return (Subject.Of(rule), most == 0 ? "7" : "7." + new string('5', most));
        yield return (Subject.Of(rule), "7." + new string('5', most + 1));
    }
}

/// <summary>A number has more decimal places than stated.</summary>
public sealed record TooManyPlaces(string Label, int Most) : ProblemKind("decimal-places")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} darf höchstens {Most} Nachkommastellen haben.",
            "fr" => $"{Label} peut avoir au plus {Most} décimales.",
            _ => $"{Label} may have {Most} decimal places at most.",
        };
}
