using ClearLexicon.Core.Reading.Stacks;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Ways in, and what watched folders gave.</summary>
public static class WayInStore
{
    /// <summary>All ways in by key.</summary>
    public static List<WayIn> All(SqliteConnection c) =>
        c.Query("SELECT definition FROM ways_in ORDER BY key", r => r.FromJson<WayIn>("definition"));

    /// <summary>One way in, or null.</summary>
    public static WayIn? Find(SqliteConnection c, string key) =>
        c.Query("SELECT definition FROM ways_in WHERE key = $key", r => r.FromJson<WayIn>("definition"), ("$key", key)).FirstOrDefault();

    /// <summary>Adds or replaces a way in.</summary>
    public static void Save(SqliteConnection c, WayIn way) =>
        c.Execute(
            "INSERT INTO ways_in (key, definition) VALUES ($key, $definition) ON CONFLICT (key) DO UPDATE SET definition = $definition",
            ("$key", way.Key),
            ("$definition", Sql.ToJson(way))
        );

    /// <summary>Removes a way in; batches that came by it keep its key.</summary>
    public static void Remove(SqliteConnection c, string key) => c.Execute("DELETE FROM ways_in WHERE key = $key", ("$key", key));

    /// <summary>Notes that a watched folder gave a file, in the transaction that keeps it.</summary>
    public static void Take(SqliteConnection c, string key, string hash, string name, long fileId, DateTimeOffset at) =>
        c.Execute(
            "INSERT INTO taken_files (way_in, hash, name, file_id, taken_at) VALUES ($way, $hash, $name, $file, $at)",
            ("$way", key),
            ("$hash", hash),
            ("$name", name),
            ("$file", fileId),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>When the same content came before; null when it did not.</summary>
    public static TakenFile? Taken(SqliteConnection c, string key, string hash) =>
        c.Query(TakenColumns + " WHERE t.way_in = $way AND t.hash = $hash", Map, ("$way", key), ("$hash", hash)).FirstOrDefault();

    /// <summary>What a watched folder gave and was not put away yet.</summary>
    public static List<TakenFile> ToPutAway(SqliteConnection c, string key) =>
        c.Query(TakenColumns + " WHERE t.way_in = $way AND t.put_away = 0", Map, ("$way", key));

    /// <summary>Notes that a file was moved out of the way.</summary>
    public static void PutAway(SqliteConnection c, string key, string hash) =>
        c.Execute("UPDATE taken_files SET put_away = 1 WHERE way_in = $way AND hash = $hash", ("$way", key), ("$hash", hash));

    private const string TakenColumns = """
        SELECT t.hash, t.name, t.taken_at, t.put_away, f.state, f.message, f.batch_id
        FROM taken_files t JOIN batch_files f ON f.id = t.file_id
        """;

    private static TakenFile Map(Row r) =>
        new(
            r.Text("hash"),
            r.Text("name"),
            r.Moment("taken_at"),
            r.Int("put_away") == 1,
            r.Code<FileState>("state"),
            r.TextOrNone("message"),
            r.Long("batch_id")
        );
}

/// <summary>A file that a watched folder gave.</summary>
/// <param name="Hash">SHA-256 of its content.</param>
/// <param name="Name">Where it lay in the folder.</param>
/// <param name="At">When it was taken.</param>
/// <param name="IsPutAway">Whether it was moved out of the way.</param>
/// <param name="State">What has become of it.</param>
/// <param name="Message">Why it was refused.</param>
/// <param name="BatchId">The batch it came in.</param>
public sealed record TakenFile(string Hash, string Name, Instant At, bool IsPutAway, FileState State, string? Message, long BatchId);
