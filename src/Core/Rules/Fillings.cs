using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>What a look-up found for a field when it cannot decide: the values to choose from.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Table">Name of the reference table.</param>
/// <param name="Values">The different values, at most <see cref="Fillings.MostChoices"/>.</param>
public sealed record Choice(string Field, string Table, IReadOnlyList<string> Values);

/// <summary>
/// Fills fields from reference tables, compiled once. One row, or several that agree, fills; several that differ are for a
/// person to choose from; none leaves the field to its rules. Tables that a service answers are asked elsewhere.
/// </summary>
public sealed class Fillings
{
    /// <summary>Most choices offered for a field.</summary>
    public const int MostChoices = 12;

    private readonly (string Table, int[] Keys, TableIndex Index, (int Column, int Ordinal)[] Targets, bool Always)[] _fillings;

    /// <summary>Compiles; fillings that name fields or columns that are gone are left out.</summary>
    public Fillings(IReadOnlyList<Filling> fillings, TypeFields type, IReadOnlyDictionary<string, ReferenceTable> tables) =>
        _fillings = [
            .. fillings
                .Where(f => tables.GetValueOrDefault(f.Table) is { Address: null })
                .Select(f => (Filling: f, Table: tables[f.Table]))
                .Where(f =>
                    f.Filling.Keys.All(k => f.Table.ColumnOf(k.Key) >= 0 && type.OrdinalOf(k.Value) >= 0)
                    && f.Filling.Targets.All(t => f.Table.ColumnOf(t.Key) >= 0 && type.OrdinalOf(t.Value) >= 0)
                )
                .Select(f =>
                    (
                        f.Table.Name,
                        f.Filling.Keys.Values.Select(type.OrdinalOf).ToArray(),
                        f.Table.IndexOn([.. f.Filling.Keys.Keys.Select(f.Table.ColumnOf)]),
                        f.Filling.Targets.Select(t => (f.Table.ColumnOf(t.Key), type.OrdinalOf(t.Value))).ToArray(),
                        f.Filling.Always
                    )
                ),
        ];

    /// <summary>Whether there is anything to fill.</summary>
    public bool Any => _fillings.Length > 0;

    /// <summary>Fills what can be decided.</summary>
    public void Fill(FieldValue[] values, Func<int, string, FieldValue> read)
    {
        foreach (var (_, keys, index, targets, always) in _fillings)
        {
            if (Rows(values, keys, index) is not { Count: > 0 } rows)
                continue;
            foreach (var (column, ordinal) in targets)
            {
                if (!always && !values[ordinal].IsEmpty)
                    continue;
                var cell = rows[0][column];
                if (cell.Length > 0 && rows.All(r => r[column] == cell))
                    values[ordinal] = read(ordinal, cell);
            }
        }
    }

    /// <summary>Fields that several rows would fill differently.</summary>
    public IEnumerable<Choice> Choices(FieldValue[] values, TypeFields type)
    {
        foreach (var (table, keys, index, targets, always) in _fillings)
        {
            if (Rows(values, keys, index) is not { Count: > 1 } rows)
                continue;
            foreach (var (column, ordinal) in targets)
            {
                if (!always && !values[ordinal].IsEmpty)
                    continue;
                var different = rows.Select(r => r[column])
                    .Where(v => v.Length > 0)
                    .Distinct(StringComparer.Ordinal)
                    .Take(MostChoices)
                    .ToList();
                if (different.Count > 1)
                    yield return new Choice(type.Fields[ordinal].Key, table, different);
            }
        }
    }

    private static IReadOnlyList<string[]> Rows(FieldValue[] values, int[] keys, TableIndex index)
    {
        var texts = new string[keys.Length];
        for (var i = 0; i < keys.Length; i++)
        {
            if (!values[keys[i]].IsGood)
                return [];
            texts[i] = values[keys[i]].Text;
        }
        return index.Find(texts);
    }
}
