using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What has become of a file that was brought.</summary>
public enum FileState
{
    /// <summary>It waits to be read.</summary>
    Waiting,

    /// <summary>Its pages are here.</summary>
    Taken,

    /// <summary>It was refused, with a reason.</summary>
    Refused,
}

/// <summary>What has become of a batch.</summary>
public enum BatchState
{
    /// <summary>Its pages become documents as they are read.</summary>
    Open,

    /// <summary>A person looks at its separation first.</summary>
    Look,

    /// <summary>Somebody has given it up.</summary>
    GivenUp,
}

/// <summary>A batch with its counts.</summary>
/// <param name="Id">Id.</param>
/// <param name="Name">Name.</param>
/// <param name="BroughtBy">Who brought it.</param>
/// <param name="BroughtAt">When.</param>
/// <param name="OnDesk">Documents still on the desk.</param>
/// <param name="Filed">Documents filed.</param>
/// <param name="Waiting">Files not yet read.</param>
/// <param name="Refused">Files that could not be taken in.</param>
public sealed record Batch(long Id, string Name, string BroughtBy, Instant BroughtAt, int OnDesk, int Filed, int Waiting, int Refused);

/// <summary>A file of a batch.</summary>
/// <param name="Id">Id.</param>
/// <param name="BatchId">Its batch.</param>
/// <param name="Name">What the person called it.</param>
/// <param name="Stored">Where it lies, relative to the data folder.</param>
/// <param name="State">What has become of it.</param>
/// <param name="Message">Why it was refused.</param>
/// <param name="Tried">How often reading it was begun.</param>
/// <param name="Pages">How many pages it has; null until it was opened.</param>
/// <param name="Hash">SHA-256 of it as it came; null for files kept before that was noted.</param>
/// <param name="Separated">Whether documents were made of its pages.</param>
public sealed record BatchFile(
    long Id,
    long BatchId,
    string Name,
    string Stored,
    FileState State,
    string? Message,
    int Tried,
    int? Pages,
    string? Hash,
    bool Separated
);

/// <summary>A batch and what was decided of it.</summary>
/// <param name="Id">Id.</param>
/// <param name="Name">Name.</param>
/// <param name="BroughtBy">Who brought it.</param>
/// <param name="BroughtAt">When.</param>
/// <param name="WayIn">Key of the way it came; null for batches that came before there were any.</param>
/// <param name="State">What has become of it.</param>
/// <param name="Cutting">What a person decided about its separation, JSON; null for nothing.</param>
public sealed record OneBatch(long Id, string Name, string BroughtBy, Instant BroughtAt, string? WayIn, BatchState State, string? Cutting)
{
    /// <summary>The document that its pages are added to; null for documents of their own.</summary>
    public long? Joins { get; init; }
}

/// <summary>A batch as the status page lists it.</summary>
/// <param name="Batch">The batch.</param>
/// <param name="Waiting">Files not yet read.</param>
/// <param name="Read">Pages read.</param>
/// <param name="Pages">Pages of the files that were opened.</param>
/// <param name="OnDesk">Documents on the desk.</param>
/// <param name="Filed">Documents filed.</param>
/// <param name="Refused">Files refused.</param>
public sealed record BatchStatus(OneBatch Batch, int Waiting, int Read, int Pages, int OnDesk, int Filed, int Refused);

/// <summary>What waits on the desk of one batch.</summary>
/// <param name="Batch">Id of the batch; null for documents that came in none.</param>
/// <param name="Name">Its name; empty for none.</param>
/// <param name="Since">When it was brought; null for none.</param>
/// <param name="Documents">How many of its documents wait.</param>
public sealed record WaitingBatch(long? Batch, string Name, Instant? Since, int Documents);

/// <summary>Batches and the files they came as.</summary>
public static class BatchStore
{
    private const int NewestBatches = 200;

    private const string FileColumns = "SELECT id, batch_id, name, stored, state, message, tried, pages, hash, separated FROM batch_files";

