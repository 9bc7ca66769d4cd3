using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Designs;

/// <summary>A document type as designed: its schema, its rules, its convention.</summary>
/// <param name="Code">Short name in addresses and the API.</param>
/// <param name="Name">Name shown to people.</param>
/// <param name="Fields">Fields in the order of the ledger; a field's position is its ordinal.</param>
/// <param name="Rules">Rules over the fields.</param>
/// <param name="Convention">How folders and files are named.</param>
public sealed record DocumentType(string Code, string Name, IReadOnlyList<Field> Fields, IReadOnlyList<Rule> Rules, Convention Convention)
{
    /// <summary>Whether this is a field group: fields that several types place, never filed by itself.</summary>
    public bool IsGroup { get; init; }

    /// <summary>Code of the document type that this one refines; null for none.</summary>
    public string? Refines { get; init; }

    /// <summary>Codes of the field groups placed in this type, in order; their fields follow its own.</summary>
    public IReadOnlyList<string> Groups { get; init; } = [];

    /// <summary>Inherited fields as this type tightens them.</summary>
    public IReadOnlyList<Tightening> Tightened { get; init; } = [];

    /// <summary>Values taken from reference tables.</summary>
    public IReadOnlyList<Filling> Fillings { get; init; } = [];

    /// <summary>Codes of this type and all that it refines, itself first. Filled when the type is resolved.</summary>
    public IReadOnlyList<string> Lineage { get; init; } = [];

    /// <summary>A type without fields, rules or a convention.</summary>
    public static DocumentType Empty(string code, string name) => new(code, name, [], [], Convention.Empty);

    /// <summary>A table's columns and row rules as a document type of their own.</summary>
    public static DocumentType OfRows(Field table) => Empty(table.Key, table.Label) with { Fields = table.Columns, Rules = table.RowRules };

    /// <summary>What rules, conventions and readers ask of the type.</summary>
    public TypeFields ToTypeFields() => new(Code, Fields) { Lineage = Lineage.Count > 0 ? Lineage : [Code] };

    /// <inheritdoc cref="ToTypeFields"/>
    public static implicit operator TypeFields(DocumentType type) => type.ToTypeFields();

    /// <inheritdoc cref="TypeFields.Find"/>
    public Field? Find(string? key) => ToTypeFields().Find(key);

    /// <inheritdoc cref="TypeFields.OrdinalOf"/>
    public int OrdinalOf(string? key) => ToTypeFields().OrdinalOf(key);

    /// <inheritdoc cref="TypeFields.FindPart"/>
    public Field? FindPart(string key) => ToTypeFields().FindPart(key);

    /// <inheritdoc cref="TypeFields.LabelOf"/>
    public string LabelOf(string key) => ToTypeFields().LabelOf(key);

    /// <inheritdoc cref="TypeFields.LabelsOf"/>
    public string LabelsOf(IEnumerable<string> keys) => ToTypeFields().LabelsOf(keys);
}
