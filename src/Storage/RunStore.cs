using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>
/// What was last begun, or done, with a run. While it is being looked at, applied or undone a job runs on it; without one it was stopped,
/// and can be gone on with.
/// </summary>
public enum RunState
{
    /// <summary>What it would do is being looked at; nothing is changed by that.</summary>
    Looking,

    /// <summary>What it would do is known.</summary>
    Looked,

    /// <summary>It is being done.</summary>
    Applying,

    /// <summary>It was done to its end.</summary>
    Applied,

    /// <summary>It is being taken back.</summary>
    Undoing,

    /// <summary>It was taken back, but for steps that stay.</summary>
    Undone,
}

/// <summary>What has become of a step of a run.</summary>
public enum StepState
{
    /// <summary>It would be done.</summary>
    Planned,

    /// <summary>A rule stands against it, so that it will not be done.</summary>
    Held,

    /// <summary>It is done, and its document has to move where it belongs yet.</summary>
    Moving,

    /// <summary>It is done.</summary>
    Done,

    /// <summary>It was not done, with a reason.</summary>
    Skipped,

    /// <summary>It is taken back, and its document has to move where it belongs yet.</summary>
    Returning,

    /// <summary>It is taken back.</summary>
    Undone,

    /// <summary>It was not taken back, with a reason.</summary>
    Stays,
}

/// <summary>What a page shows of a run of any kind.</summary>
public interface IRun
{
    /// <summary>What it works on; only one job at a time does.</summary>
    string Subject { get; }

    /// <summary>Its number among those of its kind, from 1.</summary>
    long Id { get; }

    /// <summary>What was last begun or done.</summary>
    RunState State { get; }

    /// <summary>Why it could not go on; null when nothing is wrong.</summary>
    string? Problem { get; }

    /// <summary>When it was begun.</summary>
    Instant At { get; }

    /// <summary>By whom.</summary>
    string Who { get; }
}

/// <summary>An act on many documents that is looked at, done, and can be taken back.</summary>
/// <param name="Key">Its row, by which its steps are found.</param>
/// <param name="Id">Its number among those of its kind, from 1.</param>
/// <param name="Subject">What it works on; only one job at a time does.</param>
/// <param name="Order">What is to be done.</param>
/// <param name="State">What was last begun or done.</param>
/// <param name="Reached">The last document that it has come to, where it goes by the order of their ids; else 0.</param>
/// <param name="Looked">How many documents were looked at.</param>
/// <param name="Problem">Why it could not go on; null when nothing is wrong.</param>
/// <param name="At">When it was begun.</param>
/// <param name="Who">By whom.</param>
/// <typeparam name="TOrder">What says of its kind what is to be done; written as JSON.</typeparam>
public sealed record Run<TOrder>(
    long Key,
    long Id,
    string Subject,
    TOrder Order,
    RunState State,
    long Reached,
    long Looked,
    string? Problem,
    Instant At,
    string Who
) : IRun;

/// <summary>What a run does to one document, or to one of its values.</summary>
/// <param name="Document">The document.</param>
/// <param name="What">What is done, and what taking it back needs.</param>
/// <typeparam name="TWhat">What says of its kind what is done; written as JSON.</typeparam>
public sealed record RunStep<TWhat>(long Document, TWhat What)
{
    /// <summary>Its row; 0 while it is not kept.</summary>
    public long Id { get; init; }

    /// <summary>What the document was called; what it is called now where that was not kept.</summary>
    public string Name { get; init; } = "";

    /// <summary>What has become of it.</summary>
    public StepState State { get; init; }

    /// <summary>Where the document belongs then; null when that is where it stands.</summary>
    public string? ToPath { get; init; }

    /// <summary>Why it is held, was skipped or stays; empty when nothing is to be said.</summary>
    public string Message { get; init; } = "";

    /// <summary>The newest line of the document's history when it was done, to tell whether somebody has changed it since.</summary>
    public long LastChange { get; init; }

    /// <summary>The step with what has become of it, and why when it was not done.</summary>
    public RunStep<TWhat> As(StepState state, string message = "") => this with { State = state, Message = message };
}