    /// <summary>All batches, newest first.</summary>
    public static List<Batch> All(SqliteConnection c) =>
        c.Query(
            """
            SELECT b.id, b.name, b.brought_by, b.brought_at,
                   (SELECT count(*) FROM documents d WHERE d.batch_id = b.id AND d.state = 'desk') AS on_desk,
                   (SELECT count(*) FROM documents d WHERE d.batch_id = b.id AND d.state = 'filed') AS filed,
                   (SELECT count(*) FROM batch_files f WHERE f.batch_id = b.id AND f.state = 'waiting') AS waiting,
                   (SELECT count(*) FROM batch_files f WHERE f.batch_id = b.id AND f.state = 'refused') AS refused
            FROM batches b ORDER BY b.id DESC
            """,
            r => new Batch(
                r.Long("id"),
                r.Text("name"),
                r.Text("brought_by"),
                r.Moment("brought_at"),
                r.Int("on_desk"),
                r.Int("filed"),
                r.Int("waiting"),
                r.Int("refused")
            )
        );

    /// <summary>Name of a batch; empty when there is none.</summary>
    public static string NameOf(SqliteConnection c, long id) =>
        c.Scalar<string>("SELECT name FROM batches WHERE id = $id", ("$id", id)) ?? "";

    /// <summary>Adds a batch.</summary>
    public static long Add(SqliteConnection c, string name, string who, DateTimeOffset at, string? wayIn = null) =>
        c.Scalar<long>(
            "INSERT INTO batches (name, brought_by, brought_at, way_in) VALUES ($name, $who, $at, $way) RETURNING id",
            ("$name", name),
            ("$who", who),
            ("$at", Sql.Stamp(at)),
            ("$way", wayIn)
        );

    private const string BatchColumns = "b.id, b.name, b.brought_by, b.brought_at, b.way_in, b.state, b.cutting, b.joins";

    /// <summary>One batch, or null.</summary>
    public static OneBatch? Find(SqliteConnection c, long id) =>
        c.Query($"SELECT {BatchColumns} FROM batches b WHERE b.id = $id", One, ("$id", id)).FirstOrDefault();

    /// <summary>The newest batches, those that wait to be looked at first, with their counts.</summary>
    public static List<BatchStatus> Newest(SqliteConnection c, int most) =>
        c.Query(
            $"""
            SELECT {BatchColumns},
                   (SELECT count(*) FROM batch_files f WHERE f.batch_id = b.id AND f.state = 'waiting') AS waiting,
                   (SELECT count(*) FROM batch_files f JOIN stack_pages p ON p.file_id = f.id WHERE f.batch_id = b.id) AS in_stack,
                   (SELECT coalesce(sum(f.pages), 0) FROM batch_files f WHERE f.batch_id = b.id AND f.state <> 'refused')
                     AS pages,
                   (SELECT count(*) FROM documents d WHERE d.batch_id = b.id AND d.state = 'desk') AS on_desk,
                   (SELECT count(*) FROM documents d WHERE d.batch_id = b.id AND d.state = 'filed') AS filed,
                   (SELECT count(*) FROM batch_files f WHERE f.batch_id = b.id AND f.state = 'refused') AS refused
            FROM batches b WHERE b.id IN (SELECT id FROM batches ORDER BY id DESC LIMIT $most)
                              OR b.id IN (SELECT id FROM batches WHERE state = 'look' LIMIT $most)
            ORDER BY b.state <> 'look', b.id DESC
            """,
            r => new BatchStatus(
                One(r),
                r.Int("waiting"),
                r.Int("in_stack"),
                r.Int("pages"),
                r.Int("on_desk"),
                r.Int("filed"),
                r.Int("refused")
            ),
            ("$most", most)
        );

