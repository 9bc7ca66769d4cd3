using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What has become of a move.</summary>
public enum MoveState
{
    /// <summary>The file may have moved, but the record has not followed.</summary>
    Begun,

    /// <summary>File and record have moved.</summary>
    Done,

    /// <summary>It was taken back.</summary>
    Undone,
}

/// <summary>A move of a filed document.</summary>
/// <param name="Id">Id.</param>
/// <param name="Run">The row of the re-file run it belongs to; null for a single move.</param>
/// <param name="DocumentId">The document.</param>
/// <param name="State">What has become of it.</param>
/// <param name="FromFolder">Folder before.</param>
/// <param name="FromName">Name before.</param>
/// <param name="ToFolder">Folder after.</param>
/// <param name="ToName">Name after.</param>
/// <param name="NamingBefore">What it had been named by.</param>
/// <param name="Who">Who.</param>
/// <param name="At">When.</param>
public sealed record Move(
    long Id,
    long? Run,
    long DocumentId,
    MoveState State,
    string FromFolder,
    string FromName,
    string ToFolder,
    string ToName,
    Naming? NamingBefore,
    string Who,
    Instant At
);

/// <summary>Moves of filed documents, single and in runs.</summary>
public static class MoveStore
{
    private const string Columns =
        "SELECT id, run, document_id, state, from_folder, from_name, to_folder, to_name, naming_before, who, at FROM moves";

    /// <summary>Writes the intention of a move down.</summary>
    public static long Begin(
        SqliteConnection c,
        long? run,
        StoredDocument document,
        string folder,
        string name,
        string who,
        DateTimeOffset at
    ) =>
        c.Scalar<long>(
            """
            INSERT INTO moves (run, document_id, state, from_folder, from_name, to_folder, to_name, naming_before, who, at)
            VALUES ($run, $document, 'begun', $from_folder, $from_name, $to_folder, $to_name, $naming, $who, $at) RETURNING id
            """,
            ("$run", run),
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
    public static void SetState(SqliteConnection c, long id, MoveState state) =>
        c.Execute("UPDATE moves SET state = $state WHERE id = $id", ("$id", id), ("$state", Sql.Code(state)));

    /// <summary>Takes a move that did not happen out.</summary>
    public static void Drop(SqliteConnection c, long id) => c.Execute("DELETE FROM moves WHERE id = $id AND state = 'begun'", ("$id", id));

    /// <summary>Moves that were begun and not ended.</summary>
    public static List<Move> Begun(SqliteConnection c) => c.Query(Columns + " WHERE state = 'begun' ORDER BY id", Map);

    /// <summary>Moves of a document, newest first.</summary>
    public static List<Move> Of(SqliteConnection c, long documentId) =>
        c.Query(Columns + " WHERE document_id = $id ORDER BY id DESC", Map, ("$id", documentId));

    /// <summary>Moves of a run that stand, newest first.</summary>
    public static List<Move> OfRun(SqliteConnection c, long run) =>
        c.Query(Columns + " WHERE run = $run AND state = 'done' ORDER BY id DESC", Map, ("$run", run));

    /// <summary>How many documents a run has moved and not moved back.</summary>
    public static long Moved(SqliteConnection c, long run) =>
        c.Scalar<long>("SELECT count(DISTINCT document_id) FROM moves WHERE run = $run AND state = 'done'", ("$run", run));

    private static Move Map(Row r) =>
        new(
            r.Long("id"),
            r.LongOrNone("run"),
            r.Long("document_id"),
            r.Code<MoveState>("state"),
            r.Text("from_folder"),
            r.Text("from_name"),
            r.Text("to_folder"),
            r.Text("to_name"),
            r.FromJsonOrNone<Naming>("naming_before"),
            r.Text("who"),
            r.Moment("at")
        );
}
