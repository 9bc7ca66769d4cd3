using System.Globalization;
using ClearLexicon.Core.Fields;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>
/// Finds filed documents. Whatever restricts a query is a set of ids with a number that is known or counted up to a bound, and a question
/// that can be asked of one document. When the smallest set is small, its documents are asked the other questions and sorted; otherwise
/// documents are walked
/// in their order, which an index has, and asked all questions until a page is full. Pages are found by the document they follow (key-set
/// paging), so that the two-hundredth costs what the first does.
/// </summary>
public static class RepositorySearch
{
    /// <summary>Counts are exact up to this number.</summary>
    public const int Counted = 10_000;

    // Sorts behind every text that begins like the one before it.
    private static readonly string Beyond = char.ConvertFromUtf32(0x10FFFF);

    // Documents that are asked, of those that a larger smallest set has, before a count gives up.
    private const int Asked = 3_000;

    /// <summary>Sorted by folder and name.</summary>
    public const string ByPath = "path";

    /// <summary>Sorted by the time of filing, the newest first.</summary>
    public const string Newest = "newest";

    /// <summary>What restricts a query: its ids as a statement, and as a question about the document <c>d</c>.</summary>
    /// <param name="Ids">A SELECT of the column <c>id</c>; null when it is only a question.</param>
    /// <param name="Question">Whether a document belongs to it.</param>
    /// <param name="Number">How many it has, up to one more than <see cref="Counted"/>.</param>
    /// <param name="OnValues">The same question about the value <c>v</c> of its field; null when it is not about values.</param>
    /// <param name="Field">Key of that field, when documents can be sorted by it.</param>
    private sealed record Restriction(string? Ids, string Question, long Number, string? OnValues = null, string? Field = null)
    {
        public bool IsWords { get; init; }

        /// <summary>Whether it is about values, and not about the documents that have them.</summary>
        public bool IsValues { get; init; }
    }

    /// <summary>A query with its restrictions and the values they need.</summary>
    private sealed class Plan
    {
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
            BySet ? [] : [.. All.Where(r => (r.IsValues || r.IsWords) && !IsOfOrder(r) && !(Order == Newest && r.IsWords))];

        /// <summary>Whether it is asked of the values that are walked, before any document.</summary>
        public bool IsOfOrder(Restriction r) => !BySet && r.Field == Order && r.OnValues is not null && Sorted.Count == 1 && !IsWhole;

        public Plan(SqliteConnection c, RepositoryQuery query, int counted)
        {
            (_c, Query, Most) = (c, query, counted);
            // An index of values has filed documents only, each under the fields of its type.
            OfValues = query.Conditions.Any(condition => !condition.IsEmpty);
            if (query.Only is { } only)
                All.Add(
                    new Restriction($"SELECT id FROM documents WHERE state = 'filed' AND id = {Value(only)}", $"d.id = {Value(only)}", 1)
                );
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
                // Asked once: words that begin alike are put together anew by each asking.
                var found = c.Query($"{ids} ORDER BY rowid DESC LIMIT {Most + 1}", r => r.GetInt64(0), For(ids));
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
                        ? ByPath
                        : All.FirstOrDefault(r => r.Field is not null)?.Field ?? (All.Any(r => r.IsWords) ? Newest : ByPath)
                );
            // Of several terms, all of them together.
            Sorted = Order is ByPath or Newest ? [] : FoundStore.Fields(c, query.TypeCode, SearchKey.Whole(Order));
            IsWhole = Sorted.Count > 0;
            if (Order is not (ByPath or Newest) && !IsWhole)
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
            var listed = Sql.ToJson(ids.First(ids.Count <= Most ? Most : Asked));
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
                Look.After when key is string day => $"v.value > {Value(day + Beyond)} AND v.value < x''",
                Look.After => $"v.value > {Value(key)} AND v.value < ''",
                Look.Empty => $"v.value = {Value(SearchKey.None)}",
                Look.Filled => "v.value < x''",
                Look.OneOf or Look.Within => $"v.value IN (SELECT value FROM "
                    + $"json_each({Value(Sql.ToJson(condition.Values.Select(v => SearchKey.Of(condition.Kind, v)).Distinct()))}))",
                Look.Starts when key is string start => $"v.value >= {Value(start)} AND v.value < {Value(start + Beyond)}",
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
                to != SearchKey.None ? $"v.value <= {Value(to is string text ? text + Beyond : to)}"
                : SearchKey.IsNumber(condition.Kind) ? "v.value < ''"
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

