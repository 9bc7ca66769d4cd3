using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>An act that gives documents another type.</summary>
/// <param name="Id">Id.</param>
/// <param name="ToType">Code of the type that they get.</param>
/// <param name="Asks">Which filed documents; null for one document.</param>
/// <param name="Document">The one document; null for those that are asked for.</param>
/// <param name="Rereads">Whether they are read again by readers of the new type.</param>
/// <param name="Reason">Why; overrides what rules say that should hold.</param>
/// <param name="State"><c>looking</c>, <c>looked</c>, <c>applying</c>, <c>applied</c>, <c>undoing</c> or <c>undone</c>.</param>
/// <param name="At">When it was begun.</param>
/// <param name="Who">By whom.</param>
public sealed record RetypeRun(
    long Id,
    string ToType,
    ViewDefinition? Asks,
    long? Document,
    bool Rereads,
    string Reason,
    string State,
    string At,
    string Who
);

/// <summary>What another type has no place for.</summary>
/// <param name="Label">The field.</param>
/// <param name="Text">Its value.</param>
public sealed record LostValue(string Label, string Text);

/// <summary>A document that gets another type.</summary>
/// <param name="Document">The document.</param>
/// <param name="Name">What it is called.</param>
/// <param name="State"><c>planned</c>, <c>held</c> (a rule stands against it), <c>moving</c> (changed, on the way to its place),
/// <c>done</c>,
/// <c>left</c>, <c>returning</c>, <c>back</c> or <c>stays</c>.</param>
/// <param name="ToPath">Where it belongs then.</param>
/// <param name="Lost">What the new type has no place for.</param>
/// <param name="Says">Why it is held, was left or stays.</param>
/// <param name="Before">The document as it was; null until it is changed.</param>
/// <param name="Move">The move that brought it to its place; null for none.</param>
/// <param name="LastChange">The newest line of its history when it was changed.</param>
public sealed record RetypedDocument(
    long Document,
    string Name,
    string State,
    string ToPath,
    IReadOnlyList<LostValue> Lost,
    string Says,
    StoredDocument? Before,
    long? Move,
    long LastChange
);

/// <summary>Acts that give documents another type.</summary>
public static class RetypeStore
{
    /// <summary>The newest line of a document's history when it was given another type last; 0 when it never was.</summary>
    public static long LastChange(SqliteConnection c, long document) =>
        c.Scalar<long>(
            "SELECT coalesce(max(last_change), 0) FROM retypings WHERE document_id = $id AND before IS NOT NULL",
            ("$id", document)
        );

    private const string Runs = "SELECT id, to_type, asks, document_id, rereads, reason, state, at, who FROM retype_runs";
    private const string Documents = "SELECT document_id, name, state, to_path, lost, says, before, move_id, last_change FROM retypings";

    /// <summary>Begins one.</summary>
    public static long Begin(
        SqliteConnection c,
        string toType,
        ViewDefinition? asks,
        long? document,
        bool rereads,
        string reason,
        DateTimeOffset at,
        string who
    ) =>
        c.Scalar<long>(
            """
            INSERT INTO retype_runs (to_type, asks, document_id, rereads, reason, state, at, who)
            VALUES ($type, $asks, $document, $rereads, $reason, 'looking', $at, $who) RETURNING id
            """,
            ("$type", toType),
            ("$asks", asks is null ? null : Sql.ToJson(asks)),
            ("$document", document),
            ("$rereads", rereads ? 1 : 0),
            ("$reason", reason),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );

    /// <summary>One, or null.</summary>
    public static RetypeRun? Find(SqliteConnection c, long id) => c.Query(Runs + " WHERE id = $id", MapRun, ("$id", id)).FirstOrDefault();

    /// <summary>The newest that were more than a look.</summary>
    public static List<RetypeRun> Newest(SqliteConnection c, int most) =>
        c.Query(Runs + " ORDER BY id DESC LIMIT $most", MapRun, ("$most", most));

    /// <summary>Notes what has become of one.</summary>
    public static void SetState(SqliteConnection c, long id, string state) =>
        c.Execute("UPDATE retype_runs SET state = $state WHERE id = $id", ("$id", id), ("$state", state));

