using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Who is told of which documents.</summary>
/// <param name="Id">Id; 0 for a new one.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Asks">Which documents.</param>
/// <param name="OnFiled">Whether somebody is told when one is filed.</param>
/// <param name="OnChanged">Whether somebody is told when one is changed.</param>
/// <param name="ToWhom">Name of a person, or a role.</param>
/// <param name="Daily">Whether mail goes out once a day; else at once.</param>
/// <param name="MadeBy">Who made it.</param>
public sealed record NoticeRule(
    long Id,
    string Name,
    ViewDefinition Asks,
    bool OnFiled,
    bool OnChanged,
    string ToWhom,
    bool Daily,
    string MadeBy
);

/// <summary>What somebody is told.</summary>
/// <param name="Id">Id.</param>
/// <param name="Rule">Name of the rule.</param>
/// <param name="Daily">Whether its mail goes out once a day.</param>
/// <param name="Person">Id of the person.</param>
/// <param name="Document">The document.</param>
/// <param name="Name">What the document is called.</param>
/// <param name="Folder">Where it stands; empty when it is on the desk again.</param>
/// <param name="What"><c>filed</c> or <c>changed</c>.</param>
/// <param name="At">When.</param>
/// <param name="Seen">Whether the person has seen it.</param>
public sealed record Notice(
    long Id,
    string Rule,
    bool Daily,
    long Person,
    long Document,
    string Name,
    string Folder,
    string What,
    Instant At,
    bool Seen
);

/// <summary>A filed document to which something happened.</summary>
/// <param name="At">Its place among what happened.</param>
/// <param name="Document">The document.</param>
public sealed record DocumentEvent(long At, long Document);

/// <summary>Rules by which people are told of documents, and what they are told.</summary>
public static class NoticeStore
{
    private const string Rules = "SELECT id, name, asks, on_filed, on_changed, to_whom, daily, made_by FROM notice_rules";
    private const string Columns = """
        SELECT n.id, r.name, r.daily, n.person_id, n.document_id, coalesce(d.name, d.source_name) AS document, coalesce(d.folder, '') AS folder, n.what, n.at, n.seen
        FROM notices n JOIN notice_rules r ON r.id = n.rule_id JOIN documents d ON d.id = n.document_id
        """;

    /// <summary>All rules, by name.</summary>
    public static List<NoticeRule> All(SqliteConnection c) => c.Query(Rules + " ORDER BY name, id", MapRule);

    /// <summary>Adds or changes a rule.</summary>
    public static long Put(SqliteConnection c, NoticeRule rule) =>
        c.Scalar<long>(
            """
            INSERT INTO notice_rules (id, name, asks, on_filed, on_changed, to_whom, daily, made_by)
            VALUES (nullif($id, 0), $name, $asks, $filed, $changed, $to, $daily, $who)
            ON CONFLICT (id) DO UPDATE SET name = $name, asks = $asks, on_filed = $filed, on_changed = $changed, to_whom = $to, daily = $daily
            RETURNING id
            """,
            ("$id", rule.Id),
            ("$name", rule.Name),
            ("$asks", Sql.ToJson(rule.Asks)),
            ("$filed", rule.OnFiled),
            ("$changed", rule.OnChanged),
            ("$to", rule.ToWhom),
            ("$daily", rule.Daily),
            ("$who", rule.MadeBy)
        );

    /// <summary>Removes a rule with what was told by it.</summary>
    public static void Remove(SqliteConnection c, long id) => c.Execute("DELETE FROM notice_rules WHERE id = $id", ("$id", id));

    /// <summary>Documents that were filed after a place in the ledger, and how far it was looked at.</summary>
    public static (List<DocumentEvent> Events, long Reached) Filed(SqliteConnection c, long after, int most)
    {
        var lines = c.Query(
            "SELECT seq, event = 'filed' AND subject_kind = 'document' AS is_filed, subject_id FROM ledger "
                + "WHERE seq > $after ORDER BY seq LIMIT $most",
            r => (Seq: r.Long("seq"), Document: r.IntOrNone("is_filed") == 1 ? long.Parse(r.Text("subject_id")) : (long?)null),
            ("$after", after),
            ("$most", most)
        );
        return (
            [.. lines.Where(l => l.Document is not null).Select(l => new DocumentEvent(l.Seq, l.Document!.Value))],
            lines.Count == 0 ? after : lines[^1].Seq
        );
    }

