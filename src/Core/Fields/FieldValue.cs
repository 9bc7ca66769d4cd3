using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>What became of a field's text when it was read as the field's kind.</summary>
public enum ValueState : byte
{
    /// <summary>Nothing there.</summary>
    Empty,

    /// <summary>Understood.</summary>
    Good,

    /// <summary>Text that is not what the field's kind allows.</summary>
    Unreadable,
}

/// <summary>A field's value, read once so that every rule, the convention and the exports see the same thing.</summary>
public readonly struct FieldValue
{
    /// <summary>
    /// The value as it is stored and shown: a term's preferred label, an ISO date, <c>yes</c>/<c>no</c>; the raw text when unreadable.
    /// </summary>
    public string Text { get; init; }

    /// <summary>The number of a number field; 1 or 0 for yes/no.</summary>
    public decimal Number { get; init; }

    /// <summary>The date of a date field.</summary>
    public DateOnly Date { get; init; }

    /// <summary>The term's position in its vocabulary; -1 for a new term of a vocabulary that grows.</summary>
    public int Term { get; init; }

    /// <summary>What the kinds beyond a single number, date or text hold; see the members below.</summary>
    internal object? Part { get; init; }

    /// <summary>The currency of an amount, ISO 4217; null for other kinds.</summary>
    public string? Currency => Part as string;

    /// <summary>Positions of several terms in their vocabulary, -1 for new ones; empty for other kinds.</summary>
    public ReadOnlySpan<int> Terms => Part as int[];

    /// <summary>Rows of a table, each by column ordinal; empty for other kinds.</summary>
    public ReadOnlySpan<FieldValue[]> Rows => Part as FieldValue[][];

    /// <summary>Whether there is a value and whether it was understood.</summary>
    public ValueState State { get; init; }

    /// <summary>Nothing.</summary>
    public static FieldValue Empty { get; } = new() { Text = "" };

    /// <summary>Text there and understood.</summary>
    public bool IsGood => State == ValueState.Good;

    /// <summary>No text at all.</summary>
    public bool IsEmpty => State == ValueState.Empty;

    /// <inheritdoc/>
    public override string ToString() => Text;
}
