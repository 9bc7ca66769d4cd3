using System.Security.Cryptography;
using System.Text;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>One line of the ledger.</summary>
/// <param name="Seq">Number from 1 without gaps.</param>
/// <param name="At">When, ISO 8601 in UTC.</param>
/// <param name="Who">Name of the person, or of the process.</param>
/// <param name="Action">What was done.</param>
/// <param name="Object">To what.</param>
/// <param name="Detail">What else is worth knowing; never a restricted value.</param>
/// <param name="Hash">SHA-256 over the previous line's hash and this line.</param>
public sealed record LedgerEntry(long Seq, string At, string Who, string Action, string Object, string Detail, string Hash);

/// <summary>The append-only ledger. Each line's hash covers the line before, so a changed or missing line shows.</summary>
public static class LedgerStore
{
    /// <summary>Appends a line.</summary>
    public static void Append(SqliteConnection c, DateTimeOffset at, string who, string action, string @object, string detail = "")
    {
        var (seq, previous) = c.Query("SELECT seq, hash FROM ledger ORDER BY seq DESC LIMIT 1", r => (r.GetInt64(0), r.GetString(1))).FirstOrDefault((0, ""));
        var when = at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ss.fffZ");
        c.Execute("INSERT INTO ledger (seq, at, who, action, object, detail, hash) VALUES ($seq, $at, $who, $action, $object, $detail, $hash)",
            ("$seq", seq + 1), ("$at", when), ("$who", who), ("$action", action), ("$object", @object), ("$detail", detail),
            ("$hash", Hash(previous, seq + 1, when, who, action, @object, detail)));
    }

    /// <summary>The newest lines first.</summary>
    public static List<LedgerEntry> Newest(SqliteConnection c, int count, int skip = 0) =>
        c.Query("SELECT seq, at, who, action, object, detail, hash FROM ledger ORDER BY seq DESC LIMIT $n OFFSET $skip", Map, ("$n", count), ("$skip", skip));

    /// <summary>The newest line about an object, or null.</summary>
    public static LedgerEntry? LastAbout(SqliteConnection c, string @object) =>
        c.Query("SELECT seq, at, who, action, object, detail, hash FROM ledger WHERE object = $object ORDER BY seq DESC LIMIT 1", Map, ("$object", @object)).FirstOrDefault();

    /// <summary>The number of the first line that does not follow from the one before; null when all do.</summary>
    public static long? FirstBroken(SqliteConnection c)
    {
        var previous = "";
        var expected = 1L;
        foreach (var e in c.Query("SELECT seq, at, who, action, object, detail, hash FROM ledger ORDER BY seq", Map))
        {
            if (e.Seq != expected || e.Hash != Hash(previous, e.Seq, e.At, e.Who, e.Action, e.Object, e.Detail)) return expected;
            previous = e.Hash;
            expected++;
        }
        return null;
    }

    private static LedgerEntry Map(SqliteDataReader r) =>
        new(r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetString(4), r.GetString(5), r.GetString(6));

    private static string Hash(string previous, long seq, params ReadOnlySpan<string> parts)
    {
        // Lengths in front, so that moving a character from one part to the next changes the hash.
        var text = new StringBuilder(previous).Append('\n').Append(seq);
        foreach (var part in parts) text.Append('\n').Append(part.Length).Append(':').Append(part);
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())));
    }

    /// <summary>A text that changes whenever something is done to designs, documents or values.</summary>
    public static string State(SqliteConnection c) =>
        c.Scalar<string>("SELECT coalesce((SELECT max(seq) FROM ledger), 0) || '.' || coalesce((SELECT max(id) FROM value_history), 0) || '.' || (SELECT count(*) FROM documents)")!;
}
