using System.Globalization;
using ClearLexicon.Core.Fields;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What restricts a query: its ids as a statement, and as a question about the document <c>d</c>.</summary>
/// <param name="Ids">A SELECT of the column <c>id</c>; null when it is only a question.</param>
/// <param name="Question">Whether a document belongs to it.</param>
/// <param name="Number">How many it has, up to one more than <see cref="RepositorySearch.Counted"/>.</param>
/// <param name="OnValues">The same question about the value <c>v</c> of its field; null when it is not about values.</param>
/// <param name="Field">Key of that field, when documents can be sorted by it.</param>
internal sealed record Restriction(string? Ids, string Question, long Number, string? OnValues = null, string? Field = null)
{
    public bool IsWords { get; init; }

    /// <summary>Whether it is about values, and not about the documents that have them.</summary>
    public bool IsValues { get; init; }
}

/// <summary>A query with its restrictions and the values they need.</summary>
internal sealed class SearchPlan
{
    // Sorts behind every text that begins like the one before it.

    private readonly SqliteConnection _c;

    public List<(string Name, object? Value)> Parameters { get; } = [];

    public List<Restriction> All { get; } = [];

    public RepositoryQuery Query { get; }

    /// <summary>Up to how many a set is counted, and walked by itself.</summary>
    public int Most { get; }

    public Restriction? Smallest => All.Where(r => r.Ids is not null).MinBy(r => r.Number);

    /// <summary>Whether the documents of the smallest set are walked, and not those of an order.</summary>
    public bool BySet => Smallest is { } smallest && smallest.Number <= Most;

    /// <summary>
    /// The newest documents with the words that are looked for, when they are all that is asked for and more than are counted.
    /// </summary>
    public List<long>? NewestWithWords { get; private set; }

    public string Order { get; }

    /// <summary>The fields whose values documents are sorted by; none when they are sorted otherwise.</summary>
    public List<long> Sorted { get; }

    /// <summary>Whether those are all values of a field of several, taken together.</summary>
    public bool IsWhole { get; }

    /// <summary>Whether a condition on values is among the restrictions.</summary>
    public bool OfValues { get; }

    /// <summary>
    /// What each document of an order would have to be asked by looking up its values or words, when an order is walked.
    /// </summary>
    public List<Restriction> LookedUp =>
        BySet ? [] : [.. All.Where(r => (r.IsValues || r.IsWords) && !IsOfOrder(r) && !(Order == RepositorySearch.Newest && r.IsWords))];

    /// <summary>Whether it is asked of the values that are walked, before any document.</summary>
    public bool IsOfOrder(Restriction r) => !BySet && r.Field == Order && r.OnValues is not null && Sorted.Count == 1 && !IsWhole;

    public SearchPlan(SqliteConnection c, RepositoryQuery query, int counted)
    {
        (_c, Query, Most) = (c, query, counted);
        // An index of values has filed documents only, each under the fields of its type.
        OfValues = query.Conditions.Any(condition => !condition.IsEmpty);
        if (query.Only is { } only)
            All.Add(new Restriction($"SELECT id FROM documents WHERE state = 'filed' AND id = {Value(only)}", $"d.id = {Value(only)}", 1));
        if (query.TypeCode is { } type && !OfValues)
            All.Add(
                new Restriction(
                    $"SELECT id FROM documents INDEXED BY documents_by_type_and_place WHERE state = 'filed' AND type_code = "
                        + $"{Value(type)}",
                    $"d.type_code = {Value(type)}",
                    c.Scalar<long>("SELECT coalesce(max(filed), 0) FROM filed_types WHERE type_code = $type", ("$type", type))
                )
            );
        if (query.Folder.Length > 0)
            All.Add(InFolder(query.Folder));
        var asked = query.Conditions.Where(condition => !condition.IsEmpty).Select(Of).ToList();
        All.AddRange(query.Any && asked.Count > 1 ? [AnyOf(asked)] : asked);
        if (RepositoryStore.Match(query.Anywhere, query.IncludeRestricted) is { } match)
        {
            var ids = $"SELECT rowid AS id FROM document_text WHERE document_text MATCH {Value(match)}";
            // RepositorySearch.Asked once: words that begin alike are put together anew by each asking.
            var found = c.Query($"{ids} ORDER BY rowid DESC LIMIT {Most + 1}", r => r.Long("id"), For(ids));
            if (found.Count <= Most)
                ids = $"SELECT value AS id FROM json_each({Value(Sql.ToJson(found))})";
            else if (All.Count == 0 && query.NotByWords.Count == 0 && query.Sort is null)
                NewestWithWords = found;
            All.Add(new Restriction(ids, $"d.id IN ({ids})", found.Count) { IsWords = true });
            if (query.NotByWords.Count > 0)
                All.Add(
                    new Restriction(null, $"d.type_code NOT IN (SELECT value FROM json_each({Value(Sql.ToJson(query.NotByWords))}))", 0)
                );
        }
        Order =
            query.Sort
            ?? (
                BySet || All.Count == 0
                    ? RepositorySearch.ByPath
                    : All.FirstOrDefault(r => r.Field is not null)?.Field
                        ?? (All.Any(r => r.IsWords) ? RepositorySearch.Newest : RepositorySearch.ByPath)
            );
        // Of several terms, all of them together.
        Sorted = Order is RepositorySearch.ByPath or RepositorySearch.Newest
            ? []
            : FoundStore.Fields(c, query.TypeCode, SearchKey.Whole(Order));
        IsWhole = Sorted.Count > 0;
        if (Order is not (RepositorySearch.ByPath or RepositorySearch.Newest) && !IsWhole)
            Sorted = FoundStore.Fields(c, query.TypeCode, Order);
    }

