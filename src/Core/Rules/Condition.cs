using System.Globalization;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>How many comparisons of a condition must hold.</summary>
public enum Joined
{
    /// <summary>Every one.</summary>
    All,

    /// <summary>At least one.</summary>
    Any,

    /// <summary>Not a single one.</summary>
    None,
}

/// <summary>How a subject is compared.</summary>
public enum Operator
{
    /// <summary>Equal, regardless of case; a term by any of its spellings.</summary>
    Is,

    /// <summary>Filled with something else, or empty.</summary>
    IsNot,

    /// <summary>One of several values, separated by <c>|</c>.</summary>
    OneOf,

    /// <summary>Anything stands there.</summary>
    IsFilled,

    /// <summary>Nothing stands there.</summary>
    IsEmpty,

    /// <summary>Less than, or earlier.</summary>
    Below,

    /// <summary>At most, or not later.</summary>
    AtMost,

    /// <summary>More than, or later.</summary>
    Above,

    /// <summary>At least, or not earlier.</summary>
    AtLeast,

    /// <summary>A term that is, or lies below, the given one.</summary>
    Within,

    /// <summary>Text that begins so, regardless of case.</summary>
    BeginsWith,
}

/// <summary>One comparison.</summary>
/// <param name="Subject">Key of a field, or one of <see cref="Condition.SubType"/>, <see cref="Condition.Role"/>, <see cref="Condition.Door"/>.</param>
/// <param name="Operator">How it is compared.</param>
/// <param name="Value">With what.</param>
public sealed record Comparison(string Subject, Operator Operator, string Value = "");

/// <summary>Whether something holds for a record.</summary>
public delegate bool Holds(ReadOnlySpan<FieldValue> record, Circumstances now);

/// <summary>A condition: comparisons joined by all, any or none.</summary>
/// <param name="Match">How many must hold.</param>
/// <param name="Comparisons">The comparisons; without any, the condition always holds.</param>
public sealed record Condition(Joined Match, IReadOnlyList<Comparison> Comparisons)
{
    /// <summary>Subject: the document type or any that it refines.</summary>
    public const string SubType = "@type";

    /// <summary>Subject: the person's role.</summary>
    public const string Role = "@role";

    /// <summary>Subject: by which way the record comes.</summary>
    public const string Door = "@door";

    /// <summary>Every comparison holds.</summary>
    public static Condition When(string subject, Operator how, string value = "") => new(Joined.All, [new Comparison(subject, how, value)]);

    /// <summary>The condition in words, with field labels.</summary>
    public string InWords(DocumentType type)
    {
        var parts = Comparisons.Select(c => $"{SubjectName(c.Subject, type)} {OperatorName(c.Operator)}{(c.Value.Length > 0 && c.Operator is not (Operator.IsFilled or Operator.IsEmpty) ? $" {string.Join(" or ", c.Value.Split('|'))}" : "")}");
        return Match switch { Joined.All => string.Join(" and ", parts), Joined.Any => string.Join(" or ", parts), _ => $"none of: {string.Join("; ", parts)}" };
    }

    /// <summary>A subject in words.</summary>
    public static string SubjectName(string subject, DocumentType type) => subject switch { SubType => "the sub-type", Role => "the person’s role", Door => "the way in", _ => type.LabelOf(subject) };

    /// <summary>An operator in words.</summary>
    public static string OperatorName(Operator how) => how switch
    {
        Operator.Is => "is",
        Operator.IsNot => "is not",
        Operator.OneOf => "is one of",
        Operator.IsFilled => "is filled",
        Operator.IsEmpty => "is empty",
        Operator.Below => "is below",
        Operator.AtMost => "is at most",
        Operator.Above => "is above",
        Operator.AtLeast => "is at least",
        Operator.Within => "is within",
        _ => "begins with",
    };

    /// <summary>Why it cannot be compiled for a type, in one sentence; null when it can.</summary>
    public string? Fault(DocumentType type)
    {
        foreach (var c in Comparisons)
        {
            if (c.Subject is SubType or Role or Door) { if (c.Operator is not (Operator.Is or Operator.IsNot or Operator.OneOf)) return $"{SubjectName(c.Subject, type)} can only be compared with is, is not and is one of."; continue; }
            if (type.Find(c.Subject) is not { } field) return $"The condition names the field “{c.Subject}”, which is no longer in this document type.";
            if (c.Operator is Operator.IsEmpty or Operator.IsFilled) continue;
            if (c.Value.Length == 0) return $"The condition on {field.Label} lacks the value to compare with.";
            var ordered = c.Operator is Operator.Below or Operator.AtMost or Operator.Above or Operator.AtLeast;
            if (ordered && field.Kind is not (FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.Amount or FieldKind.Date)) return $"{field.Label} is {FieldKindNames.Of(field.Kind)}; only numbers, amounts and dates can be below or above.";
            if (ordered && !(field.Kind == FieldKind.Date ? FieldParsing.TryDate(c.Value, out _) : decimal.TryParse(c.Value, NumberStyles.Number, CultureInfo.InvariantCulture, out _))) return $"The condition compares {field.Label} with “{c.Value}”, which is no {(field.Kind == FieldKind.Date ? "date" : "number")}.";
            if (c.Operator == Operator.Within && field.Kind is not (FieldKind.Term or FieldKind.Terms)) return $"{field.Label} is not a term, so it lies within no branch.";
        }
        return null;
    }

