using System.Security.Cryptography;
using System.Text;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>One line of the ledger.</summary>
/// <param name="Seq">Number from 1 without gaps.</param>
/// <param name="At">When, ISO 8601 in UTC.</param>
/// <param name="Who">Name of the person, or of the process.</param>
/// <param name="Action">What was done.</param>
/// <param name="Object">To what, in words.</param>
/// <param name="Detail">What else is worth knowing; never a restricted value.</param>
/// <param name="Hash">SHA-256 over the previous line's hash and this line's words.</param>
public sealed record LedgerEntry(long Seq, string At, string Who, string Action, string Object, string Detail, string Hash)
{
    /// <summary>To what; null for a line from before subjects were kept, of which the words say too little.</summary>
    public LedgerSubject? Subject { get; init; }

    /// <summary>What others act upon; null for most lines.</summary>
    public LedgerEvent? Event { get; init; }

    /// <summary>When, as other moments are; null when the line has been changed so that it says none.</summary>
    public Instant? Moment => Instant.Read(At);
}

/// <summary>Which lines of the ledger are asked for; what is empty does not count.</summary>
/// <param name="Who">Name of the person, exactly.</param>
/// <param name="Object">What it was done to: the words of the line, or the key of the thing alone.</param>
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
    private const string Signed = "seq, at, who, action, object, detail, hash";
    private const string Columns = $"SELECT {Signed}, subject_kind, subject_id, event FROM ledger";

    /// <summary>Appends a line.</summary>
    /// <param name="c">A connection that writes.</param>
    /// <param name="at">When.</param>
    /// <param name="who">Who.</param>
    /// <param name="action">What was done, in words.</param>
    /// <param name="subject">To what.</param>
    /// <param name="detail">What else is worth knowing; never a restricted value.</param>
    /// <param name="what">What others act upon, if they do.</param>
    public static void Append(
        SqliteConnection c,
        DateTimeOffset at,
        string who,
        string action,
        LedgerSubject subject,
        string detail = "",
        LedgerEvent? what = null
    )
    {
        var (seq, previous) = c.Query("SELECT seq, hash FROM ledger ORDER BY seq DESC LIMIT 1", r => (r.Long("seq"), r.Text("hash")))
            .FirstOrDefault((0, ""));
        var (when, words) = (at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ss.fffZ"), subject.ToString());
        c.Execute(
            "INSERT INTO ledger (seq, at, who, action, object, detail, hash, subject_kind, subject_id, event) "
                + "VALUES ($seq, $at, $who, $action, $object, $detail, $hash, $kind, $id, $event)",
            ("$seq", seq + 1),
            ("$at", when),
            ("$who", who),
            ("$action", action),
            ("$object", words),
            ("$detail", detail),
            ("$hash", Hash(previous, seq + 1, when, who, action, words, detail)),
            ("$kind", Sql.Code(subject.Kind)),
            ("$id", subject.Id),
            ("$event", what is { } said ? Sql.Code(said) : null)
        );
        c.Execute(
            "UPDATE ledger_head SET (seq, hash) = (SELECT seq, hash FROM ledger ORDER BY seq DESC LIMIT 1); UPDATE ledger_head "
                + "SET signature = ledger_sign(seq || ' ' || hash)"
        );
    }

    /// <summary>The newest lines first.</summary>
    public static List<LedgerEntry> Newest(SqliteConnection c, int count, int skip = 0) =>
        c.Query(Columns + " ORDER BY seq DESC LIMIT $n OFFSET $skip", Map, ("$n", count), ("$skip", skip));

    /// <summary>The newest line about a thing, or null.</summary>
    public static LedgerEntry? LastAbout(SqliteConnection c, LedgerSubject subject) =>
        c.Query(
                Columns + " WHERE subject_kind = $kind AND subject_id = $id ORDER BY seq DESC LIMIT 1",
                Map,
                ("$kind", Sql.Code(subject.Kind)),
                ("$id", subject.Id)
            )
            .FirstOrDefault();

    /// <summary>The newest lines of a person.</summary>
    public static List<LedgerEntry> LatestBy(SqliteConnection c, string who, int count) =>
        c.Query(Columns + " WHERE who = $who ORDER BY seq DESC LIMIT $n", Map, ("$who", who), ("$n", count));

    /// <summary>Lines that a filter leaves, the newest first, before a number.</summary>
    public static List<LedgerEntry> Find(SqliteConnection c, LedgerFilter filter, int count, long before = long.MaxValue) =>
        c.Query(
            $"""
            {Columns}
            WHERE seq < $before AND ($who = '' OR who = $who) AND ($object = '' OR $object IN (object, subject_id))
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
        var lines = c.Stream($"SELECT {Signed} FROM ledger WHERE seq > $at ORDER BY seq", MapSigned, [("$at", at)]);
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

    private static LedgerEntry MapSigned(Row r) =>
        new(r.Long("seq"), r.Text("at"), r.Text("who"), r.Text("action"), r.Text("object"), r.Text("detail"), r.Text("hash"));

    private static LedgerEntry Map(Row r) =>
        MapSigned(r) with
        {
            Subject = r.TextOrNone("subject_id") is { } id ? new LedgerSubject(r.Code<SubjectKind>("subject_kind"), id) : null,
            Event = r.IsNull("event") ? null : r.Code<LedgerEvent>("event"),
        };

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
