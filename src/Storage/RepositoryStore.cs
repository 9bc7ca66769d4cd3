using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What to look for in the repository.</summary>
public sealed record RepositoryQuery
{
    /// <summary>Folder and everything below; empty for all.</summary>
    public string Folder { get; init; } = "";

    /// <summary>Document type; null for all.</summary>
    public string? TypeCode { get; init; }

    /// <summary>Key of the field to look in; null for none.</summary>
    public string? Field { get; init; }

    /// <summary>Text that the field contains.</summary>
    public string FieldText { get; init; } = "";

    /// <summary>Words that stand anywhere in the document.</summary>
    public string Anywhere { get; init; } = "";

    /// <summary>Whether words of restricted regions are looked through too.</summary>
    public bool IncludeRestricted { get; init; }

    /// <summary>Codes of types of which nothing is found by <see cref="Anywhere"/>, because their full text is not up to date.</summary>
    public IReadOnlyList<string> NotByWords { get; init; } = [];

    /// <summary>Field key to sort by; null sorts by path.</summary>
    public string? Sort { get; init; }

    /// <summary>Whether the sort field holds numbers.</summary>
    public bool SortAsNumber { get; init; }

    /// <summary>Largest first.</summary>
    public bool Descending { get; init; }
}

/// <summary>The filed documents: folders, search, free places.</summary>
public static class RepositoryStore
{
    /// <summary>Folders with the number of documents right in them.</summary>
    public static List<(string Folder, int Count)> Folders(SqliteConnection c) =>
        c.Query("SELECT folder, count(*) FROM documents WHERE state = 'filed' GROUP BY folder ORDER BY folder", r => (r.GetString(0), r.GetInt32(1)));

    /// <summary>Number of filed documents of each type.</summary>
    public static Dictionary<string, int> CountByType(SqliteConnection c) =>
        c.Query("SELECT type_code, count(*) FROM documents WHERE state = 'filed' GROUP BY type_code", r => (r.GetString(0), r.GetInt32(1))).ToDictionary(t => t.Item1, t => t.Item2);

    /// <summary>How many documents a query finds.</summary>
    public static long Count(SqliteConnection c, RepositoryQuery query)
    {
        var parameters = new List<(string, object?)>();
        return c.Scalar<long>("SELECT count(*) FROM documents d WHERE " + Where(query, parameters), [.. parameters]);
    }

    /// <summary>One screenful of what a query finds.</summary>
    public static List<StoredDocument> Find(SqliteConnection c, RepositoryQuery query, int take, int skip)
    {
        var parameters = new List<(string, object?)> { ("$take", take), ("$skip", skip) };
        return c.Query(Ordered(query, parameters) + " LIMIT $take OFFSET $skip", DocumentStore.Map, [.. parameters]);
    }

    /// <summary>All that a query finds, streamed; the connection is busy meanwhile.</summary>
    public static IEnumerable<StoredDocument> FindAll(SqliteConnection c, RepositoryQuery query)
    {
        var parameters = new List<(string, object?)>();
        using var command = Sql.Command(c, Ordered(query, parameters), [.. parameters]);
        using var reader = command.ExecuteReader();
        while (reader.Read()) yield return DocumentStore.Map(reader);
    }

    private static string Ordered(RepositoryQuery query, List<(string, object?)> parameters)
    {
        var where = Where(query, parameters);
        var order = "d.folder, d.name";
        if (query.Sort is { } sort)
        {
            parameters.Add(("$sort", JsonPath(sort)));
            order = (query.SortAsNumber ? "CAST(d.record ->> $sort AS REAL)" : "d.record ->> $sort COLLATE NOCASE") + (query.Descending ? " DESC" : "") + ", d.folder, d.name";
        }
        return $"{DocumentStore.Columns} d WHERE {where} ORDER BY {order}";
    }

    /// <summary>The filed document that has a place, regardless of case, other than the one given; null when it is free.</summary>
    public static long? At(SqliteConnection c, string folder, string name, long exceptId = 0) =>
        c.Query("SELECT id FROM documents WHERE state = 'filed' AND place_key = $key AND id <> $id", r => (long?)r.GetInt64(0), ("$key", Database.PlaceKey(folder, name)), ("$id", exceptId)).FirstOrDefault();

