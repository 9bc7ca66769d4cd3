using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

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
/// <param name="Subject">Key of a field, or one of <see cref="Condition.SubType"/>, <see cref="Condition.Role"/>, <see
/// cref="Condition.Channel"/>.</param>
/// <param name="Operator">How it is compared.</param>
/// <param name="Value">With what.</param>
public sealed record Comparison(string Subject, Operator Operator, string Value = "");

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
    public const string Channel = "@door";

    /// <summary>Every comparison holds.</summary>
    public static Condition When(string subject, Operator how, string value = "") => new(Joined.All, [new Comparison(subject, how, value)]);

    /// <summary>The condition with the numbers in it as they are kept, however they were typed.</summary>
    public Condition Canonical(TypeFields type) =>
        this with
        {
            Comparisons =
            [
                .. Comparisons.Select(c =>
                    type.Find(c.Subject) is { } field
                        ? c with
                        {
                            Value = string.Join('|', c.Value.Split('|').Select(field.Kind.Canonical)),
                        }
                        : c
                ),
            ],
        };

    /// <summary>The condition in words, with field labels.</summary>
    public string InWords(TypeFields type)
    {
        var parts = Comparisons.Select(c =>
            $"{SubjectName(c.Subject, type)} {OperatorName(c.Operator)}"
            + (
                c.Value.Length == 0 || c.Operator is Operator.IsFilled or Operator.IsEmpty
                    ? ""
                    : " " + string.Join(" or ", c.Value.Split('|'))
            )
        );
        return Match switch
        {
            Joined.All => string.Join(" and ", parts),
            Joined.Any => string.Join(" or ", parts),
            _ => $"none of: {string.Join("; ", parts)}",
        };
    }

    /// <summary>A subject in words.</summary>
    public static string SubjectName(string subject, TypeFields type) =>
        subject switch
        {
            SubType => "the sub-type",
            Role => "the person’s role",
            Channel => "the way in",
            _ => type.LabelOf(subject),
        };

    /// <summary>An operator in words.</summary>
    public static string OperatorName(Operator how) =>
        how switch
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
    public string? Finding(TypeFields type)
    {
        foreach (var c in Comparisons)
        {
            if (c.Subject is SubType or Role or Channel)
            {
                if (c.Operator is not (Operator.Is or Operator.IsNot or Operator.OneOf))
                    return $"{SubjectName(c.Subject, type)} can only be compared with is, is not and is one of.";
                continue;
            }
            if (type.Find(c.Subject) is not { } field)
                return $"The condition names the field “{c.Subject}”, which is no longer in this document type.";
            if (c.Operator is Operator.IsEmpty or Operator.IsFilled)
                continue;
            if (c.Value.Length == 0)
                return $"The condition on {field.Label} lacks the value to compare with.";
            var ordered = c.Operator is Operator.Below or Operator.AtMost or Operator.Above or Operator.AtLeast;
            if (ordered && !field.Kind.IsOrdered)
                return $"{field.Label} is {field.Kind.Label}; only numbers, amounts, dates and times can be below or above.";
            if (ordered && field.Kind.Order(c.Value.Trim()) is null)
                return $"The condition compares {field.Label} with “{c.Value}”, which is not a "
                    + $"{(field.Kind.Measure == Measure.Number ? "number" : field.Kind.Label)}.";
            foreach (var value in c.Operator == Operator.OneOf ? c.Value.Split('|') : [c.Value])
                if (field.Kind.WhyNotCompared(value) is { } problem)
                    return $"The condition on {field.Label}: {problem}";
            if (c.Operator == Operator.Within && !field.Kind.HasTerms)
                return $"{field.Label} is not a term, so it has no branches.";
        }
        return null;
    }
}
