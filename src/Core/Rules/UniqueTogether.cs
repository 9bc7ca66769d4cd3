using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A rule that only the other records can answer.</summary>
/// <param name="Rule">The rule.</param>
/// <param name="Ordinals">Ordinals of the fields that together stand only once.</param>
/// <param name="Kinds">Kinds of those fields.</param>
/// <param name="When">When it applies; null for always.</param>
public sealed record UniqueTogether(Rule Rule, int[] Ordinals, FieldKind[] Kinds, Holds? When)
{
    /// <summary>The combination that a record has, whether or not the rule applies to it; null when it has none.</summary>
    public string? KeyOf(ReadOnlySpan<FieldValue> record) => Unique.Key(record, Ordinals, Kinds);

    /// <summary>Whether the rule applies to a record in this context.</summary>
    public bool Applies(ReadOnlySpan<FieldValue> record, CheckContext now) => When?.Invoke(record, now) != false;
}
