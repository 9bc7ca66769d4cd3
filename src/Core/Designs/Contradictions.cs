using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>
/// What can never hold. Ranges and comparisons of numbers, dates and text lengths are difference constraints
/// <c>x − y ≤ c</c>; they have no solution exactly when some of them add up, round a cycle, to less than nothing.
/// </summary>
internal static class Contradictions
{
    // “Less than” of numbers without a smallest step.
    private const decimal Little = 0.0000001m;

    // Greater bounds are left out: as many as there are of these add up without an overflow.
    private const decimal Great = 1_000_000_000_000_000_000_000m;

    /// <summary>A constraint <c>x − y ≤ c</c> with the sentence and the place it comes from; an empty name stands for nought.</summary>
    private sealed record Bound(string X, string Y, decimal C, string Says, string Place);

    /// <summary>
    /// The sentences that can never hold together, one set at most, with the place of the last of them; null when there are none.
    /// </summary>
    public static (string Place, IReadOnlyList<string> Says)? Find(DocumentType type, DateOnly today)
    {
        var bounds = Fields(type).Concat(Rules(type, today)).Where(b => Math.Abs(b.C) <= Great).ToList();
        var names = bounds.SelectMany(b => new[] { b.X, b.Y }).Distinct(StringComparer.Ordinal).ToList();
        var distance = names.ToDictionary(n => n, _ => 0m, StringComparer.Ordinal);
        var by = new Dictionary<string, Bound>(StringComparer.Ordinal);
        string? changed = null;
        for (var round = 0; round <= names.Count; round++)
        {
            changed = null;
            foreach (var bound in bounds)
                if (distance[bound.Y] + bound.C < distance[bound.X])
                {
                    distance[bound.X] = distance[bound.Y] + bound.C;
                    by[bound.X] = bound;
                    changed = bound.X;
                }
            if (changed is null)
                return null;
        }
        // Going back far enough stands on the cycle; going on round it names its bounds.
        for (var i = 0; i < names.Count; i++)
            changed = by[changed!].Y;
        var cycle = new List<Bound>();
        for (var at = changed!; ; at = by[at].Y)
        {
            cycle.Add(by[at]);
            if (by[at].Y == changed)
                break;
        }
        var says = cycle.Select(b => b.Says).Distinct(StringComparer.Ordinal).ToList();
        // A single field whose own least is above its greatest is said elsewhere.
        if (cycle.All(b => b.Place.StartsWith("field ", StringComparison.Ordinal)) && cycle.Select(b => b.Place).Distinct().Count() == 1)
            return null;
        // The repair is likeliest at the rule that came last.
        var place = type.Rules.LastOrDefault(r => cycle.Any(b => b.Place == r.Id))?.Id ?? cycle[^1].Place[6..];
        return (place, says);
    }

    private static IEnumerable<Bound> Fields(DocumentType type)
    {
        foreach (var field in type.Fields)
        {
            var place = "field " + field.Key;
            if (Least(field) is { } least)
                yield return new Bound("", field.Key, -least.Value, $"{field.Label} is at least {least.Text}", place);
            if (Most(field) is { } most)
                yield return new Bound(field.Key, "", most.Value, $"{field.Label} is at most {most.Text}", place);
            if (field is not TextField text)
                continue;
            var length = Length(field.Key);
            if (text.MinLength is { } shortest)
                yield return new Bound("", length, -shortest, $"{field.Label} has at least {shortest} characters", place);
            if (text.MaxLength is { } longest)
                yield return new Bound(length, "", longest, $"{field.Label} has at most {longest} characters", place);
            if (text.Pattern is { Length: > 0 } pattern)
                foreach (var bound in OfPattern(field, pattern, place))
                    yield return bound;
        }
    }

    private static (decimal Value, string Text)? Least(Field field) =>
        Value(field, (field as RangedField)?.Min) is { } value ? (value, ((RangedField)field).Min!) : null;

