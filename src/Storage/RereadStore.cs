using ClearLexicon.Core.Reading;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A run that reads documents again.</summary>
/// <param name="Id">Id.</param>
/// <param name="Reader">Key of the reader.</param>
/// <param name="Version">Its published version.</param>
/// <param name="Scope"><c>desk</c>, <c>filed</c> or <c>both</c>.</param>
/// <param name="OnlyEmpty">Whether only fields are set that hold nothing.</param>
/// <param name="State"><c>looking</c>, <c>looked</c>, <c>applying</c>, <c>applied</c>, <c>undoing</c> or <c>undone</c>.</param>
/// <param name="Reached">The last document that was looked at.</param>
/// <param name="Looked">How many were looked at.</param>
/// <param name="At">When it was begun.</param>
/// <param name="Who">By whom.</param>
public sealed record Rereading(
    long Id,
    string Reader,
    int Version,
    string Scope,
    bool OnlyEmpty,
    string State,
    long Reached,
    long Looked,
    string At,
    string Who
)
{
    /// <summary>The question whose documents alone are read again; null for all of the scope.</summary>
    public ViewDefinition? Asks { get; init; }
}

/// <summary>A value that reading again changes.</summary>
/// <param name="Id">Id.</param>
/// <param name="Document">The document.</param>
/// <param name="Name">What the document is called.</param>
/// <param name="Field">Key of the field.</param>
/// <param name="Before">What stood there when it was looked at.</param>
/// <param name="After">What was read.</param>
/// <param name="EvidenceBefore">Its place before; null for none.</param>
/// <param name="EvidenceAfter">Its place; null when the pages are not kept.</param>
/// <param name="State"><c>planned</c>, <c>set</c>, <c>left</c> (not set, with a reason), <c>back</c> (taken back) or <c>stays</c> (somebody
/// changed it after it was set).</param>
/// <param name="Reason">Why it was left.</param>
public sealed record RereadValue(
    long Id,
    long Document,
    string Name,
    string Field,
    string Before,
    string After,
    Evidence? EvidenceBefore,
    Evidence? EvidenceAfter,
    string State,
    string? Reason
);

/// <summary>Runs that read documents again, and what each changes.</summary>
public static class RereadStore
{
    private const string Runs = "SELECT id, reader_key, version, scope, only_empty, state, reached, looked, at, who, asks FROM rereadings";

    /// <summary>Begins a run.</summary>
    public static long Begin(
        SqliteConnection c,
        string reader,
        int version,
        string scope,
        bool onlyEmpty,
        ViewDefinition? asks,
        DateTimeOffset at,
        string who
    ) =>
        c.Scalar<long>(
            """
            INSERT INTO rereadings (reader_key, version, scope, only_empty, asks, state, at, who)
            VALUES ($reader, $version, $scope, $only, $asks, 'looking', $at, $who) RETURNING id
            """,
            ("$asks", asks is null ? null : Sql.ToJson(asks)),
            ("$reader", reader),
            ("$version", version),
            ("$scope", scope),
            ("$only", onlyEmpty),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );

    /// <summary>Runs of a reader, newest first.</summary>
    public static List<Rereading> Of(SqliteConnection c, string reader) =>
        c.Query(Runs + " WHERE reader_key = $reader ORDER BY id DESC LIMIT 20", Map, ("$reader", reader));

    /// <summary>One run, or null.</summary>
    public static Rereading? Find(SqliteConnection c, long id) => c.Query(Runs + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>Notes how far a run has looked.</summary>
    public static void Reach(SqliteConnection c, long id, long reached, int looked) =>
        c.Execute(
            "UPDATE rereadings SET reached = $reached, looked = looked + $looked WHERE id = $id",
            ("$id", id),
            ("$reached", reached),
            ("$looked", looked)
        );

    /// <summary>Notes what has become of a run.</summary>
    public static void SetState(SqliteConnection c, long id, string state) =>
        c.Execute("UPDATE rereadings SET state = $state WHERE id = $id", ("$id", id), ("$state", state));

    /// <summary>Adds a value that a run would set.</summary>
    public static void Plan(
        SqliteConnection c,
        long run,
        long document,
        string field,
        string before,
        string after,
        Evidence? was,
        Evidence? now
    ) =>
        c.Execute(
            """
            INSERT INTO reread_values (run_id, document_id, field, before, after, evidence_before, evidence_after)
            VALUES ($run, $document, $field, $before, $after, $was, $now)
            """,
            ("$run", run),
            ("$document", document),
            ("$field", field),
            ("$before", before),
            ("$after", after),
            ("$was", was is null ? null : Sql.ToJson(was)),
            ("$now", now is null ? null : Sql.ToJson(now))
        );

    /// <summary>Values of a run in a state, in the order they were looked at.</summary>
    public static List<RereadValue> Values(SqliteConnection c, long run, string state, int most) =>
        c.Query(
            """
            SELECT v.id, v.document_id, coalesce(d.name, d.source_name), v.field, v.before, v.after, v.evidence_before, v.evidence_after,
                   v.state, v.reason
            FROM reread_values v JOIN documents d ON d.id = v.document_id
            WHERE v.run_id = $run AND v.state = $state ORDER BY v.id LIMIT $most
            """,
            r => new RereadValue(
                r.GetInt64(0),
                r.GetInt64(1),
                r.GetString(2),
                r.GetString(3),
                r.GetString(4),
                r.GetString(5),
                r.IsDBNull(6) ? null : r.FromJson<Evidence>(6),
                r.IsDBNull(7) ? null : r.FromJson<Evidence>(7),
                r.GetString(8),
                r.Text(9)
            ),
            ("$run", run),
            ("$state", state),
            ("$most", most)
        );

    /// <summary>How many values of a run are in each state.</summary>
    public static Dictionary<string, long> Counts(SqliteConnection c, long run) =>
        c.Query(
                "SELECT state, count(*) FROM reread_values WHERE run_id = $run GROUP BY state",
                r => (State: r.GetString(0), Count: r.GetInt64(1)),
                ("$run", run)
            )
            .ToDictionary(r => r.State, r => r.Count, StringComparer.Ordinal);

    /// <summary>Notes what has become of a value.</summary>
    public static void Settle(SqliteConnection c, long id, string state, string? reason = null) =>
        c.Execute(
            "UPDATE reread_values SET state = $state, reason = $reason WHERE id = $id",
            ("$id", id),
            ("$state", state),
            ("$reason", reason)
        );

    private static Rereading Map(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.GetString(1),
            r.GetInt32(2),
            r.GetString(3),
            r.GetBoolean(4),
            r.GetString(5),
            r.GetInt64(6),
            r.GetInt64(7),
            r.GetString(8),
            r.GetString(9)
        )
        {
            Asks = r.IsDBNull(10) ? null : r.FromJson<ViewDefinition>(10),
        };
}
