using ClearLexicon.Core.Reading;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A sample page of a reader.</summary>
/// <param name="Id">Id.</param>
/// <param name="ReaderKey">Its reader.</param>
/// <param name="Name">File name.</param>
/// <param name="Image">Picture, relative to the data folder.</param>
/// <param name="Page">Its text.</param>
/// <param name="Truth">What is known to be true, by field key; empty when nothing is.</param>
public sealed record Sample(long Id, string ReaderKey, string Name, string Image, PageText Page, IReadOnlyDictionary<string, string> Truth);

/// <summary>A published version of a reader.</summary>
/// <param name="Reader">The reader, which never changes.</param>
/// <param name="Version">Number from 1.</param>
/// <param name="PublishedAt">When.</param>
/// <param name="PublishedBy">By whom; empty for one that was in use before readers had versions.</param>
public sealed record ReaderVersion(Reader Reader, int Version, Instant PublishedAt, string PublishedBy);

/// <summary>How a draft of a reader stands to what is published.</summary>
/// <param name="Version">The newest published version; 0 when there is none.</param>
/// <param name="DraftOpen">Whether the draft differs from it.</param>
/// <param name="Undo">What the last change of the draft was; null when there is nothing to take back.</param>
public sealed record ReaderState(int Version, bool DraftOpen, string? Undo);

/// <summary>Readers, their published versions and their samples.</summary>
public static class ReaderStore
{
    private const int UndoSteps = 100;

    /// <summary>All readers as they are drafted.</summary>
    public static List<Reader> All(SqliteConnection c) =>
        c.Query("SELECT definition FROM readers ORDER BY type_code, key", r => r.FromJson<Reader>("definition"));

    /// <summary>The newest published version of each reader: what reads incoming pages.</summary>
    public static List<ReaderVersion> Published(SqliteConnection c) =>
        c.Query(
            """
            SELECT v.definition, v.version, v.published_at, v.published_by
            FROM readers r JOIN reader_versions v ON v.reader_key = r.key
              AND v.version = (SELECT max(version) FROM reader_versions n WHERE n.reader_key = r.key)
            ORDER BY r.type_code, r.key
            """,
            MapVersion
        );

    /// <summary>Published versions of a reader, newest first.</summary>
    public static List<ReaderVersion> Versions(SqliteConnection c, string key) =>
        c.Query(
            "SELECT definition, version, published_at, published_by FROM reader_versions WHERE reader_key = $key ORDER BY version DESC",
            MapVersion,
            ("$key", key)
        );

    /// <summary>The newest published version of a reader; null while there is none.</summary>
    public static ReaderVersion? Newest(SqliteConnection c, string key) =>
        c.Query(
                """
                SELECT definition, version, published_at, published_by FROM reader_versions
                WHERE reader_key = $key ORDER BY version DESC LIMIT 1
                """,
                MapVersion,
                ("$key", key)
            )
            .FirstOrDefault();

    /// <summary>How the draft of a reader stands to what is published.</summary>
    public static ReaderState State(SqliteConnection c, string key)
    {
        var newest = Newest(c, key);
        return new ReaderState(
            newest?.Version ?? 0,
            newest is null || Find(c, key) is { } draft && Sql.ToJson(draft) != Sql.ToJson(newest.Reader),
            c.Query(
                    "SELECT change FROM reader_history WHERE reader_key = $key ORDER BY id DESC LIMIT 1",
                    r => r.Text("change"),
                    ("$key", key)
                )
                .FirstOrDefault()
        );
    }

    /// <summary>Publishes a reader as the next version and returns its number; the number of the newest when that is the same.</summary>
    public static int Publish(SqliteConnection c, Reader reader, DateTimeOffset at, string who)
    {
        var newest = Newest(c, reader.Key);
        if (newest is not null && Sql.AreSame(newest.Reader, reader))
            return newest.Version;
        var version = (newest?.Version ?? 0) + 1;
        c.Execute(
            "INSERT INTO reader_versions (reader_key, version, definition, published_at, published_by) "
                + "VALUES ($key, $version, $definition, $at, $who)",
            ("$key", reader.Key),
            ("$version", version),
            ("$definition", Sql.ToJson(reader)),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );
        return version;
    }

    /// <summary>Saves a changed draft and keeps the one before for undo.</summary>
    public static void SaveDraft(SqliteConnection c, Reader reader, string change)
    {
        c.Execute(
            "INSERT INTO reader_history (reader_key, definition, change) SELECT key, definition, $change FROM readers WHERE key = $key",
            ("$key", reader.Key),
            ("$change", change)
        );
        c.Execute(
            """
            DELETE FROM reader_history WHERE reader_key = $key AND id <=
              (SELECT id FROM reader_history WHERE reader_key = $key ORDER BY id DESC LIMIT 1 OFFSET $keep)
            """,
            ("$key", reader.Key),
            ("$keep", UndoSteps)
        );
        Save(c, reader);
    }

