using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>What an index field holds.</summary>
public enum FieldKind
{
    /// <summary>Any text.</summary>
    Text,

    /// <summary>A whole number without separators, e.g. <c>-12</c>.</summary>
    WholeNumber,

    /// <summary>A decimal number with a point, e.g. <c>1234.50</c>.</summary>
    Decimal,

    /// <summary>A calendar date, ISO 8601 <c>yyyy-MM-dd</c>.</summary>
    Date,

    /// <summary><c>yes</c> or <c>no</c>.</summary>
    YesNo,

    /// <summary>One term of a vocabulary.</summary>
    Term,

    /// <summary>A decimal amount with its currency (ISO 4217), e.g. <c>1234.50 EUR</c>.</summary>
    Amount,

    /// <summary>Several terms of a vocabulary, separated by <c>;</c>.</summary>
    Terms,

    /// <summary>A number with a check digit, e.g. an IBAN; its scheme says which.</summary>
    Identifier,

    /// <summary>Rows whose columns are fields; written as a JSON array of objects.</summary>
    Table,
}

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

/// <summary>One index field of a document type.</summary>
/// <param name="Key">Short name in rules, conventions, files and the API: lower-case letters, digits and <c>-</c>.</param>
/// <param name="Label">Name shown to people.</param>
/// <param name="Kind">What it holds.</param>
public sealed record Field(string Key, string Label, FieldKind Kind)
{
    /// <summary>One sentence that helps the person filling it.</summary>
    public string? Help { get; init; }

    /// <summary>Whether a document cannot be filed without it.</summary>
    public bool Required { get; init; }

    /// <summary>Makes the field required for some documents only.</summary>
    public Condition? RequiredWhen { get; init; }

    /// <summary>Value taken when nothing else fills the field, written as the field's kind is written; or the formula that computes it.</summary>
    public string? Default { get; init; }

    /// <summary>What <see cref="Default"/> is.</summary>
    public DefaultSource DefaultFrom { get; init; }

    /// <summary>Repairs that always run on a value, whichever way it comes.</summary>
    public IReadOnlyList<CleaningStep>? Cleaning { get; init; }

    /// <summary>A value that the field accepts, shown to the person filling it.</summary>
    public string? Example { get; init; }

    /// <summary>Name of the standard term it stands for, one of <see cref="StandardTerms.All"/>.</summary>
    public string? Standard { get; init; }

    /// <summary>Least number of characters (text), counted in code points.</summary>
    public int? MinLength { get; init; }

    /// <summary>Greatest number of characters (text), counted in code points.</summary>
    public int? MaxLength { get; init; }

    /// <summary>Regular expression the whole value must match (text).</summary>
    public string? Pattern { get; init; }

    /// <summary>Least value (numbers and dates), inclusive, written as the field's kind is written.</summary>
    public string? Min { get; init; }

    /// <summary>Greatest value (numbers and dates), inclusive, written as the field's kind is written.</summary>
    public string? Max { get; init; }

    /// <summary>Key of the vocabulary (term, several terms).</summary>
    public string? Vocabulary { get; init; }

    /// <summary>Id of the term below which values must lie (term, several terms).</summary>
    public string? Branch { get; init; }

    /// <summary>The only level of the tree that is accepted, counted from 1 at the top (term, several terms).</summary>
    public int? OnlyLevel { get; init; }

    /// <summary>Only terms without narrower ones are accepted (term, several terms).</summary>
    public bool LeavesOnly { get; init; }

    /// <summary>Currencies accepted, ISO 4217 codes; the first is taken when none is written (amount). Empty accepts all.</summary>
    public IReadOnlyList<string>? Currencies { get; init; }

    /// <summary>Code of the check-digit scheme, see <see cref="Fields.CheckDigits.CheckSchemes"/> (identifier).</summary>
    public string? Scheme { get; init; }

    /// <summary>Columns (table).</summary>
    public IReadOnlyList<Field>? Columns { get; init; }

    /// <summary>Rules that each row must hold; their fields are the columns (table).</summary>
    public IReadOnlyList<Rule>? RowRules { get; init; }

    /// <summary>Hidden from people who only search.</summary>
    public bool Restricted { get; init; }

    /// <summary>Left out of the full text.</summary>
    public bool NotSearched { get; init; }

    /// <summary>Left out of result tables.</summary>
    public bool NotInResults { get; init; }

    /// <summary>Code of the type or group it is inherited from; null for the type's own fields.</summary>
    public string? From { get; init; }
}