/// <summary>How many steps of a run are in a state, and how many of them change the place of their document.</summary>
/// <param name="Number">Steps.</param>
/// <param name="Paths">Those whose document belongs elsewhere then.</param>
public readonly record struct StepCount(long Number, long Paths);

/// <summary>Runs of every kind, with their steps.</summary>
public static class RunStore
{
    private const string Columns = "SELECT key, id, subject, what, state, reached, looked, problem, at, who FROM runs";

    /// <summary>Begins a run.</summary>
    /// <param name="c">An open transaction.</param>
    /// <param name="kind">Code of its kind.</param>
    /// <param name="subject">What it works on.</param>
    /// <param name="order">What is to be done.</param>
    /// <param name="state">What is begun.</param>
    /// <param name="at">When.</param>
    /// <param name="who">By whom.</param>
    public static Run<T> Begin<T>(SqliteConnection c, string kind, string subject, T order, RunState state, DateTimeOffset at, string who)
    {
        var id = c.Scalar<long>(
            """
            INSERT INTO runs (kind, id, subject, what, state, at, who)
            VALUES ($kind, (SELECT coalesce(max(id), 0) + 1 FROM runs WHERE kind = $kind), $subject, $what, $state, $at, $who) RETURNING id
            """,
            ("$kind", kind),
            ("$subject", subject),
            ("$what", Sql.ToJson(order)),
            ("$state", Sql.Code(state)),
            ("$at", Sql.Stamp(at)),
            ("$who", who)
        );
        return Find<T>(c, kind, id)!;
    }

    /// <summary>One run, or null.</summary>
    public static Run<T>? Find<T>(SqliteConnection c, string kind, long id) =>
        c.Query(Columns + " WHERE kind = $kind AND id = $id", Map<T>, ("$kind", kind), ("$id", id)).FirstOrDefault();

    /// <summary>The newest of a kind, newest first.</summary>
    public static List<Run<T>> Newest<T>(SqliteConnection c, string kind, int most) =>
        c.Query(Columns + " WHERE kind = $kind ORDER BY id DESC LIMIT $most", Map<T>, ("$kind", kind), ("$most", most));

    /// <summary>The newest of a kind that work on a subject, newest first.</summary>
    public static List<Run<T>> Of<T>(SqliteConnection c, string kind, string subject, int most) =>
        c.Query(
            Columns + " WHERE kind = $kind AND subject = $subject ORDER BY id DESC LIMIT $most",
            Map<T>,
            ("$kind", kind),
            ("$subject", subject),
            ("$most", most)
        );

    /// <summary>Notes what is begun or done with a run; nothing is wrong with it then.</summary>
    public static void SetState(SqliteConnection c, long key, RunState state) =>
        c.Execute("UPDATE runs SET state = $state, problem = NULL WHERE key = $key", ("$key", key), ("$state", Sql.Code(state)));

    /// <summary>Keeps more of what is to be done.</summary>
    public static void SetOrder<T>(SqliteConnection c, long key, T order) =>
        c.Execute("UPDATE runs SET what = $what WHERE key = $key", ("$key", key), ("$what", Sql.ToJson(order)));

    /// <summary>Notes why a run could not go on.</summary>
    public static void SetProblem(SqliteConnection c, string kind, long id, string? problem) =>
        c.Execute(
            "UPDATE runs SET problem = $problem WHERE kind = $kind AND id = $id",
            ("$kind", kind),
            ("$id", id),
            ("$problem", problem)
        );

    /// <summary>Notes how far a run has come, and how many more documents were looked at.</summary>
    public static void Reach(SqliteConnection c, long key, long reached, int more) =>
        c.Execute(
            "UPDATE runs SET reached = $reached, looked = looked + $more WHERE key = $key",
            ("$key", key),
            ("$reached", reached),
            ("$more", more)
        );

    /// <summary>Forgets what a look has found, to look again from the beginning.</summary>
    public static void Forget(SqliteConnection c, long key)
    {
        c.Execute("DELETE FROM run_steps WHERE run = $key", ("$key", key));
        c.Execute("UPDATE runs SET reached = 0, looked = 0 WHERE key = $key", ("$key", key));
    }