    /// <summary>Forgets what a look has planned: it is looked at anew.</summary>
    public static void Forget(SqliteConnection c, long run) => c.Execute("DELETE FROM retypings WHERE run_id = $run", ("$run", run));

    /// <summary>Plans a document.</summary>
    public static void Plan(SqliteConnection c, long run, RetypedDocument document) =>
        c.Execute(
            """
            INSERT OR REPLACE INTO retypings (run_id, document_id, name, state, to_path, lost, says)
            VALUES ($run, $document, $name, $state, $path, $lost, $says)
            """,
            ("$run", run),
            ("$document", document.Document),
            ("$name", document.Name),
            ("$state", document.State),
            ("$path", document.ToPath),
            ("$lost", Sql.ToJson(document.Lost)),
            ("$says", document.Says)
        );

    /// <summary>Notes that a document was changed, with what it was before and the newest line of its history.</summary>
    public static void Changed(SqliteConnection c, long run, StoredDocument before, string state) =>
        c.Execute(
            """
            UPDATE retypings SET state = $state, before = $before,
              last_change = coalesce((SELECT max(id) FROM value_history WHERE document_id = $document), 0)
            WHERE run_id = $run AND document_id = $document
            """,
            ("$run", run),
            ("$document", before.Id),
            ("$state", state),
            ("$before", Sql.ToJson(before))
        );

    /// <summary>Notes what has become of a document.</summary>
    public static void Set(SqliteConnection c, long run, long document, string state, string says, long? move = null) =>
        c.Execute(
            "UPDATE retypings SET state = $state, says = $says, move_id = coalesce($move, move_id) WHERE run_id = $run AND "
                + "document_id = $document",
            ("$run", run),
            ("$document", document),
            ("$state", state),
            ("$says", says),
            ("$move", move)
        );

    /// <summary>Documents of a run in some of its states.</summary>
    public static List<RetypedDocument> In(SqliteConnection c, long run, int most, params string[] states) =>
        c.Query(
            Documents + " WHERE run_id = $run AND state IN (SELECT value FROM json_each($states)) ORDER BY document_id LIMIT $most",
            Map,
            ("$run", run),
            ("$states", Sql.ToJson(states)),
            ("$most", most)
        );

    /// <summary>How many documents of a run are in each state.</summary>
    public static Dictionary<string, long> Counts(SqliteConnection c, long run) =>
        c.Query(
                "SELECT state, count(*) FROM retypings WHERE run_id = $run GROUP BY state",
                r => (r.GetString(0), r.GetInt64(1)),
                ("$run", run)
            )
            .ToDictionary();

    /// <summary>Documents that a stop has met between their change and their move.</summary>
    public static List<(long Run, RetypedDocument Document)> UnderWay(SqliteConnection c) =>
        c.Query(
            "SELECT document_id, name, state, to_path, lost, says, before, move_id, last_change, run_id FROM retypings WHERE state IN "
                + "('moving', 'returning')",
            r => (r.GetInt64(9), Map(r))
        );

    /// <summary>Whether no value of a document was set since a line of its history.</summary>
    public static bool IsUntouched(SqliteConnection c, long document, long lastChange) =>
        c.Scalar<long>("SELECT coalesce(max(id), 0) FROM value_history WHERE document_id = $id", ("$id", document)) == lastChange;

    private static RetypeRun MapRun(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.GetString(1),
            r.IsDBNull(2) ? null : r.FromJson<ViewDefinition>(2),
            r.IsDBNull(3) ? null : r.GetInt64(3),
            r.GetBoolean(4),
            r.GetString(5),
            r.GetString(6),
            r.GetString(7),
            r.GetString(8)
        );

    private static RetypedDocument Map(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.GetString(1),
            r.GetString(2),
            r.GetString(3),
            r.FromJson<List<LostValue>>(4),
            r.GetString(5),
            r.IsDBNull(6) ? null : r.FromJson<StoredDocument>(6),
            r.IsDBNull(7) ? null : r.GetInt64(7),
            r.GetInt64(8)
        );
}