    /// <summary>Documents whose values were changed after a place in their history, and how far it was looked at.</summary>
    public static (List<DocumentEvent> Events, long Reached) Changed(SqliteConnection c, long after, int most)
    {
        var lines = c.Query(
            "SELECT id, document_id FROM value_history WHERE id > $after ORDER BY id LIMIT $most",
            r => new DocumentEvent(r.Long("id"), r.Long("document_id")),
            ("$after", after),
            ("$most", most)
        );
        return ([.. lines.DistinctBy(l => l.Document)], lines.Count == 0 ? after : lines[^1].At);
    }

    /// <summary>The ends of ledger and history.</summary>
    public static (long Ledger, long History) Ends(SqliteConnection c) =>
        (c.Scalar<long>("SELECT coalesce(max(seq), 0) FROM ledger"), c.Scalar<long>("SELECT coalesce(max(id), 0) FROM value_history"));

    /// <summary>The first lines of ledger and history that are not older than a moment, among the newest so many.</summary>
    public static (long Ledger, long History) Since(SqliteConnection c, DateTimeOffset from, int most) =>
        (
            c.Scalar<long>(
                "SELECT coalesce(min(seq) - 1, (SELECT max(seq) FROM ledger), 0) FROM (SELECT seq, at FROM ledger ORDER BY seq DESC "
                    + "LIMIT $most) WHERE at >= $from",
                ("$most", most),
                ("$from", from.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ss.fffZ", System.Globalization.CultureInfo.InvariantCulture))
            ),
            c.Scalar<long>(
                "SELECT coalesce(min(id) - 1, (SELECT max(id) FROM value_history), 0) FROM (SELECT id, at FROM value_history ORDER BY "
                    + "id DESC LIMIT $most) WHERE at >= $from",
                ("$most", most),
                ("$from", Sql.Stamp(from))
            )
        );

    /// <summary>Tells a person; what they have not seen yet of the same rule and document is told once.</summary>
    public static void Tell(SqliteConnection c, long rule, long document, long person, string what, bool hasAddress, DateTimeOffset at) =>
        c.Execute(
            """
            INSERT INTO notices (rule_id, document_id, person_id, what, at, mailed) VALUES ($rule, $document, $person, $what, $at, $mailed)
            ON CONFLICT (rule_id, document_id, person_id) WHERE seen = 0 DO UPDATE SET at = $at
            """,
            ("$rule", rule),
            ("$document", document),
            ("$person", person),
            ("$what", what),
            ("$at", Sql.Stamp(at)),
            ("$mailed", hasAddress ? 0 : 2)
        );

    /// <summary>What a person was told, what is new first, then the newest.</summary>
    public static List<Notice> Of(SqliteConnection c, long person, int most) =>
        c.Query(Columns + " WHERE n.person_id = $person ORDER BY n.seen, n.id DESC LIMIT $most", Map, ("$person", person), ("$most", most));

    /// <summary>How much of it is new, counted to a bound.</summary>
    public static long CountNew(SqliteConnection c, long person, int most) =>
        c.Scalar<long>(
            "SELECT count(*) FROM (SELECT 1 FROM notices WHERE person_id = $person AND seen = 0 LIMIT $most)",
            ("$person", person),
            ("$most", most)
        );

    /// <summary>Notes that a person has seen what they were told, up to one.</summary>
    public static void SetSeen(SqliteConnection c, long person, long upTo) =>
        c.Execute("UPDATE notices SET seen = 1 WHERE person_id = $person AND seen = 0 AND id <= $id", ("$person", person), ("$id", upTo));

    /// <summary>What is still to be mailed: at once, or of days before one.</summary>
    public static List<Notice> ToMail(SqliteConnection c, Instant today, int most) =>
        c.Query(
            Columns + " WHERE n.mailed = 0 AND (r.daily = 0 OR n.at < $today) ORDER BY n.id LIMIT $most",
            Map,
            ("$today", today.ToString()),
            ("$most", most)
        );

    /// <summary>Notes that some were mailed, or go to nobody's address.</summary>
    public static void SetMailed(SqliteConnection c, IEnumerable<long> ids, bool sent)
    {
        foreach (var id in ids)
            c.Execute("UPDATE notices SET mailed = $mailed WHERE id = $id", ("$id", id), ("$mailed", sent ? 1 : 2));
    }

    private static NoticeRule MapRule(Row r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.FromJson<ViewDefinition>("asks"),
            r.Flag("on_filed"),
            r.Flag("on_changed"),
            r.Text("to_whom"),
            r.Flag("daily"),
            r.Text("made_by")
        );

    private static Notice Map(Row r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.Flag("daily"),
            r.Long("person_id"),
            r.Long("document_id"),
            r.Text("document"),
            r.Text("folder"),
            r.Text("what"),
            r.Moment("at"),
            r.Flag("seen")
        );
}
