using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A date stands to today, or to another date, as stated. Today is the date where the records are kept.</summary>
public sealed class DateToday : IRuleKind
{
    private static readonly RuleParameter How = RuleParameter.Choice(
        "how",
        "is",
        ("not-future", "not in the future"),
        ("not-past", "not in the past"),
        ("past", "in the past"),
        ("future", "in the future"),
        ("near", "within so many days of today"),
        ("near-field", "within so many days of the other date")
    );

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "date-today";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A date stands near today or another date";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        RuleParameter.Field("Date", FieldKind.Date),
        How,
        RuleParameter.Number("days", "days"),
        new("other", "other date", ParameterKind.Field, [FieldKind.Date], 0),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var name = type.LabelOf(rule["field"]);
        return rule["how"] switch
        {
            "near" => $"{name} is within {rule["days"]} days of today",
            "near-field" => $"{name} is within {rule["days"]} days of {type.LabelOf(rule["other"])}",
            _ => $"{name} is {How.Words(rule["how"])}",
        };
    }

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        rule["how"] is "near" or "near-field" && Exact.Count(RuleKinds.Number(rule["days"])) is not >= 0
            ? "days: write how many days apart the dates may be."
        : rule["how"] == "near-field" && type.Find(rule["other"]) is null ? "other date: choose a field."
        : null;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var other = scope.Type.OrdinalOf(rule["other"]);
        var how = rule["how"];
        var days = Exact.Count(RuleKinds.Number(rule["days"])) ?? 0;
        var label = scope.Type.LabelOf(rule["field"]);
        var found = rule.Found("date-" + how, rule["field"], label, days.ToString(), other >= 0 ? scope.Type.LabelOf(rule["other"]) : null);
        return (record, now) =>
        {
            if (!record[at].IsGood)
                return null;
            var date = record[at].Date;
            if (how == "near-field")
                return !record[other].IsGood || Math.Abs(date.DayNumber - record[other].Date.DayNumber) <= days ? null : found;
            var apart = date.DayNumber - now.Today.DayNumber;
            var holds = how switch
            {
                "not-future" => apart <= 0,
                "not-past" => apart >= 0,
                "past" => apart < 0,
                "future" => apart > 0,
                _ => Math.Abs(apart) <= days,
            };
            return holds ? null : found;
        };
    }
}
