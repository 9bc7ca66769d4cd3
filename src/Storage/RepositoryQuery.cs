using ClearLexicon.Core.Fields;

namespace ClearLexicon.Storage;

/// <summary>What to look for in the repository.</summary>
public sealed record RepositoryQuery
{
    /// <summary>The one document that is asked about; null for all.</summary>
    public long? Only { get; init; }

    /// <summary>Folder and everything below; empty for all.</summary>
    public string Folder { get; init; } = "";

    /// <summary>Document type; null for all.</summary>
    public string? TypeCode { get; init; }

    /// <summary>What fields must hold, in days and terms (<see cref="Question.On"/>).</summary>
    public IReadOnlyList<FieldCondition> Conditions { get; init; } = [];

    /// <summary>Whether one of the conditions is enough.</summary>
    public bool Any { get; init; }

    /// <summary>Words that stand anywhere in the document.</summary>
    public string Anywhere { get; init; } = "";

    /// <summary>Whether words of restricted regions are looked through too.</summary>
    public bool IncludeRestricted { get; init; }

    /// <summary>Codes of types of which nothing is found by <see cref="Anywhere"/>, because their full text is not up to date.</summary>
    public IReadOnlyList<string> NotByWords { get; init; } = [];

    /// <summary>Field key to sort by; null sorts by path, or, when very many are found, as they are found fastest.</summary>
    public string? Sort { get; init; }

    /// <summary>Largest first.</summary>
    public bool Descending { get; init; }

    /// <summary>Asks for one condition more.</summary>
    public RepositoryQuery Holding(string field, string text, FieldKind? kind = null) =>
        this with
        {
            Conditions = [.. Conditions, new(field, kind ?? FieldKind.Text, Look.Holds, text)],
        };
}

/// <summary>How many documents were found.</summary>
/// <param name="Number">The number, or a lower bound of it.</param>
/// <param name="OrMore">Whether there may be more.</param>
public readonly record struct FoundCount(long Number, bool OrMore)
{
    /// <summary>As it is shown: “1,204”, or “more than 10,000”.</summary>
    public override string ToString() => OrMore ? $"more than {Number:N0}" : $"{Number:N0}";
}

/// <summary>One screenful of what was found.</summary>
/// <param name="Documents">The documents in order.</param>
/// <param name="Total">How many there are in all.</param>
/// <param name="Before">Whether there are some before.</param>
/// <param name="After">Whether there are some after.</param>
/// <param name="Order">What they are sorted by: path, newest, or the key of a field.</param>
public sealed record FoundPage(List<StoredDocument> Documents, FoundCount Total, bool Before, bool After, string Order);
