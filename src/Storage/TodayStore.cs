using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What waits on the desk of one batch.</summary>
/// <param name="Batch">Id of the batch; null for documents that came in none.</param>
/// <param name="Name">Its name; empty for none.</param>
/// <param name="Since">When it was brought, UTC; empty for none.</param>
/// <param name="Documents">How many of its documents wait.</param>
public sealed record WaitingBatch(long? Batch, string Name, string Since, int Documents);

/// <summary>Questions over everything that waits, went wrong or was done lately.</summary>
public static class TodayStore
{
    private const int NewestBatches = 200;

    /// <summary>What waits on the desk, by batch, the oldest first.</summary>
    public static List<WaitingBatch> Desk(SqliteConnection c) => c.Query("""
        SELECT d.batch_id, coalesce(b.name, ''), coalesce(b.brought_at, ''), count(*) FROM documents d LEFT JOIN batches b ON b.id = d.batch_id
        WHERE d.state = 'desk' GROUP BY d.batch_id ORDER BY d.batch_id
        """, r => new WaitingBatch(r.IsDBNull(0) ? null : r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetInt32(3)));

    /// <summary>How many filed documents of a type are parked, counted to a bound.</summary>
    public static long Parked(SqliteConnection c, string typeCode, int most) =>
        c.Scalar<long>("SELECT count(*) FROM (SELECT 1 FROM documents WHERE type_code = $type AND parked IS NOT NULL LIMIT $most)", ("$type", typeCode), ("$most", most));

    /// <summary>Batches brought since a moment of which files were refused, with the first refusal, the newest first.</summary>
    public static List<(long Batch, string Name, string At, int Refused, string Why)> Refused(SqliteConnection c, DateTimeOffset since) => c.Query("""
        SELECT b.id, b.name, b.brought_at, count(*), min(f.name || ': ' || coalesce(f.message, ''))
        FROM (SELECT id, name, brought_at FROM batches ORDER BY id DESC LIMIT $newest) b JOIN batch_files f ON f.batch_id = b.id AND f.state = 'refused'
        WHERE b.brought_at >= $since GROUP BY b.id ORDER BY b.id DESC
        """, r => (r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetInt32(3), r.GetString(4)), ("$since", Sql.Stamp(since)), ("$newest", NewestBatches));

    /// <summary>Jobs that ended without having done all, since a moment, the newest first.</summary>
    public static List<(StoredJob Job, string At)> Failed(SqliteConnection c, DateTimeOffset since) => c.Query("""
        SELECT id, kind, subject, title, page, policy, arguments, state, total, done, tries, problem, who, started_at, ended_at FROM jobs
        WHERE ended_at >= $since AND state IN ('failed', 'stopped') ORDER BY ended_at DESC
        """, r => (JobStore.Map(r), r.GetString(14)), ("$since", Sql.Stamp(since)));

    /// <summary>
    /// Documents filed by hand since a day: the day they were filed, the day their batch was brought (the day they were filed when they came in none),
    /// and how many.
    /// </summary>
    public static List<(string Filed, string Brought, int Documents)> Filed(SqliteConnection c, DateOnly since) => c.Query("""
        SELECT substr(d.filed_at, 1, 10), coalesce(substr(b.brought_at, 1, 10), substr(d.filed_at, 1, 10)), count(*)
        FROM documents d LEFT JOIN batches b ON b.id = d.batch_id
        WHERE d.state = 'filed' AND d.wave_id IS NULL AND d.filed_at >= $since GROUP BY 1, 2
        """, r => (r.GetString(0), r.GetString(1), r.GetInt32(2)), ("$since", since.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture)));
}
