using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>How two values compare.</summary>
internal enum Relation
{
    AtMost,
    Below,
    Equal,
    NotEqual,
    AtLeast,
    Above,
}

/// <summary>What is done to the second value before they compare.</summary>
internal enum Shifted
{
    Not,
    Days,
    Months,
    Plus,
    Times,
}

/// <summary>
/// Two fields are compared as stated; the second may be shifted by days, months, minutes or a number, or multiplied. Holds when either is
/// missing: “must be filled” is another rule. A month later than the 31st is the last day of that month.
/// </summary>
public sealed class Compare : IRuleKind
{
    private static readonly FieldBlank First = new("first", "Field", FieldKinds.Comparable);
    private static readonly ChoiceBlank<Relation> How = new(
        "how",
        "is",
        (Relation.AtMost, "at-most", "at most (≤)"),
        (Relation.Below, "below", "less than (<)"),
        (Relation.Equal, "equal", "equal to (=)"),
        (Relation.NotEqual, "not-equal", "not equal to (≠)"),
        (Relation.AtLeast, "at-least", "at least (≥)"),
        (Relation.Above, "above", "more than (>)")
    );
    private static readonly FieldBlank Second = new("second", "other field", FieldKinds.Comparable);
    private static readonly ChoiceBlank<Shifted> Shift = new(
        "shift",
        "changed by",
        (Shifted.Not, "", "nothing"),
        (Shifted.Days, "days", "days added"),
        (Shifted.Months, "months", "months added"),
        (Shifted.Plus, "plus", "a number (or minutes) added"),
        (Shifted.Times, "times", "a factor")
    );
    private static readonly NumberBlank By = new("by", "by how much");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "compare";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Two fields are compared";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [First, How, Second, Shift, By];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{First.LabelIn(rule, type)} {Sign(How.Of(rule))} {Other(rule, type)}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type)
    {
        FieldKind first = First.In(rule, type)!.Kind,
            second = Second.In(rule, type)!.Kind;
        var shift = Shift.Of(rule);
        if (first.Measure != second.Measure)
            return $"{first.Label} and {second.Label} cannot be compared: neither is ever the other.";
        if (!first.IsOrdered && How.Of(rule) is not (Relation.Equal or Relation.NotEqual))
            return $"{first.Label} and {second.Label} can only be equal or not equal.";
        if (shift != Shifted.Not && By.Of(rule) is null)
            return "by how much: write a number.";
        if (shift is Shifted.Days or Shifted.Months && first.Measure != Measure.Day)
            return "Days and months can only be added to dates.";
        if (shift is Shifted.Days or Shifted.Months && By.Count(rule) is null)
            return "Days and months are whole numbers.";
        if (shift == Shifted.Plus && (!first.IsOrdered || first.Measure == Measure.Day))
            return "Only numbers, minutes of times and of durations can be added.";
        return shift == Shifted.Times && !first.IsMultiplied ? "Only numbers and durations can be multiplied." : null;
    }

    /// <inheritdoc/>
    public IEnumerable<Bound> Bounds(Rule rule, TypeFields type, DateOnly today)
    {
        var (first, second, how) = (First.In(rule, type)!, Second.In(rule, type)!, How.Of(rule));
        if (!first.Kind.IsOrdered || Shift.Of(rule) is Shifted.Months or Shifted.Times)
            yield break;
        var by = Added(rule, type);
        var step = first.Kind.IsWhole && second.Kind.IsWhole ? 1 : Bound.Little;
        if (how is Relation.AtMost or Relation.Below or Relation.Equal)
            yield return new Bound(first.Key, second.Key, by - (how == Relation.Below ? step : 0));
        if (how is Relation.AtLeast or Relation.Above or Relation.Equal)
            yield return new Bound(second.Key, first.Key, -by - (how == Relation.Above ? step : 0));
    }

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var type = scope.Type;
        int first = First.At(rule, type),
            second = Second.At(rule, type);
        var holds = Test(How.Of(rule));
        var found = rule.Found(new DoesNotCompare(First.LabelIn(rule, type), Sign(How.Of(rule)), Other(rule, type)), First.Of(rule));
        var shift = Shift.Of(rule);
        var by = Added(rule, type);
        var beyond = rule.Found(new DateBeyond(Other(rule, type)), First.Of(rule));
        if (type.Fields[first].Kind.Measure == Measure.Day)
        {
            var steps = Exact.Count(by) ?? 0;
            return (record, _) =>
            {
                if (!record[first].IsGood || !record[second].IsGood)
                    return null;
                return Move(record[second].Date, shift, steps) is not { } other ? beyond
                    : holds(record[first].Date.CompareTo(other)) ? null
                    : found;
            };
        }
        if (type.Fields[first].Kind.IsOrdered)
            return (record, _) =>
            {
                if (!record[first].IsGood || !record[second].IsGood)
                    return null;
                if (record[first].Currency is { } a && record[second].Currency is { } b && a != b)
                    return rule.Found(new CurrenciesDiffer(First.LabelIn(rule, type), Second.LabelIn(rule, type)), First.Of(rule));
                var other = record[second].Number;
                if (
                    shift == Shifted.Plus && !Exact.TryAdd(other, by, out other)
                    || shift == Shifted.Times && !Exact.TryMultiply(other, by, out other)
                )
                    return rule.Found(new TooLarge(Other(rule, type)), First.Of(rule));
                return holds(record[first].Number.CompareTo(other)) ? null : found;
            };
        // Equal is what is equal everywhere else.
        var kind = type.Fields[first].Kind == type.Fields[second].Kind ? type.Fields[first].Kind : FieldKind.Text;
        var equal = How.Of(rule) == Relation.Equal;
        return (record, _) =>
            record[first].IsGood && record[second].IsGood && kind.Same(record[first], record[second]) != equal ? found : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var field = First.In(rule, scope.Type)!;
        foreach (var step in new[] { -1, 0, 1 })
            if (field.Kind.Measure == Measure.Day)
            {
                if (
                    Move(new DateOnly(2024, 3, 5), Shift.Of(rule), By.Count(rule) ?? 0) is { } date
                    && Exact.AddDays(date, step) is { } border
                )
                    yield return (field.Key, border.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
            }
            else if (field.Kind.Measure == Measure.TimeOfDay)
                yield return (field.Key, $"{12 + step:00}:00");
            else if (field.Kind.Measure == Measure.Number)
            {
                var number = 42m;
                if (
                    Shift.Of(rule) == Shifted.Times && !Exact.TryMultiply(42, By.Of(rule) ?? 1, out number)
                    || Shift.Of(rule) == Shifted.Plus && !Exact.TryAdd(42, By.Of(rule) ?? 0, out number)
                )
                    continue;
                if (Exact.TryAdd(number, step, out var border))
                    yield return (field.Key, Numbers.Text(border));
            }
    }

