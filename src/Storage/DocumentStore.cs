using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Vocabularies;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Documents, their pages and their full text.</summary>
public static class DocumentStore
{
    internal const string Columns = """
        SELECT id, state, type_code, version, reader_key, batch_id, source_name, source_file, record, evidence, overrides,
               folder, name, file_hash, filed_at, filed_by, wave_id, legacy_path, naming, source_hash, version_of, parked, reader_version, revision FROM documents
        """;

    /// <summary>One document, or null.</summary>
    public static StoredDocument? Find(SqliteConnection c, long id) =>
        c.Query(Columns + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>Documents on the desk in the order they came, of one batch or of all.</summary>
    public static List<StoredDocument> OnDesk(SqliteConnection c, long? batchId = null) =>
        c.Query(
            Columns + " WHERE state = 'desk' AND ($batch IS NULL OR batch_id = $batch) ORDER BY batch_id, source_file, id",
            Map,
            ("$batch", batchId)
        );

    /// <summary>The documents on the desk in the order they came, with nothing but their ids and batches.</summary>
    public static List<StoredDocument> DeskIds(SqliteConnection c) =>
        c.Query(
            "SELECT id, batch_id FROM documents WHERE state = 'desk' ORDER BY batch_id, source_file, id",
            r => new StoredDocument
            {
                Id = r.Long("id"),
                BatchId = r.LongOrNone("batch_id"),
                SourceName = "",
            }
        );

    /// <summary>
    /// Documents of a type whose table holds a text in some cell; the caller looks closer.
    /// </summary>
    public static List<StoredDocument> Holding(SqliteConnection c, string typeCode, string field, string text) =>
        c.Query(
            Columns + " WHERE type_code = $type AND instr(record ->> $path, $text) > 0 ORDER BY id",
            Map,
            ("$type", typeCode),
            ("$path", $"$.\"{field}\""),
            ("$text", text)
        );

    /// <summary>Documents of a type in a state that come after an id, by id.</summary>
    /// <param name="c">Connection.</param>
    /// <param name="typeCode">The type; null for those of none yet.</param>
    /// <param name="state"><c>desk</c> or <c>filed</c>.</param>
    /// <param name="afterId">The last one that was had before.</param>
    /// <param name="take">Most of them.</param>
    public static List<StoredDocument> In(SqliteConnection c, string? typeCode, string state, long afterId, int take) =>
        c.Query(
            Columns + " WHERE type_code IS $type AND state = $state AND id > $after ORDER BY id LIMIT $take",
            Map,
            ("$type", typeCode),
            ("$state", state),
            ("$after", afterId),
            ("$take", take)
        );

    /// <summary>Ids of filed documents of any type that come after an id, in their order.</summary>
    public static List<long> FiledIds(SqliteConnection c, long afterId, int take) =>
        c.Query(
            "SELECT id FROM documents WHERE id > $after AND state = 'filed' ORDER BY id LIMIT $take",
            r => r.Long("id"),
            ("$after", afterId),
            ("$take", take)
        );

    /// <summary>How many documents <see cref="In"/> would give without end.</summary>
    public static long CountIn(SqliteConnection c, string? typeCode, string state, long afterId) =>
        c.Scalar<long>(
            "SELECT count(*) FROM documents WHERE type_code IS $type AND state = $state AND id > $after",
            ("$type", typeCode),
            ("$state", state),
            ("$after", afterId)
        );

    /// <summary>Documents that a reader read, the newest first.</summary>
    public static List<StoredDocument> ReadBy(SqliteConnection c, string reader, int most) =>
        c.Query(Columns + " WHERE reader_key = $reader ORDER BY id DESC LIMIT $most", Map, ("$reader", reader), ("$most", most));

    /// <summary>Documents of a type on the desk.</summary>
    public static List<StoredDocument> OnDeskOf(SqliteConnection c, string typeCode) =>
        c.Query(Columns + " WHERE state = 'desk' AND type_code = $type ORDER BY id", Map, ("$type", typeCode));

    /// <summary>The document before one in its batch, or null.</summary>
    public static StoredDocument? Before(SqliteConnection c, long batchId, long id) =>
        c.Query(Columns + " WHERE batch_id = $batch AND id < $id ORDER BY id DESC LIMIT 1", Map, ("$batch", batchId), ("$id", id))
            .FirstOrDefault();

    /// <summary>
    /// Takes a document in; one that was here before gets its id again while nobody else has it. A new one never gets that of a document
    /// that can come back.
    /// </summary>
    public static long Add(SqliteConnection c, StoredDocument d, IEnumerable<StoredPage> pages)
    {
        var id = c.Scalar<long>(
            """
            INSERT INTO documents
              (id, state, type_code, version, reader_key, reader_version, batch_id, source_name, source_file, record, evidence, overrides)
            VALUES (coalesce($id, 1 + max(coalesce((SELECT max(id) FROM documents), 0), coalesce((SELECT max(document_id) FROM page_acts), 0))), 'desk', $type, $version, $reader, $reader_version, $batch, $source_name, $source_file, $record, $evidence, $overrides)
            RETURNING id
            """,
            ("$id", d.Id == 0 || Find(c, d.Id) is not null ? null : d.Id),
            ("$type", d.TypeCode),
            ("$version", d.Version),
            ("$reader", d.ReaderKey),
            ("$reader_version", d.ReaderVersion),
            ("$batch", d.BatchId),
            ("$source_name", d.SourceName),
            ("$source_file", d.SourceFile),
            ("$record", Sql.ToJson(d.Record)),
            ("$evidence", Sql.ToJson(d.Evidence)),
            ("$overrides", Sql.ToJson(d.Overrides))
        );
        foreach (var page in pages)
            c.Execute(
                "INSERT INTO pages (document_id, number, image, page, notice, file_id, file_page) "
                    + "VALUES ($id, $number, $image, $page, $notice, $file, $file_page)",
                ("$file", page.FileId),
                ("$file_page", page.FilePage),
                ("$id", id),
                ("$number", page.Number),
                ("$image", page.Image),
                ("$page", Sql.ToJson(page.Text)),
                ("$notice", page.Notice)
            );
        return id;
    }

    /// <summary>Saves type, values, evidence and overrides of a document as it was read; it has the next revision from then on.</summary>
    /// <exception cref="ChangedMeanwhileException">It has been changed or removed since it was read.</exception>
    public static StoredDocument Save(SqliteConnection c, StoredDocument d)
    {
        var saved = c.Execute(
            """
            UPDATE documents SET type_code = $type, version = $version, reader_key = $reader, reader_version = $reader_version,
              record = $record, evidence = $evidence, overrides = $overrides, revision = revision + 1
              WHERE id = $id AND revision = $revision
            """,
            ("$id", d.Id),
            ("$revision", d.Revision),
            ("$type", d.TypeCode),
            ("$version", d.Version),
            ("$reader", d.ReaderKey),
            ("$reader_version", d.ReaderVersion),
            ("$record", Sql.ToJson(d.Record)),
            ("$evidence", Sql.ToJson(d.Evidence)),
            ("$overrides", Sql.ToJson(d.Overrides))
        );
        return saved == 1 ? d with { Revision = d.Revision + 1 } : throw new ChangedMeanwhileException(d.Id);
    }

    /// <summary>Removes a document that was never filed.</summary>
    /// <param name="c">Connection.</param>
    /// <param name="id">The document.</param>
    /// <param name="comesBack">Whether an act that removes it may be undone, so that what was done with its pages before is kept.</param>
    public static void RemoveFromDesk(SqliteConnection c, long id, bool comesBack = false)
    {
        if (!comesBack)
            PageStore.Forget(c, id);
        c.Execute("DELETE FROM documents WHERE id = $id AND state = 'desk'", ("$id", id));
    }

    /// <summary>Turns a desk document into a filed one. Fails on a place that is taken.</summary>
    public static void MarkFiled(SqliteConnection c, StoredDocument d, DateTimeOffset at, string who)
    {
        var filed = c.Execute(
            """
            UPDATE documents SET state = 'filed', folder = $folder, name = $name, place_key = $key, file_hash = $hash, source_hash = $source_hash, naming = $naming, version_of = $version_of,
              filed_at = $at, filed_by = $who, revision = revision + 1 WHERE id = $id AND state = 'desk'
            """,
            ("$id", d.Id),
            ("$folder", d.Folder),
            ("$name", d.Name),
            ("$key", Database.PlaceKey(d.Folder!, d.Name!)),
            ("$hash", d.FileHash),
            ("$source_hash", d.SourceHash),
            ("$naming", d.Naming is { } n ? Sql.ToJson(n) : null),
            ("$version_of", d.VersionOf),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );
        if (filed == 0)
            return;
        FolderStore.Count(c, d.Folder!, 1);
        FolderStore.CountType(c, d.TypeCode!, 1);
        ParkingStore.Release(c, d.Id);
        PageStore.Forget(c, d.Id);
    }

    /// <summary>Has a filed document found no more, by words, values, folder or type; its record stays.</summary>
    public static void RemoveFromIndex(SqliteConnection c, StoredDocument d)
    {
        c.Execute("DELETE FROM document_text WHERE rowid = $id", ("$id", d.Id));
        FoundStore.Remove(c, d.Id);
        FolderStore.Count(c, d.Folder!, -1);
        FolderStore.CountType(c, d.TypeCode!, -1);
    }

    /// <summary>Gives a filed document another place. Fails on one that is taken.</summary>
    public static void SetPlace(SqliteConnection c, long id, string folder, string name, Naming? naming)
    {
        var before = c.Scalar<string>("SELECT folder FROM documents WHERE id = $id AND state = 'filed'", ("$id", id));
        if (before is null)
            return;
        c.Execute(
            "UPDATE documents SET folder = $folder, name = $name, place_key = $key, naming = $naming, revision = revision + 1 "
                + "WHERE id = $id",
            ("$id", id),
            ("$folder", folder),
            ("$name", name),
            ("$key", Database.PlaceKey(folder, name)),
            ("$naming", naming is null ? null : Sql.ToJson(naming))
        );
        if (before == folder)
            return;
        FolderStore.Count(c, before, -1);
        FolderStore.Count(c, folder, 1);
    }

    /// <summary>Parks a document with a reason, or with none takes it out of the parked ones.</summary>
    public static void Park(SqliteConnection c, long id, string? reason) =>
        c.Execute("UPDATE documents SET parked = $reason, revision = revision + 1 WHERE id = $id", ("$id", id), ("$reason", reason));

    /// <summary>Documents of a type after an id, by id, on the desk and filed.</summary>
    public static List<StoredDocument> After(SqliteConnection c, string typeCode, long afterId, int take) =>
        c.Query(
            Columns + " WHERE type_code = $type AND id > $after ORDER BY id LIMIT $take",
            Map,
            ("$type", typeCode),
            ("$after", afterId),
            ("$take", take)
        );

    /// <summary>Ids of documents of a type after an id, in order, on the desk and filed.</summary>
    public static List<long> IdsAfter(SqliteConnection c, string typeCode, long afterId, int take) =>
        c.Query(
            "SELECT id FROM documents WHERE type_code = $type AND id > $after ORDER BY id LIMIT $take",
            r => r.Long("id"),
            ("$type", typeCode),
            ("$after", afterId),
            ("$take", take)
        );

    /// <summary>How many documents of a type come after an id.</summary>
    public static long CountAfter(SqliteConnection c, string typeCode, long afterId) =>
        c.Scalar<long>("SELECT count(*) FROM documents WHERE type_code = $type AND id > $after", ("$type", typeCode), ("$after", afterId));

    /// <summary>Parked documents of a type.</summary>
    public static List<StoredDocument> Parked(SqliteConnection c, string typeCode) =>
        c.Query(
            Columns + " INDEXED BY documents_parked WHERE type_code = $type AND parked IS NOT NULL ORDER BY id",
            Map,
            ("$type", typeCode)
        );

    /// <summary>Filed documents of a type that came as the same file.</summary>
    public static List<StoredDocument> WithSource(SqliteConnection c, string typeCode, string sourceHash) =>
        c.Query(
            Columns + " WHERE source_hash = $hash AND type_code = $type AND state = 'filed'",
            Map,
            ("$hash", sourceHash),
            ("$type", typeCode)
        );

    /// <summary>How many pages a document has.</summary>
    public static int PageCount(SqliteConnection c, long id) =>
        (int)c.Scalar<long>("SELECT count(*) FROM pages WHERE document_id = $id AND number > 0", ("$id", id));

    /// <summary>The number of a document in its batch, from 1.</summary>
    public static int NumberInBatch(SqliteConnection c, long batchId, long id) =>
        (int)c.Scalar<long>("SELECT count(*) FROM documents WHERE batch_id = $batch AND id <= $id", ("$batch", batchId), ("$id", id));

    /// <summary>How many pages each document on the desk has; of those without any it says nothing.</summary>
    public static Dictionary<long, int> PageCountsOnDesk(SqliteConnection c) =>
        c.Query(
                "SELECT p.document_id, count(*) AS pages FROM documents d JOIN pages p ON p.document_id = d.id AND p.number > 0 "
                    + "WHERE d.state = 'desk' GROUP BY p.document_id",
                r => (Id: r.Long("document_id"), Pages: r.Int("pages"))
            )
            .ToDictionary(d => d.Id, d => d.Pages);

    /// <summary>The documents of a batch, filed ones too, in the order in which they are numbered.</summary>
    public static List<long> IdsIn(SqliteConnection c, long batchId) =>
        c.Query("SELECT id FROM documents WHERE batch_id = $batch ORDER BY id", r => r.Long("id"), ("$batch", batchId));

    /// <summary>Documents of a type that have pages, on the desk and filed, the newest first.</summary>
    public static List<StoredDocument> WithPages(SqliteConnection c, string typeCode, int take) =>
        // The few that have pages are walked, not the many of the type.
        c.Query(
            Columns + " WHERE id IN (SELECT document_id FROM pages) AND +type_code = $type ORDER BY id DESC LIMIT $take",
            Map,
            ("$type", typeCode),
            ("$take", take)
        );

    /// <summary>Pages of a document.</summary>
    public static List<StoredPage> Pages(SqliteConnection c, long id) => [.. PagesAndSheet(c, id).Where(p => p.Number > 0)];

    /// <summary>Pages of a document, before them as page 0 the sheet that it came with, if any.</summary>
    public static List<StoredPage> PagesAndSheet(SqliteConnection c, long id) =>
        c.Query(
            """
            SELECT p.number, p.image, p.page, p.notice, p.file_id, p.file_page, f.stored,
                   f.pages = (SELECT count(*) FROM pages o WHERE o.document_id = p.document_id AND o.number > 0 AND o.file_id = p.file_id)
                     AS is_whole_file
            FROM pages p LEFT JOIN batch_files f ON f.id = p.file_id WHERE p.document_id = $id ORDER BY p.number
            """,
            r => new StoredPage(r.Int("number"), r.Text("image"), r.FromJson<PageText>("page"), r.TextOrNone("notice"))
            {
                FileId = r.LongOrNone("file_id"),
                FilePage = r.IntOrNone("file_page"),
                FileStored = r.TextOrNone("stored"),
                IsWholeFile = !r.IsNull("is_whole_file") && r.Flag("is_whole_file"),
            },
            ("$id", id)
        );

    /// <summary>How many filed documents of a type are parked, counted to a bound.</summary>
    public static long CountParked(SqliteConnection c, string typeCode, int most) =>
        c.Scalar<long>(
            "SELECT count(*) FROM (SELECT 1 FROM documents INDEXED BY documents_parked WHERE type_code = $type AND parked IS NOT NULL "
                + "LIMIT $most)",
            ("$type", typeCode),
            ("$most", most)
        );

    /// <summary>
    /// Puts a document's text into the full-text index, folded as values of fields are, so that a word is found in both or in neither;
    /// words of restricted regions apart.
    /// </summary>
    public static void IndexText(SqliteConnection c, long id, string body, string restricted)
    {
        c.Execute("DELETE FROM document_text WHERE rowid = $id", ("$id", id));
        c.Execute(
            "INSERT INTO document_text (rowid, body, restricted) VALUES ($id, $body, $restricted)",
            ("$id", id),
            ("$body", Folding.Fold(body)),
            ("$restricted", Folding.Fold(restricted))
        );
    }

    internal static StoredDocument Map(Row r) =>
        new()
        {
            Id = r.Long("id"),
            Filed = r.Text("state") == "filed",
            TypeCode = r.TextOrNone("type_code"),
            Version = r.IntOrNone("version"),
            ReaderKey = r.TextOrNone("reader_key"),
            BatchId = r.LongOrNone("batch_id"),
            SourceName = r.Text("source_name"),
            SourceFile = r.TextOrNone("source_file"),
            Record = r.FromJson<Dictionary<string, string>>("record"),
            EvidenceAsKept = r.Bytes("evidence"),
            Overrides = r.FromJson<Dictionary<string, string>>("overrides"),
            Folder = r.TextOrNone("folder"),
            Name = r.TextOrNone("name"),
            FileHash = r.TextOrNone("file_hash"),
            FiledAt = r.MomentOrNone("filed_at"),
            FiledBy = r.TextOrNone("filed_by"),
            WaveId = r.LongOrNone("wave_id"),
            LegacyPath = r.TextOrNone("legacy_path"),
            Naming = r.FromJsonOrNone<Naming>("naming"),
            SourceHash = r.TextOrNone("source_hash"),
            VersionOf = r.LongOrNone("version_of"),
            Parked = r.TextOrNone("parked"),
            ReaderVersion = r.IntOrNone("reader_version"),
            Revision = r.Long("revision"),
        };
}
