using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A folder with how many documents are in it and below.</summary>
/// <param name="Path">From the root; empty for the root.</param>
/// <param name="Below">Documents in it and below.</param>
public sealed record CountedFolder(string Path, long Below);

/// <summary>Folders and types with their counts, kept by whatever gives a document a place or takes it away.</summary>
public static class FolderStore
{
    /// <summary>Counts documents that came to a folder, or with a negative number left it.</summary>
    public static void Count(SqliteConnection c, string folder, int documents)
    {
        for (var (at, here) = (folder, documents); ; here = 0)
        {
            var end = at.LastIndexOf('/');
            var parent =
                at.Length == 0 ? null
                : end < 0 ? ""
                : at[..end];
            c.Execute(
                """
                INSERT INTO folders (path, parent, here, below) VALUES ($path, $parent, $here, $below)
                ON CONFLICT (path) DO UPDATE SET here = here + excluded.here, below = below + excluded.below
                """,
                ("$path", at),
                ("$parent", parent),
                ("$here", here),
                ("$below", documents)
            );
            if (documents < 0)
                c.Execute("DELETE FROM folders WHERE path = $path AND below <= 0", ("$path", at));
            if (parent is null)
                return;
            at = parent;
        }
    }

    /// <summary>Counts documents of a type that were filed, or with a negative number taken away.</summary>
    public static void CountType(SqliteConnection c, string typeCode, int documents) =>
        c.Execute(
            "INSERT INTO filed_types (type_code, filed) VALUES ($type, $n) ON CONFLICT (type_code) DO UPDATE "
                + "SET filed = filed + excluded.filed",
            ("$type", typeCode),
            ("$n", documents)
        );

    /// <summary>Documents right in a folder.</summary>
    public static long Here(SqliteConnection c, string folder) =>
        c.Scalar<long>("SELECT coalesce(max(here), 0) FROM folders WHERE path = $path", ("$path", folder));

    /// <summary>Documents in a folder and below.</summary>
    public static long Below(SqliteConnection c, string folder) =>
        c.Scalar<long>("SELECT coalesce(max(below), 0) FROM folders WHERE path = $path", ("$path", folder));

    /// <summary>Folders right in one, by name.</summary>
    public static List<CountedFolder> Inside(SqliteConnection c, string folder, int take) =>
        c.Query(
            "SELECT path, below FROM folders WHERE parent = $parent ORDER BY path LIMIT $take",
            r => new CountedFolder(r.Text("path"), r.Long("below")),
            ("$parent", folder),
            ("$take", take)
        );
}
