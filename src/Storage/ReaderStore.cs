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

/// <summary>Readers and their samples.</summary>
public static class ReaderStore
{
    /// <summary>All readers.</summary>
    public static List<Reader> All(SqliteConnection c) =>
        c.Query("SELECT definition FROM readers ORDER BY type_code, key", r => r.FromJson<Reader>(0));

    /// <summary>One reader, or null.</summary>
    public static Reader? Find(SqliteConnection c, string key) =>
        c.Query("SELECT definition FROM readers WHERE key = $key", r => r.FromJson<Reader>(0), ("$key", key)).FirstOrDefault();

    /// <summary>Saves a reader.</summary>
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

    private static Sample Map(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.GetString(1),
            r.GetString(2),
            r.GetString(3),
            r.FromJson<PageText>(4),
            r.FromJson<Dictionary<string, string>>(5)
        );
}
