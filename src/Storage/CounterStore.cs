using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>The last numbers that counters gave. A number once taken is never given again, whatever becomes of its document.</summary>
public static class CounterStore
{
    /// <summary>The last number given under a key; 0 when none was.</summary>
    public static int Last(SqliteConnection c, string key) =>
        (int)c.Scalar<long>("SELECT coalesce(max(last), 0) FROM counters WHERE key = $key", ("$key", key));

    /// <summary>Notes that a number was given.</summary>
    public static void Take(SqliteConnection c, string key, int number) =>
        c.Execute(
            "INSERT INTO counters (key, last) VALUES ($key, $n) ON CONFLICT (key) DO UPDATE SET last = max(last, excluded.last)",
            ("$key", key),
            ("$n", number)
        );

    /// <summary>All counters, streamed.</summary>
    public static void Each(SqliteConnection c, Action<string, int> visit)
    {
        foreach (var (key, last) in c.Stream("SELECT key, last FROM counters", r => (r.Text("key"), r.Int("last")), []))
            visit(key, last);
    }
}
