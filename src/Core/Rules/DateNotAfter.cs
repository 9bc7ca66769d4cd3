using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Rules;

/// <summary>A date is not after another date. Holds when either is missing: “must be filled” is the field's own business.</summary>
public sealed class DateNotAfter : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "date-not-after";

    /// <inheritdoc/>
    public string Title => "A date is not after another date";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        new("first", "Earlier date", ParameterKind.Field, [FieldKind.Date]),
        new("second", "Later date", ParameterKind.Field, [FieldKind.Date]),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, DocumentType type) => $"{type.LabelOf(rule["first"])} is not after {type.LabelOf(rule["second"])}";

    /// <inheritdoc/>
    public Check Compile(Rule rule, DocumentType type)
    {
        int first = type.OrdinalOf(rule["first"]), second = type.OrdinalOf(rule["second"]);
        var problem = new Problem(Code, rule.Level, rule["first"], type.LabelOf(rule["first"]), type.LabelOf(rule["second"]), null, rule.Id, rule.Message);
        return record => record[first].IsGood && record[second].IsGood && record[first].Date > record[second].Date ? problem : null;
    }
}