    /// <summary>How many documents a query finds: exactly, or at least.</summary>
    public static FoundCount Count(SqliteConnection c, RepositoryQuery query) => Count(c, new Plan(c, query, Counted));

    private static FoundCount Count(SqliteConnection c, Plan plan)
    {
        if (plan.All.Count == 0)
            return new FoundCount(c.Scalar<long>("SELECT coalesce(sum(filed), 0) FROM filed_types"), false);
        var smallest = plan.Smallest!;
        // A type or a folder alone is counted by those who keep them.
        if (plan.All.Count == 1)
            return !smallest.IsValues && !smallest.IsWords
                ? new FoundCount(smallest.Number, false)
                : new FoundCount(Math.Min(smallest.Number, plan.Most), smallest.Number > plan.Most);
        var from = smallest.Number <= plan.Most ? smallest.Ids! : $"SELECT id FROM ({smallest.Ids}) LIMIT {Asked}";
        var sql = $"SELECT count(*) FROM {Documents(plan, from, smallest)} WHERE {Questions(plan, smallest)}";
        var number = c.Scalar<long>(sql, plan.For(sql));
        return new FoundCount(number, smallest.Number > plan.Most);
    }

    /// <summary>One screenful of what a query finds.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="query">What is looked for.</param>
    /// <param name="take">How many.</param>
    /// <param name="after">The document that they follow; null for the first ones.</param>
    /// <param name="before">The document that they come before.</param>
    public static FoundPage Find(SqliteConnection c, RepositoryQuery query, int take, long? after = null, long? before = null) =>
        Find(c, query, take, after, before, Counted);

    internal static FoundPage Find(SqliteConnection c, RepositoryQuery query, int take, long? after, long? before, int counted)
    {
        var plan = new Plan(c, query, counted);
        var ids = AmongNewest(plan.NewestWithWords, after, before, take + 1) ?? Walked(c, plan, after, before, take + 1);
        var more = ids.Count > take;
        if (more)
            ids.RemoveAt(take);
        if (before is not null)
            ids.Reverse();
        var found = c.Query(
                DocumentStore.Columns + " WHERE id IN (SELECT value FROM json_each($ids))",
                DocumentStore.Map,
                ("$ids", Sql.ToJson(ids))
            )
            .ToDictionary(d => d.Id);
        // All of it on one page is counted already.
        var total = !more && after is null && before is null ? new FoundCount(ids.Count, false) : Count(c, plan);
        if (total.OrMore && total.Number < ids.Count)
            total = total with { Number = ids.Count };
        return new FoundPage(
            [.. ids.Select(id => found[id])],
            total,
            before is not null ? more : after is not null,
            before is not null || more,
            plan.Order
        );
    }

    // The ids of a page among the newest with words, which are known already; null when it is not one of them.
    private static List<long>? AmongNewest(List<long>? newest, long? after, long? before, int take)
    {
        if (newest is null)
            return null;
        var at = (before ?? after) is { } cursor ? newest.BinarySearch(cursor, Comparer<long>.Create((a, b) => b.CompareTo(a))) : -1;
        if ((before ?? after) is not null && at < 0)
            return null;
        if (before is not null)
            return [.. newest.Take(at).Reverse().Take(take)];
        return newest.Count - at - 1 >= take ? newest.GetRange(at + 1, take) : null;
    }