    /// <summary>
    /// A folder as it is spelled in the repository already: “slips/New” where documents stand in “Slips” is “Slips/New”. Two folders
    /// that differ in nothing but case would be one on most shares.
    /// </summary>
    public static string Spelled(SqliteConnection c, string folder, long exceptId = 0)
    {
        for (var end = folder.Length; end > 0; end = folder.LastIndexOf('/', end - 1))
        {
            var key = Database.PlaceKey(folder[..end], "");
            var known = c.Query("SELECT folder FROM documents WHERE state = 'filed' AND place_key >= $from AND place_key < $to AND id <> $id LIMIT 1", r => r.GetString(0),
                ("$from", key), ("$to", key[..^1] + '0'), ("$id", exceptId)).FirstOrDefault();
            if (known is not null && known.Length >= end && (known.Length == end || known[end] == '/') && Database.PlaceKey(known[..end], "") == key) return known[..end] + folder[end..];
        }
        return folder;
    }

    /// <summary>Filed documents right in a folder.</summary>
    public static List<StoredDocument> In(SqliteConnection c, string folder, int take) =>
        c.Query(DocumentStore.Columns + " WHERE state = 'filed' AND folder = $folder ORDER BY name LIMIT $take", DocumentStore.Map, ("$folder", folder), ("$take", take));

    /// <summary>The filed documents of a type in the order they were filed, streamed.</summary>
    public static void Each(SqliteConnection c, string typeCode, Action<StoredDocument> visit)
    {
        using var command = Sql.Command(c, DocumentStore.Columns + " WHERE state = 'filed' AND type_code = $type ORDER BY id", [("$type", typeCode)]);
        using var reader = command.ExecuteReader();
        while (reader.Read()) visit(DocumentStore.Map(reader));
    }

    /// <summary>All places taken, streamed.</summary>
    public static void EachPlace(SqliteConnection c, Action<string, string> visit)
    {
        using var command = Sql.Command(c, "SELECT folder, name FROM documents WHERE state = 'filed'", []);
        using var reader = command.ExecuteReader();
        while (reader.Read()) visit(reader.GetString(0), reader.GetString(1));
    }

    private static string Where(RepositoryQuery query, List<(string, object?)> parameters)
    {
        var where = "d.state = 'filed'";
        if (query.Folder.Length > 0)
        {
            where += " AND (d.folder = $folder OR d.folder LIKE $below ESCAPE '\\')";
            parameters.Add(("$folder", query.Folder));
            parameters.Add(("$below", Escape(query.Folder) + "/%"));
        }
        if (query.TypeCode is { } type)
        {
            where += " AND d.type_code = $type";
            parameters.Add(("$type", type));
        }
        if (query.Field is { } field && query.FieldText.Trim() is { Length: > 0 } text)
        {
            where += " AND d.record ->> $field LIKE $text ESCAPE '\\'";
            parameters.Add(("$field", JsonPath(field)));
            parameters.Add(("$text", $"%{Escape(text)}%"));
        }
        if (Match(query.Anywhere, query.IncludeRestricted) is { } match)
        {
            where += " AND d.id IN (SELECT rowid FROM document_text WHERE document_text MATCH $match)";
            parameters.Add(("$match", match));
            if (query.NotByWords.Count > 0)
            {
                where += " AND d.type_code NOT IN (SELECT value FROM json_each($closed))";
                parameters.Add(("$closed", Sql.ToJson(query.NotByWords)));
            }
        }
        return where;
    }

    /// <summary>Words as an FTS5 query: all of them, each from its beginning. Null when there is no word.</summary>
    internal static string? Match(string words, bool includeRestricted)
    {
        var quoted = words.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
            .Where(w => w.Any(char.IsLetterOrDigit))
            .Select(w => $"\"{w.Replace("\"", "\"\"", StringComparison.Ordinal)}\" *").ToList();
        if (quoted.Count == 0) return null;
        var all = string.Join(" AND ", quoted);
        return includeRestricted ? all : $"{{body}} : ({all})";
    }

    private static string JsonPath(string key) => $"$.\"{key.Replace("\"", "", StringComparison.Ordinal)}\"";

    private static string Escape(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal);
}
