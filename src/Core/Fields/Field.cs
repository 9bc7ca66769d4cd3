using System.Text.Json.Serialization;

namespace ClearLexicon.Core.Fields;

/// <summary>Where a field's value comes from when nothing else fills it.</summary>
public enum DefaultSource
{
    /// <summary>The text of <see cref="Field.Default"/>.</summary>
    Constant,

    /// <summary>The current date.</summary>
    Today,

    /// <summary>The name of the person at work.</summary>
    Person,

    /// <summary>The name of the batch.</summary>
    Batch,

    /// <summary>The formula in <see cref="Field.Default"/>, computed from other fields.</summary>
    Formula,

    /// <summary>The value of the document before it in the batch.</summary>
    Previous,
}

/// <summary>
/// One index field of a document type. What every field has stands here; each kind has its own options beside it. Stored designs name
/// the kind by the word <c>kind</c> of the field.
/// </summary>
/// <param name="Key">Short name in rules, conventions, files and the API: lower-case letters, digits and <c>-</c>.</param>
/// <param name="Label">Name shown to people.</param>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(TextField), nameof(FieldKind.Text))]
[JsonDerivedType(typeof(WholeNumberField), nameof(FieldKind.WholeNumber))]
[JsonDerivedType(typeof(DecimalField), nameof(FieldKind.Decimal))]
[JsonDerivedType(typeof(DateField), nameof(FieldKind.Date))]
[JsonDerivedType(typeof(TimeField), nameof(FieldKind.Time))]
[JsonDerivedType(typeof(DurationField), nameof(FieldKind.Duration))]
[JsonDerivedType(typeof(YesNoField), nameof(FieldKind.YesNo))]
[JsonDerivedType(typeof(TermField), nameof(FieldKind.Term))]
[JsonDerivedType(typeof(AmountField), nameof(FieldKind.Amount))]
[JsonDerivedType(typeof(TermsField), nameof(FieldKind.Terms))]
[JsonDerivedType(typeof(IdentifierField), nameof(FieldKind.Identifier))]
[JsonDerivedType(typeof(WebAddressField), nameof(FieldKind.WebAddress))]
[JsonDerivedType(typeof(TableField), nameof(FieldKind.Table))]
public abstract record Field(string Key, string Label)
{
    /// <summary>What it holds.</summary>
    [JsonIgnore]
    public abstract FieldKind Kind { get; }

    /// <summary>One sentence that helps the person filling it.</summary>
    public string? Help { get; init; }

    /// <summary>Whether a document cannot be filed without it.</summary>
    public bool Required { get; init; }

    /// <summary>Makes the field required for some documents only.</summary>
    public Condition? RequiredWhen { get; init; }

    /// <summary>
    /// Value taken when nothing else fills the field, written as the field's kind is written; or the formula that computes it.
    /// </summary>
    public string? Default { get; init; }

    /// <summary>What <see cref="Default"/> is.</summary>
    public DefaultSource DefaultFrom { get; init; }

    /// <summary>Repairs that always run on a value, whichever way it comes.</summary>
    public IReadOnlyList<CleaningStep>? Cleaning { get; init; }

    /// <summary>A value that the field accepts, shown to the person filling it.</summary>
    public string? Example { get; init; }

    /// <summary>Name of the standard term it stands for, one of <see cref="StandardTerms.All"/>.</summary>
    public string? Standard { get; init; }

    /// <summary>Hidden from people who only search.</summary>
    public bool Restricted { get; init; }

    /// <summary>Left out of the full text.</summary>
    public bool NotSearched { get; init; }

    /// <summary>Left out of result tables.</summary>
    public bool NotInResults { get; init; }

    /// <summary>Code of the type or group it is inherited from; null for the type's own fields.</summary>
    public string? From { get; init; }
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

/// <summary>Where a default comes from, in words.</summary>
public static class DefaultSources
{
    /// <summary>The words for a source.</summary>
    public static string InWords(this DefaultSource source) =>
        source switch
        {
            DefaultSource.Today => "the current date",
            DefaultSource.Person => "the person",
            DefaultSource.Batch => "the batch",
            DefaultSource.Formula => "a formula",
            DefaultSource.Previous => "the document before",
            _ => "a constant",
        };
}