    /// <summary>The batch that a sender delivered under a key; null for none.</summary>
    public static long? Delivered(SqliteConnection c, string sender, string key) =>
        c.Query(
                "SELECT batch_id FROM deliveries WHERE sender = $sender AND key = $key",
                r => (long?)r.Long("batch_id"),
                ("$sender", sender),
                ("$key", key)
            )
            .FirstOrDefault();

    /// <summary>Notes under which key a batch was delivered; false when the key was used meanwhile.</summary>
    public static bool Deliver(SqliteConnection c, string sender, string key, long batch) =>
        c.Execute(
            "INSERT OR IGNORE INTO deliveries (sender, key, batch_id) VALUES ($sender, $key, $batch)",
            ("$sender", sender),
            ("$key", key),
            ("$batch", batch)
        ) == 1;

    /// <summary>Batches that wait for a person to look at their separation, the oldest first.</summary>
    public static List<OneBatch> ToLookAt(SqliteConnection c, int most) =>
        c.Query($"SELECT {BatchColumns} FROM batches b WHERE b.state = 'look' ORDER BY b.id LIMIT $most", One, ("$most", most));

    /// <summary>How many batches wait for a person to look at their separation.</summary>
    public static int CountToLookAt(SqliteConnection c) => (int)c.Scalar<long>("SELECT count(*) FROM batches WHERE state = 'look'");

    /// <summary>Says whether a batch waits to be looked at or was given up.</summary>
    public static void SetState(SqliteConnection c, long id, BatchState state) =>
        c.Execute("UPDATE batches SET state = $state WHERE id = $id", ("$id", id), ("$state", Sql.Code(state)));

    /// <summary>Says which document the pages of a batch are added to; none when it is gone.</summary>
    public static void SetJoins(SqliteConnection c, long id, long document) =>
        c.Execute(
            "UPDATE batches SET joins = (SELECT id FROM documents WHERE id = $document) WHERE id = $id",
            ("$id", id),
            ("$document", document)
        );

    /// <summary>Whether files wait whose pages are added to a document.</summary>
    public static bool IsJoining(SqliteConnection c, long document) =>
        c.Scalar<long>(
            """
            SELECT EXISTS (SELECT 1 FROM batches b JOIN batch_files f ON f.batch_id = b.id AND f.state = 'waiting'
              WHERE b.joins = $document)
            """,
            ("$document", document)
        ) == 1;

    /// <summary>Keeps what a person decided about a batch's separation.</summary>
    public static void SetCutting(SqliteConnection c, long id, string? cutting) =>
        c.Execute("UPDATE batches SET cutting = $cutting WHERE id = $id", ("$id", id), ("$cutting", cutting));

    /// <summary>Files of a batch in order.</summary>
    public static List<BatchFile> FilesOf(SqliteConnection c, long batchId) =>
        c.Query(FileColumns + " WHERE batch_id = $batch ORDER BY id", File, ("$batch", batchId));

    /// <summary>One file, or null.</summary>
    public static BatchFile? FindFile(SqliteConnection c, long id) =>
        c.Query(FileColumns + " WHERE id = $id", File, ("$id", id)).FirstOrDefault();

    /// <summary>Notes how many pages a file has.</summary>
    public static void SetPages(SqliteConnection c, long id, int pages) =>
        c.Execute("UPDATE batch_files SET pages = $pages WHERE id = $id", ("$id", id), ("$pages", pages));

    /// <summary>Batches whose files were all read, and of some of which no documents were made yet.</summary>
    public static List<long> ToSeparate(SqliteConnection c) =>
        c.Query(
            """
            SELECT DISTINCT f.batch_id FROM batch_files f JOIN batches b ON b.id = f.batch_id
            WHERE f.separated = 0 AND f.state = 'taken' AND b.state = 'open'
              AND NOT EXISTS (SELECT 1 FROM batch_files w WHERE w.batch_id = f.batch_id AND w.state = 'waiting')
            """,
            r => r.Long("batch_id")
        );

