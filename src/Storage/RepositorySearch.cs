using System.Globalization;
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

    /// <summary>Documents that are asked, of those that a larger smallest set has, before a count gives up.</summary>
    internal const int Asked = 3_000;

    /// <summary>Sorted by folder and name.</summary>
    public const string ByPath = "path";

    /// <summary>Sorted by the time of filing, the newest first.</summary>
    public const string Newest = "newest";

    /// <summary>How many documents a query finds: exactly, or at least.</summary>
    public static FoundCount Count(SqliteConnection c, RepositoryQuery query) => Count(c, new SearchPlan(c, query, Counted));

    private static FoundCount Count(SqliteConnection c, SearchPlan plan)
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
        var plan = new SearchPlan(c, query, counted);
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
    private static List<long> Walked(SqliteConnection c, SearchPlan plan, long? after, long? before, int take)
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
        return c.Query(sql, r => r.Long("id"), plan.For(sql));
    }

    // A page of those of a set that come next in the order. When a long stretch of it has too few, what is asked of the order itself is
    // laid together with the set; null when that makes it small, so that it is walked instead.
    private static List<long>? AlongOrder(SqliteConnection c, SearchPlan plan, IdSet set, long? after, long? before, int take)
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
    private static List<long>? AmongNext(SqliteConnection c, SearchPlan plan, List<Restriction> apart, long? after, long? before, int take)
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
            found.AddRange(c.Query(asked, r => r.Long("id"), [.. plan.For(asked), ("$next", Sql.ToJson(next))]));
            if (found.Count == take || next.Count < step)
                return found;
        }
        return null;
    }

    private static IEnumerable<long> Stream(SqliteConnection c, SearchPlan plan, long? after, long? before, List<Restriction> apart)
    {
        var sql = Ordered(c, plan, after, before, apart);
        return c.Stream(sql, r => r.Long("id"), plan.For(sql));
    }

    private static IdSet IdsOf(SqliteConnection c, SearchPlan plan, Restriction restriction)
    {
        // All of them as one text: fetching row by row takes four times as long.
        var sql = $"SELECT CAST(group_concat(id) AS BLOB) AS ids FROM ({restriction.Ids})";
        return IdSet.Read(c.Query(sql, r => r.IsNull("ids") ? [] : r.Bytes("ids"), plan.For(sql))[0]);
    }

    /// <summary>All that a query finds, in order, streamed; the connection is busy meanwhile.</summary>
    public static IEnumerable<StoredDocument> All(SqliteConnection c, RepositoryQuery query)
    {
        var plan = new SearchPlan(c, query, Counted);
        const string One = DocumentStore.Columns + " WHERE id = $id";
        using var one = Sql.Command(c, One, [("$id", 0L)]);
        foreach (var id in Stream(c, plan, null, null, []))
        {
            one.Parameters["$id"].Value = id;
            using var document = one.ExecuteReader();
            if (document.Read())
                yield return DocumentStore.Map(new Row(document, One));
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
        var plan = new SearchPlan(c, query, Counted);
        if (plan.BySet)
        {
            var set = plan.Smallest!;
            var all = $"SELECT d.id FROM {Documents(plan, Distinct(set), set)} WHERE {Questions(plan, set)}";
            var found = c.Query(all, r => r.Long("id"), plan.For(all));
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
        return (c.Query(sql, r => r.Long("id"), plan.For(sql)), last <= spread);
    }

    // The ids in their order, from a document on; restrictions that are apart are not asked.
    private static string Ordered(SqliteConnection c, SearchPlan plan, long? after, long? before, List<Restriction> apart)
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

    private static string ByField(
        SqliteConnection c,
        SearchPlan plan,
        Restriction? set,
        long? cursor,
        string questions,
        string down,
        string more
    )
    {
        var fields = plan.Sorted;
        if (fields.Count == 0)
            return $"SELECT d.id FROM documents d WHERE {questions} AND 0";
        var ofField = SearchPlan.Within("i.value_id", fields[0]);
        var at = cursor is { } id
            ? c.Query(
                    $"SELECT v.value, v.id FROM found_in i JOIN found_values v ON v.id = i.value_id WHERE i.document_id = $id AND "
                        + $"{ofField} LIMIT 1",
                    r => (Value: r.Value("value"), Id: r.Long("id")),
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
                r => ((string, string)?)(r.Text("folder"), r.Text("name")),
                ("$id", id)
            )
            .FirstOrDefault();

    private static string Questions(SearchPlan plan, params IReadOnlyList<Restriction> without) =>
        string.Join(
            " AND ",
            plan.All.Where(r => !without.Contains(r)).Select(r => r.Question).Prepend(plan.OfValues ? "1" : "d.state = 'filed'")
        );

    // Whether a question is about more of a document than its values.
    private static bool NeedsDocuments(SearchPlan plan, Restriction? without) =>
        !plan.OfValues
        || plan.All.Any(r => r != without && r.Question.Contains("d.", StringComparison.Ordinal) && !r.IsValues && !r.IsWords);

    // The documents of a set, as d; with nothing but their ids where that is enough.
    private static string Documents(SearchPlan plan, string ids, Restriction without) =>
        NeedsDocuments(plan, without) ? $"({ids}) s CROSS JOIN documents d ON d.id = s.id" : $"({ids}) d";
}
