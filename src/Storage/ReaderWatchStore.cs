using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>How many values of a field that a reader read were accepted as they were, in a week.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Week">Days that lie between the week's last day and today, by seven: 0 for the last seven days.</param>
/// <param name="Of">Documents filed that week that hold the field.</param>
/// <param name="Changed">Those of them in which a person typed, showed or edited it.</param>
public sealed record WatchedWeek(string Field, int Week, int Of, int Changed);

/// <summary>What became of the values that readers read, from the history of the documents.</summary>
public static class ReaderWatchStore
{
    private const string IsChange = "(h.how = 'typed' OR h.how LIKE 'picked%' OR h.how LIKE 'edited%')";

    /// <summary>Fields by week of the documents that a reader read and that were filed since a day.</summary>
    /// <param name="c">Connection.</param>
    /// <param name="reader">The reader.</param>
    /// <param name="today">Today, ISO 8601; weeks are counted back from it.</param>
    /// <param name="since">The first day, ISO 8601.</param>
    public static List<WatchedWeek> Weeks(SqliteConnection c, string reader, string today, string since) =>
        c.Query(
            $"""
            SELECT field, week, count(*) AS documents, sum(changed) AS changed FROM (
              SELECT h.field AS field, cast((julianday($today) - julianday(substr(d.filed_at, 1, 10))) / 7 AS INTEGER) AS week,
                     max({IsChange}) AS changed
              FROM documents d JOIN value_history h ON h.document_id = d.id
              WHERE d.reader_key = $reader AND d.filed_at >= $since AND d.state = 'filed'
              GROUP BY d.id, h.field)
            GROUP BY field, week
            """,
            r => new WatchedWeek(r.Text("field"), r.Int("week"), r.Int("documents"), r.Int("changed")),
            ("$reader", reader),
            ("$today", today),
            ("$since", since)
        );

    /// <summary>Documents behind it: those a reader read in which a person changed a field, filed since a day, the newest first.</summary>
    public static List<(long Id, string Name, string Before, string After)> Changed(
        SqliteConnection c,
        string reader,
        string field,
        string since,
        int most
    ) =>
        c.Query(
            $"""
            SELECT d.id, coalesce(d.name, d.source_name) AS name, h.before, h.after
            FROM documents d JOIN value_history h ON h.document_id = d.id
            WHERE d.reader_key = $reader AND d.filed_at >= $since AND d.state = 'filed' AND h.field = $field AND {IsChange}
            ORDER BY d.filed_at DESC, h.id DESC LIMIT $most
            """,
            r => (r.Long("id"), r.Text("name"), r.Text("before"), r.Text("after")),
            ("$reader", reader),
            ("$field", field),
            ("$since", since),
            ("$most", most)
        );
}