    /// <summary>Notes that reading a file got further: that it was begun before says nothing against it.</summary>
    public static void GotFurther(SqliteConnection c, long id) =>
        c.Execute("UPDATE batch_files SET tried = min(tried, 1) WHERE id = $id", ("$id", id));

    /// <summary>Marks whether documents were made of a file's pages.</summary>
    public static void SetSeparated(SqliteConnection c, long id, bool separated) =>
        c.Execute("UPDATE batch_files SET separated = $separated WHERE id = $id", ("$id", id), ("$separated", separated ? 1 : 0));

    /// <summary>Lets a refused file be tried once more.</summary>
    public static void Retry(SqliteConnection c, long id) =>
        c.Execute(
            "UPDATE batch_files SET state = 'waiting', message = NULL, tried = 0, separated = 0 WHERE id = $id AND state = 'refused'",
            ("$id", id)
        );

    /// <summary>
    /// Pages read in files of batches that were brought since a moment, and how long ago the oldest file came that still waits.
    /// </summary>
    public static (int Waiting, Instant? OldestWaiting) Backlog(SqliteConnection c) =>
        c.Query(
            """
            SELECT count(*) AS waiting, min(b.brought_at) AS oldest FROM batch_files f JOIN batches b ON b.id = f.batch_id WHERE f.state = 'waiting'
            """,
            r => (r.Int("waiting"), r.MomentOrNone("oldest"))
        )[0];

    /// <summary>Adds a file that waits to be read, or one that is refused at once.</summary>
    public static long AddFile(SqliteConnection c, long batchId, string name, string stored, string? refusal, string? hash = null) =>
        c.Scalar<long>(
            "INSERT INTO batch_files (batch_id, name, stored, state, message, separated, hash) "
                + "VALUES ($batch, $name, $stored, $state, $message, 0, $hash) RETURNING id",
            ("$hash", hash),
            ("$batch", batchId),
            ("$name", name),
            ("$stored", stored),
            ("$state", Sql.Code(refusal is null ? FileState.Waiting : FileState.Refused)),
            ("$message", refusal)
        );

    /// <summary>Adds a file whose pages are documents already, as those that come with a package.</summary>
    public static long AddTaken(SqliteConnection c, long batch, string stored, int? pages) =>
        c.Scalar<long>(
            """
            INSERT INTO batch_files (batch_id, name, stored, state, separated, pages)
            VALUES ($batch, $name, $stored, 'taken', 1, $pages) RETURNING id
            """,
            ("$batch", batch),
            ("$name", Path.GetFileName(stored)),
            ("$stored", stored),
            ("$pages", pages)
        );

    /// <summary>The files of a batch by their paths.</summary>
    public static Dictionary<string, long> ByPath(SqliteConnection c, long batch) =>
        c.Query("SELECT stored, id FROM batch_files WHERE batch_id = $batch", r => (r.Text("stored"), r.Long("id")), ("$batch", batch))
            .ToDictionary(f => f.Item1, f => f.Item2, StringComparer.Ordinal);

    /// <summary>Files in a state, of one batch or of all.</summary>
    public static List<BatchFile> Files(SqliteConnection c, FileState state, long? batchId = null) =>
        c.Query(
            FileColumns + " WHERE state = $state AND ($batch IS NULL OR batch_id = $batch) ORDER BY id",
            File,
            ("$state", Sql.Code(state)),
            ("$batch", batchId)
        );

    /// <summary>The newest files that were refused, the newest first.</summary>
    public static List<BatchFile> Refused(SqliteConnection c, int most) =>
        c.Query(FileColumns + " WHERE state = 'refused' ORDER BY batch_id DESC, id DESC LIMIT $most", File, ("$most", most));

    /// <summary>Marks that reading a file is begun.</summary>
    public static void Try(SqliteConnection c, long id) =>
        c.Execute("UPDATE batch_files SET tried = tried + 1 WHERE id = $id", ("$id", id));

