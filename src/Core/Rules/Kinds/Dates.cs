using System.Globalization;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A date stands to today, or to another date, as stated. Today is the date where the records are kept.</summary>
public sealed class DateToday : IRuleKind
{
    private static readonly RuleParameter How = RuleParameter.Choice("how", "is",
        ("not-future", "not in the future"), ("not-past", "not in the past"), ("past", "in the past"), ("future", "in the future"), ("near", "within so many days of today"), ("near-field", "within so many days of the other date"));

    /// <inheritdoc/>
    public string Code => "date-today";

    /// <inheritdoc/>
    public string Title => "A date stands near today or another date";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
        [RuleParameter.Field("Date", FieldKind.Date), How, RuleParameter.Number("days", "days"), new("other", "other date", ParameterKind.Field, [FieldKind.Date], 0)];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var name = type.LabelOf(rule["field"]);
        return rule["how"] switch { "near" => $"{name} is within {rule["days"]} days of today", "near-field" => $"{name} is within {rule["days"]} days of {type.LabelOf(rule["other"])}", _ => $"{name} is {How.Words(rule["how"])}" };
    }

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) =>
        rule["how"] is "near" or "near-field" && Exact.Count(RuleKinds.Number(rule["days"])) is not >= 0 ? "days: write how many days apart the dates may be."
        : rule["how"] == "near-field" && type.Find(rule["other"]) is null ? "other date: choose a field." : null;

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
            if (!record[at].IsGood) return null;
            var date = record[at].Date;
            if (how == "near-field") return !record[other].IsGood || Math.Abs(date.DayNumber - record[other].Date.DayNumber) <= days ? null : found;
            var apart = date.DayNumber - now.Today.DayNumber;
            var holds = how switch { "not-future" => apart <= 0, "not-past" => apart >= 0, "past" => apart < 0, "future" => apart > 0, _ => Math.Abs(apart) <= days };
            return holds ? null : found;
        };
    }
}

/// <summary>A date lies within stated dates, both inclusive.</summary>
public sealed class DateWithin : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "date-within";

    /// <inheritdoc/>
    public string Title => "A date lies within dates";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
        [RuleParameter.Field("Date", FieldKind.Date), new("earliest", "from", ParameterKind.Date, []), new("latest", "to", ParameterKind.Date, [])];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} lies {Within.Words(rule["earliest"], rule["latest"])}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) => Within.Fault(rule["earliest"], rule["latest"], string.CompareOrdinal(rule["earliest"], rule["latest"]) > 0);

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        if (!FieldParsing.TryDate(rule["earliest"], out var earliest)) earliest = DateOnly.MinValue;
        if (!FieldParsing.TryDate(rule["latest"], out var latest)) latest = DateOnly.MaxValue;
        var found = rule.Found("not-within", rule["field"], scope.Type.LabelOf(rule["field"]), Within.Signs(rule["earliest"], rule["latest"]));
        return (record, _) => record[at].IsGood && (record[at].Date < earliest || record[at].Date > latest) ? found : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> Borders(Rule rule, RuleScope scope)
    {
        foreach (var (border, outward) in new[] { (rule["earliest"], -1), (rule["latest"], 1) })
            if (FieldParsing.TryDate(border, out var date))
                foreach (var step in new[] { 0, outward })
                    if (Exact.AddDays(date, step) is { } near) yield return (rule["field"], near.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
    }
}

/// <summary>What rules with two borders share.</summary>
internal static class Within
{
    public static string? Fault(string least, string most, bool crossed) =>
        least.Length == 0 && most.Length == 0 ? "Write at least one border."
        : least.Length > 0 && most.Length > 0 && crossed ? $"Nothing lies from {least} to {most}." : null;

    /// <summary>Borders of a count: whole numbers from 0 on.</summary>
    public static string? CountFault(Rule rule)
    {
        foreach (var name in new[] { "least", "most" })
            if (rule[name].Length > 0 && Exact.Count(RuleKinds.Number(rule[name])) is not >= 0) return $"“{rule[name]}” is not a count; write a whole number from 0 on.";
        return Fault(rule["least"], rule["most"], RuleKinds.Number(rule["least"]) > RuleKinds.Number(rule["most"]));
    }

    public static string Words(string least, string most) =>
        least.Length == 0 ? $"at {most} or below" : most.Length == 0 ? $"at {least} or above" : $"from {least} to {most}";

    public static string Signs(string least, string most) => least.Length == 0 ? $"≤ {most}" : most.Length == 0 ? $"≥ {least}" : $"{least} – {most}";
}