    /// <summary>Compiles it. Called only without <see cref="Fault"/>.</summary>
    public Holds Compile(DocumentType type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        var parts = Comparisons.Select(c => Part(c, type, vocabularies)).ToArray();
        if (parts is [var single] && Match != Joined.None) return single;
        return Match switch
        {
            Joined.All => (record, now) =>
            {
                foreach (var part in parts)
                    if (!part(record, now)) return false;
                return true;
            }
            ,
            Joined.Any => (record, now) =>
            {
                foreach (var part in parts)
                    if (part(record, now)) return true;
                return parts.Length == 0;
            }
            ,
            _ => (record, now) =>
            {
                foreach (var part in parts)
                    if (part(record, now)) return false;
                return true;
            }
            ,
        };
    }

    private static Holds Part(Comparison c, DocumentType type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        var values = c.Operator == Operator.OneOf ? c.Value.Split('|', StringSplitOptions.TrimEntries) : [c.Value.Trim()];
        var not = c.Operator == Operator.IsNot;
        switch (c.Subject)
        {
            case SubType:
                var known = (type.Lineage.Count > 0 ? type.Lineage : [type.Code]).Any(code => values.Contains(code, StringComparer.OrdinalIgnoreCase)) != not;
                return (_, _) => known;
            case Role: return (_, now) => now.Roles?.Any(r => values.Contains(r, StringComparer.OrdinalIgnoreCase)) == true != not;
            case Door: return (_, now) => values.Contains(now.Door.ToString(), StringComparer.OrdinalIgnoreCase) != not;
        }
        var at = type.OrdinalOf(c.Subject);
        var field = type.Fields[at];
        if (c.Operator == Operator.IsFilled) return (record, _) => !record[at].IsEmpty;
        if (c.Operator == Operator.IsEmpty) return (record, _) => record[at].IsEmpty;
        if (field.Kind is FieldKind.Term or FieldKind.Terms && vocabularies.GetValueOrDefault(field.Vocabulary ?? "") is { } terms)
        {
            var asked = values.Select(terms.IndexOfAny).Where(t => t >= 0).ToArray();
            if (c.Operator == Operator.Within) return (record, _) => AnyTerm(record[at], t => asked.Any(w => terms.IsWithin(t, w)));
            if (field.Kind == FieldKind.Term && c.Operator is Operator.Is && asked is [var term]) return (record, _) => record[at].IsGood && record[at].Term == term;
            if (c.Operator is not Operator.BeginsWith) return (record, _) => AnyTerm(record[at], t => asked.Contains(t)) != not;
        }
        if (c.Operator is Operator.Below or Operator.AtMost or Operator.Above or Operator.AtLeast) return Ordered(c.Operator, at, field.Kind, c.Value.Trim());
        if (c.Operator == Operator.BeginsWith) return (record, _) => record[at].Text.StartsWith(values[0], StringComparison.OrdinalIgnoreCase);
        // Equal by the same key as uniqueness; what the field's kind cannot read is compared as it was written.
        var (kind, reader) = (field.Kind, new FieldReader(field with { Cleaning = null }, vocabularies));
        var wanted = values.Select(reader.Read).Where(v => v.IsGood).ToArray();
        if (wanted.Length < values.Length)
            return (record, _) => values.Contains(record[at].Text, StringComparer.OrdinalIgnoreCase) != not;
        return (record, _) =>
        {
            if (!record[at].IsGood) return not;
            foreach (var one in wanted)
                if (ValueKey.Same(kind, record[at], one)) return !not;
            return not;
        };
    }

    private static Holds Ordered(Operator how, int at, FieldKind kind, string value)
    {
        var number = kind == FieldKind.Date ? 0 : decimal.Parse(value, NumberStyles.Number, CultureInfo.InvariantCulture);
        FieldParsing.TryDate(value, out var date);
        return (record, _) =>
        {
            if (!record[at].IsGood) return false;
            var order = kind == FieldKind.Date ? record[at].Date.CompareTo(date) : record[at].Number.CompareTo(number);
            return how switch { Operator.Below => order < 0, Operator.AtMost => order <= 0, Operator.Above => order > 0, _ => order >= 0 };
        };
    }

    private static bool AnyTerm(in FieldValue value, Func<int, bool> wanted)
    {
        if (!value.IsGood) return false;
        if (value.Terms.Length == 0) return wanted(value.Term);
        foreach (var term in value.Terms)
            if (wanted(term)) return true;
        return false;
    }
}