    /// <summary>How many files are in a state.</summary>
    public static long Count(SqliteConnection c, FileState state) =>
        c.Scalar<long>("SELECT count(*) FROM batch_files WHERE state = $state", ("$state", Sql.Code(state)));

    /// <summary>Marks a file as taken or refused.</summary>
    public static void SetFile(SqliteConnection c, long id, string? refusal) =>
        c.Execute(
            "UPDATE batch_files SET state = $state, message = $message WHERE id = $id",
            ("$id", id),
            ("$state", Sql.Code(refusal is null ? FileState.Taken : FileState.Refused)),
            ("$message", refusal)
        );

    /// <summary>
    /// What waits on the desk, by batch, the oldest first; what is parked, and what was withdrawn for good, does not wait there.
    /// </summary>
    public static List<WaitingBatch> OnDesk(SqliteConnection c) =>
        c.Query(
            """
            SELECT d.batch_id, coalesce(b.name, '') AS name, b.brought_at, count(*) AS documents FROM documents d LEFT
            JOIN batches b ON b.id = d.batch_id
            WHERE d.state = 'desk' AND NOT EXISTS (SELECT 1 FROM parkings p WHERE p.document_id = d.id)
              AND NOT EXISTS (SELECT 1 FROM withdrawals w WHERE w.document_id = d.id AND w.state = 'done' AND w.is_out = 1)
            GROUP BY d.batch_id ORDER BY d.batch_id
            """,
            r => new WaitingBatch(r.LongOrNone("batch_id"), r.Text("name"), r.MomentOrNone("brought_at"), r.Int("documents"))
        );

    /// <summary>Batches brought since a moment of which files were refused, with the first refusal, the newest first.</summary>
    public static List<(long Batch, string Name, Instant At, int Refused, string Why)> WithRefusals(
        SqliteConnection c,
        DateTimeOffset since
    ) =>
        c.Query(
            """
            SELECT b.id, b.name, b.brought_at, count(*) AS refused, min(f.name || ': ' || coalesce(f.message, '')) AS why
            FROM (SELECT id, name, brought_at FROM batches ORDER BY id DESC LIMIT $newest) b JOIN batch_files f ON f.batch_id = b.id
            AND f.state = 'refused'
            WHERE b.brought_at >= $since GROUP BY b.id ORDER BY b.id DESC
            """,
            r => (r.Long("id"), r.Text("name"), r.Moment("brought_at"), r.Int("refused"), r.Text("why")),
            ("$since", Sql.Stamp(since)),
            ("$newest", NewestBatches)
        );

    /// <summary>
    /// Documents filed by hand since a moment: when they were filed, when their batch was brought (when they were filed where they came in
    /// none), and how many.
    /// </summary>
    public static List<(Instant Filed, Instant Brought, int Documents)> FiledByMinute(SqliteConnection c, DateTimeOffset since) =>
        c.Query(
            """
            SELECT d.filed_at, coalesce(b.brought_at, d.filed_at) AS came_at, count(*) AS documents
            FROM documents d LEFT JOIN batches b ON b.id = d.batch_id
            WHERE d.state = 'filed' AND d.wave_id IS NULL AND d.filed_at >= $since GROUP BY 1, 2
            """,
            r => (r.Moment("filed_at"), r.Moment("came_at"), r.Int("documents")),
            ("$since", Sql.Stamp(since))
        );

    private static BatchFile File(Row r) =>
        new(
            r.Long("id"),
            r.Long("batch_id"),
            r.Text("name"),
            r.Text("stored"),
            r.Code<FileState>("state"),
            r.TextOrNone("message"),
            r.Int("tried"),
            r.IntOrNone("pages"),
            r.TextOrNone("hash"),
            r.Int("separated") == 1
        );

    private static OneBatch One(Row r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.Text("brought_by"),
            r.Moment("brought_at"),
            r.TextOrNone("way_in"),
            r.Code<BatchState>("state"),
            r.TextOrNone("cutting")
        )
        {
            Joins = r.LongOrNone("joins"),
        };
}