    // The ids of a page. Where documents of an order must be looked up one by one, some are; when too few of them fit, what is asked is
    // laid together as sets of ids first, and the order is walked asking only those.
    private static List<long> Walked(SqliteConnection c, Plan plan, long? after, long? before, int take)
    {
        var apart = plan.LookedUp;
        if (apart.Count > 0)
        {
            // Words are put together as a whole by each asking, so they are not asked of some.
            if (!apart.Exists(r => r.IsWords) && AmongNext(c, plan, apart, after, before, take) is { } near)
                return near;
            var set = apart.Select(r => IdsOf(c, plan, r)).Aggregate((all, one) => all.And(one));
            plan.Join(apart, set);
            if (!plan.BySet && AlongOrder(c, plan, set, after, before, take) is { } found)
                return found;
        }
        var sql = Ordered(c, plan, after, before, []) + $" LIMIT {take}";
        return c.Query(sql, r => r.GetInt64(0), plan.For(sql));
    }

    // A page of those of a set that come next in the order. When a long stretch of it has too few, what is asked of the order itself is
    // laid together with the set; null when that makes it small, so that it is walked instead.
    private static List<long>? AlongOrder(SqliteConnection c, Plan plan, IdSet set, long? after, long? before, int take)
    {
        var own = plan.All.Where(plan.IsOfOrder).ToList();
        using var ordered = Stream(c, plan, after, before, []).GetEnumerator();
        var found = new List<long>();
        for (var walked = 1; found.Count < take && ordered.MoveNext(); walked++)
        {
            if (set.Has(ordered.Current))
                found.Add(ordered.Current);
            if (walked != plan.Most || own.Count == 0)
                continue;
            var both = own.Select(r => IdsOf(c, plan, r)).Aggregate(set, (all, one) => all.And(one));
            if (both.Count > plan.Most)
                continue;
            plan.Join([], both);
            return null;
        }
        return found;
    }

    // A page of those that come next in the order; null when so many of them do not make one.
    private static List<long>? AmongNext(SqliteConnection c, Plan plan, List<Restriction> apart, long? after, long? before, int take)
    {
        using var ordered = Stream(c, plan, after, before, apart).GetEnumerator();
        var found = new List<long>();
        foreach (var step in (int[])[plan.Most / 20 + 1, plan.Most / 5])
        {
            var next = new List<long>(step);
            while (next.Count < step && ordered.MoveNext())
                next.Add(ordered.Current);
            var asked =
                $"SELECT d.id FROM (SELECT value AS id, key FROM json_each($next)) d WHERE "
                + $"{string.Join(" AND ", apart.Select(r => r.Question))} ORDER BY d.key LIMIT {take - found.Count}";
            found.AddRange(c.Query(asked, r => r.GetInt64(0), [.. plan.For(asked), ("$next", Sql.ToJson(next))]));
            if (found.Count == take || next.Count < step)
                return found;
        }
        return null;
    }

    private static IEnumerable<long> Stream(SqliteConnection c, Plan plan, long? after, long? before, List<Restriction> apart)
    {
        var sql = Ordered(c, plan, after, before, apart);
        return c.Stream(sql, r => r.GetInt64(0), plan.For(sql));
    }

    private static IdSet IdsOf(SqliteConnection c, Plan plan, Restriction restriction)
    {
        // All of them as one text: fetching row by row takes four times as long.
        var sql = $"SELECT CAST(group_concat(id) AS BLOB) FROM ({restriction.Ids})";
        return IdSet.Read(c.Query(sql, r => r.IsDBNull(0) ? [] : r.GetFieldValue<byte[]>(0), plan.For(sql))[0]);
    }

    /// <summary>All that a query finds, in order, streamed; the connection is busy meanwhile.</summary>
    public static IEnumerable<StoredDocument> All(SqliteConnection c, RepositoryQuery query)
    {
        var plan = new Plan(c, query, Counted);
        using var one = Sql.Command(c, DocumentStore.Columns + " WHERE id = $id", [("$id", 0L)]);
        foreach (var id in Stream(c, plan, null, null, []))
        {
            one.Parameters["$id"].Value = id;
            using var document = one.ExecuteReader();
            if (document.Read())
                yield return DocumentStore.Map(document);
        }
    }

