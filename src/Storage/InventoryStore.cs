using ClearLexicon.Core.Migration;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What was found about an inventory's file.</summary>
/// <param name="Encoding">As detected.</param>
/// <param name="Separator">As detected.</param>
/// <param name="Columns">Headings.</param>
/// <param name="Rows">Rows below the heading.</param>
public sealed record StoredShape(string Encoding, char Separator, IReadOnlyList<string> Columns, long Rows)
{
    /// <summary>The column that tells where a legacy document lies: the first whose heading holds “path”, else the first.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public int PathColumn => Math.Max(0, Columns.ToList().FindIndex(c => c.Contains("path", StringComparison.OrdinalIgnoreCase)));
}

/// <summary>An inventory with what was worked out about it.</summary>
/// <param name="Id">Id.</param>
/// <param name="Name">File name.</param>
/// <param name="File">Its UTF-8 copy, relative to the data folder.</param>
/// <param name="Shape">What was found.</param>
/// <param name="Profile">Column profiles; null until made.</param>
/// <param name="Plan">Crosswalk and passes; null until begun.</param>
/// <param name="DryRun">Result of the last dry run of this plan; null when there is none.</param>
/// <param name="BroughtBy">Who.</param>
/// <param name="BroughtAt">When.</param>
public sealed record Inventory(
    long Id,
    string Name,
    string File,
    StoredShape Shape,
    IReadOnlyList<ColumnProfile>? Profile,
    MigrationPlan? Plan,
    DryRun? DryRun,
    string BroughtBy,
    Instant BroughtAt
);

/// <summary>A row that was not ready.</summary>
/// <param name="Row">Number from 1.</param>
/// <param name="Verdict">Questionable or held.</param>
/// <param name="Title">Its path or title.</param>
/// <param name="Reasons">What stands against it.</param>
public sealed record LeftRow(int Row, RowVerdict Verdict, string Title, IReadOnlyList<string> Reasons);

/// <summary>Inventories, their plans and the rows left over.</summary>
public static class InventoryStore
{
    private const string Columns = "SELECT id, name, file, shape, profile, plan, dry_run, brought_by, brought_at FROM inventories";

    /// <summary>All inventories, newest first.</summary>
    public static List<Inventory> All(SqliteConnection c) => c.Query(Columns + " ORDER BY id DESC", Map);

    /// <summary>One inventory, or null.</summary>
    public static Inventory? Find(SqliteConnection c, long id) => c.Query(Columns + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    /// <summary>The inventory whose UTF-8 copy is a file, or null.</summary>
    public static Inventory? OfFile(SqliteConnection c, string file) =>
        c.Query(Columns + " WHERE file = $file", Map, ("$file", file)).FirstOrDefault();

    /// <summary>Adds an inventory.</summary>
    public static long Add(SqliteConnection c, string name, string file, StoredShape shape, string who, DateTimeOffset at) =>
        c.Scalar<long>(
            "INSERT INTO inventories (name, file, shape, brought_by, brought_at) VALUES ($name, $file, $shape, $who, $at) RETURNING id",
            ("$name", name),
            ("$file", file),
            ("$shape", Sql.ToJson(shape)),
            ("$who", who),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>Keeps the column profiles.</summary>
    public static void SetProfile(SqliteConnection c, long id, IReadOnlyList<ColumnProfile> profile) =>
        c.Execute("UPDATE inventories SET profile = $profile WHERE id = $id", ("$id", id), ("$profile", Sql.ToJson(profile)));

    /// <summary>Keeps a plan; a dry run of another plan no longer counts.</summary>
    public static void SetPlan(SqliteConnection c, long id, MigrationPlan plan)
    {
        c.Execute(
            "UPDATE inventories SET plan = $plan, dry_run = NULL, left_known = 0 WHERE id = $id",
            ("$id", id),
            ("$plan", Sql.ToJson(plan))
        );
    }

    /// <summary>Keeps the result of a dry run; null says that what exists has changed since.</summary>
    public static void SetDryRun(SqliteConnection c, long id, DryRun? result) =>
        c.Execute(
            "UPDATE inventories SET dry_run = $result WHERE id = $id",
            ("$id", id),
            ("$result", result is null ? null : Sql.ToJson(result))
        );

    /// <summary>Removes some rows that an earlier run has left; returns how many. They count no more as soon as this has begun.</summary>
    public static int RemoveLeftRows(SqliteConnection c, long id, int most)
    {
        c.Execute("UPDATE inventories SET left_known = 1 WHERE id = $id", ("$id", id));
        return c.Execute(
            "DELETE FROM left_rows WHERE inventory_id = $id AND row <= (SELECT max(row) FROM (SELECT row FROM left_rows "
                + "WHERE inventory_id = $id ORDER BY row LIMIT $most))",
            ("$id", id),
            ("$most", most)
        );
    }

    /// <summary>Keeps rows that were not ready.</summary>
    public static void AddLeftRows(SqliteConnection c, long id, IEnumerable<LeftRow> rows)
    {
        using var insert = Sql.Command(
            c,
            "INSERT OR REPLACE INTO left_rows (inventory_id, row, verdict, title, reasons) VALUES ($id, $row, $verdict, $title, $reasons)",
            [("$id", id), ("$row", 0), ("$verdict", ""), ("$title", ""), ("$reasons", "")]
        );
        insert.Prepare();
        foreach (var row in rows)
        {
            insert.Parameters["$row"].Value = row.Row;
            insert.Parameters["$verdict"].Value = row.Verdict.ToString();
            insert.Parameters["$title"].Value = row.Title;
            insert.Parameters["$reasons"].Value = string.Join('\n', row.Reasons);
            insert.ExecuteNonQuery();
        }
    }

    /// <summary>Rows that were not ready, from a row number on.</summary>
    public static List<LeftRow> LeftRows(SqliteConnection c, long id, int take, int after = 0) =>
        c.Query(
            """
            SELECT row, verdict, title, reasons FROM left_rows WHERE inventory_id = $id AND row > $after AND (SELECT left_known
            FROM inventories WHERE id = $id) ORDER BY row LIMIT $take
            """,
            r => new LeftRow(r.Int("row"), Enum.Parse<RowVerdict>(r.Text("verdict")), r.Text("title"), r.Text("reasons").Split('\n')),
            ("$id", id),
            ("$take", take),
            ("$after", after)
        );

    private static Inventory Map(Row r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.Text("file"),
            r.FromJson<StoredShape>("shape"),
            r.FromJsonOrNone<List<ColumnProfile>>("profile"),
            r.FromJsonOrNone<MigrationPlan>("plan"),
            r.FromJsonOrNone<DryRun>("dry_run"),
            r.Text("brought_by"),
            r.Moment("brought_at")
        );
}
