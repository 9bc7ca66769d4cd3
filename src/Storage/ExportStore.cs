using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A column of an export.</summary>
/// <param name="Key">Key of the field, or <c>@id</c>, <c>@folder</c>, <c>@name</c>, <c>@filed</c>.</param>
/// <param name="Heading">What it is called in the file.</param>
public sealed record ExportColumn(string Key, string Heading);

/// <summary>What leaves, and how.</summary>
public sealed record ExportDefinition
{
    /// <summary>Which documents.</summary>
    public ViewDefinition Asks { get; init; } = new();

    /// <summary>Which fields, in their order.</summary>
    public IReadOnlyList<ExportColumn> Columns { get; init; } = [];

    /// <summary><c>csv</c>, <c>xlsx</c>, <c>jsonl</c> or <c>xml</c>.</summary>
    public string Format { get; init; } = "csv";

    /// <summary>How dates are written.</summary>
    public string Dates { get; init; } = "yyyy-MM-dd";

    /// <summary>Whether numbers have a decimal comma.</summary>
    public bool Comma { get; init; }

    /// <summary>Whether each document has a data file of its own.</summary>
    public bool FileEach { get; init; }

    /// <summary>
    /// <c>none</c>, <c>filed</c> (as they were filed), <c>redacted</c>, <c>marked</c> (with squares around the places of values) or
    /// <c>strips</c> (pictures of those places).
    /// </summary>
    public string Files { get; init; } = "none";

    /// <summary><c>pdf</c>, <c>pdfa</c> (PDF/A-2u), <c>png</c> (one a page) or <c>tiff</c>; strips are always PNG.</summary>
    public string Pages { get; init; } = "pdf";

    /// <summary>Colour of the squares, six hexadecimal digits.</summary>
    public string MarkColour { get; init; } = "B8431F";

    /// <summary>Width of their lines, in points.</summary>
    public double MarkWidth { get; init; } = 1;

    /// <summary>Whether their lines are dashed.</summary>
    public bool MarkDashed { get; init; }

    /// <summary>Margin of squares and strips around a place, in points.</summary>
    public double MarkMargin { get; init; } = 2;

    /// <summary><c>tree</c> (as in the repository), <c>flat</c> (names only) or <c>number</c> (by the document's number).</summary>
    public string Naming { get; init; } = "tree";

    /// <summary>Keys of fields that redacted copies hide besides those that are restricted.</summary>
    public IReadOnlyList<string> Hide { get; init; } = [];

    /// <summary>Folder in <c>exports/</c>.</summary>
    public string Folder { get; init; } = "";

    /// <summary>What becomes of a folder that is there: <c>beside</c>, <c>replace</c> or <c>stop</c>.</summary>
    public string Taken { get; init; } = "beside";

    /// <summary>How often it is run by itself: <c>day</c>, <c>week</c>, <c>month</c>; empty for only by hand.</summary>
    public string Every { get; init; } = "";

    /// <summary>At what time of day, <c>HH:mm</c>, in the server's zone.</summary>
    public string At { get; init; } = "02:00";

    /// <summary>Whether the run is made a BagIt package.</summary>
    public bool Package { get; init; }
}

/// <summary>A stored export plan.</summary>
/// <param name="Id">Id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Owner">Who made it.</param>
/// <param name="What">What leaves.</param>
/// <param name="NextAt">When it is run next by itself; null for never.</param>
public sealed record ExportPlan(long Id, string Name, string Owner, ExportDefinition What, Instant? NextAt);

/// <summary>A file of a run.</summary>
/// <param name="Path">Path in the run's folder.</param>
/// <param name="Document">The document; null for what is of all.</param>
/// <param name="Bytes">Its size.</param>
/// <param name="Sha256">SHA-256 in lower-case hexadecimal.</param>
public sealed record ExportedFile(string Path, long? Document, long Bytes, string Sha256);

/// <summary>Export plans, and what each of their runs wrote.</summary>
public static class ExportStore
{
    private const string Plans = "SELECT id, name, owner, definition, next_at FROM export_plans";

    /// <summary>All plans, by name.</summary>
    public static List<ExportPlan> All(SqliteConnection c) =>
        c.Query(Plans + " WHERE removed_at IS NULL ORDER BY name, id LIMIT 500", Plan);

    /// <summary>One plan, or null; one that was removed too.</summary>
    public static ExportPlan? Find(SqliteConnection c, long id) => c.Query(Plans + " WHERE id = $id", Plan, ("$id", id)).FirstOrDefault();

