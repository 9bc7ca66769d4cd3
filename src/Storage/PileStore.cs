using ClearLexicon.Core.Reading;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>A pile of unlabelled pages.</summary>
/// <param name="Id">Id.</param>
/// <param name="Name">Its name.</param>
/// <param name="IsGrouped">Whether its pages are read and grouped.</param>
/// <param name="At">When it was brought.</param>
/// <param name="Who">By whom.</param>
/// <param name="Pages">How many pages it has so far.</param>
public sealed record Pile(long Id, string Name, bool IsGrouped, Instant At, string Who, long Pages);

/// <summary>What has become of a file of a pile.</summary>
public enum PileFileState
{
    /// <summary>It waits to be read.</summary>
    Waiting,

    /// <summary>Its pages are in the pile.</summary>
    Read,

    /// <summary>It was refused, with a reason.</summary>
    Refused,
}

/// <summary>A file of a pile.</summary>
/// <param name="Id">Id.</param>
/// <param name="Pile">Its pile.</param>
/// <param name="Name">Its name.</param>
/// <param name="Stored">Where it is, relative to the data folder.</param>
/// <param name="State">What has become of it.</param>
/// <param name="Problem">Why it was refused.</param>
public sealed record PileFile(long Id, long Pile, string Name, string Stored, PileFileState State, string? Problem);

/// <summary>A page of a pile.</summary>
/// <param name="Id">Id.</param>
/// <param name="Pile">Its pile.</param>
/// <param name="File">Its file; null for a page from the desk.</param>
/// <param name="Name">Name of its file, and its number when there are several.</param>
/// <param name="Image">Its picture, relative to the data folder.</param>
/// <param name="Group">Its group, from 1; null for a page that a reader knows.</param>
/// <param name="Odd">Whether it has less in common with its group.</param>
/// <param name="Claimed">Key of the reader that knew it.</param>
/// <param name="Taken">Key of the reader whose sample it became.</param>
public sealed record PilePage(
    long Id,
    long Pile,
    long? File,
    string Name,
    string Image,
    int? Group,
    bool Odd,
    string? Claimed,
    string? Taken
);

/// <summary>Piles, their files, pages and groups.</summary>
public static class PileStore
{
    private const string Piles =
        "SELECT p.id, p.name, p.state = 'grouped' AS is_grouped, p.at, p.who, "
        + "(SELECT count(*) FROM pile_pages g WHERE g.pile_id = p.id) AS pages FROM piles p";
    private const string Pages = "SELECT id, pile_id, file_id, name, image, group_no, odd, claimed, taken FROM pile_pages";
    private const string PileFiles = "SELECT id, pile_id, name, stored, state, problem FROM pile_files";

    /// <summary>All piles, newest first.</summary>
    public static List<Pile> All(SqliteConnection c) => c.Query(Piles + " ORDER BY p.id DESC LIMIT 100", Map);

