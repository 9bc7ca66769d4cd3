using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A batch with its counts.</summary>
/// <param name="Id">Id.</param>
/// <param name="Name">Name.</param>
/// <param name="BroughtBy">Who brought it.</param>
/// <param name="BroughtAt">When.</param>
/// <param name="OnDesk">Documents still on the desk.</param>
/// <param name="Filed">Documents filed.</param>
/// <param name="Waiting">Files not yet read.</param>
/// <param name="Refused">Files that could not be taken in.</param>
public sealed record Batch(long Id, string Name, string BroughtBy, string BroughtAt, int OnDesk, int Filed, int Waiting, int Refused);

/// <summary>A file of a batch.</summary>
/// <param name="Id">Id.</param>
/// <param name="BatchId">Its batch.</param>
/// <param name="Name">What the person called it.</param>
/// <param name="Stored">Where it lies, relative to the data folder.</param>
/// <param name="State">waiting, taken or refused.</param>
/// <param name="Message">Why it was refused.</param>
/// <param name="Tried">How often reading it was begun.</param>
public sealed record BatchFile(long Id, long BatchId, string Name, string Stored, string State, string? Message, int Tried);

/// <summary>What waits on the desk of one batch.</summary>
/// <param name="Batch">Id of the batch; null for documents that came in none.</param>
/// <param name="Name">Its name; empty for none.</param>
/// <param name="Since">When it was brought, UTC; empty for none.</param>
/// <param name="Documents">How many of its documents wait.</param>
public sealed record WaitingBatch(long? Batch, string Name, string Since, int Documents);

/// <summary>Batches and the files they came as.</summary>
public static class BatchStore
{
    private const int NewestBatches = 200;

    private const string FileColumns = "SELECT id, batch_id, name, stored, state, message, tried FROM batch_files";

    /// <summary>All batches, newest first.</summary>
    public static List<Batch> All(SqliteConnection c) =>
        c.Query(
            """
            SELECT b.id, b.name, b.brought_by, b.brought_at,
                   (SELECT count(*) FROM documents d WHERE d.batch_id = b.id AND d.state = 'desk'),
                   (SELECT count(*) FROM documents d WHERE d.batch_id = b.id AND d.state = 'filed'),
                   (SELECT count(*) FROM batch_files f WHERE f.batch_id = b.id AND f.state = 'waiting'),
                   (SELECT count(*) FROM batch_files f WHERE f.batch_id = b.id AND f.state = 'refused')
            FROM batches b ORDER BY b.id DESC
            """,
            r => new Batch(
                r.GetInt64(0),
                r.GetString(1),
                r.GetString(2),
                r.GetString(3),
                r.GetInt32(4),
                r.GetInt32(5),
                r.GetInt32(6),
                r.GetInt32(7)
            )
        );

    /// <summary>Name of a batch; empty when there is none.</summary>
    public static string NameOf(SqliteConnection c, long id) =>
        c.Scalar<string>("SELECT name FROM batches WHERE id = $id", ("$id", id)) ?? "";