    private static DateOnly? Move(DateOnly date, Shifted shift, int by) =>
        shift switch
        {
            Shifted.Days => Exact.AddDays(date, by),
            Shifted.Months => Exact.AddMonths(date, by),
            _ => date,
        };

    private static Func<int, bool> Test(Relation how) =>
        how switch
        {
            Relation.Below => static o => o < 0,
            Relation.Equal => static o => o == 0,
            Relation.NotEqual => static o => o != 0,
            Relation.AtLeast => static o => o >= 0,
            Relation.Above => static o => o > 0,
            _ => static o => o <= 0,
        };

    private static string Sign(Relation how) =>
        how switch
        {
            Relation.Below => "<",
            Relation.Equal => "=",
            Relation.NotEqual => "≠",
            Relation.AtLeast => "≥",
            Relation.Above => ">",
            _ => "≤",
        };

    // By how much the second value is shifted, in its measure: minutes that are added to a duration are seconds there.
    private static decimal Added(Rule rule, TypeFields type)
    {
        var by = Shift.Of(rule) == Shifted.Not ? 0 : By.Of(rule) ?? 0;
        return Shift.Of(rule) != Shifted.Plus ? by
            : Exact.TryMultiply(by, Second.In(rule, type)!.Kind.Unit, out var measured) ? measured
            : decimal.MaxValue;
    }

    private static string Unit(Rule rule, TypeFields type) =>
        Second.In(rule, type)?.Kind.UnitName is { Length: > 0 } unit ? " " + unit : "";

    private static string Other(Rule rule, TypeFields type)
    {
        var name = Second.LabelIn(rule, type);
        var by = By.Text(rule);
        var sign = by.StartsWith('-') ? "−" : "+";
        return Shift.Of(rule) switch
        {
            Shifted.Days => $"{name} {sign} {by.TrimStart('-')} d",
            Shifted.Months => $"{name} {sign} {by.TrimStart('-')} mo",
            Shifted.Plus => $"{name} {sign} {by.TrimStart('-')}{Unit(rule, type)}",
            Shifted.Times => $"{name} × {by}",
            _ => name,
        };
    }
}

/// <summary>Two fields do not compare as stated.</summary>
public sealed record DoesNotCompare(string First, string Sign, string Second) : ProblemKind("compare")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{First} muss {Sign} {Second} sein.",
            "fr" => $"{First} doit être {Sign} {Second}.",
            _ => $"{First} must be {Sign} {Second}.",
        };
}

/// <summary>Two amounts in different currencies.</summary>
public sealed record CurrenciesDiffer(string First, string Second) : ProblemKind("currencies-differ")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{First} und {Second} haben verschiedene Währungen.",
            "fr" => $"{First} et {Second} sont dans des devises différentes.",
            _ => $"{First} and {Second} are in different currencies.",
        };
}

/// <summary>A shifted date leaves the years 1 to 9999.</summary>
public sealed record DateBeyond(string Shifted) : ProblemKind("date-beyond")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Shifted} verlässt den Kalender und lässt sich nicht vergleichen.",
            "fr" => $"{Shifted} sort du calendrier et ne peut pas être comparé.",
            _ => $"{Shifted} is outside the calendar, so it cannot be compared.",
        };
}
