using ClearLexicon.Core.Designs;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What was worked out about publishing a draft.</summary>
/// <param name="DraftHash">Hash of the draft that was looked at.</param>
/// <param name="Version">The published version it was compared with.</param>
/// <param name="Result">What was found.</param>
/// <param name="At">When.</param>
public sealed record LookedAt(string DraftHash, int Version, Consequences Result, Instant At);

/// <summary>A document or inventory row that a draft would change.</summary>
/// <param name="DocumentId">The document; null for a row.</param>
/// <param name="Title">Its path, or its row and legacy path.</param>
/// <param name="What">What happens.</param>
/// <param name="Cause">The change that causes it.</param>
/// <param name="Before">Its path before.</param>
/// <param name="After">Its path afterwards, or what stands against it.</param>
public sealed record AffectedRecord(long? DocumentId, string Title, Effect What, string Cause, string Before, string After);

/// <summary>Consequences of publishing, one look a type.</summary>
public static class ConsequenceStore
{
    /// <summary>The last look at a type, or null.</summary>
    public static LookedAt? Find(SqliteConnection c, string typeCode) =>
        c.Query(
                "SELECT draft_hash, version, result, at FROM consequences WHERE type_code = $type",
                r => new LookedAt(r.Text("draft_hash"), r.Int("version"), r.FromJson<Consequences>("result"), r.Moment("at")),
                ("$type", typeCode)
            )
            .FirstOrDefault();

    /// <summary>Forgets the last look at a type; its rows are removed before the next one.</summary>
    public static void Forget(SqliteConnection c, string typeCode) =>
        c.Execute("DELETE FROM consequences WHERE type_code = $type", ("$type", typeCode));

    /// <summary>Removes some rows of an earlier look; returns how many.</summary>
    public static int RemoveRows(SqliteConnection c, string typeCode, int most) =>
        c.Execute(
            """
            DELETE FROM consequence_rows WHERE type_code = $type AND number <= (SELECT max(number) FROM (SELECT number
            FROM consequence_rows WHERE type_code = $type ORDER BY number LIMIT $most))
            """,
            ("$type", typeCode),
            ("$most", most)
        );

    /// <summary>Keeps records found, from a number on.</summary>
    public static void Add(SqliteConnection c, string typeCode, int from, IEnumerable<AffectedRecord> records)
    {
        using var command = Sql.Command(
            c,
            """
            INSERT INTO consequence_rows (type_code, number, document_id, title, what, cause, before, after)
            VALUES ($type, $number, $id, $title, $what, $cause, $before, $after)
            """,
            [
                ("$type", typeCode),
                ("$number", 0L),
                ("$id", null),
                ("$title", ""),
                ("$what", ""),
                ("$cause", ""),
                ("$before", ""),
                ("$after", ""),
            ]
        );
        foreach (var record in records)
        {
            var p = command.Parameters;
            p["$number"].Value = from++;
            p["$id"].Value = (object?)record.DocumentId ?? DBNull.Value;
            p["$title"].Value = record.Title;
            p["$what"].Value = record.What.ToString();
            p["$cause"].Value = record.Cause;
            p["$before"].Value = record.Before;
            p["$after"].Value = record.After;
            command.ExecuteNonQuery();
        }
    }

    /// <summary>Keeps what a look has found.</summary>
    public static void Set(SqliteConnection c, string typeCode, LookedAt looked) =>
        c.Execute(
            "INSERT INTO consequences (type_code, draft_hash, version, result, at) VALUES ($type, $hash, $version, $result, $at)",
            ("$type", typeCode),
            ("$hash", looked.DraftHash),
            ("$version", looked.Version),
            ("$result", Sql.ToJson(looked.Result)),
            ("$at", looked.At.ToString())
        );

    /// <summary>Records found, in the order they were looked at.</summary>
    public static List<AffectedRecord> Rows(SqliteConnection c, string typeCode, int take, int after = 0) =>
        c.Query(
            "SELECT document_id, title, what, cause, before, after FROM consequence_rows WHERE type_code = $type "
                + "AND number > $after ORDER BY number LIMIT $take",
            r => new AffectedRecord(
                r.LongOrNone("document_id"),
                r.Text("title"),
                Enum.Parse<Effect>(r.Text("what")),
                r.Text("cause"),
                r.Text("before"),
                r.Text("after")
            ),
            ("$type", typeCode),
            ("$take", take),
            ("$after", after)
        );

    /// <summary>How many filed documents newly fail.</summary>
    public static int CountFailing(SqliteConnection c, string typeCode) =>
        (int)
            c.Scalar<long>(
                "SELECT count(*) FROM consequence_rows WHERE type_code = $type AND document_id IS NOT NULL AND what = 'NewlyFailing'",
                ("$type", typeCode)
            );

    /// <summary>
    /// Marks the next filed documents of a type as checked against a version, and parks those that newly fail with what stands against
    /// them. One that somebody has edited since, and that was checked against the version then, stays as it is.
    /// </summary>
    /// <returns>How many were looked at and parked, and the last id.</returns>
    public static (int Looked, int Parked, long Last) Recheck(SqliteConnection c, string typeCode, int version, long afterId, int most)
    {
        var chunk = c.Query(
            """
            SELECT d.id, d.version, d.parked, (SELECT r.after FROM consequence_rows r WHERE r.type_code = $type AND r.document_id = d.id
            AND r.what = 'NewlyFailing') AS fails
            FROM documents d WHERE d.type_code = $type AND d.id > $after AND d.state = 'filed' ORDER BY d.id LIMIT $most
            """,
            r =>
                (
                    Id: r.Long("id"),
                    Version: r.IsNull("version") ? 0 : r.Int("version"),
                    Parked: r.TextOrNone("parked"),
                    Fails: r.TextOrNone("fails")
                ),
            ("$type", typeCode),
            ("$after", afterId),
            ("$most", most)
        );
        var parked = 0;
        foreach (var (id, checkedBy, was, fails) in chunk)
        {
            if (checkedBy >= version)
                continue;
            if (fails is not null)
                parked += c.Execute(
                    "UPDATE documents SET parked = $why, revision = revision + 1 WHERE id = $id",
                    ("$id", id),
                    ("$why", fails)
                );
            else if (was is null)
                c.Execute(
                    "UPDATE documents SET version = $version, revision = revision + 1 WHERE id = $id",
                    ("$id", id),
                    ("$version", version)
                );
        }
        return (chunk.Count, parked, chunk.Count > 0 ? chunk[^1].Id : 0);
    }
}
