using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Documents that come with a package of a whole repository.</summary>
public static class TakeoverStore
{
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
}
