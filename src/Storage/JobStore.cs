using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>What has become of a job.</summary>
public enum JobState
{
    /// <summary>It runs, or ran when the process ended.</summary>
    Running,

    /// <summary>It has done all.</summary>
    Ended,

    /// <summary>Somebody has stopped it.</summary>
    Stopped,

    /// <summary>It could not go on.</summary>
    Failed,
}

/// <summary>Long work as it is kept.</summary>
/// <param name="Id">Id in addresses.</param>
/// <param name="Kind">Code of its kind.</param>
/// <param name="Subject">What it works on.</param>
/// <param name="Title">What is being done, in words.</param>
/// <param name="Page">Address of the page it belongs to.</param>
/// <param name="Policy">Who may stop it.</param>
/// <param name="Arguments">What its kind needs to do it, JSON.</param>
/// <param name="State">What has become of it.</param>
/// <param name="Total">How much there is; 0 while unknown.</param>
/// <param name="Done">How much is done.</param>
/// <param name="Tries">How often it was taken up without having got any further.</param>
/// <param name="Problem">Why it ended early; null when it did not.</param>
/// <param name="Who">Who started it.</param>
/// <param name="StartedAt">When.</param>
public sealed record StoredJob(
    string Id,
    string Kind,
    string Subject,
    string Title,
    string Page,
    string Policy,
    string Arguments,
    JobState State,
    long Total,
    long Done,
    int Tries,
    string? Problem,
    string Who,
    Instant StartedAt
);

/// <summary>Long work, running and ended. A unique index keeps one running job a subject.</summary>
public static class JobStore
{
    private const int Kept = 200;

    private const string Stored = "id, kind, subject, title, page, policy, arguments, state, total, done, tries, problem, who, started_at";

    private const string Columns = $"SELECT {Stored} FROM jobs";

    /// <summary>Adds a running job; false when one runs on its subject.</summary>
    public static bool Add(SqliteConnection c, StoredJob job)
    {
        c.Execute(
            "DELETE FROM jobs WHERE state <> 'running' AND id NOT IN (SELECT id FROM jobs ORDER BY rowid DESC LIMIT $kept)",
            ("$kept", Kept)
        );
        return c.Execute(
                """
                INSERT INTO jobs (id, kind, subject, title, page, policy, arguments, state, who, started_at)
                VALUES ($id, $kind, $subject, $title, $page, $policy, $arguments, 'running', $who, $at) ON CONFLICT DO NOTHING
                """,
                ("$id", job.Id),
                ("$kind", job.Kind),
                ("$subject", job.Subject),
                ("$title", job.Title),
                ("$page", job.Page),
                ("$policy", job.Policy),
                ("$arguments", job.Arguments),
                ("$who", job.Who),
                ("$at", job.StartedAt.ToString())
            ) == 1;
    }

    /// <summary>Keeps how far a job has come.</summary>
    public static void Reach(SqliteConnection c, string id, long total, long done) =>
        c.Execute(
            "UPDATE jobs SET total = $total, done = $done, tries = 0 WHERE id = $id",
            ("$id", id),
            ("$total", total),
            ("$done", done)
        );

    /// <summary>Notes that a job is taken up after the process has ended.</summary>
    public static void CountTry(SqliteConnection c, string id) =>
        c.Execute("UPDATE jobs SET tries = tries + 1 WHERE id = $id", ("$id", id));

    /// <summary>Ends a job.</summary>
    public static void End(SqliteConnection c, string id, JobState state, long total, long done, string? problem, DateTimeOffset at) =>
        c.Execute(
            "UPDATE jobs SET state = $state, total = $total, done = $done, problem = $problem, ended_at = $at WHERE id = $id",
            ("$id", id),
            ("$state", Sql.Code(state)),
            ("$total", total),
            ("$done", done),
            ("$problem", problem),
            ("$at", Sql.Stamp(at))
        );

    /// <summary>Jobs that run, or ran when the process ended.</summary>
    public static List<StoredJob> Running(SqliteConnection c) => c.Query(Columns + " WHERE state = 'running' ORDER BY rowid", Map);

    /// <summary>Jobs that ended without having done all, since a moment, and when, the newest first.</summary>
    public static List<(StoredJob Job, Instant At)> Failed(SqliteConnection c, DateTimeOffset since) =>
        c.Query(
            $"SELECT {Stored}, ended_at FROM jobs WHERE ended_at >= $since AND state IN ('failed', 'stopped') ORDER BY ended_at DESC",
            r => (Map(r), r.Moment("ended_at")),
            ("$since", Sql.Stamp(since))
        );

    /// <summary>One job, or null.</summary>
    public static StoredJob? Find(SqliteConnection c, string id) => c.Query(Columns + " WHERE id = $id", Map, ("$id", id)).FirstOrDefault();

    private static StoredJob Map(Row r) =>
        new(
            r.Text("id"),
            r.Text("kind"),
            r.Text("subject"),
            r.Text("title"),
            r.Text("page"),
            r.Text("policy"),
            r.Text("arguments"),
            r.Code<JobState>("state"),
            r.Long("total"),
            r.Long("done"),
            r.Int("tries"),
            r.TextOrNone("problem"),
            r.Text("who"),
            r.Moment("started_at")
        );
}