    private static (decimal Value, string Text)? Most(Field field) =>
        Value(field, (field as RangedField)?.Max) is { } value ? (value, ((RangedField)field).Max!) : null;

    private static IEnumerable<Bound> Rules(DocumentType type, DateOnly today)
    {
        foreach (
            var rule in type.Rules.Where(r =>
                r is { Level: Level.Must, When: null or { Comparisons.Count: 0 } } && RuleKinds.Finding(r, type) is null
            )
        )
        {
            var says = RuleKinds.Sentence(rule, type);
            var field = type.Find(rule["field"]);
            switch (rule.Kind)
            {
                case NumberWithin.Kind:
                    if (RuleKinds.Number(rule["least"]) is { } least)
                        yield return new Bound("", field!.Key, -least, says, rule.Id);
                    if (RuleKinds.Number(rule["most"]) is { } most)
                        yield return new Bound(field!.Key, "", most, says, rule.Id);
                    break;
                case DateWithin.Kind:
                    if (Value(field!, rule["earliest"]) is { } earliest)
                        yield return new Bound("", field!.Key, -earliest, says, rule.Id);
                    if (Value(field!, rule["latest"]) is { } latest)
                        yield return new Bound(field!.Key, "", latest, says, rule.Id);
                    break;
                case DateToday.Kind when rule["how"] is "not-future" or "past":
                    yield return new Bound(field!.Key, "", today.DayNumber - (rule["how"] == "past" ? 1 : 0), says, rule.Id);
                    break;
                case DateToday.Kind when rule["how"] is "future" or "not-past":
                    yield return new Bound("", field!.Key, -(today.DayNumber + (rule["how"] == "future" ? 1 : 0)), says, rule.Id);
                    break;
                case TextLength.Kind:
                    if (RuleKinds.Number(rule["least"]) is { } shortest)
                        yield return new Bound("", Length(field!.Key), -shortest, says, rule.Id);
                    if (RuleKinds.Number(rule["most"]) is { } longest)
                        yield return new Bound(Length(field!.Key), "", longest, says, rule.Id);
                    break;
                case Pattern.Kind:
                    foreach (var bound in OfPattern(field!, rule["pattern"], rule.Id))
                        yield return bound;
                    break;
                case Compare.Kind:
                    foreach (var bound in OfCompare(rule, type, says))
                        yield return bound;
                    break;
            }
        }
    }

    private static IEnumerable<Bound> OfCompare(Rule rule, DocumentType type, string says)
    {
        var (first, second) = (type.Find(rule["first"])!, type.Find(rule["second"])!);
        if (
            first.Kind is FieldKind.Text or FieldKind.Term or FieldKind.Identifier or FieldKind.YesNo
            || rule["shift"] is "months" or "times"
        )
            yield break;
        var by = rule["shift"].Length > 0 ? RuleKinds.Number(rule["by"]) ?? 0 : 0;
        var step =
            first.Kind is FieldKind.Date or FieldKind.WholeNumber && second.Kind is FieldKind.Date or FieldKind.WholeNumber ? 1 : Little;
        if (rule["how"] is "at-most" or "below" or "equal")
            yield return new Bound(first.Key, second.Key, by - (rule["how"] == "below" ? step : 0), says, rule.Id);
        if (rule["how"] is "at-least" or "above" or "equal")
            yield return new Bound(second.Key, first.Key, -by - (rule["how"] == "above" ? step : 0), says, rule.Id);
    }

    private static IEnumerable<Bound> OfPattern(Field field, string pattern, string place)
    {
        if (PatternPieces.Read(pattern) is not { } pieces)
            yield break;
        var (least, most) = PatternPieces.Lengths(pieces);
        var says = $"{field.Label} matches {pattern}";
        yield return new Bound("", Length(field.Key), -least, says, place);
        if (most is { } longest)
            yield return new Bound(Length(field.Key), "", longest, says, place);
    }

    // Keys are lower case, so no field is called so.
    private static string Length(string key) => $"LENGTH {key}";