    /// <summary>Adds a batch.</summary>
    public static long Add(SqliteConnection c, string name, string who, DateTimeOffset at) =>
        c.Scalar<long>(
            "INSERT INTO batches (name, brought_by, brought_at) VALUES ($name, $who, $at) RETURNING id",
            ("$name", name),
            ("$who", who),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>Adds a file that waits to be read, or one that is refused at once.</summary>
    public static long AddFile(SqliteConnection c, long batchId, string name, string stored, string? refusal) =>
        c.Scalar<long>(
            "INSERT INTO batch_files (batch_id, name, stored, state, message) "
                + "VALUES ($batch, $name, $stored, $state, $message) RETURNING id",
            ("$batch", batchId),
            ("$name", name),
            ("$stored", stored),
            ("$state", refusal is null ? "waiting" : "refused"),
            ("$message", refusal)
        );

    /// <summary>Files in a state, of one batch or of all.</summary>
    public static List<BatchFile> Files(SqliteConnection c, string state, long? batchId = null) =>
        c.Query(
            FileColumns + " WHERE state = $state AND ($batch IS NULL OR batch_id = $batch) ORDER BY id",
            File,
            ("$state", state),
            ("$batch", batchId)
        );

    /// <summary>The newest files that were refused, the newest first.</summary>
    public static List<BatchFile> Refused(SqliteConnection c, int most) =>
        c.Query(FileColumns + " WHERE state = 'refused' ORDER BY batch_id DESC, id DESC LIMIT $most", File, ("$most", most));

    /// <summary>Marks that reading a file is begun.</summary>
    public static void Try(SqliteConnection c, long id) =>
        c.Execute("UPDATE batch_files SET tried = tried + 1 WHERE id = $id", ("$id", id));

    /// <summary>How many files are in a state.</summary>
    public static long Count(SqliteConnection c, string state) =>
        c.Scalar<long>("SELECT count(*) FROM batch_files WHERE state = $state", ("$state", state));

    /// <summary>Marks a file as taken or refused.</summary>
    public static void SetFile(SqliteConnection c, long id, string? refusal) =>
        c.Execute(
            "UPDATE batch_files SET state = $state, message = $message WHERE id = $id",
            ("$id", id),
            ("$state", refusal is null ? "taken" : "refused"),
            ("$message", refusal)
        );

    /// <summary>What waits on the desk, by batch, the oldest first.</summary>
    public static List<WaitingBatch> OnDesk(SqliteConnection c) =>
        c.Query(
            """
            SELECT d.batch_id, coalesce(b.name, ''), coalesce(b.brought_at, ''), count(*) FROM documents d LEFT
            JOIN batches b ON b.id = d.batch_id
            WHERE d.state = 'desk' GROUP BY d.batch_id ORDER BY d.batch_id
            """,
            r => new WaitingBatch(r.IsDBNull(0) ? null : r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetInt32(3))
        );

    /// <summary>Batches brought since a moment of which files were refused, with the first refusal, the newest first.</summary>
    public static List<(long Batch, string Name, string At, int Refused, string Why)> WithRefusals(
        SqliteConnection c,
        DateTimeOffset since
    ) =>
        c.Query(
            """
            SELECT b.id, b.name, b.brought_at, count(*), min(f.name || ': ' || coalesce(f.message, ''))
            FROM (SELECT id, name, brought_at FROM batches ORDER BY id DESC LIMIT $newest) b JOIN batch_files f ON f.batch_id = b.id
            AND f.state = 'refused'
            WHERE b.brought_at >= $since GROUP BY b.id ORDER BY b.id DESC
            """,
            r => (r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetInt32(3), r.GetString(4)),
            ("$since", Sql.Stamp(since)),
            ("$newest", NewestBatches)
        );

    /// <summary>
    /// Documents filed by hand since a day: the day they were filed, the day their batch was brought (the day they were filed when they
    /// came in none), and how many.
    /// </summary>
    public static List<(string Filed, string Brought, int Documents)> FiledByDay(SqliteConnection c, DateOnly since) =>
        c.Query(
            """
            SELECT substr(d.filed_at, 1, 10), coalesce(substr(b.brought_at, 1, 10), substr(d.filed_at, 1, 10)), count(*)
            FROM documents d LEFT JOIN batches b ON b.id = d.batch_id
            WHERE d.state = 'filed' AND d.wave_id IS NULL AND d.filed_at >= $since GROUP BY 1, 2
            """,
            r => (r.GetString(0), r.GetString(1), r.GetInt32(2)),
            ("$since", since.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture))
        );

    private static BatchFile File(SqliteDataReader r) =>
        new(r.GetInt64(0), r.GetInt64(1), r.GetString(2), r.GetString(3), r.GetString(4), r.Text(5), r.GetInt32(6));
}