    /// <summary>
    /// Puts one set in the place of several restrictions: the documents that all of them have. When they are few, it is walked by
    /// itself from then on.
    /// </summary>
    public void Join(List<Restriction> several, IdSet ids)
    {
        All.RemoveAll(several.Contains);
        // Of a large one as many as a count asks; in front, so that it is the smallest of those that are as large.
        var listed = Sql.ToJson(ids.First(ids.Count <= Most ? Most : RepositorySearch.Asked));
        var set = $"SELECT value AS id FROM json_each({Value(listed)})";
        All.Insert(0, new Restriction(set, "1", Math.Min(ids.Count, Most + 1)) { IsValues = true });
    }

    public string Value(object? value)
    {
        Parameters.Add(($"$p{Parameters.Count}", value));
        return Parameters[^1].Name;
    }

    // Only what a statement uses may be bound to it.
    public (string, object?)[] For(string sql) => [.. Parameters.Where(p => UsedIn(sql, p.Name))];

    private static bool UsedIn(string sql, string name)
    {
        for (var at = sql.IndexOf(name, StringComparison.Ordinal); at >= 0; at = sql.IndexOf(name, at + 1, StringComparison.Ordinal))
            if (at + name.Length == sql.Length || !char.IsAsciiDigit(sql[at + name.Length]))
                return true;
        return false;
    }

    private long Bounded(string ids)
    {
        var sql = $"SELECT count(*) FROM ({ids} LIMIT {Most + 1})";
        return _c.Scalar<long>(sql, For(sql));
    }

    private Restriction InFolder(string folder)
    {
        var (name, below, end) = (Value(folder), Value(folder + "/"), Value(folder + "0"));
        const string In = "SELECT id FROM documents INDEXED BY documents_by_folder WHERE state = 'filed' AND ";
        return new Restriction(
            $"{In}folder = {name} UNION ALL {In}folder >= {below} AND folder < {end}",
            $"(d.folder = {name} OR d.folder >= {below} AND d.folder < {end})",
            FolderStore.Below(_c, folder)
        );
    }

    private Restriction Of(FieldCondition condition)
    {
        var multiple = SearchKey.IsMultiple(condition.Field, condition.Kind);
        var fields = FoundStore.Fields(_c, Query.TypeCode, condition.Field);
        // Of several values it is asked whether there is any; so is what they are not.
        var all = multiple ? FoundStore.Fields(_c, Query.TypeCode, SearchKey.Whole(condition.Field)) : fields;
        if (condition.How is Look.Empty or Look.Filled)
            fields = all;
        if (all.Count == 0 || fields.Count == 0 && condition.How != Look.IsNot)
            return new Restriction("SELECT id FROM documents WHERE 0", "0", 0) { IsValues = true };
        var key = SearchKey.Of(condition.Kind, condition.Text);
        var holds = condition.How == Look.Holds && key is string ? Value(key) : null;
        var on = condition.How switch
        {
            Look.Between => Between(condition),
            Look.Before => $"v.value < {Value(key)}",
            Look.After when key is string day => $"v.value > {Value(condition.Kind.UpTo(day))} AND v.value < x''",
            Look.After => $"v.value > {Value(key)} AND v.value < ''",
            Look.Empty => $"v.value = {Value(SearchKey.None)}",
            Look.Filled => "v.value < x''",
            Look.OneOf or Look.Within => $"v.value IN (SELECT value FROM "
                + $"json_each({Value(Sql.ToJson(condition.Values.Select(v => SearchKey.Of(condition.Kind, v)).Distinct()))}))",
            Look.Starts when key is string start => $"v.value >= {Value(start)} AND v.value < {Value(start + SearchKey.Beyond)}",
            Look.Holds when holds is not null => $"instr(v.value, {holds}) > 0",
            _ => $"v.value = {Value(key)}",
        };
        if (condition.How == Look.IsNot)
            return Not(fields, all, on, multiple ? null : condition.Field);
        // Three characters make a piece; fewer are looked for in every value.
        var pieces = holds is not null && key is string text && Pieces(text) is { } match ? Value(match) : null;
        var distinct = multiple && condition.How is not (Look.Is or Look.Empty or Look.Filled) ? "DISTINCT " : "";
        var ids = string.Join(
            " UNION ALL ",
            fields.Select(f =>
                pieces is null
                    ? $"SELECT {distinct}i.document_id AS id FROM found_values v CROSS JOIN found_in i ON i.value_id = v.id WHERE "
                        + $"v.field_id = {f} AND {on}"
                    : $"SELECT {distinct}i.document_id AS id FROM found_pieces p CROSS JOIN found_values v ON v.id = p.rowid "
                        + $"CROSS JOIN found_in i ON i.value_id = v.id WHERE found_pieces MATCH {pieces} AND "
                        + $"{Within("p.rowid", f)} AND {on}"
            )
        );
        return new Restriction(
            ids,
            $"({Has(fields, on)})",
            Bounded(ids),
            on,
            condition.Field.Contains('.', StringComparison.Ordinal) ? null : condition.Field
        )
        {
            IsValues = true,
        };
    }