    private static decimal? Value(Field field, string? text) =>
        field.Kind switch
        {
            FieldKind.Date => FieldParsing.TryDate(text ?? "", out var date) ? date.DayNumber : null,
            FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.Amount => decimal.TryParse(
                text,
                NumberStyles.Number,
                CultureInfo.InvariantCulture,
                out var n
            )
                ? n
                : null,
            _ => null,
        };

    /// <summary>Why a condition never holds, as half a sentence; null when it can.</summary>
    public static string? Never(Condition? when, DocumentType type, Func<string, bool> isType)
    {
        if (when is not { Comparisons.Count: > 0 })
            return null;
        return when.Match switch
        {
            Joined.All => when.Comparisons.Select(c => Never(c, type, isType)).FirstOrDefault(n => n is not null)
                ?? Together(when.Comparisons, type),
            Joined.Any => when.Comparisons.All(c => Never(c, type, isType) is not null) ? Never(when.Comparisons[0], type, isType) : null,
            _ => null,
        };
    }

    private static string? Never(Comparison c, DocumentType type, Func<string, bool> isType)
    {
        if (c.Subject == Condition.SubType)
            return c.Operator is Operator.Is or Operator.OneOf && !c.Value.Split('|', StringSplitOptions.TrimEntries).Any(isType)
                ? $"no sub-type is called {c.Value}"
                : null;
        if (type.Find(c.Subject) is not { } field)
            return null;
        if (c.Operator == Operator.IsEmpty && field.Required)
            return $"{field.Label} must be filled, so it is never empty";
        if (Value(field, c.Value) is not { } value)
            return null;
        var above = c.Operator switch
        {
            Operator.Is or Operator.AtMost => value,
            Operator.Below => value - Little,
            _ => (decimal?)null,
        };
        var below = c.Operator switch
        {
            Operator.Is or Operator.AtLeast => value,
            Operator.Above => value + Little,
            _ => (decimal?)null,
        };
        if (Least(field) is { } least && above < least.Value)
            return $"{field.Label} is never below {least.Text}";
        return Most(field) is { } most && below > most.Value ? $"{field.Label} is never above {most.Text}" : null;
    }

    private static string? Together(IReadOnlyList<Comparison> comparisons, DocumentType type)
    {
        foreach (var group in comparisons.GroupBy(c => c.Subject))
        {
            var name = Condition.SubjectName(group.Key, type);
            var values = group.Where(c => c.Operator == Operator.Is).Select(c => Folding.Fold(c.Value)).Distinct().ToList();
            if (values.Count > 1)
                return $"{name} cannot be {string.Join(" and ", group.Where(c => c.Operator == Operator.Is).Select(c => c.Value))} at once";
            if (
                group.Any(c => c.Operator == Operator.IsEmpty)
                && group.Any(c =>
                    c.Operator
                        is Operator.IsFilled
                            or Operator.Is
                            or Operator.OneOf
                            or Operator.AtLeast
                            or Operator.Above
                            or Operator.Below
                            or Operator.AtMost
                            or Operator.Within
                            or Operator.BeginsWith
                )
            )
                return $"{name} cannot be empty and filled at once";
            if (values is [var only] && group.Any(c => c.Operator == Operator.IsNot && Folding.Fold(c.Value) == only))
                return $"{name} cannot be and not be {group.First(c => c.Operator == Operator.Is).Value}";
            if (type.Find(group.Key) is not { } field)
                continue;
            var most = group
                .Select(c =>
                    c.Operator switch
                    {
                        Operator.AtMost or Operator.Is => Value(field, c.Value),
                        Operator.Below => Value(field, c.Value) - Little,
                        _ => null,
                    }
                )
                .Min();
            var least = group
                .Select(c =>
                    c.Operator switch
                    {
                        Operator.AtLeast or Operator.Is => Value(field, c.Value),
                        Operator.Above => Value(field, c.Value) + Little,
                        _ => null,
                    }
                )
                .Max();
            if (least > most)
                return $"nothing lies between what is asked of {name}";
        }
        return null;
    }
}
