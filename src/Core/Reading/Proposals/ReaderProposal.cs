using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;

namespace ClearLexicon.Core.Reading.Proposals;

/// <summary>A value that pages of one design have, and how it may be found.</summary>
/// <param name="Label">The words beside it; the headings of a table, with commas between.</param>
/// <param name="Side">Where the value stands, seen from them.</param>
/// <param name="Values">What stands there on each page, of a table how many rows; empty for nothing.</param>
/// <param name="Kind">The kind of field that all of them fit.</param>
/// <param name="Box">Where it stands on the first page that has it.</param>
/// <param name="Page">Position of that page among those given, from 0.</param>
public sealed record ProposedValue(string Label, Side Side, IReadOnlyList<string> Values, FieldKind Kind, Box Box, int Page)
{
    /// <summary>Key of the field that it fills best; null when none does.</summary>
    public string? Field { get; init; }

    /// <summary>How well it fills that field, 0 to 1.</summary>
    public double Fit { get; init; }

    /// <summary>Columns of a table; none for other kinds.</summary>
    public IReadOnlyList<ProposedColumn> Columns { get; init; } = [];

    /// <summary>Words at which a table ends.</summary>
    public IReadOnlyList<string> Ends { get; init; } = [];

    /// <summary>A row of a table with any of these words is left out.</summary>
    public IReadOnlyList<string> LeftOut { get; init; } = [];

    /// <summary>Where it stands, in a few words.</summary>
    public string Where => Columns.Count > 0 ? "rows under" : FinderKinds.SideOf(Side);

    /// <summary>Repairs that its values need on the way into the field.</summary>
    public IReadOnlyList<CleaningStep> Steps { get; init; } = [];
}

/// <summary>A column of a table that pages of one design have.</summary>
/// <param name="Heading">What it is headed with.</param>
/// <param name="Values">Its cells on all pages, without empty ones.</param>
public sealed record ProposedColumn(string Heading, IReadOnlyList<string> Values);

/// <summary>What pages of one design have in common, and what varies.</summary>
/// <param name="Clues">Words that all of them have and that tell the design from others.</param>
/// <param name="Values">What varies, in reading order.</param>
public sealed record ReaderProposal(IReadOnlyList<Clue> Clues, IReadOnlyList<ProposedValue> Values);
