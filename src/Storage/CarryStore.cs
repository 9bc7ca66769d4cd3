using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Reading;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Documents carried together from one version of their type to the next.</summary>
/// <param name="Id">Id.</param>
/// <param name="TypeCode">Their type.</param>
/// <param name="VersionBefore">The version they come from.</param>
/// <param name="Version">The version they are carried to.</param>
/// <param name="Lines">The mapping.</param>
/// <param name="State">running, carried, stopped (part of it done) or undone.</param>
/// <param name="LastId">The last document that was looked at.</param>
/// <param name="Who">Who.</param>
/// <param name="At">When.</param>
/// <param name="Carried">How many documents were carried and not taken back.</param>
/// <param name="Left">What could not be taken back, with the reasons.</param>
public sealed record CarryRun(
    long Id,
    string TypeCode,
    int VersionBefore,
    int Version,
    IReadOnlyList<CarryLine> Lines,
    string State,
    long LastId,
    string Who,
    string At,
    long Carried,
    IReadOnlyList<string> Left
);

/// <summary>What a document held before it was carried.</summary>
/// <param name="DocumentId">The document.</param>
/// <param name="Record">Its texts before.</param>
/// <param name="Evidence">Its evidence before.</param>
/// <param name="Version">Its version before.</param>
/// <param name="Parked">Why it was parked before.</param>
/// <param name="After">Its texts afterwards.</param>
public sealed record CarriedDocument(
    long DocumentId,
    IReadOnlyDictionary<string, string> Record,
    IReadOnlyDictionary<string, Evidence> Evidence,
    int? Version,
    string? Parked,
    IReadOnlyDictionary<string, string> After
);

/// <summary>Mappings between versions, and the runs that carried documents through.</summary>
public static class CarryStore
{
    private const string RunColumns = """
        SELECT id, type_code, version_before, version, lines, state, last_id, who, at, (SELECT count(*) FROM carried x
        WHERE x.run_id = r.id), left_over FROM carry_runs r
        """;

    /// <summary>The mapping of a type.</summary>
    public static List<CarryLine> Lines(SqliteConnection c, string typeCode) =>
        c.Query("SELECT lines FROM carry_lines WHERE type_code = $type", r => r.FromJson<List<CarryLine>>(0), ("$type", typeCode))
            .FirstOrDefault()
        ?? [];

    /// <summary>Keeps the mapping of a type.</summary>
    public static void SetLines(SqliteConnection c, string typeCode, IReadOnlyList<CarryLine> lines) =>
        c.Execute(
            "INSERT INTO carry_lines (type_code, lines) VALUES ($type, $lines) ON CONFLICT (type_code) DO UPDATE SET lines = $lines",
            ("$type", typeCode),
            ("$lines", Sql.ToJson(lines))
        );

    /// <summary>Begins a run.</summary>
    public static long Begin(
        SqliteConnection c,
        string typeCode,
        int versionBefore,
        int version,
        IReadOnlyList<CarryLine> lines,
        string who,
        DateTimeOffset at
    ) =>
        c.Scalar<long>(
            """
            INSERT INTO carry_runs (type_code, version_before, version, lines, state, who, at)
            VALUES ($type, $before, $version, $lines, 'running', $who, $at) RETURNING id
            """,
            ("$type", typeCode),
            ("$before", versionBefore),
            ("$version", version),
            ("$lines", Sql.ToJson(lines)),
            ("$who", who),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>One run, or null.</summary>
    public static CarryRun? Run(SqliteConnection c, long id) => c.Query(RunColumns + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>Runs of a type, newest first.</summary>
    public static List<CarryRun> Runs(SqliteConnection c, string typeCode) =>
        c.Query(RunColumns + " WHERE type_code = $type ORDER BY id DESC", Map, ("$type", typeCode));

    /// <summary>Sets the state of a run, and what it left.</summary>
    public static void SetState(SqliteConnection c, long id, string state, IReadOnlyList<string> left) =>
        c.Execute(
            "UPDATE carry_runs SET state = $state, left_over = $left WHERE id = $id",
            ("$id", id),
            ("$state", state),
            ("$left", Sql.ToJson(left))
        );

    /// <summary>Notes how far a run has come.</summary>
    public static void Reach(SqliteConnection c, long id, long lastId) =>
        c.Execute("UPDATE carry_runs SET last_id = $last WHERE id = $id", ("$id", id), ("$last", lastId));

    /// <summary>Runs that a stop of the process has left running; they can be gone on with.</summary>
    public static int StopRunning(SqliteConnection c) =>
        c.Execute(
            """
            UPDATE carry_runs SET state = 'stopped' WHERE state = 'running'
              AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.state = 'running' AND j.kind = 'carry'
              AND j.arguments ->> '$.id' = carry_runs.id)
            """
        );

    /// <summary>Keeps what a document held before.</summary>
    public static void Keep(SqliteConnection c, long runId, StoredDocument before, IReadOnlyDictionary<string, string> after) =>
        c.Execute(
            """
            INSERT INTO carried (run_id, document_id, record_before, evidence_before, version_before, parked_before, record_after)
            VALUES ($run, $id, $record, $evidence, $version, $parked, $after)
            """,
            ("$run", runId),
            ("$id", before.Id),
            ("$record", Sql.ToJson(before.Record)),
            ("$evidence", Sql.ToJson(before.Evidence)),
            ("$version", before.Version),
            ("$parked", before.Parked),
            ("$after", Sql.ToJson(after))
        );

    /// <summary>Documents of a run after an id, by id.</summary>
    public static List<CarriedDocument> Of(SqliteConnection c, long runId, long afterId, int take) =>
        c.Query(
            """
            SELECT document_id, record_before, evidence_before, version_before, parked_before, record_after FROM carried
            WHERE run_id = $run AND document_id > $after ORDER BY document_id LIMIT $take
            """,
            r => new CarriedDocument(
                r.GetInt64(0),
                r.FromJson<Dictionary<string, string>>(1),
                r.FromJson<Dictionary<string, Evidence>>(2),
                r.IsDBNull(3) ? null : r.GetInt32(3),
                r.Text(4),
                r.FromJson<Dictionary<string, string>>(5)
            ),
            ("$run", runId),
            ("$after", afterId),
            ("$take", take)
        );

    /// <summary>Takes a document out of a run, once it holds again what it held.</summary>
    public static void Drop(SqliteConnection c, long runId, long documentId) =>
        c.Execute("DELETE FROM carried WHERE run_id = $run AND document_id = $id", ("$run", runId), ("$id", documentId));

    private static CarryRun Map(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.GetString(1),
            r.GetInt32(2),
            r.GetInt32(3),
            r.FromJson<List<CarryLine>>(4),
            r.GetString(5),
            r.GetInt64(6),
            r.GetString(7),
            r.GetString(8),
            r.GetInt64(9),
            r.FromJson<List<string>>(10)
        );
}