    /// <summary>Keeps a plan; a new one for id 0.</summary>
    public static long Save(SqliteConnection c, long id, string name, string owner, ExportDefinition what, DateTimeOffset at)
    {
        if (id == 0)
            return c.Scalar<long>(
                "INSERT INTO export_plans (name, owner, definition, changed_at) VALUES ($name, $owner, $what, $at) RETURNING id",
                ("$name", name),
                ("$owner", owner),
                ("$what", Sql.ToJson(what)),
                ("$at", Sql.Stamp(at))
            );
        c.Execute(
            "UPDATE export_plans SET name = $name, definition = $what, changed_at = $at, removed_at = NULL WHERE id = $id",
            ("$id", id),
            ("$name", name),
            ("$what", Sql.ToJson(what)),
            ("$at", Sql.Stamp(at))
        );
        return id;
    }

    /// <summary>Plans that are to be run by themselves by now.</summary>
    public static List<ExportPlan> Due(SqliteConnection c, DateTimeOffset now) =>
        c.Query(Plans + " WHERE next_at <= $now AND removed_at IS NULL ORDER BY next_at", Plan, ("$now", Sql.Stamp(now)));

    /// <summary>Says when a plan is run next by itself.</summary>
    public static void SetNext(SqliteConnection c, long id, DateTimeOffset? at) =>
        c.Execute(
            "UPDATE export_plans SET next_at = $at WHERE id = $id",
            ("$id", id),
            ("$at", at is { } moment ? Sql.Stamp(moment) : null)
        );

    /// <summary>Takes a plan away, or puts it back; its runs stay.</summary>
    public static void SetRemoved(SqliteConnection c, long id, DateTimeOffset? at) =>
        c.Execute(
            "UPDATE export_plans SET removed_at = $at WHERE id = $id",
            ("$id", id),
            ("$at", at is { } moment ? Sql.Stamp(moment) : null)
        );

    /// <summary>Whether a later run has written into the folder of a run.</summary>
    public static bool IsReplaced(SqliteConnection c, long id, string folder) =>
        c.Scalar<long>(
            """
            SELECT EXISTS (SELECT 1 FROM runs WHERE kind = 'export' AND id > $id AND reached > 0 AND what ->> '$.folder' = $folder)
            """,
            ("$id", id),
            ("$folder", folder)
        ) == 1;

    /// <summary>Notes a file that a run wrote.</summary>
    public static void AddFile(SqliteConnection c, long run, ExportedFile file) =>
        c.Execute(
            "INSERT OR REPLACE INTO export_files (run, path, document_id, bytes, sha256) VALUES ($run, $path, $document, $bytes, $sha)",
            ("$run", run),
            ("$path", file.Path),
            ("$document", file.Document),
            ("$bytes", file.Bytes),
            ("$sha", file.Sha256)
        );

    /// <summary>Whether a run has settled what becomes of a document's file.</summary>
    public static bool IsSettled(SqliteConnection c, long run, long document) =>
        c.Scalar<long>(
            """
            SELECT EXISTS (SELECT 1 FROM export_files WHERE run = $run AND document_id = $document)
              OR EXISTS (SELECT 1 FROM run_steps WHERE document_id = $document AND run = $run)
            """,
            ("$run", run),
            ("$document", document)
        ) == 1;

    /// <summary>Files of a run after a path, in their order.</summary>
    public static List<ExportedFile> Files(SqliteConnection c, long run, string after, int most) =>
        c.Query(
            "SELECT path, document_id, bytes, sha256 FROM export_files WHERE run = $run AND path > $after ORDER BY path LIMIT $most",
            r => new ExportedFile(r.Text("path"), r.LongOrNone("document_id"), r.Long("bytes"), r.Text("sha256")),
            ("$run", run),
            ("$after", after),
            ("$most", most)
        );

    /// <summary>How many files a run wrote, and how many bytes they have.</summary>
    public static (long Files, long Bytes) Size(SqliteConnection c, long run) =>
        c.Query(
            "SELECT count(*) AS files, coalesce(sum(bytes), 0) AS bytes FROM export_files WHERE run = $run",
            r => (r.Long("files"), r.Long("bytes")),
            ("$run", run)
        )[0];

    private static ExportPlan Plan(Row r) =>
        new(r.Long("id"), r.Text("name"), r.Text("owner"), r.FromJson<ExportDefinition>("definition"), r.MomentOrNone("next_at"));
}
