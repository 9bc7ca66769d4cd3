using ClearLexicon.Core.Vocabularies;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>The filed documents: folders, places; see <see cref="RepositorySearch"/> for finding.</summary>
public static class RepositoryStore
{
    /// <summary>Folders with the number of documents right in them.</summary>
    public static List<(string Folder, int Count)> Folders(SqliteConnection c) =>
        c.Query("SELECT path, here FROM folders WHERE here > 0 ORDER BY path", r => (r.Text("path"), r.Int("here")));

    /// <summary>Number of filed documents of each type.</summary>
    public static Dictionary<string, int> CountByType(SqliteConnection c) =>
        c.Query("SELECT type_code, filed FROM filed_types WHERE filed > 0", r => (r.Text("type_code"), r.Int("filed")))
            .ToDictionary(t => t.Item1, t => t.Item2);

    /// <summary>The filed document that has a place, regardless of case, other than the one given; null when it is free.</summary>
    public static long? At(SqliteConnection c, string folder, string name, long exceptId = 0) =>
        c.Query(
                "SELECT id FROM documents WHERE state = 'filed' AND place_key = $key AND id <> $id",
                r => (long?)r.Long("id"),
                ("$key", Database.PlaceKey(folder, name)),
                ("$id", exceptId)
            )
            .FirstOrDefault();

    /// <summary>Which of many places are taken.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="keys">Keys of places (<see cref="Database.PlaceKey"/>); null for none.</param>
    public static HashSet<string> TakenPlaces(SqliteConnection c, IEnumerable<string?> keys) =>
        c.Query(
                "SELECT place_key FROM documents WHERE state = 'filed' AND place_key IN (SELECT value FROM json_each($keys))",
                r => r.Text("place_key"),
                ("$keys", Sql.ToJson(keys.OfType<string>()))
            )
            .ToHashSet(StringComparer.Ordinal);

    /// <summary>
    /// A folder as it is spelled in the repository already: “slips/New” where documents stand in “Slips” is “Slips/New”. Two folders
    /// that differ in nothing but case would be one on most shares.
    /// </summary>
    public static string Spelled(SqliteConnection c, string folder, long exceptId = 0)
    {
        for (var end = folder.Length; end > 0; end = folder.LastIndexOf('/', end - 1))
        {
            var key = Database.PlaceKey(folder[..end], "");
            var known = c.Query(
                    "SELECT folder FROM documents WHERE state = 'filed' AND place_key >= $from AND place_key < $to AND id <> $id LIMIT 1",
                    r => r.Text("folder"),
                    ("$from", key),
                    ("$to", key[..^1] + '0'),
                    ("$id", exceptId)
                )
                .FirstOrDefault();
            if (
                known is not null
                && known.Length >= end
                && (known.Length == end || known[end] == '/')
                && Database.PlaceKey(known[..end], "") == key
            )
                return known[..end] + folder[end..];
        }
        return folder;
    }

    /// <summary>Filed documents right in a folder.</summary>
    public static List<StoredDocument> In(SqliteConnection c, string folder, int take) =>
        c.Query(
            DocumentStore.Columns + " WHERE state = 'filed' AND folder = $folder ORDER BY name LIMIT $take",
            DocumentStore.Map,
            ("$folder", folder),
            ("$take", take)
        );

    /// <summary>The filed documents of a type in the order they were filed, streamed.</summary>
    public static void Each(SqliteConnection c, string typeCode, Action<StoredDocument> visit)
    {
        const string OfType = DocumentStore.Columns + " WHERE state = 'filed' AND type_code = $type ORDER BY id";
        foreach (var document in c.Stream(OfType, DocumentStore.Map, [("$type", typeCode)]))
            visit(document);
    }

    /// <summary>All places taken, streamed.</summary>
    public static void EachPlace(SqliteConnection c, Action<string, string> visit)
    {
        const string Places = "SELECT folder, name FROM documents WHERE state = 'filed'";
        foreach (var (folder, name) in c.Stream(Places, r => (r.Text("folder"), r.Text("name")), []))
            visit(folder, name);
    }

    /// <summary>
    /// Words as an FTS5 query: all of them, each from its beginning, folded as in <see cref="DocumentStore.IndexText"/>. Null when there is
    /// no word.
    /// </summary>
    internal static string? Match(string words, bool includeRestricted)
    {
        var quoted = words
            .Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
            .Select(Folding.Fold)
            .Where(w => w.Any(char.IsLetterOrDigit))
            .Select(w => $"\"{w}\" *")
            .ToList();
        if (quoted.Count == 0)
            return null;
        var all = string.Join(" AND ", quoted);
        return includeRestricted ? all : $"{{body}} : ({all})";
    }
}