    /// <summary>
    /// Documents that a query finds, to be looked at together: all of them when they are few, some of them, spread evenly, when they are up
    /// to
    /// <see cref="Counted"/>, else those among some ids spread over the whole repository; always the same ones.
    /// </summary>
    /// <param name="c">An open connection.</param>
    /// <param name="query">What is looked for.</param>
    /// <param name="spread">How many ids are given, or tried when very many documents are found.</param>
    /// <returns>The ids, and whether they are all.</returns>
    public static (List<long> Ids, bool All) Sample(SqliteConnection c, RepositoryQuery query, int spread = 1_600)
    {
        var plan = new Plan(c, query, Counted);
        if (plan.BySet)
        {
            var set = plan.Smallest!;
            var all = $"SELECT d.id FROM {Documents(plan, Distinct(set), set)} WHERE {Questions(plan, set)}";
            var found = c.Query(all, r => r.GetInt64(0), plan.For(all));
            var each = (found.Count + spread - 1) / Math.Max(1, spread);
            return each <= 1 ? (found, true) : ([.. found.Where((_, i) => i % each == 0)], false);
        }
        var last = c.Scalar<long>("SELECT coalesce(max(id), 0) FROM documents");
        // Steps of the golden section fall evenly on any stretch.
        const double Step = 0.6180339887498949;
        var tried =
            last <= spread
                ? Enumerable.Range(1, (int)last).Select(i => (long)i)
                : Enumerable.Range(1, spread).Select(i => 1 + (long)(i * Step % 1 * last)).Distinct();
        var sql =
            $"SELECT d.id FROM json_each({plan.Value(Sql.ToJson(tried))}) s CROSS JOIN documents d ON d.id = s.value WHERE d.state = "
            + $"'filed' AND {Questions(plan)}";
        if (query.TypeCode is { } type)
            sql += $" AND d.type_code = {plan.Value(type)}";
        return (c.Query(sql, r => r.GetInt64(0), plan.For(sql)), last <= spread);
    }

    // The ids in their order, from a document on; restrictions that are apart are not asked.
    private static string Ordered(SqliteConnection c, Plan plan, long? after, long? before, List<Restriction> apart)
    {
        var (query, cursor, backwards) = (plan.Query, before ?? after, before is not null);
        var (down, more) = query.Descending != backwards ? (" DESC", "<") : ("", ">");
        if (plan.Order == Newest)
        {
            (down, more) = backwards ? ("", ">") : (" DESC", "<");
            var from = cursor is { } id ? $" AND t.rowid {more} {plan.Value(id)}" : "";
            var match = plan.Value(RepositoryStore.Match(query.Anywhere, query.IncludeRestricted));
            return $"SELECT d.id FROM document_text t CROSS JOIN documents d ON d.id = t.rowid WHERE t.document_text MATCH "
                + $"{match}{from} AND {Questions(plan, [.. apart, .. plan.All.Where(r => r.IsWords).Take(1)])} ORDER BY t.rowid{down}";
        }
        var set = plan.BySet ? plan.Smallest : null;
        var questions = Questions(plan, set is null ? [.. apart, .. plan.All.Where(plan.IsOfOrder)] : [.. apart, set]);
        if (plan.Order == ByPath)
        {
            var from =
                cursor is { } id && Place(c, id) is var (folder, name)
                    ? $" AND (d.folder, d.name) {more} ({plan.Value(folder)}, {plan.Value(name)})"
                    : "";
            // Of a large folder the index is walked between its ends.
            var within =
                set is null && query.Folder.Length > 0
                    ? $" AND d.folder >= {plan.Value(query.Folder)} AND d.folder < {plan.Value(query.Folder + "0")}"
                    : "";
            if (set is null && query.TypeCode is { } type && plan.OfValues)
                within += $" AND d.type_code = {plan.Value(type)}";
            if (set is null && plan.OfValues)
                within += " AND d.state = 'filed'";
            var documents =
                set is not null ? $"({Distinct(set)}) s CROSS JOIN documents d ON d.id = s.id"
                : query.TypeCode is null ? "documents d INDEXED BY documents_by_folder"
                : "documents d INDEXED BY documents_by_type_and_place";
            return $"SELECT d.id FROM {documents} WHERE {questions}{within}{from} ORDER BY d.folder{down}, d.name{down}";
        }
        return ByField(c, plan, set, cursor, questions, down, more);
    }

