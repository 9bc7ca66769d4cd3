namespace ClearLexicon.Core.Vocabularies;

/// <summary>Whether a term may be chosen for new documents.</summary>
public enum TermStatus
{
    /// <summary>May be chosen.</summary>
    Current,

    /// <summary>Kept for the records that carry it; choosing it anew is a must-problem.</summary>
    Retired,
}

/// <summary>One controlled term (ISO 25964: a concept with one preferred label).</summary>
/// <param name="Label">The preferred label, unique in its vocabulary after <see cref="Folding.Fold(string)"/>.</param>
/// <param name="Variants">Other spellings that lead to this term.</param>
/// <param name="Code">An optional short code, which also leads to this term.</param>
/// <param name="Status">Whether the term may be chosen.</param>
public sealed record Term(string Label, IReadOnlyList<string> Variants, string? Code = null, TermStatus Status = TermStatus.Current);

/// <summary>A named list of controlled terms.</summary>
/// <param name="Key">Short name used by fields, e.g. <c>berths</c>.</param>
/// <param name="Name">Name shown to people.</param>
/// <param name="Terms">The terms in the order the steward keeps them.</param>
public sealed record Vocabulary(string Key, string Name, IReadOnlyList<Term> Terms);
