using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>Whether something holds for a record.</summary>
public delegate bool Holds(ReadOnlySpan<FieldValue> record, CheckContext now);

/// <summary>Conditions as functions of a record and of what surrounds it.</summary>
public static class Conditions
{
    /// <summary>Compiles it. Called only without <see cref="Finding"/>.</summary>
    public static Holds Compile(this Condition condition, TypeFields type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        var parts = condition.Comparisons.Select(c => Part(c, type, vocabularies)).ToArray();
        if (parts is [var single] && condition.Match != Joined.None)
            return single;
        return condition.Match switch
        {
            Joined.All => (record, now) =>
            {
                foreach (var part in parts)
                    if (!part(record, now))
                        return false;
                return true;
            },
            Joined.Any => (record, now) =>
            {
                foreach (var part in parts)
                    if (part(record, now))
                        return true;
                return parts.Length == 0;
            },
            _ => (record, now) =>
            {
                foreach (var part in parts)
                    if (part(record, now))
                        return false;
                return true;
            },
        };
    }

    private static Holds Part(Comparison c, TypeFields type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        var values = c.Operator == Operator.OneOf ? c.Value.Split('|', StringSplitOptions.TrimEntries) : [c.Value.Trim()];
        var not = c.Operator == Operator.IsNot;
        switch (c.Subject)
        {
            case Condition.SubType:
                var known =
                    (type.Lineage.Count > 0 ? type.Lineage : [type.Code]).Any(code =>
                        values.Contains(code, StringComparer.OrdinalIgnoreCase)
                    ) != not;
                return (_, _) => known;
            case Condition.Role:
                return (_, now) => now.Roles?.Any(r => values.Contains(r, StringComparer.OrdinalIgnoreCase)) == true != not;
            case Condition.Channel:
                return (_, now) => values.Contains(now.Channel.ToString(), StringComparer.OrdinalIgnoreCase) != not;
        }
        var at = type.OrdinalOf(c.Subject);
        var field = type.Fields[at];
        if (c.Operator == Operator.IsFilled)
            return (record, _) => !record[at].IsEmpty;
        if (c.Operator == Operator.IsEmpty)
            return (record, _) => record[at].IsEmpty;
        if (field.Kind.HasTerms && vocabularies.GetValueOrDefault(field.Vocabulary ?? "") is { } terms)
        {
            var asked = values.Select(terms.IndexOfAny).Where(t => t >= 0).ToArray();
            if (c.Operator == Operator.Within)
                return (record, _) => AnyTerm(record[at], t => asked.Any(w => terms.IsWithin(t, w)));
            if (!field.Kind.IsMultiple && c.Operator is Operator.Is && asked is [var term])
                return (record, _) => record[at].IsGood && record[at].Term == term;
            if (c.Operator is not Operator.BeginsWith)
                return (record, _) => AnyTerm(record[at], t => asked.Contains(t)) != not;
        }
        if (c.Operator is Operator.Below or Operator.AtMost or Operator.Above or Operator.AtLeast)
            return Ordered(c.Operator, at, field.Kind, c.Value.Trim());
        if (c.Operator == Operator.BeginsWith)
            return (record, _) => record[at].Text.StartsWith(values[0], StringComparison.OrdinalIgnoreCase);
        // Equal by the same key as uniqueness; what the field's kind cannot read is compared as it was written.
        var (kind, reader) = (field.Kind, new FieldReader(field with { Cleaning = null }, vocabularies));
        var wanted = values.Select(v => reader.Read(kind.Canonical(v))).Where(v => v.IsGood).ToArray();
        if (wanted.Length < values.Length)
            return (record, _) => values.Contains(record[at].Text, StringComparer.OrdinalIgnoreCase) != not;
        return (record, _) =>
        {
            if (!record[at].IsGood)
                return not;
            foreach (var one in wanted)
                if (kind.Same(record[at], one))
                    return !not;
            return not;
        };
    }

    private static Holds Ordered(Operator how, int at, FieldKind kind, string value)
    {
        var limit = kind.Order(value)!.Value;
        // An amount with a currency is above or below others of that currency only.
        var currency = kind.HasCurrency ? Currencies.Divided(value).Currency : null;
        return (record, _) =>
        {
            if (!record[at].IsGood || currency is not null && record[at].Currency != currency)
                return false;
            var order = kind.Order(record[at]).CompareTo(limit);
            return how switch
            {
                Operator.Below => order < 0,
                Operator.AtMost => order <= 0,
                Operator.Above => order > 0,
                _ => order >= 0,
            };
        };
    }

    private static bool AnyTerm(in FieldValue value, Func<int, bool> wanted)
    {
        if (!value.IsGood)
            return false;
        if (value.Terms.Length == 0)
            return wanted(value.Term);
        foreach (var term in value.Terms)
            if (wanted(term))
                return true;
        return false;
    }
}
