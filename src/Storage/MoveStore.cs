using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A move of a filed document.</summary>
/// <param name="Id">Id.</param>
/// <param name="RunId">The re-file run it belongs to; null for a single move.</param>
/// <param name="DocumentId">The document.</param>
/// <param name="State">begun, done or undone.</param>
/// <param name="FromFolder">Folder before.</param>
/// <param name="FromName">Name before.</param>
/// <param name="ToFolder">Folder after.</param>
/// <param name="ToName">Name after.</param>
/// <param name="NamingBefore">What it had been named by.</param>
/// <param name="Who">Who.</param>
/// <param name="At">When.</param>
public sealed record Move(
    long Id,
    long? RunId,
    long DocumentId,
    string State,
    string FromFolder,
    string FromName,
    string ToFolder,
    string ToName,
    Naming? NamingBefore,
    string Who,
    string At
);

/// <summary>Documents moved together.</summary>
/// <param name="Id">Id.</param>
/// <param name="TypeCode">Their type.</param>
/// <param name="Version">The version whose convention they follow.</param>
/// <param name="State">running, applied, stopped (part of it done) or undone.</param>
/// <param name="Who">Who.</param>
/// <param name="At">When.</param>
/// <param name="Moved">How many documents it has moved.</param>
/// <param name="Left">Documents that could not be moved, with the reasons.</param>
public sealed record RefileRun(
    long Id,
    string TypeCode,
    int Version,
    string State,
    string Who,
    string At,
    long Moved,
    IReadOnlyList<string> Left
);

/// <summary>Moves of filed documents, single and in runs.</summary>
public static class MoveStore
{
    private const string Columns =
        "SELECT id, run_id, document_id, state, from_folder, from_name, to_folder, to_name, naming_before, who, at FROM moves";

    private const string RunColumns = """
        SELECT id, type_code, version, state, who, at, (SELECT count(DISTINCT document_id) FROM moves m WHERE m.run_id = r.id
        AND m.state = 'done'), left_over FROM refile_runs r
        """;

    /// <summary>Writes the intention of a move down.</summary>
    public static long Begin(
        SqliteConnection c,
        long? runId,
        StoredDocument document,
        string folder,
        string name,
        string who,
        DateTimeOffset at
    ) =>
        c.Scalar<long>(
            """
            INSERT INTO moves (run_id, document_id, state, from_folder, from_name, to_folder, to_name, naming_before, who, at)
            VALUES ($run, $document, 'begun', $from_folder, $from_name, $to_folder, $to_name, $naming, $who, $at) RETURNING id
            """,
            ("$run", runId),
            ("$document", document.Id),
            ("$from_folder", document.Folder),
            ("$from_name", document.Name),
            ("$to_folder", folder),
            ("$to_name", name),
            ("$naming", document.Naming is { } n ? Sql.ToJson(n) : null),
            ("$who", who),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>Sets the state of a move.</summary>
    public static void SetState(SqliteConnection c, long id, string state) =>
        c.Execute("UPDATE moves SET state = $state WHERE id = $id", ("$id", id), ("$state", state));

    /// <summary>Takes a move that did not happen out.</summary>
    public static void Drop(SqliteConnection c, long id) => c.Execute("DELETE FROM moves WHERE id = $id AND state = 'begun'", ("$id", id));

    /// <summary>Moves that were begun and not ended.</summary>
    public static List<Move> Begun(SqliteConnection c) => c.Query(Columns + " WHERE state = 'begun' ORDER BY id", Map);

    /// <summary>Moves of a document, newest first.</summary>
    public static List<Move> Of(SqliteConnection c, long documentId) =>
        c.Query(Columns + " WHERE document_id = $id ORDER BY id DESC", Map, ("$id", documentId));

    /// <summary>Moves of a run that stand, newest first.</summary>
    public static List<Move> OfRun(SqliteConnection c, long runId) =>
        c.Query(Columns + " WHERE run_id = $id AND state = 'done' ORDER BY id DESC", Map, ("$id", runId));

    /// <summary>Begins a run.</summary>
    public static long BeginRun(SqliteConnection c, string typeCode, int version, string who, DateTimeOffset at) =>
        c.Scalar<long>(
            "INSERT INTO refile_runs (type_code, version, state, who, at) VALUES ($type, $version, 'running', $who, $at) RETURNING id",
            ("$type", typeCode),
            ("$version", version),
            ("$who", who),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>Sets the state of a run.</summary>
    public static void SetRun(SqliteConnection c, long id, string state) =>
        c.Execute("UPDATE refile_runs SET state = $state WHERE id = $id", ("$id", id), ("$state", state));

    /// <summary>Keeps what a run could not move.</summary>
    public static void SetLeft(SqliteConnection c, long id, IReadOnlyList<string> left) =>
        c.Execute("UPDATE refile_runs SET left_over = $left WHERE id = $id", ("$id", id), ("$left", Sql.ToJson(left)));

    /// <summary>One run, or null.</summary>
    public static RefileRun? Run(SqliteConnection c, long id) =>
        c.Query(RunColumns + " WHERE id = $id", MapRun, ("$id", id)).FirstOrDefault();

    /// <summary>Runs of a type, newest first.</summary>
    public static List<RefileRun> Runs(SqliteConnection c, string typeCode) =>
        c.Query(RunColumns + " WHERE type_code = $type ORDER BY id DESC", MapRun, ("$type", typeCode));

    /// <summary>Runs that a stop of the process has left running, without a job that is taken up again.</summary>
    public static void StopRunning(SqliteConnection c) =>
        c.Execute(
            """
            UPDATE refile_runs SET state = 'stopped' WHERE state = 'running'
              AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.state = 'running' AND j.kind = 'refile'
              AND j.arguments ->> '$.id' = refile_runs.id)
            """
        );

    private static RefileRun MapRun(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.GetString(1),
            r.GetInt32(2),
            r.GetString(3),
            r.GetString(4),
            r.GetString(5),
            r.GetInt64(6),
            r.FromJson<List<string>>(7)
        );

    private static Move Map(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.IsDBNull(1) ? null : r.GetInt64(1),
            r.GetInt64(2),
            r.GetString(3),
            r.GetString(4),
            r.GetString(5),
            r.GetString(6),
            r.GetString(7),
            r.IsDBNull(8) ? null : r.FromJson<Naming>(8),
            r.GetString(9),
            r.GetString(10)
        );
}
