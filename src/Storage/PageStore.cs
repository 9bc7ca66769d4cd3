using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A page as it is shown small.</summary>
/// <param name="Id">Its id among the pages set aside; 0 for a page of the document.</param>
/// <param name="Number">Its number in the document, from 1; 0 for the sheet before it, and for pages set aside.</param>
/// <param name="Image">Picture, relative to the data folder; also what a page is known by.</param>
/// <param name="Shape">Height by width.</param>
/// <param name="From">The file it came in and its number there; empty when that was not noted.</param>
public sealed record SmallPage(long Id, int Number, string Image, double Shape, string From);

/// <summary>A page and where it stands.</summary>
/// <param name="Number">Its number in the document, from 1; 0 for the sheet before it.</param>
/// <param name="Image">Its picture, relative to the data folder.</param>
public sealed record PageAt(int Number, string Image);

/// <summary>The pages that a document is to have.</summary>
/// <param name="Document">The document.</param>
/// <param name="Pages">Its pages.</param>
public sealed record ArrangedPages(long Document, IReadOnlyList<PageAt> Pages);

/// <summary>A document and its pages at one moment.</summary>
/// <param name="Document">The document.</param>
/// <param name="Pages">Its pages in order; none when it did not exist, or no longer.</param>
/// <param name="History">Its values' history when the act took it away; else empty.</param>
public sealed record DocumentThen(StoredDocument Document, IReadOnlyList<PageAt> Pages, IReadOnlyList<ValueChange> History);

/// <summary>Something done with pages of documents on the desk.</summary>
/// <param name="Id">Id.</param>
/// <param name="Says">What was done, as a person reads it.</param>
/// <param name="Before">The documents before it.</param>
/// <param name="After">The documents after it.</param>
/// <param name="Who">Who did it.</param>
public sealed record PageAct(long Id, string Says, IReadOnlyList<DocumentThen> Before, IReadOnlyList<DocumentThen> After, string Who);

/// <summary>Which pages documents on the desk have, in which order, and what was done with them.</summary>
public static class PageStore
{
    /// <summary>Acts of a document that can be undone; earlier ones are forgotten.</summary>
    public const int MostActs = 50;

    private const string Shape = "1.0 * (p.page ->> '$.height') / max(1, p.page ->> '$.width') AS shape";

    /// <summary>The pages of a document, the sheet before it among them, as they are shown small.</summary>
    public static List<SmallPage> Small(SqliteConnection c, long document) =>
        c.Query(
            $"""
            SELECT 0 AS id, p.number, p.image, {Shape}, coalesce(f.name || ', page ' || p.file_page, '') AS origin
            FROM pages p LEFT JOIN batch_files f ON f.id = p.file_id WHERE p.document_id = $id ORDER BY p.number
            """,
            MapSmall,
            ("$id", document)
        );

    /// <summary>Pages that were taken out of a document.</summary>
    public static List<SmallPage> Aside(SqliteConnection c, long document) =>
        c.Query(
            $"""
            SELECT p.id, 0 AS number, p.image, {Shape}, coalesce(f.name || ', page ' || p.file_page, '') AS origin
            FROM pages_aside p LEFT JOIN batch_files f ON f.id = p.file_id WHERE p.document_id = $id AND p.replaced = 0 ORDER BY p.id
            """,
            MapSmall,
            ("$id", document)
        );

    /// <summary>The picture of a page set aside and its document; null when there is none.</summary>
    public static (long Document, string Image)? FindAside(SqliteConnection c, long id) =>
        c.Query("SELECT document_id, image FROM pages_aside WHERE id = $id", r => (r.Long("document_id"), r.Text("image")), ("$id", id))
            is [var found]
            ? found
            : null;

    /// <summary>The picture of one page; null when there is none.</summary>
    public static string? ImageOf(SqliteConnection c, long document, int number) =>
        c.Scalar<string>("SELECT image FROM pages WHERE document_id = $id AND number = $number", ("$id", document), ("$number", number));

    /// <summary>The pages of a document, the sheet before it among them.</summary>
    public static List<PageAt> Of(SqliteConnection c, long document) =>
        c.Query(
            "SELECT number, image FROM pages WHERE document_id = $id ORDER BY number",
            r => new PageAt(r.Int("number"), r.Text("image")),
            ("$id", document)
        );

    /// <summary>Keeps a page beside a document, from where <see cref="Arrange"/> takes it.</summary>
    public static void PutAside(SqliteConnection c, long document, StoredPage page) =>
        c.Execute(
            "INSERT INTO pages_aside (document_id, image, page, notice, file_id, file_page) VALUES ($id, $image, $page, $notice, "
                + "$file, $file_page)",
            ("$id", document),
            ("$image", page.Image),
            ("$page", Sql.ToJson(page.Text)),
            ("$notice", page.Notice),
            ("$file", page.FileId),
            ("$file_page", page.FilePage)
        );

