using ClearLexicon.Core.Rules;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Reference tables and their rows.</summary>
public static class ReferenceStore
{
    /// <summary>Keys of all tables with their revisions, by name.</summary>
    public static List<(string Key, long Revision)> Revisions(SqliteConnection c) =>
        c.Query("SELECT key, revision FROM reference_tables ORDER BY name", r => (r.Text("key"), r.Long("revision")));

    /// <summary>One table with its rows, or null.</summary>
    public static ReferenceTable? Find(SqliteConnection c, string key) =>
        c.Query(
                "SELECT key, name, columns, address FROM reference_tables WHERE key = $key",
                r => new ReferenceTable(
                    r.Text("key"),
                    r.Text("name"),
                    r.FromJson<string[]>("columns"),
                    c.Query(
                        "SELECT cells FROM reference_rows WHERE table_key = $key ORDER BY position",
                        row => row.FromJson<string[]>("cells"),
                        ("$key", key)
                    )
                )
                {
                    Address = r.TextOrNone("address"),
                },
                ("$key", key)
            )
            .FirstOrDefault();

    /// <summary>Adds a table or changes its name, columns and address.</summary>
    public static void Put(SqliteConnection c, ReferenceTable table, DateTimeOffset at) =>
        c.Execute(
            """
            INSERT INTO reference_tables (key, name, columns, address, brought_at) VALUES ($key, $name, $columns, $address, $at)
            ON CONFLICT (key) DO UPDATE SET name = $name, columns = $columns, address = $address, brought_at = $at, revision = revision + 1
            """,
            ("$key", table.Key),
            ("$name", table.Name),
            ("$columns", Sql.ToJson(table.Columns)),
            ("$address", table.Address),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>Puts rows by their key, the first cell.</summary>
    public static void PutRows(SqliteConnection c, string key, IEnumerable<string[]> rows)
    {
        var position = c.Scalar<long>("SELECT coalesce(max(position), 0) FROM reference_rows WHERE table_key = $key", ("$key", key));
        using var command = Sql.Command(
            c,
            """
            INSERT INTO reference_rows (table_key, key, position, cells) VALUES ($table, $key, $position, $cells)
            ON CONFLICT (table_key, key) DO UPDATE SET cells = $cells
            """,
            [("$table", key), ("$key", ""), ("$position", 0), ("$cells", "")]
        );
        foreach (var row in rows)
        {
            command.Parameters["$key"].Value = row[0];
            command.Parameters["$position"].Value = ++position;
            command.Parameters["$cells"].Value = Sql.ToJson(row);
            command.ExecuteNonQuery();
        }
    }

    /// <summary>Removes rows by their key.</summary>
    public static void RemoveRows(SqliteConnection c, string key, IEnumerable<string> keys)
    {
        foreach (var row in keys)
            c.Execute("DELETE FROM reference_rows WHERE table_key = $table AND key = $key", ("$table", key), ("$key", row));
    }
}
