using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Two fields compare as stated; the second may be shifted by days or months, or multiplied. Holds when either is
/// missing: “must be filled” is another rule. A month later than the 31st is the last day of that month.
/// </summary>
public sealed class Compare : IRuleKind
{
    private static readonly FieldKind[] Comparable =
    [
        FieldKind.Date,
        FieldKind.WholeNumber,
        FieldKind.Decimal,
        FieldKind.Amount,
        FieldKind.Text,
        FieldKind.Term,
        FieldKind.Identifier,
        FieldKind.YesNo,
    ];

    private static readonly RuleParameter How = RuleParameter.Choice(
        "how",
        "is",
        ("at-most", "at most (≤)"),
        ("below", "less than (<)"),
        ("equal", "equal to (=)"),
        ("not-equal", "not equal to (≠)"),
        ("at-least", "at least (≥)"),
        ("above", "more than (>)")
    );

    private static readonly RuleParameter Shift = RuleParameter.Choice(
        "shift",
        "changed by",
        ("", "nothing"),
        ("days", "days added"),
        ("months", "months added"),
        ("plus", "a number added"),
        ("times", "a factor")
    );

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "compare";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Two fields compare";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        new("first", "Field", ParameterKind.Field, Comparable),
        How,
        new("second", "other field", ParameterKind.Field, Comparable),
        Shift,
        RuleParameter.Number("by", "by how much"),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["first"])} {Sign(rule["how"])} {Second(rule, type)}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type)
    {
        FieldKind first = type.Find(rule["first"])!.Kind,
            second = type.Find(rule["second"])!.Kind;
        var numbers = RuleKinds.Numbers.Contains(first) && RuleKinds.Numbers.Contains(second);
        var dates = first == FieldKind.Date && second == FieldKind.Date;
        if (!numbers && !dates && rule["how"] is not ("equal" or "not-equal"))
            return $"{FieldKindNames.Of(first)} and {FieldKindNames.Of(second)} can only be equal or not equal.";
        if (rule["shift"] is { Length: > 0 } shift && RuleKinds.Number(rule["by"]) is null)
            return "by how much: write a number.";
        if (rule["shift"] is "days" or "months" && !dates)
            return "Days and months can only be added to dates.";
        if (rule["shift"] is "days" or "months" && Exact.Count(RuleKinds.Number(rule["by"])) is null)
            return "Days and months are whole numbers.";
        return rule["shift"] is "plus" or "times" && !numbers ? "Only numbers can be added to or multiplied." : null;
    }

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var type = scope.Type;
        int first = type.OrdinalOf(rule["first"]),
            second = type.OrdinalOf(rule["second"]);
        var holds = Test(rule["how"]);
        var found = rule.Found(Code, rule["first"], type.LabelOf(rule["first"]), Sign(rule["how"]), Second(rule, type));
        var shift = rule["shift"];
        var by = RuleKinds.Number(rule["by"]) ?? 0;
        var beyond = rule.Found("date-beyond", rule["first"], Second(rule, type));
        if (type.Fields[first].Kind == FieldKind.Date && type.Fields[second].Kind == FieldKind.Date)
        {
            var steps = Exact.Count(by) ?? 0;
            return (record, _) =>
            {
                if (!record[first].IsGood || !record[second].IsGood)
                    return null;
                return Shifted(record[second].Date, shift, steps) is not { } other ? beyond
                    : holds(record[first].Date.CompareTo(other)) ? null
                    : found;
            };
        }
        if (RuleKinds.Numbers.Contains(type.Fields[first].Kind))
            return (record, _) =>
            {
                if (!record[first].IsGood || !record[second].IsGood)
                    return null;
                if (record[first].Currency is { } a && record[second].Currency is { } b && a != b)
                    return rule.Found("currencies-differ", rule["first"], type.LabelOf(rule["first"]), type.LabelOf(rule["second"]));
                var other = record[second].Number;
                if (shift == "plus" && !Exact.TryAdd(other, by, out other) || shift == "times" && !Exact.TryMultiply(other, by, out other))
                    return rule.Found(Exact.Code, rule["first"], Second(rule, type));
                return holds(record[first].Number.CompareTo(other)) ? null : found;
            };
        return (record, _) =>
            record[first].IsGood
            && record[second].IsGood
            && !holds(string.Compare(record[first].Text, record[second].Text, StringComparison.OrdinalIgnoreCase))
                ? found
                : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var field = scope.Type.Find(rule["first"])!;
        foreach (var step in new[] { -1, 0, 1 })
            if (field.Kind == FieldKind.Date)
            {
                if (
                    Shifted(new DateOnly(2024, 3, 5), rule["shift"], Exact.Count(RuleKinds.Number(rule["by"])) ?? 0) is { } date
                    && Exact.AddDays(date, step) is { } border
                )
                    yield return (field.Key, border.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
            }
            else if (RuleKinds.Numbers.Contains(field.Kind))
            {
                var number = 42m;
                if (
                    rule["shift"] == "times" && !Exact.TryMultiply(42, RuleKinds.Number(rule["by"]) ?? 1, out number)
                    || rule["shift"] == "plus" && !Exact.TryAdd(42, RuleKinds.Number(rule["by"]) ?? 0, out number)
                )
                    continue;
                if (Exact.TryAdd(number, step, out var border))
                    yield return (field.Key, RuleKinds.Text(border));
            }
    }

    private static DateOnly? Shifted(DateOnly date, string shift, int by) =>
        shift switch
        {
            "days" => Exact.AddDays(date, by),
            "months" => Exact.AddMonths(date, by),
            _ => date,
        };

    private static Func<int, bool> Test(string how) =>
        how switch
        {
            "below" => static o => o < 0,
            "equal" => static o => o == 0,
            "not-equal" => static o => o != 0,
            "at-least" => static o => o >= 0,
            "above" => static o => o > 0,
            _ => static o => o <= 0,
        };

    private static string Sign(string how) =>
        how switch
        {
            "below" => "<",
            "equal" => "=",
            "not-equal" => "≠",
            "at-least" => "≥",
            "above" => ">",
            _ => "≤",
        };

    private static string Second(Rule rule, TypeFields type)
    {
        var name = type.LabelOf(rule["second"]);
        var by = rule["by"];
        var sign = by.StartsWith('-') ? "−" : "+";
        return rule["shift"] switch
        {
            "days" => $"{name} {sign} {by.TrimStart('-')} d",
            "months" => $"{name} {sign} {by.TrimStart('-')} mo",
            "plus" => $"{name} {sign} {by.TrimStart('-')}",
            "times" => $"{name} × {by}",
            _ => name,
        };
    }
}
