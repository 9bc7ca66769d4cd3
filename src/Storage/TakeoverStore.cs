using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What was found in a package.</summary>
/// <param name="Documents">How many documents.</param>
/// <param name="Bytes">How large its files are together.</param>
/// <param name="Types">Documents by the name of their type.</param>
/// <param name="Design">Vocabularies, tables and readers in words.</param>
/// <param name="Problems">What is wrong with it; while there is anything, it is not taken over.</param>
public sealed record PackageLook(
    long Documents,
    long Bytes,
    IReadOnlyDictionary<string, long> Types,
    string Design,
    IReadOnlyList<string> Problems
);

/// <summary>A package that was looked at, and what became of it.</summary>
/// <param name="Id">Id.</param>
/// <param name="Folder">Its folder in <c>packages/</c>.</param>
/// <param name="State"><c>looking</c>, <c>looked</c>, <c>taking</c>, <c>taken</c>, <c>returning</c> or <c>undone</c>.</param>
/// <param name="Look">What was found; null until it was looked at to the end.</param>
/// <param name="Reached">The last document that is here; -1 while not even the design is.</param>
/// <param name="Batch">The batch of the files that its documents came as.</param>
/// <param name="At">When it was looked at.</param>
/// <param name="Who">By whom.</param>
public sealed record Takeover(long Id, string Folder, string State, PackageLook? Look, long Reached, long? Batch, string At, string Who);

/// <summary>Packages of whole repositories that were looked at and taken over.</summary>
public static class TakeoverStore
{
    private const string Columns = "SELECT id, folder, state, look, reached, batch_id, at, who FROM takeovers";

    /// <summary>The newest.</summary>
    public static List<Takeover> Newest(SqliteConnection c, int most) =>
        c.Query(Columns + " ORDER BY id DESC LIMIT $most", Map, ("$most", most));

    /// <summary>One, or null.</summary>
    public static Takeover? Find(SqliteConnection c, long id) => c.Query(Columns + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>Begins to look at a package.</summary>
    public static long Begin(SqliteConnection c, string folder, DateTimeOffset at, string who) =>
        c.Scalar<long>(
            "INSERT INTO takeovers (folder, state, at, who) VALUES ($folder, 'looking', $at, $who) RETURNING id",
            ("$folder", folder),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );

    /// <summary>Keeps what was found.</summary>
    public static void SetLook(SqliteConnection c, long id, PackageLook look) =>
        c.Execute("UPDATE takeovers SET look = $look, state = 'looked' WHERE id = $id", ("$id", id), ("$look", Sql.ToJson(look)));

    /// <summary>Notes what becomes of it.</summary>
    public static void SetState(SqliteConnection c, long id, string state) =>
        c.Execute("UPDATE takeovers SET state = $state WHERE id = $id", ("$id", id), ("$state", state));

    /// <summary>Notes how far its documents are here, and the batch of their files.</summary>
    public static void SetReached(SqliteConnection c, long id, long reached, long? batch) =>
        c.Execute(
            "UPDATE takeovers SET reached = $reached, batch_id = $batch WHERE id = $id",
            ("$id", id),
            ("$reached", reached),
            ("$batch", batch)
        );

    /// <summary>Whether there is any document.</summary>
    public static bool HasDocuments(SqliteConnection c) => c.Scalar<long>("SELECT (SELECT max(id) FROM documents) IS NOT NULL") == 1;

    /// <summary>Whether there is no document, and no document type that could have one.</summary>
    public static bool IsEmpty(SqliteConnection c) =>
        !HasDocuments(c) && c.Scalar<long>("SELECT NOT EXISTS (SELECT 1 FROM document_types)") == 1;

    /// <summary>Keeps of a document that was filed elsewhere what filing does not say.</summary>
    public static void Complete(SqliteConnection c, StoredDocument d) =>
        c.Execute(
            "UPDATE documents SET legacy_path = $legacy, parked = $parked, version_of = $of, revision = revision + 1 WHERE id = $id",
            ("$id", d.Id),
            ("$legacy", d.LegacyPath),
            ("$parked", d.Parked),
            ("$of", d.VersionOf is { } of && DocumentStore.Find(c, of) is not null ? of : null)
        );

    /// <summary>Takes a document away that came with a package.</summary>
    public static void Remove(SqliteConnection c, StoredDocument d)
    {
        c.Execute("UPDATE documents SET version_of = NULL, revision = revision + 1 WHERE version_of = $id", ("$id", d.Id));
        DocumentStore.RemoveFromIndex(c, d);
        c.Execute("DELETE FROM documents WHERE id = $id", ("$id", d.Id));
    }

    private static Takeover Map(SqliteDataReader r) =>
        new(
            r.GetInt64(0),
            r.GetString(1),
            r.GetString(2),
            r.IsDBNull(3) ? null : r.FromJson<PackageLook>(3),
            r.GetInt64(4),
            r.IsDBNull(5) ? null : r.GetInt64(5),
            r.GetString(6),
            r.GetString(7)
        );
}
