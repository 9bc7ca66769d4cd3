using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A filing under way.</summary>
/// <param name="Id">Id.</param>
/// <param name="DocumentId">The document.</param>
/// <param name="DraftFile">Where the PDF is written first, relative to the data folder.</param>
/// <param name="FinalFile">Where it will stand, relative to the data folder.</param>
/// <param name="FileHash">SHA-256 of the PDF.</param>
public sealed record Filing(long Id, long DocumentId, string DraftFile, string FinalFile, string FileHash);

/// <summary>
/// Makes a file and its record appear together: the intention is written here before the file moves, and taken out in the
/// same transaction that marks the document as filed.
/// </summary>
public static class FilingJournal
{
    /// <summary>Writes an intention down.</summary>
    public static long Begin(SqliteConnection c, long documentId, string draftFile, string finalFile, string hash) =>
        c.Scalar<long>(
            "INSERT INTO filing_journal (document_id, draft_file, final_file, file_hash) VALUES ($id, $draft, $final, $hash) RETURNING id",
            ("$id", documentId),
            ("$draft", draftFile),
            ("$final", finalFile),
            ("$hash", hash)
        );

    /// <summary>Takes an intention out.</summary>
    public static void End(SqliteConnection c, long id) => c.Execute("DELETE FROM filing_journal WHERE id = $id", ("$id", id));

    /// <summary>Intentions that were never ended.</summary>
    public static List<Filing> Unfinished(SqliteConnection c) =>
        c.Query(
            "SELECT id, document_id, draft_file, final_file, file_hash FROM filing_journal",
            r => new Filing(r.Long("id"), r.Long("document_id"), r.Text("draft_file"), r.Text("final_file"), r.Text("file_hash"))
        );
}
