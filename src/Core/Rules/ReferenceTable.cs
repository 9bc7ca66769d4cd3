using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Imported rows to look values up in, such as a register. Look-ups fold case, accents and punctuation. Immutable and
/// thread-safe.
/// </summary>
/// <param name="key">Short name used by rules and fillings.</param>
/// <param name="name">Name shown to people.</param>
/// <param name="columns">Column names; the first is the key of a row.</param>
/// <param name="rows">Rows by column position.</param>
public sealed class ReferenceTable(string key, string name, IReadOnlyList<string> columns, IReadOnlyList<string[]> rows)
{
    /// <summary>Short name used by rules and fillings.</summary>
    public string Key { get; } = key;

    /// <summary>Name shown to people.</summary>
    public string Name { get; } = name;

    /// <summary>Column names; the first is the key of a row.</summary>
    public IReadOnlyList<string> Columns { get; } = columns;

    /// <summary>Rows by column position.</summary>
    public IReadOnlyList<string[]> Rows { get; } = rows;

    /// <summary>Address of a service that answers look-ups instead of the rows; null when the rows do.</summary>
    public string? Address { get; init; }

    /// <summary>Position of a column, or -1.</summary>
    public int ColumnOf(string column)
    {
        for (var i = 0; i < Columns.Count; i++)
            if (string.Equals(Columns[i], column, StringComparison.OrdinalIgnoreCase))
                return i;
        return -1;
    }

    private readonly Lazy<RowSearch> _search = new(() => new RowSearch(rows));

    /// <summary>Finds its rows as somebody types; made when it is first asked.</summary>
    public RowSearch Search => _search.Value;

    /// <summary>Indexes the rows by some columns together.</summary>
    public TableIndex IndexOn(IReadOnlyList<int> columns) => new(this, columns);
}

/// <summary>A reference table by some of its columns. Immutable and thread-safe.</summary>
public sealed class TableIndex
{
    private readonly Dictionary<string, List<string[]>> _rows = new(StringComparer.Ordinal);

    internal TableIndex(ReferenceTable table, IReadOnlyList<int> columns)
    {
        var values = new string[columns.Count];
        foreach (var row in table.Rows)
        {
            for (var i = 0; i < values.Length; i++)
                values[i] = row[columns[i]];
            var key = Key(values);
            if (_rows.TryGetValue(key, out var known))
                known.Add(row);
            else
                _rows[key] = [row];
        }
    }

    /// <summary>Rows whose columns equal the values, in the order of the columns.</summary>
    public IReadOnlyList<string[]> Find(string[] values) => _rows.TryGetValue(Key(values), out var rows) ? rows : [];

    private static string Key(string[] values) =>
        values.Length == 1 ? Folding.Fold(values[0]) : string.Join('\u001f', values.Select(Folding.Fold));
}