    /// <summary>One pile, or null.</summary>
    public static Pile? Find(SqliteConnection c, long id) => c.Query(Piles + " WHERE p.id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>Begins a pile.</summary>
    public static long Begin(SqliteConnection c, string name, DateTimeOffset at, string who) =>
        c.Scalar<long>(
            "INSERT INTO piles (name, state, at, who) VALUES ($name, 'reading', $at, $who) RETURNING id",
            ("$name", name),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );

    /// <summary>Removes a pile with its files, pages and groups.</summary>
    public static void Remove(SqliteConnection c, long id) => c.Execute("DELETE FROM piles WHERE id = $id", ("$id", id));

    /// <summary>Adds a file; one with a problem is refused.</summary>
    public static void AddFile(SqliteConnection c, long pile, string name, string stored, string? problem) =>
        c.Execute(
            "INSERT INTO pile_files (pile_id, name, stored, state, problem) VALUES ($pile, $name, $stored, $state, $problem)",
            ("$pile", pile),
            ("$name", name),
            ("$stored", stored),
            ("$state", Sql.Code(problem is null ? PileFileState.Waiting : PileFileState.Refused)),
            ("$problem", problem)
        );

    /// <summary>Files of a pile in a state.</summary>
    public static List<PileFile> Files(SqliteConnection c, long pile, PileFileState state) =>
        c.Query(
            PileFiles + " WHERE pile_id = $pile AND state = $state ORDER BY id",
            r => new PileFile(
                r.Long("id"),
                r.Long("pile_id"),
                r.Text("name"),
                r.Text("stored"),
                r.Code<PileFileState>("state"),
                r.TextOrNone("problem")
            ),
            ("$pile", pile),
            ("$state", Sql.Code(state))
        );

    /// <summary>Notes that a file was read, or why it was refused.</summary>
    public static void Settle(SqliteConnection c, long file, string? problem) =>
        c.Execute(
            "UPDATE pile_files SET state = $state, problem = $problem WHERE id = $id",
            ("$id", file),
            ("$state", Sql.Code(problem is null ? PileFileState.Read : PileFileState.Refused)),
            ("$problem", problem)
        );

    /// <summary>Adds a page.</summary>
    public static void AddPage(SqliteConnection c, long pile, long? file, string name, string image, PageText text) =>
        c.Execute(
            "INSERT INTO pile_pages (pile_id, file_id, name, image, page) VALUES ($pile, $file, $name, $image, $page)",
            ("$pile", pile),
            ("$file", file),
            ("$name", name),
            ("$image", image),
            ("$page", Sql.ToJson(text))
        );

    /// <summary>The words of a page.</summary>
    public static PageText TextOf(SqliteConnection c, long page) =>
        c.Query("SELECT page FROM pile_pages WHERE id = $id", r => r.FromJson<PageText>("page"), ("$id", page)).First();

    /// <summary>Pages of a pile in the order they came.</summary>
    public static List<PilePage> PagesOf(SqliteConnection c, long pile) =>
        c.Query(Pages + " WHERE pile_id = $pile ORDER BY id", MapPage, ("$pile", pile));

    /// <summary>Pages of a group, the most typical first.</summary>
    public static List<PilePage> PagesOf(SqliteConnection c, long pile, int group) =>
        c.Query(Pages + " WHERE pile_id = $pile AND group_no = $group ORDER BY position", MapPage, ("$pile", pile), ("$group", group));

    /// <summary>One page, or null.</summary>
    public static PilePage? FindPage(SqliteConnection c, long id) =>
        c.Query(Pages + " WHERE id = $id", MapPage, ("$id", id)).FirstOrDefault();

    /// <summary>Puts a page into a group, or notes the reader that knows it.</summary>
    public static void Put(SqliteConnection c, long page, int? group, int position, bool odd, string? claimed) =>
        c.Execute(
            "UPDATE pile_pages SET group_no = $group, position = $position, odd = $odd, claimed = $claimed WHERE id = $id",
            ("$id", page),
            ("$group", group),
            ("$position", position),
            ("$odd", odd),
            ("$claimed", claimed)
        );

    /// <summary>Notes that a page became a sample of a reader.</summary>
    public static void Take(SqliteConnection c, long page, string reader) =>
        c.Execute("UPDATE pile_pages SET taken = $reader WHERE id = $id", ("$id", page), ("$reader", reader));

    /// <summary>Sets the groups of a pile, each with the words its pages have in common, and that it is grouped.</summary>
    public static void SetGroups(SqliteConnection c, long pile, IReadOnlyList<IReadOnlyList<string>> words)
    {
        c.Execute("DELETE FROM pile_groups WHERE pile_id = $pile", ("$pile", pile));
        for (var i = 0; i < words.Count; i++)
            c.Execute(
                "INSERT INTO pile_groups (pile_id, number, words) VALUES ($pile, $number, $words)",
                ("$pile", pile),
                ("$number", i + 1),
                ("$words", Sql.ToJson(words[i]))
            );
        c.Execute("UPDATE piles SET state = 'grouped' WHERE id = $pile", ("$pile", pile));
    }

    /// <summary>Words in common of each group of a pile, by its number.</summary>
    public static Dictionary<int, List<string>> Words(SqliteConnection c, long pile) =>
        c.Query(
                "SELECT number, words FROM pile_groups WHERE pile_id = $pile",
                r => (Number: r.Int("number"), Words: r.FromJson<List<string>>("words")),
                ("$pile", pile)
            )
            .ToDictionary(g => g.Number, g => g.Words);

    private static Pile Map(Row r) =>
        new(r.Long("id"), r.Text("name"), r.Flag("is_grouped"), r.Moment("at"), r.Text("who"), r.Long("pages"));

    private static PilePage MapPage(Row r) =>
        new(
            r.Long("id"),
            r.Long("pile_id"),
            r.LongOrNone("file_id"),
            r.Text("name"),
            r.Text("image"),
            r.IntOrNone("group_no"),
            r.Flag("odd"),
            r.TextOrNone("claimed"),
            r.TextOrNone("taken")
        );
}
