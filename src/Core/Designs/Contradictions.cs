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
    // Greater bounds are left out: as many as there are of these add up without an overflow.
    private const decimal Great = 1_000_000_000_000_000_000_000m;

    /// <summary>A constraint with the sentence and the place it comes from.</summary>
    private sealed record Stated(Bound Bound, string Says, string Place)
    {
        public string X => Bound.X;

        public string Y => Bound.Y;

        public decimal C => Bound.C;
    }

    /// <summary>
    /// The sentences that can never hold together, one set at most, with the place of the last of them; null when there are none.
    /// </summary>
    public static (string Place, IReadOnlyList<string> Says)? Find(DocumentType type, DateOnly today)
    {
        var bounds = Fields(type).Concat(Rules(type, today)).Where(b => Math.Abs(b.C) <= Great).ToList();
        var names = bounds.SelectMany(b => new[] { b.X, b.Y }).Distinct(StringComparer.Ordinal).ToList();
        var distance = names.ToDictionary(n => n, _ => 0m, StringComparer.Ordinal);
        var by = new Dictionary<string, Stated>(StringComparer.Ordinal);
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
        var cycle = new List<Stated>();
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

    private static IEnumerable<Stated> Fields(DocumentType type)
    {
        foreach (var field in type.Fields)
        {
            IEnumerable<Stated> Said(IEnumerable<Bound> bounds, string says) =>
                bounds.Select(b => new Stated(b, $"{field.Label} {says}", "field " + field.Key));
            var stated = Enumerable.Empty<Stated>();
            if (Least(field) is { } least)
                stated = stated.Concat(Said(Bound.Between(field.Key, least.Value, null), $"is at least {least.Text}"));
            if (Most(field) is { } most)
                stated = stated.Concat(Said(Bound.Between(field.Key, null, most.Value), $"is at most {most.Text}"));
            if (field is TextField text)
            {
                var length = Bound.Length(field.Key);
                stated = stated
                    .Concat(Said(Bound.Between(length, text.MinLength, null), $"has at least {text.MinLength} characters"))
                    .Concat(Said(Bound.Between(length, null, text.MaxLength), $"has at most {text.MaxLength} characters"));
                if (text.Pattern is { Length: > 0 } pattern)
                    stated = stated.Concat(Said(Bound.OfPattern(field.Key, pattern), $"matches {pattern}"));
            }
            foreach (var one in stated)
                yield return one;
        }
    }

    private static (decimal Value, string Text)? Least(Field field) =>
        field.Kind.Order((field as RangedField)?.Min) is { } value ? (value, ((RangedField)field).Min!) : null;

    private static (decimal Value, string Text)? Most(Field field) =>
        field.Kind.Order((field as RangedField)?.Max) is { } value ? (value, ((RangedField)field).Max!) : null;

    private static IEnumerable<Stated> Rules(DocumentType type, DateOnly today) =>
        from rule in type.Rules
        where rule is { Level: Level.Must, When: null or { Comparisons.Count: 0 } } && RuleKinds.Finding(rule, type) is null
        from bound in RuleKinds.Find(rule.Kind)!.Bounds(rule, type, today)
        select new Stated(bound, bound.Says ?? RuleKinds.Sentence(rule, type), rule.Id);

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
        if (field.Kind.Order(c.Value) is not { } value)
            return null;
        var above = c.Operator switch
        {
            Operator.Is or Operator.AtMost => value,
            Operator.Below => value - Bound.Little,
            _ => (decimal?)null,
        };
        var below = c.Operator switch
        {
            Operator.Is or Operator.AtLeast => value,
            Operator.Above => value + Bound.Little,
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
                        Operator.AtMost or Operator.Is => field.Kind.Order(c.Value),
                        Operator.Below => field.Kind.Order(c.Value) - Bound.Little,
                        _ => null,
                    }
                )
                .Min();
            var least = group
                .Select(c =>
                    c.Operator switch
                    {
                        Operator.AtLeast or Operator.Is => field.Kind.Order(c.Value),
                        Operator.Above => field.Kind.Order(c.Value) + Bound.Little,
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