    private static string Has(List<long> fields, string on) =>
        fields.Count == 0
            ? "0"
            : string.Join(
                " OR ",
                fields.Select(f =>
                    $"EXISTS (SELECT 1 FROM found_in i CROSS JOIN found_values v ON v.id = i.value_id WHERE i.document_id = d.id "
                    + $"AND {Within("i.value_id", f)} AND {on})"
                )
            );

    // Documents that could have the value and have it not.
    private Restriction Not(List<long> fields, List<long> all, string on, string? field)
    {
        var ids = string.Join(
            " UNION ALL ",
            all.Select(f =>
                field is not null
                    ? $"SELECT i.document_id AS id FROM found_values v CROSS JOIN found_in i ON i.value_id = v.id WHERE "
                        + $"v.field_id = {f} AND NOT ({on})"
                    : $"SELECT d.id FROM (SELECT i.document_id AS id FROM found_values v CROSS JOIN found_in i ON i.value_id = "
                        + $"v.id WHERE v.field_id = {f}) d WHERE NOT ({Has(fields, on)})"
            )
        );
        return new Restriction(
            ids,
            $"(({Has(all, "1")}) AND NOT ({Has(fields, on)}))",
            Bounded(ids),
            field is null ? null : $"NOT ({on})",
            field
        )
        {
            IsValues = true,
        };
    }

    private Restriction AnyOf(List<Restriction> asked)
    {
        var ids = $"SELECT DISTINCT id FROM ({string.Join(" UNION ALL ", asked.Select(r => $"SELECT id FROM ({r.Ids})"))})";
        // Those that find more than is counted need not be joined to know that there are more.
        var number = asked.Max(r => r.Number) > Most ? Most + 1 : Bounded(ids);
        return new Restriction(ids, $"({string.Join(" OR ", asked.Select(r => r.Question))})", number) { IsValues = true };
    }

    private string Between(FieldCondition condition)
    {
        var (from, to) = (SearchKey.Of(condition.Kind, condition.Text), SearchKey.Of(condition.Kind, condition.To));
        // Without an end, as far as values of the kind go: numbers sort before texts, texts before what is empty.
        var upper =
            to != SearchKey.None ? $"v.value <= {Value(to is string text ? condition.Kind.UpTo(text) : to)}"
            : condition.Kind.IsFoundByNumber ? "v.value < ''"
            : "v.value < x''";
        return from != SearchKey.None ? $"v.value >= {Value(from)} AND {upper}" : upper;
    }

    private static string? Pieces(string text)
    {
        if (text.Length < 3 || text.Any(char.IsSurrogate))
            return null;
        return string.Join(
            " AND ",
            Enumerable
                .Range(0, text.Length - 2)
                .Select(i => text.Substring(i, 3))
                .Distinct(StringComparer.Ordinal)
                .Select(p => $"\"{p.Replace("\"", "\"\"", StringComparison.Ordinal)}\"")
        );
    }

    /// <summary>That an id of a value is one of a field.</summary>
    public static string Within(string id, long field) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"{id} > {field << FoundStore.FieldShift} AND {id} < {(field + 1) << FoundStore.FieldShift}"
        );
}
