using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;

namespace ClearLexicon.Core.Reading.Proposals;

/// <summary>A value that pages of one design have, and how it may be found.</summary>
/// <param name="Label">The words beside it.</param>
/// <param name="Side">Where the value stands, seen from them.</param>
/// <param name="Values">What stands there on each page; empty for nothing.</param>
/// <param name="Kind">The kind of field that all of them fit.</param>
/// <param name="Box">Where it stands on the first page that has it.</param>
/// <param name="Page">Position of that page among those given, from 0.</param>
public sealed record ProposedValue(string Label, Side Side, IReadOnlyList<string> Values, FieldKind Kind, Box Box, int Page)
{
    /// <summary>Key of the field that it fills best; null when none does.</summary>
    public string? Field { get; init; }

    /// <summary>How well it fills that field, 0 to 1.</summary>
    public double Fit { get; init; }

    /// <summary>Repairs that its values need on the way into the field.</summary>
    public IReadOnlyList<CleaningStep> Steps { get; init; } = [];
}

/// <summary>What pages of one design have in common, and what varies.</summary>
/// <param name="Clues">Words that all of them have and that tell the design from others.</param>
/// <param name="Values">What varies, in reading order.</param>
public sealed record ReaderProposal(IReadOnlyList<Clue> Clues, IReadOnlyList<ProposedValue> Values);
