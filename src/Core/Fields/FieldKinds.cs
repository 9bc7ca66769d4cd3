using System.Text.Json.Serialization;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds any text, e.g. a title.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TextField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Text;

    /// <summary>Least number of characters, counted in code points.</summary>
    public int? MinLength { get; init; }

    /// <summary>Greatest number of characters, counted in code points.</summary>
    public int? MaxLength { get; init; }

    /// <summary>Regular expression the whole value must match, see <see cref="SafePattern"/>.</summary>
    public string? Pattern { get; init; }
}

/// <summary>A field whose values have an order, so that they can be bounded.</summary>
/// <inheritdoc cref="Field"/>
public abstract record RangedField(string Key, string Label) : Field(Key, Label)
{
    /// <summary>Least value, inclusive, written as the field's kind is written.</summary>
    public string? Min { get; init; }

    /// <summary>Greatest value, inclusive, written as the field's kind is written.</summary>
    public string? Max { get; init; }
}

/// <summary>A field that holds a whole number, e.g. <c>-12</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record WholeNumberField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.WholeNumber;
}

/// <summary>A field that holds a decimal number, e.g. <c>1234.50</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record DecimalField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Decimal;
}

/// <summary>A field that holds a calendar date (ISO 8601), e.g. <c>2024-03-05</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record DateField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Date;
}

/// <summary>A field that holds a time of day to the minute (ISO 8601), e.g. <c>14:30</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TimeField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Time;
}

/// <summary>A field that holds an amount with its currency, e.g. <c>1234.50 EUR</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record AmountField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Amount;

    /// <summary>Currencies accepted, ISO 4217 codes; the first is taken when none is written. Empty accepts all.</summary>
    public IReadOnlyList<string>? Currencies { get; init; }
}

/// <summary>A field that holds <c>yes</c> or <c>no</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record YesNoField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.YesNo;
}

/// <summary>A field whose values are terms of a vocabulary.</summary>
/// <inheritdoc cref="Field"/>
public abstract record VocabularyField(string Key, string Label) : Field(Key, Label)
{
    /// <summary>Key of the vocabulary; null until one is chosen.</summary>
    public string? Vocabulary { get; init; }

    /// <summary>Id of the term below which values must lie.</summary>
    public string? Branch { get; init; }

    /// <summary>The only level of the tree that is accepted, counted from 1 at the top.</summary>
    public int? OnlyLevel { get; init; }

    /// <summary>Only terms without narrower ones are accepted.</summary>
    public bool LeavesOnly { get; init; }
}

/// <summary>A field that holds one term.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TermField(string Key, string Label) : VocabularyField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Term;
}

/// <summary>A field that holds several terms, separated by <c>;</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TermsField(string Key, string Label) : VocabularyField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Terms;
}

/// <summary>A field that holds a number with a check digit, e.g. an IBAN.</summary>
/// <inheritdoc cref="Field"/>
public sealed record IdentifierField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Identifier;

    /// <summary>Code of the check-digit scheme, see <see cref="CheckDigits.CheckSchemes"/>; null until one is chosen.</summary>
    public string? Scheme { get; init; }
}

/// <summary>A field that holds rows; written as a JSON array of objects.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TableField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Table;

    /// <summary>Columns; each is a field, but not a table.</summary>
    public IReadOnlyList<Field> Columns { get; init; } = [];

    /// <summary>Rules that each row must hold; their fields are the columns.</summary>
    public IReadOnlyList<Rule> RowRules { get; init; } = [];
}

/// <summary>What may be asked of a field without knowing its kind.</summary>
public static class FieldOptions
{
    extension(Field of)
    {
        /// <summary>Key of the vocabulary of a field of terms; null for other kinds.</summary>
        public string? Vocabulary => (of as VocabularyField)?.Vocabulary;

        /// <summary>Columns of a table; none for other kinds.</summary>
        public IReadOnlyList<Field> Columns => (of as TableField)?.Columns ?? [];

        /// <summary>Rules of each row of a table; none for other kinds.</summary>
        public IReadOnlyList<Rule> RowRules => (of as TableField)?.RowRules ?? [];
    }
}
