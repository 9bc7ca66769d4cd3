using System.Globalization;
using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Two fields compare as stated; the second may be shifted by days or months, or multiplied. Holds when either is
/// missing: “must be filled” is another rule. A month later than the 31st is the last day of that month.
/// </summary>
public sealed class Compare : IRuleKind
{
    private static readonly FieldKind[] Comparable = [FieldKind.Date, FieldKind.WholeNumber, FieldKind.Decimal, FieldKind.Amount, FieldKind.Text, FieldKind.Term, FieldKind.Identifier, FieldKind.YesNo];

    private static readonly RuleParameter How = RuleParameter.Choice("how", "is", ("at-most", "at most (≤)"), ("below", "less than (<)"), ("equal", "equal to (=)"), ("not-equal", "not equal to (≠)"), ("at-least", "at least (≥)"), ("above", "more than (>)"));

    private static readonly RuleParameter Shift = RuleParameter.Choice("shift", "changed by", ("", "nothing"), ("days", "days added"), ("months", "months added"), ("plus", "a number added"), ("times", "a factor"));

    /// <inheritdoc/>
    public string Code => "compare";

    /// <inheritdoc/>
    public string Title => "Two fields compare";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
        [new("first", "Field", ParameterKind.Field, Comparable), How, new("second", "other field", ParameterKind.Field, Comparable), Shift, RuleParameter.Number("by", "by how much")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, DocumentType type) => $"{type.LabelOf(rule["first"])} {Sign(rule["how"])} {Second(rule, type)}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, DocumentType type)
    {
        FieldKind first = type.Find(rule["first"])!.Kind, second = type.Find(rule["second"])!.Kind;
        var numbers = RuleKinds.Numbers.Contains(first) && RuleKinds.Numbers.Contains(second);
        var dates = first == FieldKind.Date && second == FieldKind.Date;
        if (!numbers && !dates && rule["how"] is not ("equal" or "not-equal")) return $"{FieldKindNames.Of(first)} and {FieldKindNames.Of(second)} can only be equal or not equal.";
        if (rule["shift"] is { Length: > 0 } shift && RuleKinds.Number(rule["by"]) is null) return "by how much: write a number.";
        if (rule["shift"] is "days" or "months" && !dates) return "Days and months can only be added to dates.";
        if (rule["shift"] is "days" or "months" && !int.TryParse(rule["by"], NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out _)) return "Days and months are whole numbers.";
        return rule["shift"] is "plus" or "times" && !numbers ? "Only numbers can be added to or multiplied." : null;
    }

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var type = scope.Type;
        int first = type.OrdinalOf(rule["first"]), second = type.OrdinalOf(rule["second"]);
        var holds = Test(rule["how"]);
        var found = rule.Found(Code, rule["first"], type.LabelOf(rule["first"]), Sign(rule["how"]), Second(rule, type));
        var shift = rule["shift"];
        var by = RuleKinds.Number(rule["by"]) ?? 0;
        if (type.Fields[first].Kind == FieldKind.Date && type.Fields[second].Kind == FieldKind.Date)
            return (record, _) => record[first].IsGood && record[second].IsGood && !holds(record[first].Date.CompareTo(Shifted(record[second].Date, shift, (int)by))) ? found : null;
        if (RuleKinds.Numbers.Contains(type.Fields[first].Kind))
            return (record, _) =>
            {
                if (!record[first].IsGood || !record[second].IsGood) return null;
                if (record[first].Currency is { } a && record[second].Currency is { } b && a != b) return rule.Found("currencies-differ", rule["first"], type.LabelOf(rule["first"]), type.LabelOf(rule["second"]));
                var other = shift switch { "plus" => record[second].Number + by, "times" => record[second].Number * by, _ => record[second].Number };
                return holds(record[first].Number.CompareTo(other)) ? null : found;
            };
        return (record, _) => record[first].IsGood && record[second].IsGood && !holds(string.Compare(record[first].Text, record[second].Text, StringComparison.OrdinalIgnoreCase)) ? found : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> Borders(Rule rule, RuleScope scope)
    {
        var field = scope.Type.Find(rule["first"])!;
        foreach (var step in new[] { -1, 0, 1 })
            if (field.Kind == FieldKind.Date) yield return (field.Key, Shifted(new DateOnly(2024, 3, 5), rule["shift"], (int)(RuleKinds.Number(rule["by"]) ?? 0)).AddDays(step).ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
            else if (RuleKinds.Numbers.Contains(field.Kind)) yield return (field.Key, RuleKinds.Text((rule["shift"] switch { "times" => 42 * (RuleKinds.Number(rule["by"]) ?? 1), "plus" => 42 + (RuleKinds.Number(rule["by"]) ?? 0), _ => 42 }) + step));
    }

    private static DateOnly Shifted(DateOnly date, string shift, int by) => shift switch { "days" => date.AddDays(by), "months" => date.AddMonths(by), _ => date };

    private static Func<int, bool> Test(string how) => how switch
    {
        "below" => static o => o < 0,
        "equal" => static o => o == 0,
        "not-equal" => static o => o != 0,
        "at-least" => static o => o >= 0,
        "above" => static o => o > 0,
        _ => static o => o <= 0,
    };

    private static string Sign(string how) => how switch { "below" => "<", "equal" => "=", "not-equal" => "≠", "at-least" => "≥", "above" => ">", _ => "≤" };

    private static string Second(Rule rule, DocumentType type)
    {
        var name = type.LabelOf(rule["second"]);
        var by = rule["by"];
        var sign = by.StartsWith('-') ? "−" : "+";
        return rule["shift"] switch { "days" => $"{name} {sign} {by.TrimStart('-')} d", "months" => $"{name} {sign} {by.TrimStart('-')} mo", "plus" => $"{name} {sign} {by.TrimStart('-')}", "times" => $"{name} × {by}", _ => name };
    }
}