    /// <summary>Keeps a step of a run.</summary>
    public static void Add<T>(SqliteConnection c, long run, RunStep<T> step) =>
        c.Execute(
            """
            INSERT INTO run_steps (run, document_id, name, state, what, to_path, message, last_change)
            VALUES ($run, $document, nullif($name, ''), $state, $what, $path, $message, $last)
            """,
            ("$run", run),
            ("$document", step.Document),
            ("$name", step.Name),
            ("$state", Sql.Code(step.State)),
            ("$what", Sql.ToJson(step.What)),
            ("$path", step.ToPath),
            ("$message", step.Message),
            ("$last", step.LastChange)
        );

    /// <summary>Keeps what is told of a document now, in place of what was told of it before.</summary>
    public static void Tell<T>(SqliteConnection c, long run, RunStep<T> step)
    {
        c.Execute("DELETE FROM run_steps WHERE document_id = $document AND run = $run", ("$run", run), ("$document", step.Document));
        Add(c, run, step);
    }

    /// <summary>Keeps what has become of a step.</summary>
    public static void Set<T>(SqliteConnection c, RunStep<T> step) =>
        c.Execute(
            """
            UPDATE run_steps SET state = $state, what = $what, to_path = $path, message = $message, last_change = $last WHERE id = $id
            """,
            ("$id", step.Id),
            ("$state", Sql.Code(step.State)),
            ("$what", Sql.ToJson(step.What)),
            ("$path", step.ToPath),
            ("$message", step.Message),
            ("$last", step.LastChange)
        );

    /// <summary>Steps of a run in a state, in the order in which they were planned.</summary>
    public static List<RunStep<T>> Steps<T>(SqliteConnection c, long run, StepState state, int most) =>
        c.Query(
            """
            SELECT s.id, s.document_id, coalesce(s.name, d.name, d.source_name) AS name, s.state, s.what, s.to_path, s.message, s.last_change
            FROM run_steps s JOIN documents d ON d.id = s.document_id
            WHERE s.run = $run AND s.state = $state ORDER BY s.id LIMIT $most
            """,
            Step<T>,
            ("$run", run),
            ("$state", Sql.Code(state)),
            ("$most", most)
        );

    /// <summary>How many steps of a run are in each state.</summary>
    public static Dictionary<StepState, StepCount> Counts(SqliteConnection c, long run) =>
        c.Query(
                "SELECT state, count(*) AS steps, count(to_path) AS moves FROM run_steps WHERE run = $run GROUP BY state",
                r => (State: r.Code<StepState>("state"), Count: new StepCount(r.Long("steps"), r.Long("moves"))),
                ("$run", run)
            )
            .ToDictionary(r => r.State, r => r.Count);

    /// <summary>The newest line of a document's history; 0 when it has none.</summary>
    public static long LastChange(SqliteConnection c, long document) =>
        c.Scalar<long>("SELECT coalesce(max(id), 0) FROM value_history WHERE document_id = $id", ("$id", document));

    /// <summary>The newest line of a document's history when a run of a kind changed it last; 0 when none has.</summary>
    public static long LastChangeBy(SqliteConnection c, string kind, long document) =>
        c.Scalar<long>(
            "SELECT coalesce(max(s.last_change), 0) FROM run_steps s JOIN runs r ON r.key = s.run "
                + "WHERE s.document_id = $id AND r.kind = $kind",
            ("$id", document),
            ("$kind", kind)
        );

    private static Run<T> Map<T>(Row r) =>
        new(
            r.Long("key"),
            r.Long("id"),
            r.Text("subject"),
            r.FromJson<T>("what"),
            r.Code<RunState>("state"),
            r.Long("reached"),
            r.Long("looked"),
            r.TextOrNone("problem"),
            r.Moment("at"),
            r.Text("who")
        );

    private static RunStep<T> Step<T>(Row r) =>
        new(r.Long("document_id"), r.FromJson<T>("what"))
        {
            Id = r.Long("id"),
            Name = r.Text("name"),
            State = r.Code<StepState>("state"),
            ToPath = r.TextOrNone("to_path"),
            Message = r.Text("message"),
            LastChange = r.Long("last_change"),
        };
}
