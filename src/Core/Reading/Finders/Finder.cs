using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>Which of several places counts.</summary>
public enum Which
{
    /// <summary>The first on the page.</summary>
    First,

    /// <summary>The last.</summary>
    Last,

    /// <summary>The one there is; none when there are several.</summary>
    Only,

    /// <summary>The one with the greatest number or the latest date.</summary>
    Largest,

    /// <summary>The one nearest to given words.</summary>
    Nearest,
}

/// <summary>On which side of its label a value stands.</summary>
public enum Side
{
    /// <summary>On the same line behind it.</summary>
    Right,

    /// <summary>Under it.</summary>
    Below,

    /// <summary>On the same line before it.</summary>
    Left,

    /// <summary>Over it.</summary>
    Above,
}

/// <summary>
/// A way of finding a value that has no fixed place. It is a source of crosswalk lines, as a zone is; the order of a field's lines is the
/// order in which its finders are asked.
/// </summary>
/// <param name="Key">Name of the finder, the source of its crosswalk line. A region drawn for it is the zone of this name.</param>
/// <param name="Kind">Code of its kind; see <see cref="FinderKinds"/>.</param>
public sealed record Finder(string Key, string Kind)
{
    /// <summary>Spellings of the label; or words that the value is nearest to; or headings that end a table.</summary>
    public IReadOnlyList<string> Words { get; init; } = [];

    /// <summary>Where the value stands, seen from its label.</summary>
    public Side Side { get; init; }

    /// <summary>Code of the shape that the value has; see <see cref="Shapes"/>. Empty for what the field holds.</summary>
    public string Shape { get; init; } = "";

    /// <summary>The pattern of the shape <c>pattern</c>, found anywhere in a line (<see cref="SafePattern"/>).</summary>
    public string Pattern { get; init; } = "";

    /// <summary>Which of several counts.</summary>
    public Which Which { get; init; }

    /// <summary>Page of the document, from 1; -1 for its last; null for any.</summary>
    public int? Page { get; init; }

    /// <summary>Key of a reference table and one of its columns, as <c>table/column</c>; empty for the vocabulary of the field.</summary>
    public string List { get; init; } = "";

    /// <summary>Columns of a table by key, each with the headings it may stand under.</summary>
    public IReadOnlyList<RowColumn> Columns { get; init; } = [];

    /// <summary>A row with any of these words is left out.</summary>
    public IReadOnlyList<string> LeftOut { get; init; } = [];

    /// <summary>
    /// A constant, a pattern for names (<see cref="Stacks.NameTemplate"/>) or the key of another field, for kinds that need it.
    /// </summary>
    public string Text { get; init; } = "";

    /// <summary>What is wrong with it by itself; null when it can be used.</summary>
    public string? Finding => FinderKinds.Find(Kind) is { } kind ? kind.Finding(this) : $"There is no way of finding “{Kind}”.";
}

/// <summary>A column of a table on paper.</summary>
/// <param name="Column">Key of the table field's column.</param>
/// <param name="Headings">What it may be headed with.</param>
public sealed record RowColumn(string Column, IReadOnlyList<string> Headings);

/// <summary>Where a finder found a value.</summary>
/// <param name="Evidence">The place with its raw text; its confidence is that of its words and of how they were found.</param>
/// <param name="Reason">Why this place, in one clause.</param>
/// <param name="Value">What it stands for when that is not its raw text: a term for a variant, yes for a cross.</param>
public sealed record Found(Evidence Evidence, string Reason, string? Value = null);
