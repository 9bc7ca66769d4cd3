using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Filing of everything that was ready, as one act.</summary>
/// <param name="Id">Id.</param>
/// <param name="Batch">The batch; null for the whole desk.</param>
/// <param name="State"><c>filing</c> or <c>undoing</c>: what was last begun.</param>
/// <param name="At">When it was begun.</param>
/// <param name="Who">By whom.</param>
public sealed record FilingRun(long Id, long? Batch, string State, string At, string Who);

/// <summary>What became of a document of such an act.</summary>
/// <param name="Document">The document.</param>
/// <param name="Name">The file it came as.</param>
/// <param name="State"><c>planned</c>, <c>filed</c>, <c>left</c> (not filed, with a reason), <c>back</c> (on the desk again) or
/// <c>stays</c> (not taken back, with a reason).</param>
/// <param name="Path">Where it belongs, or stands.</param>
/// <param name="Says">Why it was left, or stays.</param>
/// <param name="LastChange">The newest line of its history when it was filed.</param>
public sealed record FilingRunDocument(long Document, string Name, string State, string Path, string Says, long LastChange);

/// <summary>Acts of filing everything that is ready, with their documents.</summary>
public static class FilingRunStore
{
    private const string Runs = "SELECT id, batch_id, state, at, who FROM filing_runs";

    /// <summary>Begins one.</summary>
    public static long Begin(
        SqliteConnection c,
        long? batch,
        IEnumerable<(long Document, string Name, string Path)> documents,
        DateTimeOffset at,
        string who
    )
    {
        var id = c.Scalar<long>(
            "INSERT INTO filing_runs (batch_id, state, at, who) VALUES ($batch, 'filing', $at, $who) RETURNING id",
            ("$batch", batch),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );
        foreach (var (document, name, path) in documents)
            c.Execute(
                "INSERT INTO filing_run_documents (run_id, document_id, name, state, path) VALUES ($run, $document, $name, 'planned', "
                    + "$path)",
                ("$run", id),
                ("$document", document),
                ("$name", name),
                ("$path", path)
            );
        return id;
    }

    /// <summary>One, or null.</summary>
    public static FilingRun? Find(SqliteConnection c, long id) => c.Query(Runs + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>The newest ones.</summary>
    public static List<FilingRun> Newest(SqliteConnection c, int most) =>
        c.Query(Runs + " ORDER BY id DESC LIMIT $most", Map, ("$most", most));

    /// <summary>Notes what is being done with it.</summary>
    public static void SetState(SqliteConnection c, long id, string state) =>
        c.Execute("UPDATE filing_runs SET state = $state WHERE id = $id", ("$id", id), ("$state", state));

    /// <summary>Its documents.</summary>
    public static List<FilingRunDocument> Documents(SqliteConnection c, long run) =>
        c.Query(
            "SELECT document_id, name, state, path, says, last_change FROM filing_run_documents WHERE run_id = $run ORDER BY path, "
                + "document_id",
            r => new FilingRunDocument(r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetString(4), r.GetInt64(5)),
            ("$run", run)
        );

    /// <summary>Notes that one was filed, with the newest line of its history.</summary>
    public static void Filed(SqliteConnection c, long run, long document, string path) =>
        c.Execute(
            """
            UPDATE filing_run_documents SET state = 'filed', path = $path, last_change = coalesce(
              (SELECT max(id) FROM value_history WHERE document_id = $document), 0) WHERE run_id = $run AND document_id = $document
            """,
            ("$run", run),
            ("$document", document),
            ("$path", path)
        );

    /// <summary>Notes what became of one.</summary>
    public static void Set(SqliteConnection c, long run, long document, string state, string says) =>
        c.Execute(
            "UPDATE filing_run_documents SET state = $state, says = $says WHERE run_id = $run AND document_id = $document",
            ("$run", run),
            ("$document", document),
            ("$state", state),
            ("$says", says)
        );

    /// <summary>Whether a document stands as an act has filed it: at the same place, with no value set since.</summary>
    public static bool IsUntouched(SqliteConnection c, FilingRunDocument filed) =>
        c.Scalar<long>(
            """
            SELECT EXISTS (SELECT 1 FROM documents WHERE id = $document AND state = 'filed' AND folder || '/' || name = $path
              AND coalesce((SELECT max(id) FROM value_history WHERE document_id = $document), 0) = $last)
            """,
            ("$document", filed.Document),
            ("$path", filed.Path),
            ("$last", filed.LastChange)
        ) == 1;

    private static FilingRun Map(SqliteDataReader r) =>
        new(r.GetInt64(0), r.IsDBNull(1) ? null : r.GetInt64(1), r.GetString(2), r.GetString(3), r.GetString(4));
}
