namespace ClearLexicon.Core.Fields;

/// <summary>
/// The fields of a document type as cleaning, rules, conventions and readers see them; a whole type can stand where only its fields are
/// asked for. A field's position is its ordinal.
/// </summary>
/// <param name="Code">Code of the type; of a table's rows the key of the table.</param>
/// <param name="Fields">The fields in the order of the ledger.</param>
public readonly record struct TypeFields(string Code, IReadOnlyList<Field> Fields)
{
    /// <summary>Codes of the type and all that it refines, itself first.</summary>
    public IReadOnlyList<string> Lineage { get; init; } = [Code];

    /// <summary>The columns of a table as the fields of its rows.</summary>
    public static TypeFields OfRows(Field table) => new(table.Key, table.Columns);

    /// <summary>The field with a key, or null.</summary>
    public Field? Find(string? key) => Fields.FirstOrDefault(f => f.Key == key);

    /// <summary>The field that a person calls so, by label or key, whatever the case; null when there is none.</summary>
    public Field? FindNamed(string name) =>
        Fields.FirstOrDefault(f =>
            f.Label.Equals(name, StringComparison.OrdinalIgnoreCase) || f.Key.Equals(name, StringComparison.OrdinalIgnoreCase)
        );

    /// <summary>Position of the field with a key, or -1.</summary>
    public int OrdinalOf(string? key)
    {
        for (var i = 0; i < Fields.Count; i++)
            if (Fields[i].Key == key)
                return i;
        return -1;
    }

    /// <summary>The field or table column (<c>table.column</c>) with a key, or null.</summary>
    public Field? FindPart(string key) =>
        key.IndexOf('.') is > 0 and var dot ? Find(key[..dot])?.Columns.FirstOrDefault(c => c.Key == key[(dot + 1)..]) : Find(key);

    /// <summary>Ordinals of a field and, for <c>table.column</c>, of its column; -1 where there is none.</summary>
    public (int Field, int Column) PlaceOf(string key)
    {
        if (key.IndexOf('.') is not (> 0 and var dot))
            return (OrdinalOf(key), -1);
        var field = OrdinalOf(key[..dot]);
        return (field, field < 0 ? -1 : Fields[field].Columns.ToList().FindIndex(c => c.Key == key[(dot + 1)..]));
    }

    /// <summary>Label of a field or column for sentences; the key itself when there is no such field.</summary>
    public string LabelOf(string key) =>
        key.IndexOf('.') is > 0 and var dot
            ? $"{LabelOf(key[..dot])}: {FindPart(key)?.Label ?? key[(dot + 1)..]}"
            : Find(key)?.Label ?? key;

    /// <summary>Labels of several fields, separated by commas.</summary>
    public string LabelsOf(IEnumerable<string> keys) => string.Join(", ", keys.Select(LabelOf));
}
