using ClearLexicon.Core.Designs;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A document type as the design place shows it.</summary>
/// <param name="Draft">What the steward works on.</param>
/// <param name="DraftOpen">Whether the draft differs from what is published.</param>
/// <param name="Version">Newest published version; 0 when there is none.</param>
/// <param name="Undo">What the last change of the draft was; null when there is nothing to take back.</param>
public sealed record TypeState(DocumentType Draft, bool DraftOpen, int Version, string? Undo);

/// <summary>A published version.</summary>
/// <param name="Design">The whole design with its inherited parts, which never changes.</param>
/// <param name="Source">What the steward wrote.</param>
/// <param name="Version">Number from 1.</param>
/// <param name="PublishedAt">When.</param>
/// <param name="PublishedBy">By whom.</param>
public sealed record TypeVersion(DocumentType Design, DocumentType Source, int Version, Instant PublishedAt, string PublishedBy);

/// <summary>Document types: drafts, their history, published versions.</summary>
public static class DesignStore
{
    private const int UndoSteps = 100;

    private const string States = """
        SELECT t.draft, t.draft_open, coalesce((SELECT max(version) FROM type_versions v WHERE v.type_code = t.code), 0) AS version,
               (SELECT change FROM draft_history h WHERE h.type_code = t.code ORDER BY id DESC LIMIT 1) AS change
        FROM document_types t
        """;

    /// <summary>All document types by name.</summary>
    public static List<TypeState> All(SqliteConnection c) => c.Query(States + " ORDER BY t.name", Map);

    /// <summary>One document type, or null.</summary>
    public static TypeState? Find(SqliteConnection c, string code) =>
        c.Query(States + " WHERE t.code = $code", Map, ("$code", code)).FirstOrDefault();

    /// <summary>Adds a document type; false when its code is taken.</summary>
    public static bool Add(SqliteConnection c, DocumentType type) =>
        c.Execute(
            "INSERT INTO document_types (code, name, draft) VALUES ($code, $name, $draft) ON CONFLICT DO NOTHING",
            ("$code", type.Code),
            ("$name", type.Name),
            ("$draft", Sql.ToJson(type))
        ) == 1;

    /// <summary>Saves a changed draft and keeps the one before for undo.</summary>
    public static void SaveDraft(SqliteConnection c, DocumentType type, string change)
    {
        c.Execute(
            "INSERT INTO draft_history (type_code, design, draft_open, change) SELECT code, draft, draft_open, $change "
                + "FROM document_types WHERE code = $code",
            ("$code", type.Code),
            ("$change", change)
        );
        c.Execute(
            "DELETE FROM draft_history WHERE type_code = $code AND id <= (SELECT max(id) FROM draft_history "
                + "WHERE type_code = $code) - $keep",
            ("$code", type.Code),
            ("$keep", UndoSteps)
        );
        c.Execute(
            "UPDATE document_types SET draft = $draft, name = $name, draft_open = 1 WHERE code = $code",
            ("$code", type.Code),
            ("$name", type.Name),
            ("$draft", Sql.ToJson(type))
        );
    }

    /// <summary>Takes the last change of the draft back and says what it was; null when there was none.</summary>
    public static string? Undo(SqliteConnection c, string code)
    {
        var last = c.Query(
            "SELECT id, change FROM draft_history WHERE type_code = $code ORDER BY id DESC LIMIT 1",
            r => (Id: r.Long("id"), Change: r.Text("change")),
            ("$code", code)
        );
        if (last.Count == 0)
            return null;
        c.Execute(
            """
            UPDATE document_types SET (draft, name, draft_open) =
              (SELECT design, design ->> 'name', draft_open FROM draft_history WHERE id = $id) WHERE code = $code
            """,
            ("$id", last[0].Id),
            ("$code", code)
        );
        c.Execute("DELETE FROM draft_history WHERE id = $id", ("$id", last[0].Id));
        return last[0].Change;
    }

    /// <summary>Marks drafts as differing from what is published because something they inherit has changed.</summary>
    public static void OpenDraft(SqliteConnection c, string code) =>
        c.Execute("UPDATE document_types SET draft_open = 1 WHERE code = $code", ("$code", code));

    /// <summary>Publishes a design as the next version and returns its number.</summary>
    /// <param name="c">An open connection.</param>
    /// <param name="type">The whole design.</param>
    /// <param name="source">What the steward wrote.</param>
    /// <param name="draftStays">Whether the draft goes on being worked on, because only inherited parts have changed.</param>
    /// <param name="at">When.</param>
    /// <param name="who">By whom.</param>
    public static int Publish(SqliteConnection c, DocumentType type, DocumentType source, bool draftStays, DateTimeOffset at, string who)
    {
        var version = (int)
            c.Scalar<long>("SELECT coalesce(max(version), 0) + 1 FROM type_versions WHERE type_code = $code", ("$code", type.Code));
        c.Execute(
            "INSERT INTO type_versions (type_code, version, design, source, published_at, published_by) "
                + "VALUES ($code, $version, $design, $source, $at, $who)",
            ("$code", type.Code),
            ("$version", version),
            ("$design", Sql.ToJson(type)),
            ("$source", Sql.ToJson(source)),
            ("$at", at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ssZ")),
            ("$who", who)
        );
        if (draftStays)
            return version;
        c.Execute("UPDATE document_types SET draft_open = 0 WHERE code = $code", ("$code", type.Code));
        c.Execute("DELETE FROM draft_history WHERE type_code = $code", ("$code", type.Code));
        return version;
    }

    /// <summary>
    /// Revision of the whole design that documents are judged by: it grows whenever a version is published, a vocabulary or a reference
    /// table comes or changes. Nothing of these goes.
    /// </summary>
    public static long Revision(SqliteConnection c) =>
        c.Scalar<long>(
            """
            SELECT (SELECT count(*) FROM type_versions) + (SELECT coalesce(sum(revision), 0) FROM vocabularies)
            + (SELECT coalesce(sum(revision), 0) FROM reference_tables)
            """
        );

    /// <summary>The newest published version of every type that has one.</summary>
    public static List<TypeVersion> Published(SqliteConnection c) =>
        c.Query(
            """
            SELECT design, coalesce(source, design) AS source, version, published_at, published_by FROM type_versions v
            WHERE version = (SELECT max(version) FROM type_versions w WHERE w.type_code = v.type_code) ORDER BY type_code
            """,
            MapVersion
        );

    /// <summary>All versions of a type, newest first.</summary>
    public static List<TypeVersion> Versions(SqliteConnection c, string code) =>
        c.Query(
            "SELECT design, coalesce(source, design) AS source, version, published_at, published_by FROM type_versions "
                + "WHERE type_code = $code ORDER BY version DESC",
            MapVersion,
            ("$code", code)
        );

    private static TypeState Map(Row r) => new(Type(r, "draft"), r.Flag("draft_open"), r.Int("version"), r.TextOrNone("change"));

    private static TypeVersion MapVersion(Row r) =>
        new(Type(r, "design"), Type(r, "source"), r.Int("version"), r.Moment("published_at"), r.Text("published_by"));

    private static DocumentType Type(Row r, string column) => EarlierRules.Upgrade(r.FromJson<DocumentType>(column));
}
