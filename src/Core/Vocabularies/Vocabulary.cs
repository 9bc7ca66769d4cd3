namespace ClearLexicon.Core.Vocabularies;

/// <summary>Whether a term may be chosen for new documents.</summary>
public enum TermStatus
{
    /// <summary>May be chosen.</summary>
    Current,

    /// <summary>Kept for the records that carry it; choosing it anew is a must-problem.</summary>
    Retired,

    /// <summary>Came in with a document and waits for the steward; may be chosen meanwhile.</summary>
    Proposed,
}

/// <summary>How a vocabulary takes values that it does not know.</summary>
public enum Growth
{
    /// <summary>Not at all: an unknown value is a problem.</summary>
    Fixed,

    /// <summary>As proposed terms that wait for review.</summary>
    WithReview,

    /// <summary>As current terms.</summary>
    Freely,
}

/// <summary>How vocabularies grow, in words.</summary>
public static class Growths
{
    /// <summary>The words for one way.</summary>
    public static string InWords(this Growth growth) =>
        growth switch
        {
            Growth.Fixed => "fixed",
            Growth.WithReview => "grows with review",
            _ => "grows freely",
        };
}

/// <summary>A term's words in one language.</summary>
/// <param name="Label">Preferred label; empty when the language has none.</param>
/// <param name="Variants">Other spellings.</param>
/// <param name="Note">Scope note.</param>
public sealed record TermWords(string Label, IReadOnlyList<string> Variants, string? Note = null);

/// <summary>One controlled term (ISO 25964: a concept with one preferred label a language).</summary>
/// <param name="Label">The preferred label in the vocabulary's own language, unique in it after <see cref="Folding.Fold(string)"/>.</param>
/// <param name="Variants">Other spellings that lead to this term.</param>
/// <param name="Code">An optional short code (notation), which also leads to this term.</param>
/// <param name="Status">Whether the term may be chosen.</param>
public sealed record Term(string Label, IReadOnlyList<string> Variants, string? Code = null, TermStatus Status = TermStatus.Current)
{
    private readonly string? _id;

    /// <summary>Stable name of the term; an address when it came from SKOS. The label as long as none was given.</summary>
    public string Id
    {
        get => _id ?? Label;
        init => _id = value;
    }

    /// <summary>Language of <see cref="Label"/> when it is not the vocabulary's own; empty when it stands in for a missing label.</summary>
    public string? LabelLanguage { get; init; }

    /// <summary>Scope note in the vocabulary's own language.</summary>
    public string? Note { get; init; }

    /// <summary>Words in other languages by language tag (BCP 47).</summary>
    public IReadOnlyDictionary<string, TermWords> Words { get; init; } = new Dictionary<string, TermWords>();

    /// <summary>Ids of the broader terms; several make a polyhierarchy.</summary>
    public IReadOnlyList<string> Broader { get; init; } = [];

    /// <summary>Ids of related terms.</summary>
    public IReadOnlyList<string> Related { get; init; } = [];

    /// <summary>Id of the term to be used instead of a retired one.</summary>
    public string? ReplacedBy { get; init; }
}

/// <summary>A named list of controlled terms.</summary>
/// <param name="Key">Short name used by fields, e.g. <c>berths</c>.</param>
/// <param name="Name">Name shown to people.</param>
/// <param name="Terms">The terms in the order the steward keeps them.</param>
public sealed record Vocabulary(string Key, string Name, IReadOnlyList<Term> Terms)
{
    /// <summary>Longest label or variant that is kept.</summary>
    public const int LongestLabel = 300;

    /// <summary>How it takes values that it does not know.</summary>
    public Growth Growth { get; init; }

    /// <summary>Language of <see cref="Term.Label"/> (BCP 47).</summary>
    public string Language { get; init; } = "en";
}