    /// <summary>
    /// Gives documents the pages that they are to have, of those that they have and those that lie beside them. What none of them is to
    /// have is laid beside the one that had it.
    /// </summary>
    /// <param name="c">Connection, in a transaction.</param>
    /// <param name="wanted">The pages of each document.</param>
    /// <param name="replaced">Pictures in whose place others came: they are not shown among what was taken out.</param>
    /// <exception cref="InvalidOperationException">A page is wanted that none of them has.</exception>
    public static void Arrange(SqliteConnection c, IReadOnlyList<ArrangedPages> wanted, IReadOnlySet<string> replaced)
    {
        var have = wanted.SelectMany(d => Of(c, d.Document).Select(p => (d.Document, Page: p))).ToDictionary(p => p.Page.Image);
        var places = wanted.SelectMany(w => w.Pages.Select(p => (w.Document, Page: p))).ToList();
        var staying = places.Select(p => p.Page.Image).ToHashSet(StringComparer.Ordinal);
        foreach (var (document, page) in have.Values.Where(h => !staying.Contains(h.Page.Image)))
        {
            c.Execute(
                """
                INSERT INTO pages_aside (document_id, image, page, notice, file_id, file_page, replaced)
                SELECT document_id, image, page, notice, file_id, file_page, $replaced FROM pages WHERE document_id = $id AND number = $number
                """,
                ("$id", document),
                ("$number", page.Number),
                ("$replaced", replaced.Contains(page.Image) ? 1 : 0)
            );
            c.Execute("DELETE FROM pages WHERE document_id = $id AND number = $number", ("$id", document), ("$number", page.Number));
        }
        // First out of each other's way, below nought, then to their places: no two pages have one number at any time.
        var moving = places.Where(p => !have.TryGetValue(p.Page.Image, out var now) || now != p).ToList();
        for (var at = 0; at < moving.Count; at++)
        {
            var (document, page) = moving[at];
            if (have.TryGetValue(page.Image, out var now))
                c.Execute(
                    "UPDATE pages SET document_id = $to, number = $below WHERE document_id = $id AND number = $number",
                    ("$to", document),
                    ("$below", -1 - at),
                    ("$id", now.Document),
                    ("$number", now.Page.Number)
                );
            else if (
                c.Execute(
                    """
                    INSERT INTO pages (document_id, number, image, page, notice, file_id, file_page)
                    SELECT $to, $below, image, page, notice, file_id, file_page FROM pages_aside WHERE image = $image
                    """,
                    ("$to", document),
                    ("$below", -1 - at),
                    ("$image", page.Image)
                ) == 0
            )
                throw new InvalidOperationException($"There is no page {page.Image}.");
            else
                c.Execute("DELETE FROM pages_aside WHERE image = $image", ("$image", page.Image));
        }
        for (var at = 0; at < moving.Count; at++)
            c.Execute(
                "UPDATE pages SET number = $number WHERE document_id = $id AND number = $below",
                ("$id", moving[at].Document),
                ("$number", moving[at].Page.Number),
                ("$below", -1 - at)
            );
    }

    /// <summary>Lays what lies beside one document beside another.</summary>
    public static void Inherit(SqliteConnection c, long from, long to) =>
        c.Execute("UPDATE pages_aside SET document_id = $to WHERE document_id = $from", ("$to", to), ("$from", from));

    /// <summary>Forgets pages that lie beside documents.</summary>
    public static void ForgetAside(SqliteConnection c, IEnumerable<string> images)
    {
        foreach (var image in images)
            c.Execute("DELETE FROM pages_aside WHERE image = $image", ("$image", image));
    }

    /// <summary>Keeps what was done with a document's pages.</summary>
    public static void AddAct(
        SqliteConnection c,
        long document,
        string says,
        IReadOnlyList<DocumentThen> before,
        IReadOnlyList<DocumentThen> after,
        DateTimeOffset at,
        string who
    )
    {
        c.Execute(
            "INSERT INTO page_acts (document_id, says, before, after, at, who) VALUES ($id, $says, $before, $after, $at, $who)",
            ("$id", document),
            ("$says", says),
            ("$before", Sql.ToJson(before)),
            ("$after", Sql.ToJson(after)),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );
        c.Execute(
            "DELETE FROM page_acts WHERE id IN (SELECT id FROM page_acts WHERE document_id = $id ORDER BY id DESC LIMIT -1 OFFSET $most)",
            ("$id", document),
            ("$most", MostActs)
        );
    }

    /// <summary>What was done last with a document's pages; null for nothing.</summary>
    public static PageAct? NewestAct(SqliteConnection c, long document) =>
        c.Query(
                "SELECT id, says, before, after, who FROM page_acts WHERE document_id = $id ORDER BY id DESC LIMIT 1",
                r => new PageAct(
                    r.Long("id"),
                    r.Text("says"),
                    r.FromJson<List<DocumentThen>>("before"),
                    r.FromJson<List<DocumentThen>>("after"),
                    r.Text("who")
                ),
                ("$id", document)
            )
            .FirstOrDefault();

    /// <summary>Forgets an act.</summary>
    public static void RemoveAct(SqliteConnection c, long id) => c.Execute("DELETE FROM page_acts WHERE id = $id", ("$id", id));

    /// <summary>Forgets what was done with a document's pages, and what lies beside it: it is filed, or gone for good.</summary>
    public static void Forget(SqliteConnection c, long document)
    {
        // What went into it does not come back any more.
        var joined = c.Query(
            """
            SELECT DISTINCT g.value ->> '$.document.id' AS document FROM page_acts a, json_each(a.after) g
            WHERE a.document_id = $id AND json_array_length(g.value, '$.pages') = 0
              AND NOT EXISTS (SELECT 1 FROM documents d WHERE d.id = g.value ->> '$.document.id')
            """,
            r => r.Long("document"),
            ("$id", document)
        );
        c.Execute("DELETE FROM page_acts WHERE document_id = $id", ("$id", document));
        c.Execute("DELETE FROM pages_aside WHERE document_id = $id", ("$id", document));
        foreach (var gone in joined.Where(g => g != document))
            Forget(c, gone);
    }

    private static SmallPage MapSmall(Row r) =>
        new(r.Long("id"), r.Int("number"), r.Text("image"), r.IsNull("shape") ? 1.4 : r.Double("shape"), r.Text("origin"));
}