    private static string ByField(SqliteConnection c, Plan plan, Restriction? set, long? cursor, string questions, string down, string more)
    {
        var fields = plan.Sorted;
        if (fields.Count == 0)
            return $"SELECT d.id FROM documents d WHERE {questions} AND 0";
        var ofField = Plan.Within("i.value_id", fields[0]);
        var at = cursor is { } id
            ? c.Query(
                    $"SELECT v.value, v.id FROM found_in i JOIN found_values v ON v.id = i.value_id WHERE i.document_id = $id AND "
                        + $"{ofField} LIMIT 1",
                    r => (Value: r.GetValue(0), Id: r.GetInt64(1)),
                    ("$id", id)
                )
                .Select(v => ((object Value, long Id, long Document)?)(v.Value, v.Id, id))
                .FirstOrDefault()
            : null;
        if (set is not null)
        {
            var following = at is var (value, valueId, document)
                ? $" AND (v.value, v.id, d.id) {more} ({plan.Value(value)}, {plan.Value(valueId)}, {plan.Value(document)})"
                : "";
            return $"SELECT d.id FROM {Documents(plan, Distinct(set), set)} CROSS JOIN found_in i ON i.document_id = d.id AND "
                + $"{ofField} CROSS JOIN found_values v ON v.id = i.value_id WHERE {questions}{following} ORDER BY v.value{down}, "
                + $"v.id{down}, d.id{down}";
        }
        var from = "";
        if (at is var (atValue, atId, atDocument))
        {
            var (v, i, d) = (plan.Value(atValue), plan.Value(atId), plan.Value(atDocument));
            from = $" AND v.value {more}= {v} AND (v.id <> {i} OR d.id {more} {d})";
        }
        // What is asked of the sorted field itself is asked of its values, before any document.
        var own = string.Concat(plan.All.Where(plan.IsOfOrder).Select(r => $" AND {r.OnValues}"));
        // Sorted by the id where the index has it.
        var (needs, order) = NeedsDocuments(plan, null) ? (true, "i.document_id") : (false, "d.id");
        var documents = needs
            ? "found_in i ON i.value_id = v.id CROSS JOIN documents d ON d.id = i.document_id"
            : "(SELECT document_id AS id, value_id FROM found_in) d ON d.value_id = v.id";
        return $"""
            SELECT d.id FROM found_values v CROSS JOIN {documents}
            WHERE v.field_id = {fields[0].ToString(CultureInfo.InvariantCulture)}{own}{from} AND {questions}
            ORDER BY v.value{down}, {order}{down}
            """;
    }

    private static string Distinct(Restriction set) => $"SELECT DISTINCT id FROM ({set.Ids})";

    private static (string Folder, string Name)? Place(SqliteConnection c, long id) =>
        c.Query(
                "SELECT folder, name FROM documents WHERE id = $id AND state = 'filed'",
                r => ((string, string)?)(r.GetString(0), r.GetString(1)),
                ("$id", id)
            )
            .FirstOrDefault();

    private static string Questions(Plan plan, params IReadOnlyList<Restriction> without) =>
        string.Join(
            " AND ",
            plan.All.Where(r => !without.Contains(r)).Select(r => r.Question).Prepend(plan.OfValues ? "1" : "d.state = 'filed'")
        );

    // Whether a question is about more of a document than its values.
    private static bool NeedsDocuments(Plan plan, Restriction? without) =>
        !plan.OfValues
        || plan.All.Any(r => r != without && r.Question.Contains("d.", StringComparison.Ordinal) && !r.IsValues && !r.IsWords);

    // The documents of a set, as d; with nothing but their ids where that is enough.
    private static string Documents(Plan plan, string ids, Restriction without) =>
        NeedsDocuments(plan, without) ? $"({ids}) s CROSS JOIN documents d ON d.id = s.id" : $"({ids}) d";
}
