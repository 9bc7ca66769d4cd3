using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Fields are found together in a reference table, and other fields agree with its columns. A table that a service answers
/// is not asked here but by whoever may wait; the rule then holds.
/// </summary>
public sealed class InTable : IRuleKind
{
    /// <summary>Key of the reference table.</summary>
    public static readonly TextBlank Table = new("table", "Reference table", ParameterKind.Table);
    internal static readonly PairsBlank By = new("keys", "found by, field=column") { Hint = "imo=IMO number" };
    internal static readonly PairsBlank Agreeing = new("agrees", "and agrees, field=column") { Hint = "imo=IMO number", Least = 0 };

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "in-table";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Fields are found in a reference table";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Table, By, Agreeing];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var agrees = Agreeing.Of(rule);
        return $"{type.LabelsOf(By.Of(rule).Select(p => p.Field))} stands in "
            + $"{Table.Of(rule)}{(agrees.Count > 0 ? $", and {type.LabelsOf(agrees.Select(p => p.Field))} agrees" : "")}";
    }

    /// <inheritdoc/>
    public Check? Compile(Rule rule, RuleScope scope)
    {
        if (scope.Tables.GetValueOrDefault(Table.Of(rule)) is not { Address: null } table)
            return null;
        var (keys, agrees) = (Resolve(By.Of(rule), scope.Type, table), Resolve(Agreeing.Of(rule), scope.Type, table));
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
                return rule.Found(new NotInTable(names, string.Join(", ", values), table.Name), keys[0].Key);
            foreach (var (ordinal, column, key) in agrees)
            {
                if (!record[ordinal].IsGood)
                    continue;
                var value = record[ordinal];
                if (rows.Any(r => r[column].Length == 0 || Agrees(value, r[column])))
                    continue;
                return rule.Found(new TableDisagrees(scope.Type.LabelOf(key), rows[0][column], table.Name), key);
            }
            return null;
        };
    }

    /// <summary>Whether a value is what a cell says: numbers by amount, everything else as folded text.</summary>
    private static bool Agrees(in FieldValue value, string cell) =>
        Numbers.Stored(cell) is { } number && Numbers.Stored(value.Text) is not null
            ? number == value.Number
            : Vocabularies.Folding.Fold(cell) == Vocabularies.Folding.Fold(value.Text);

    private static (int Ordinal, int Column, string Key)[] Resolve(
        List<(string Field, string Column)> pairs,
        TypeFields type,
        ReferenceTable table
    ) => [.. pairs.Select(p => (type.OrdinalOf(p.Field), table.ColumnOf(p.Column), p.Field))];
}

/// <summary>No row of the reference table has these values.</summary>
public sealed record NotInTable(string Labels, string Values, string Table) : ProblemKind("not-in-table")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Labels} „{Values}“ steht nicht in {Table}.",
            "fr" => $"{Labels} « {Values} » ne figure pas dans {Table}.",
            _ => $"{Labels} “{Values}” is not in {Table}.",
        };
}

/// <summary>A value is not what the row of the reference table says.</summary>
public sealed record TableDisagrees(string Label, string Says, string Table) : ProblemKind("table-disagrees")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} weicht von {Table} ab; dort steht „{Says}“.",
            "fr" => $"{Label} diffère de {Table}, qui indique « {Says} ».",
            _ => $"{Label} differs from {Table}, which says “{Says}”.",
        };
}