    /// <summary>Takes the last change of the draft back and says what it was; null when there was none.</summary>
    public static string? Undo(SqliteConnection c, string key)
    {
        var last = c.Query(
            "SELECT id, change, definition FROM reader_history WHERE reader_key = $key ORDER BY id DESC LIMIT 1",
            r => (Id: r.Long("id"), Change: r.Text("change"), Reader: r.FromJson<Reader>("definition")),
            ("$key", key)
        );
        if (last.Count == 0)
            return null;
        Save(c, last[0].Reader);
        c.Execute("DELETE FROM reader_history WHERE id = $id", ("$id", last[0].Id));
        return last[0].Change;
    }

    /// <summary>Forgets what could be taken back: a published draft is a new beginning.</summary>
    public static void ForgetChanges(SqliteConnection c, string key) =>
        c.Execute("DELETE FROM reader_history WHERE reader_key = $key", ("$key", key));

    private static ReaderVersion MapVersion(Row r) =>
        new(r.FromJson<Reader>("definition"), r.Int("version"), r.Moment("published_at"), r.Text("published_by"));

    /// <summary>One reader as it is drafted, or null.</summary>
    public static Reader? Find(SqliteConnection c, string key) =>
        c.Query("SELECT definition FROM readers WHERE key = $key", r => r.FromJson<Reader>("definition"), ("$key", key)).FirstOrDefault();

    /// <summary>Saves the draft of a reader, without undo.</summary>
    public static void Save(SqliteConnection c, Reader reader) =>
        c.Execute(
            "INSERT INTO readers (key, type_code, definition) VALUES ($key, $type, $definition) ON CONFLICT (key) DO UPDATE "
                + "SET type_code = $type, definition = $definition",
            ("$key", reader.Key),
            ("$type", reader.TypeCode),
            ("$definition", Sql.ToJson(reader))
        );

    /// <summary>Samples of a reader in the order they were added.</summary>
    public static List<Sample> Samples(SqliteConnection c, string readerKey) =>
        c.Query(
            "SELECT id, reader_key, name, image, page, truth FROM samples WHERE reader_key = $key ORDER BY id",
            Map,
            ("$key", readerKey)
        );

    /// <summary>Samples of a reader in the order they were added, without their pages: id, name, and what is true as JSON.</summary>
    public static List<(long Id, string Name, string Truth)> Truths(SqliteConnection c, string readerKey) =>
        c.Query(
            "SELECT id, name, truth FROM samples WHERE reader_key = $key ORDER BY id",
            r => (r.Long("id"), r.Text("name"), r.Text("truth")),
            ("$key", readerKey)
        );

    /// <summary>One sample, or null.</summary>
    public static Sample? FindSample(SqliteConnection c, long id) =>
        c.Query("SELECT id, reader_key, name, image, page, truth FROM samples WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>Adds a sample.</summary>
    public static long AddSample(
        SqliteConnection c,
        string readerKey,
        string name,
        string image,
        PageText page,
        IReadOnlyDictionary<string, string> truth
    ) =>
        c.Scalar<long>(
            "INSERT INTO samples (reader_key, name, image, page, truth) VALUES ($key, $name, $image, $page, $truth) RETURNING id",
            ("$key", readerKey),
            ("$name", name),
            ("$image", image),
            ("$page", Sql.ToJson(page)),
            ("$truth", Sql.ToJson(truth))
        );

    /// <summary>Records what a person checked to be true on a sample.</summary>
    public static void SetTruth(SqliteConnection c, long id, IReadOnlyDictionary<string, string> truth) =>
        c.Execute("UPDATE samples SET truth = $truth WHERE id = $id", ("$id", id), ("$truth", Sql.ToJson(truth)));

    /// <summary>Sets what was recognised on a sample.</summary>
    public static void SetPage(SqliteConnection c, long id, PageText page) =>
        c.Execute("UPDATE samples SET page = $page WHERE id = $id", ("$id", id), ("$page", Sql.ToJson(page)));

    private static Sample Map(Row r) =>
        new(
            r.Long("id"),
            r.Text("reader_key"),
            r.Text("name"),
            r.Text("image"),
            r.FromJson<PageText>("page"),
            r.FromJson<Dictionary<string, string>>("truth")
        );
}
