using ClearLexicon.Core.Reading;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A page of a batch as it was read.</summary>
/// <param name="FileId">Its file.</param>
/// <param name="Number">Its number in the file, from 1.</param>
/// <param name="Image">Picture, relative to the data folder.</param>
/// <param name="Text">Its words, codes and ink.</param>
/// <param name="Notice">What the person should know about its text.</param>
/// <param name="DocumentId">The document that was made of it; null when it vanished, or none was made yet.</param>
public sealed record StackedPage(long FileId, int Number, string Image, PageText Text, string? Notice, long? DocumentId)
{
    /// <summary>Its name in a stack.</summary>
    public string Key => $"{FileId}/{Number}";
}

/// <summary>The pages of batches before they become documents.</summary>
public static class StackStore
{
    private const string Columns = "SELECT file_id, number, image, page, notice, document_id FROM stack_pages";

    /// <summary>Keeps a page; one that was kept before is replaced.</summary>
    public static void Put(SqliteConnection c, StackedPage page) =>
        c.Execute(
            "INSERT OR REPLACE INTO stack_pages (file_id, number, image, page, notice) VALUES ($file, $number, $image, $page, $notice)",
            ("$file", page.FileId),
            ("$number", page.Number),
            ("$image", page.Image),
            ("$page", Sql.ToJson(page.Text)),
            ("$notice", page.Notice)
        );

    /// <summary>Numbers of the pages of a file that were read.</summary>
    public static HashSet<int> Read(SqliteConnection c, long fileId) =>
        [.. c.Query("SELECT number FROM stack_pages WHERE file_id = $file", r => r.Int("number"), ("$file", fileId))];

    /// <summary>The pages of a file in order.</summary>
    public static List<StackedPage> OfFile(SqliteConnection c, long fileId) =>
        c.Query(Columns + " WHERE file_id = $file ORDER BY number", Map, ("$file", fileId));

    /// <summary>One page, or null.</summary>
    public static StackedPage? Find(SqliteConnection c, long fileId, int number) =>
        c.Query(Columns + " WHERE file_id = $file AND number = $number", Map, ("$file", fileId), ("$number", number)).FirstOrDefault();

    /// <summary>Says which document was made of a page.</summary>
    public static void SetDocument(SqliteConnection c, long fileId, int number, long? document) =>
        c.Execute(
            "UPDATE stack_pages SET document_id = $document WHERE file_id = $file AND number = $number",
            ("$file", fileId),
            ("$number", number),
            ("$document", document)
        );

    /// <summary>Says of the pages that a document has, and of those that it has no longer, to which document they belong.</summary>
    public static void Follow(SqliteConnection c, long document)
    {
        c.Execute(
            """
            UPDATE stack_pages SET document_id = NULL WHERE document_id = $document AND NOT EXISTS (SELECT 1 FROM pages p
              WHERE p.document_id = $document AND p.number > 0 AND p.file_id = stack_pages.file_id AND p.file_page = stack_pages.number)
            """,
            ("$document", document)
        );
        c.Execute(
            """
            UPDATE stack_pages SET document_id = $document WHERE (file_id, number) IN
              (SELECT file_id, file_page FROM pages WHERE document_id = $document AND number > 0 AND file_id IS NOT NULL)
            """,
            ("$document", document)
        );
    }

    /// <summary>Forgets the pages of a batch; their pictures stay.</summary>
    public static void Forget(SqliteConnection c, long batchId) =>
        c.Execute("DELETE FROM stack_pages WHERE file_id IN (SELECT id FROM batch_files WHERE batch_id = $batch)", ("$batch", batchId));

    private static StackedPage Map(Row r) =>
        new(
            r.Long("file_id"),
            r.Int("number"),
            r.Text("image"),
            r.FromJson<PageText>("page"),
            r.TextOrNone("notice"),
            r.LongOrNone("document_id")
        );
}
