using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Fields are found together in a reference table, and other fields agree with its columns. A table that a service answers
/// is not asked here but by whoever may wait; the rule then holds.
/// </summary>
public sealed class InTable : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "in-table";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Fields are found in a reference table";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        new("table", "Reference table", ParameterKind.Table, []),
        new("keys", "found by, field=column", ParameterKind.Pairs, []) { Hint = "imo=IMO number" },
        new("agrees", "and agrees, field=column", ParameterKind.Pairs, [], 0) { Hint = "imo=IMO number" },
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var agrees = Pairs(rule["agrees"]);
        return $"{type.LabelsOf(Pairs(rule["keys"]).Select(p => p.Field))} stands in {rule["table"]}{(agrees.Count > 0 ? $", and {type.LabelsOf(agrees.Select(p => p.Field))} agrees" : "")}";
    }

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type)
    {
        foreach (var name in new[] { "keys", "agrees" })
        {
            var pairs = Pairs(rule[name]);
            if (rule[name].Split(',', StringSplitOptions.RemoveEmptyEntries).Length != pairs.Count)
                return $"Write pairs such as imo=IMO number, separated by commas; “{rule[name]}” is not that.";
            foreach (var (field, _) in pairs)
                if (type.Find(field) is null)
                    return $"The field “{field}” is no longer in this document type.";
        }
        return null;
    }

    /// <inheritdoc/>
    public Check? Compile(Rule rule, RuleScope scope)
    {
        if (scope.Tables.GetValueOrDefault(rule["table"]) is not { Address: null } table)
            return null;
        var (keys, agrees) = (Resolve(rule["keys"], scope.Type, table), Resolve(rule["agrees"], scope.Type, table));
        if (keys.Any(k => k.Column < 0) || agrees.Any(k => k.Column < 0))
            return null;
        var index = table.IndexOn([.. keys.Select(k => k.Column)]);
        var names = scope.Type.LabelsOf(keys.Select(k => k.Key));
        return (record, _) =>
        {
            var values = new string[keys.Length];
            for (var i = 0; i < keys.Length; i++)
            {
                if (!record[keys[i].Ordinal].IsGood)
                    return null;
                values[i] = record[keys[i].Ordinal].Text;
            }
            var rows = index.Find(values);
            if (rows.Count == 0)
                return rule.Found("not-in-table", keys[0].Key, names, string.Join(", ", values), table.Name);
            foreach (var (ordinal, column, key) in agrees)
            {
                if (!record[ordinal].IsGood)
                    continue;
                var value = record[ordinal];
                if (rows.Any(r => r[column].Length == 0 || Agrees(value, r[column])))
                    continue;
                return rule.Found("table-disagrees", key, scope.Type.LabelOf(key), rows[0][column], table.Name);
            }
            return null;
        };
    }

    /// <summary>Whether a value is what a cell says: numbers by amount, everything else as folded text.</summary>
    private static bool Agrees(in FieldValue value, string cell) =>
        RuleKinds.Number(cell) is { } number && RuleKinds.Number(value.Text) is not null
            ? number == value.Number
            : Vocabularies.Folding.Fold(cell) == Vocabularies.Folding.Fold(value.Text);

    /// <summary>Reads <c>field=column</c> pairs; what is no pair is left out.</summary>
    internal static List<(string Field, string Column)> Pairs(string text) =>
        [
            .. text.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                .Select(p => p.Split('=', 2, StringSplitOptions.TrimEntries))
                .Where(p => p.Length == 2 && p[0].Length > 0 && p[1].Length > 0)
                .Select(p => (p[0], p[1])),
        ];

    private static (int Ordinal, int Column, string Key)[] Resolve(string pairs, TypeFields type, ReferenceTable table) =>
        [.. Pairs(pairs).Select(p => (type.OrdinalOf(p.Field), table.ColumnOf(p.Column), p.Field))];
}
