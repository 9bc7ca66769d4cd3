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
public sealed record LedgerEntry(long Seq, string At, string Who, string Action, string Object, string Detail, string Hash)
{
    /// <summary>When, as other moments are; null when the line has been changed so that it says none.</summary>
    public Instant? Moment => Instant.Read(At);
}

/// <summary>Which lines of the ledger are asked for; what is empty does not count.</summary>
/// <param name="Who">Name of the person, exactly.</param>
/// <param name="Object">What it was done to, exactly.</param>
/// <param name="Action">Part of what was done.</param>
/// <param name="From">First day, ISO 8601.</param>
/// <param name="To">Last day, ISO 8601.</param>
public sealed record LedgerFilter(string Who = "", string Object = "", string Action = "", string From = "", string To = "");

/// <summary>What a look over the ledger found.</summary>
/// <param name="Seq">The last line that follows from the one before.</param>
/// <param name="Hash">Its hash.</param>
/// <param name="FirstBroken">The first line that does not follow; null when all do.</param>
/// <param name="EndIsCut">Whether the newest line is not the one that was signed last: lines were taken from the end, or added
/// elsewhere.</param>
public sealed record LedgerVerdict(long Seq, string Hash, long? FirstBroken, bool EndIsCut)
{
    /// <summary>Nothing was changed.</summary>
    public bool Sound => FirstBroken is null && !EndIsCut;
}

/// <summary>The append-only ledger. Each line's hash covers the line before, so a changed or missing line shows.</summary>
public static class LedgerStore
{
    /// <summary>Appends a line.</summary>
    public static void Append(SqliteConnection c, DateTimeOffset at, string who, string action, string @object, string detail = "")
    {
        var (seq, previous) = c.Query("SELECT seq, hash FROM ledger ORDER BY seq DESC LIMIT 1", r => (r.Long("seq"), r.Text("hash")))
            .FirstOrDefault((0, ""));
        var when = at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ss.fffZ");
        c.Execute(
            "INSERT INTO ledger (seq, at, who, action, object, detail, hash) VALUES ($seq, $at, $who, $action, $object, $detail, $hash)",
            ("$seq", seq + 1),
            ("$at", when),
            ("$who", who),
            ("$action", action),
            ("$object", @object),
            ("$detail", detail),
            ("$hash", Hash(previous, seq + 1, when, who, action, @object, detail))
        );
        c.Execute(
            "UPDATE ledger_head SET (seq, hash) = (SELECT seq, hash FROM ledger ORDER BY seq DESC LIMIT 1); UPDATE ledger_head "
                + "SET signature = ledger_sign(seq || ' ' || hash)"
        );
    }

    /// <summary>The newest lines first.</summary>
    public static List<LedgerEntry> Newest(SqliteConnection c, int count, int skip = 0) =>
        c.Query(
            "SELECT seq, at, who, action, object, detail, hash FROM ledger ORDER BY seq DESC LIMIT $n OFFSET $skip",
            Map,
            ("$n", count),
            ("$skip", skip)
        );

    /// <summary>The newest line about an object, or null.</summary>
    public static LedgerEntry? LastAbout(SqliteConnection c, string @object) =>
        c.Query(
                "SELECT seq, at, who, action, object, detail, hash FROM ledger WHERE object = $object ORDER BY seq DESC LIMIT 1",
                Map,
                ("$object", @object)
            )
            .FirstOrDefault();

    /// <summary>The newest lines of a person.</summary>
    public static List<LedgerEntry> LatestBy(SqliteConnection c, string who, int count) =>
        c.Query(
            "SELECT seq, at, who, action, object, detail, hash FROM ledger WHERE who = $who ORDER BY seq DESC LIMIT $n",
            Map,
            ("$who", who),
            ("$n", count)
        );

    /// <summary>Lines that a filter leaves, the newest first, before a number.</summary>
    public static List<LedgerEntry> Find(SqliteConnection c, LedgerFilter filter, int count, long before = long.MaxValue) =>
        c.Query(
            """
            SELECT seq, at, who, action, object, detail, hash FROM ledger
            WHERE seq < $before AND ($who = '' OR who = $who) AND ($object = '' OR object = $object)
            AND ($action = '' OR instr(action, $action) > 0)
              AND ($from = '' OR at >= $from) AND ($to = '' OR substr(at, 1, 10) <= $to) ORDER BY seq DESC LIMIT $n
            """,
            Map,
            ("$n", count),
            ("$before", before),
            ("$who", filter.Who),
            ("$object", filter.Object),
            ("$action", filter.Action),
            ("$from", filter.From),
            ("$to", filter.To)
        );

    /// <summary>
    /// Looks whether every line after a known one follows from the one before, and whether the newest is the one that was signed.
    /// </summary>
    /// <param name="c">An open connection.</param>
    /// <param name="known">The last line that was found sound; the beginning when null.</param>
    public static LedgerVerdict Verify(SqliteConnection c, LedgerVerdict? known = null)
    {
        var (at, previous) = known is { Sound: true } ? (known.Seq, known.Hash) : (0L, "");
        var lines = c.Stream(
            "SELECT seq, at, who, action, object, detail, hash FROM ledger WHERE seq > $at ORDER BY seq",
            Map,
            [("$at", at)]
        );
        foreach (var e in lines)
        {
            if (e.Seq != at + 1 || e.Hash != Hash(previous, e.Seq, e.At, e.Who, e.Action, e.Object, e.Detail))
                return new LedgerVerdict(at, previous, at + 1, false);
            (at, previous) = (e.Seq, e.Hash);
        }
        var signed = c.Query(
                "SELECT seq, hash, signature = ledger_sign(seq || ' ' || hash) AS is_good FROM ledger_head",
                r => (Seq: r.Long("seq"), Hash: r.Text("hash"), Good: r.Flag("is_good"))
            )
            .FirstOrDefault();
        return new LedgerVerdict(at, previous, null, !(signed.Good && signed.Seq == at && signed.Hash == previous));
    }

    private static LedgerEntry Map(Row r) =>
        new(r.Long("seq"), r.Text("at"), r.Text("who"), r.Text("action"), r.Text("object"), r.Text("detail"), r.Text("hash"));

    private static string Hash(string previous, long seq, params ReadOnlySpan<string> parts)
    {
        // Lengths in front, so that moving a character from one part to the next changes the hash.
        var text = new StringBuilder(previous).Append('\n').Append(seq);
        foreach (var part in parts)
            text.Append('\n').Append(part.Length).Append(':').Append(part);
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())));
    }

    /// <summary>A text that changes whenever something is done to designs, documents or values.</summary>
    public static string State(SqliteConnection c) =>
        c.Scalar<string>(
            "SELECT coalesce((SELECT max(seq) FROM ledger), 0) || '.' || coalesce((SELECT max(id) "
                + "FROM value_history), 0) || '.' || coalesce((SELECT max(id) FROM documents), 0)"
        )!;
}
