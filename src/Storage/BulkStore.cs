using ClearLexicon.Core.Fields;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A change of one field, and what goes with it.</summary>
/// <param name="What">The change.</param>
/// <param name="Reason">Why; it overrides what rules say that should hold.</param>
/// <param name="Moves">Whether documents move where they belong then.</param>
public sealed record BulkOrder(BulkChange What, string Reason, bool Moves);

/// <summary>A bulk edit.</summary>
/// <param name="Id">Id.</param>
/// <param name="TypeCode">Document type.</param>
/// <param name="Asks">Which documents.</param>
/// <param name="Order">What is done.</param>
/// <param name="State"><c>looking</c>, <c>looked</c>, <c>applying</c>, <c>applied</c>, <c>undoing</c> or <c>undone</c>.</param>
/// <param name="Looked">How many documents were looked at.</param>
/// <param name="At">When it was begun.</param>
/// <param name="Who">By whom.</param>
public sealed record BulkEdit(
    long Id,
    string TypeCode,
    ViewDefinition Asks,
    BulkOrder Order,
    string State,
    long Looked,
    string At,
    string Who
);

/// <summary>A value that a bulk edit changes.</summary>
/// <param name="Id">Id.</param>
/// <param name="Document">The document.</param>
/// <param name="Name">What the document is called.</param>
/// <param name="Before">What stood there when it was looked at.</param>
/// <param name="After">What it becomes.</param>
/// <param name="ToPath">Where the document belongs then, when that is elsewhere; null when it stands right.</param>
/// <param name="State"><c>planned</c>, <c>held</c> (a rule stands against it), <c>set</c>, <c>left</c> (not set, with a reason),
/// <c>back</c> (taken back) or <c>stays</c> (somebody changed it after it was set).</param>
/// <param name="Reason">Why it was held or left.</param>
public sealed record BulkValue(
    long Id,
    long Document,
    string Name,
    string Before,
    string After,
    string? ToPath,
    string State,
    string? Reason
);

/// <summary>Bulk edits, and what each changes.</summary>
public static class BulkStore
{
    private const string Edits = "SELECT id, type_code, asks, change, state, looked, at, who FROM bulk_edits";

    /// <summary>Begins one.</summary>
    public static long Begin(SqliteConnection c, string typeCode, ViewDefinition asks, BulkOrder order, DateTimeOffset at, string who) =>
        c.Scalar<long>(
            """
            INSERT INTO bulk_edits (type_code, asks, change, state, at, who) VALUES ($type, $asks, $change, 'looking', $at, $who)
            RETURNING id
            """,
            ("$type", typeCode),
            ("$asks", Sql.ToJson(asks)),
            ("$change", Sql.ToJson(order)),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );

    /// <summary>One, or null.</summary>
    public static BulkEdit? Find(SqliteConnection c, long id) => c.Query(Edits + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>The newest ones.</summary>
    public static List<BulkEdit> Newest(SqliteConnection c, int most) =>
        c.Query(Edits + " ORDER BY id DESC LIMIT $most", Map, ("$most", most));

    /// <summary>Notes what has become of one.</summary>
    public static void SetState(SqliteConnection c, long id, string state) =>
        c.Execute("UPDATE bulk_edits SET state = $state WHERE id = $id", ("$id", id), ("$state", state));

    /// <summary>Notes that more documents were looked at.</summary>
    public static void Looked(SqliteConnection c, long id, int more) =>
        c.Execute("UPDATE bulk_edits SET looked = looked + $more WHERE id = $id", ("$id", id), ("$more", more));

    /// <summary>Forgets what a look has found, to look again from the beginning.</summary>
    public static void Forget(SqliteConnection c, long id)
    {
        c.Execute("DELETE FROM bulk_values WHERE edit_id = $id", ("$id", id));
        c.Execute("UPDATE bulk_edits SET looked = 0 WHERE id = $id", ("$id", id));
    }

    /// <summary>Adds a value that one would change.</summary>
    /// <param name="c">An open transaction.</param>
    /// <param name="edit">The bulk edit.</param>
    /// <param name="document">The document.</param>
    /// <param name="before">What stands there.</param>
    /// <param name="after">What it becomes.</param>
    /// <param name="toPath">Where the document belongs then; null when it stands right.</param>
    /// <param name="held">Why it cannot be set; null when it can.</param>
    public static void Plan(SqliteConnection c, long edit, long document, string before, string after, string? toPath, string? held) =>
        c.Execute(
            """
            INSERT OR IGNORE INTO bulk_values (edit_id, document_id, before, after, to_path, state, reason)
            VALUES ($edit, $document, $before, $after, $path, $state, $held)
            """,
            ("$edit", edit),
            ("$document", document),
            ("$before", before),
            ("$after", after),
            ("$path", toPath),
            ("$state", held is null ? "planned" : "held"),
            ("$held", held)
        );

    /// <summary>Values of one in a state, in the order they were looked at.</summary>
    public static List<BulkValue> Values(SqliteConnection c, long edit, string state, int most) =>
        c.Query(
            """
            SELECT v.id, v.document_id, coalesce(d.name, d.source_name), v.before, v.after, v.to_path, v.state, v.reason
            FROM bulk_values v JOIN documents d ON d.id = v.document_id
            WHERE v.edit_id = $edit AND v.state = $state ORDER BY v.id LIMIT $most
            """,
            Value,
            ("$edit", edit),
            ("$state", state),
            ("$most", most)
        );

    /// <summary>Documents of one that have to move yet, or back.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="edit">The bulk edit.</param>
    /// <param name="state">State of their values.</param>
    /// <param name="moved">Whether they have moved already.</param>
    /// <param name="most">Most of them.</param>
    public static List<(long Value, long Document)> ToMove(SqliteConnection c, long edit, string state, bool moved, int most) =>
        c.Query(
            """
            SELECT id, document_id FROM bulk_values
            WHERE edit_id = $edit AND state = $state AND moved = $moved AND to_path IS NOT NULL ORDER BY id LIMIT $most
            """,
            r => (r.GetInt64(0), r.GetInt64(1)),
            ("$edit", edit),
            ("$state", state),
            ("$moved", moved),
            ("$most", most)
        );

    /// <summary>Notes that a document has moved, or moved back.</summary>
    public static void SetMoved(SqliteConnection c, long value, bool moved) =>
        c.Execute("UPDATE bulk_values SET moved = $moved WHERE id = $id", ("$id", value), ("$moved", moved));

    /// <summary>How many values of one are in each state, and how many of them change the document's place.</summary>
    public static Dictionary<string, (long Number, long Paths)> Counts(SqliteConnection c, long edit) =>
        c.Query(
                "SELECT state, count(*), count(to_path) FROM bulk_values WHERE edit_id = $edit GROUP BY state",
                r => (State: r.GetString(0), Number: r.GetInt64(1), Paths: r.GetInt64(2)),
                ("$edit", edit)
            )
            .ToDictionary(r => r.State, r => (r.Number, r.Paths), StringComparer.Ordinal);

    /// <summary>Notes what has become of a value.</summary>
    public static void Settle(SqliteConnection c, long id, string state, string? reason = null) =>
        c.Execute(
            "UPDATE bulk_values SET state = $state, reason = $reason WHERE id = $id",
            ("$id", id),
            ("$state", state),
            ("$reason", reason)
        );

    private static BulkEdit Map(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.GetString(1),
            r.FromJson<ViewDefinition>(2),
            r.FromJson<BulkOrder>(3),
            r.GetString(4),
            r.GetInt64(5),
            r.GetString(6),
            r.GetString(7)
        );

    private static BulkValue Value(SqliteDataReader r) =>
        new(r.GetInt64(0), r.GetInt64(1), r.GetString(2), r.GetString(3), r.GetString(4), r.Text(5), r.GetString(6), r.Text(7));
}
