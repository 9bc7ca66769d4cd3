using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What has become of a withdrawal.</summary>
public enum WithdrawalState
{
    /// <summary>The file may have moved, but the record has not followed.</summary>
    Begun,

    /// <summary>The document is withdrawn.</summary>
    Done,

    /// <summary>It is on its way back to its place.</summary>
    Returning,

    /// <summary>It stands where it stood.</summary>
    Undone,
}

/// <summary>A filed document that was withdrawn.</summary>
/// <param name="Id">Id.</param>
/// <param name="Document">The document.</param>
/// <param name="Folder">Folder where it stood.</param>
/// <param name="Name">Name that it had.</param>
/// <param name="Naming">What it had been named by.</param>
/// <param name="FiledAt">When it had been filed.</param>
/// <param name="FiledBy">By whom.</param>
/// <param name="Kept">Where its file is kept, relative to the data folder.</param>
/// <param name="IsOut">Whether it is out of the repository, and not on the desk.</param>
/// <param name="Reason">Why.</param>
/// <param name="State">What has become of it.</param>
/// <param name="At">When.</param>
/// <param name="Who">By whom.</param>
public sealed record Withdrawal(
    long Id,
    long Document,
    string Folder,
    string Name,
    Naming? Naming,
    Instant? FiledAt,
    string? FiledBy,
    string Kept,
    bool IsOut,
    string Reason,
    WithdrawalState State,
    Instant At,
    string Who
);

/// <summary>Documents that were withdrawn.</summary>
public static class WithdrawalStore
{
    private const string Columns =
        "SELECT id, document_id, folder, name, naming, filed_at, filed_by, kept, is_out, reason, state, at, who FROM withdrawals";

    /// <summary>Writes the intention down.</summary>
    public static long Begin(
        SqliteConnection c,
        StoredDocument document,
        string kept,
        bool isOut,
        string reason,
        DateTimeOffset at,
        string who
    ) =>
        c.Scalar<long>(
            """
            INSERT INTO withdrawals (document_id, folder, name, naming, filed_at, filed_by, kept, is_out, reason, state, at, who)
            VALUES ($document, $folder, $name, $naming, $filed_at, $filed_by, $kept, $out, $reason, 'begun', $at, $who) RETURNING id
            """,
            ("$document", document.Id),
            ("$folder", document.Folder),
            ("$name", document.Name),
            ("$naming", document.Naming is { } n ? Sql.ToJson(n) : null),
            ("$filed_at", document.FiledAt?.ToString()),
            ("$filed_by", document.FiledBy),
            ("$kept", kept),
            ("$out", isOut),
            ("$reason", reason),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );

    /// <summary>Notes what has become of one.</summary>
    public static void SetState(SqliteConnection c, long id, WithdrawalState state) =>
        c.Execute("UPDATE withdrawals SET state = $state WHERE id = $id", ("$id", id), ("$state", Sql.Code(state)));

    /// <summary>Whether a document was filed once, and has been withdrawn since: it is out, or on the desk again.</summary>
    public static bool WasFiled(SqliteConnection c, long document) => Of(c, document) is { State: WithdrawalState.Done };

    /// <summary>Takes one out that did not happen.</summary>
    public static void Drop(SqliteConnection c, long id) => c.Execute("DELETE FROM withdrawals WHERE id = $id", ("$id", id));

    /// <summary>The last one of a document; null when it never was.</summary>
    public static Withdrawal? Of(SqliteConnection c, long document) =>
        c.Query(Columns + " WHERE document_id = $id ORDER BY id DESC LIMIT 1", Map, ("$id", document)).FirstOrDefault();

    /// <summary>Those that a stop left half done.</summary>
    public static List<Withdrawal> Unfinished(SqliteConnection c) =>
        c.Query(Columns + " WHERE state IN ('begun', 'returning') ORDER BY id", Map);

    /// <summary>Those that are out of the repository, the newest first.</summary>
    public static List<Withdrawal> Out(SqliteConnection c, int most) =>
        c.Query(Columns + " WHERE state = 'done' AND is_out = 1 ORDER BY id DESC LIMIT $most", Map, ("$most", most));

    /// <summary>Documents that are out of the repository.</summary>
    public static HashSet<long> OutIds(SqliteConnection c) =>
        [.. c.Query("SELECT document_id FROM withdrawals WHERE state = 'done' AND is_out = 1", r => r.Long("document_id"))];

    /// <summary>Makes a filed document one of the desk: it has no place, and is found no more.</summary>
    public static void TakeOut(SqliteConnection c, StoredDocument document)
    {
        c.Execute(
            "UPDATE documents SET state = 'desk', folder = NULL, name = NULL, place_key = NULL, naming = NULL, filed_at = NULL, "
                + "filed_by = NULL, revision = revision + 1 WHERE id = $id",
            ("$id", document.Id)
        );
        DocumentStore.RemoveFromIndex(c, document);
    }

    /// <summary>Gives a document the place back that it had.</summary>
    public static void PutBack(SqliteConnection c, StoredDocument document, Withdrawal before)
    {
        c.Execute(
            """
            UPDATE documents SET state = 'filed', folder = $folder, name = $name, place_key = $key, naming = $naming, filed_at = $at,
              filed_by = $by, revision = revision + 1 WHERE id = $id AND state = 'desk'
            """,
            ("$id", document.Id),
            ("$folder", before.Folder),
            ("$name", before.Name),
            ("$key", Database.PlaceKey(before.Folder, before.Name)),
            ("$naming", before.Naming is { } n ? Sql.ToJson(n) : null),
            ("$at", before.FiledAt?.ToString()),
            ("$by", before.FiledBy)
        );
        FolderStore.Count(c, before.Folder, 1);
        FolderStore.CountType(c, document.TypeCode!, 1);
        ParkingStore.Release(c, document.Id);
    }

    private static Withdrawal Map(Row r) =>
        new(
            r.Long("id"),
            r.Long("document_id"),
            r.Text("folder"),
            r.Text("name"),
            r.FromJsonOrNone<Naming>("naming"),
            r.MomentOrNone("filed_at"),
            r.TextOrNone("filed_by"),
            r.Text("kept"),
            r.Flag("is_out"),
            r.Text("reason"),
            r.Code<WithdrawalState>("state"),
            r.Moment("at"),
            r.Text("who")
        );
}
