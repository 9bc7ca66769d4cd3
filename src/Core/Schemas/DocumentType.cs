using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Schemas;

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
}

/// <summary>One index field of a document type.</summary>
/// <param name="Key">Short name in rules, conventions, files and the API: lower-case letters, digits and <c>-</c>.</param>
/// <param name="Label">Name shown to people.</param>
/// <param name="Kind">What it holds.</param>
public sealed record Field(string Key, string Label, FieldKind Kind)
{
    /// <summary>One sentence that helps the person filling it.</summary>
    public string? Help { get; init; }

    /// <summary>Whether a document can be filed without it.</summary>
    public bool Required { get; init; }

    /// <summary>Value taken when nothing else fills the field; written as the field's kind is written.</summary>
    public string? Default { get; init; }

    /// <summary>Least number of characters (text).</summary>
    public int? MinLength { get; init; }

    /// <summary>Greatest number of characters (text).</summary>
    public int? MaxLength { get; init; }

    /// <summary>Regular expression the whole value must match (text).</summary>
    public string? Pattern { get; init; }

    /// <summary>Least value (numbers and dates), inclusive, written as the field's kind is written.</summary>
    public string? Min { get; init; }

    /// <summary>Greatest value (numbers and dates), inclusive, written as the field's kind is written.</summary>
    public string? Max { get; init; }

    /// <summary>Key of the vocabulary (term).</summary>
    public string? Vocabulary { get; init; }

    /// <summary>Hidden from people who only search.</summary>
    public bool Restricted { get; init; }
}

/// <summary>A document type as designed: its schema, its rules, its convention.</summary>
/// <param name="Code">Short name in addresses and the API.</param>
/// <param name="Name">Name shown to people.</param>
/// <param name="Fields">Fields in the order of the ledger; a field's position is its ordinal.</param>
/// <param name="Rules">Rules over the fields.</param>
/// <param name="Convention">How folders and files are named.</param>
public sealed record DocumentType(
    string Code, string Name, IReadOnlyList<Field> Fields, IReadOnlyList<Rule> Rules, Convention Convention)
{
    /// <summary>A type without fields, rules or a convention.</summary>
    public static DocumentType Empty(string code, string name) => new(code, name, [], [], Convention.Empty);

    /// <summary>The field with a key, or null.</summary>
    public Field? Find(string? key) => Fields.FirstOrDefault(f => f.Key == key);

    /// <summary>Position of the field with a key, or -1.</summary>
    public int OrdinalOf(string? key)
    {
        for (var i = 0; i < Fields.Count; i++)
            if (Fields[i].Key == key) return i;
        return -1;
    }

    /// <summary>Label of a field for sentences; the key itself when there is no such field.</summary>
    public string LabelOf(string key) => Find(key)?.Label ?? key;
}
