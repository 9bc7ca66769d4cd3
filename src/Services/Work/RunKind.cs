using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Work;

/// <summary>What a step keeps that needs nothing but its document to be taken back.</summary>
public sealed record DocumentAlone;

/// <summary>One document that was looked at.</summary>
/// <param name="Document">The document.</param>
/// <param name="Steps">What would be done to it; none when nothing.</param>
internal sealed record LookedAt<TWhat>(long Document, IReadOnlyList<RunStep<TWhat>> Steps);

/// <summary>Does a step in the transaction of its chunk, by a person, and gives it with what has become of it.</summary>
internal delegate RunStep<TWhat> StepWork<TWhat>(SqliteConnection c, RunStep<TWhat> step, string who);

/// <summary>
/// A kind of run, as <see cref="Runs{TOrder,TWhat}"/> does it: what is looked at, what becomes of one step, and how it is taken back. What
/// a kind does not say is not part of it.
/// </summary>
/// <typeparam name="TOrder">What is to be done.</typeparam>
/// <typeparam name="TWhat">What a step does, and what taking it back needs.</typeparam>
/// <param name="Code">Stable code; jobs are called <c>code-look</c>, <c>code-apply</c> and <c>code-undo</c>.</param>
/// <param name="Policy">Name of the authorization policy of those who may stop it.</param>
/// <param name="Page">Address of the page that shows a run.</param>
/// <param name="Titles">What its jobs do, in words: looking, doing, taking back; empty for what it has none.</param>
internal sealed record RunKind<TOrder, TWhat>(
    string Code,
    string Policy,
    Func<Run<TOrder>, string> Page,
    (string Look, string Apply, string Undo) Titles
)
{
    /// <summary>Why a run cannot be begun, asked in the transaction that begins it; null when it can.</summary>
    public Func<SqliteConnection, TOrder, string?> WhyNotBegin { get; init; } = static (_, _) => null;

    /// <summary>Why a run cannot be undone now, asked in the transaction that begins that; null when it can.</summary>
    public Func<SqliteConnection, Run<TOrder>, string?> WhyNotUndo { get; init; } = static (_, _) => null;

    /// <summary>Looks at documents, one after another; counts on the job how many there are.</summary>
    public Func<Run<TOrder>, Job, CancellationToken, IAsyncEnumerable<LookedAt<TWhat>>>? Look { get; init; }

    /// <summary>How many documents that were looked at are kept together.</summary>
    public int LookedAtOnce { get; init; } = 200;

    /// <summary>
    /// Whether a look comes to documents by the order of their ids, so that it goes on behind <see cref="Run{TOrder}.Reached"/>; else it
    /// begins anew after a stop.
    /// </summary>
    public bool LooksInOrder { get; init; }

    /// <summary>
    /// The next documents behind an id, of a run that plans nothing before; asked in the transaction in which they are done, which gives
    /// their steps what they keep. Null for a run that does what was planned.
    /// </summary>
    public Func<SqliteConnection, Run<TOrder>, long, int, List<long>>? Next { get; init; }

    /// <summary>How many documents are still to come, of a run that plans nothing before.</summary>
    public Func<SqliteConnection, Run<TOrder>, long> Coming { get; init; } = static (_, _) => 0;

    /// <summary>
    /// How the steps of a run are done, made once for all of them. <see cref="StepState.Moving"/> means that <see cref="Follow"/> is asked
    /// after the chunk.
    /// </summary>
    public Func<Run<TOrder>, StepWork<TWhat>>? Do { get; init; }

    /// <summary>How the steps of a run are taken back, as <see cref="Do"/>; <see cref="StepState.Returning"/> is followed.</summary>
    public Func<Run<TOrder>, StepWork<TWhat>>? Undo { get; init; }

    /// <summary>
    /// Brings a document where it belongs, or back, behind a step that was done or taken back; its message says when it cannot.
    /// </summary>
    public Func<Run<TOrder>, RunStep<TWhat>, string, RunStep<TWhat>>? Follow { get; init; }

    /// <summary>Does a step that is more than one transaction.</summary>
    public Func<Run<TOrder>, RunStep<TWhat>, string, RunStep<TWhat>>? DoAlone { get; init; }

    /// <summary>Takes a step back that is more than one transaction.</summary>
    public Func<Run<TOrder>, RunStep<TWhat>, string, RunStep<TWhat>>? UndoAlone { get; init; }

    /// <summary>Looks at the whole of what a run would do, where that is not made of steps, and keeps it.</summary>
    public Action<Run<TOrder>, Job, CancellationToken>? LookAll { get; init; }

    /// <summary>Does the whole of a run that is not made of steps.</summary>
    public Action<Run<TOrder>, Job, CancellationToken>? DoAll { get; init; }

    /// <summary>Takes the whole of a run back that is not made of steps.</summary>
    public Action<Run<TOrder>, Job, CancellationToken>? UndoAll { get; init; }

    /// <summary>What else is written in the transaction that ends it; its state says whether it was done or undone.</summary>
    public Action<SqliteConnection, Run<TOrder>, Job> Ended { get; init; } = static (_, _, _) => { };

    /// <summary>What is told of a run that was done to its end, although not all of it could be; its job has failed then.</summary>
    public Func<Run<TOrder>, string?> Shortfall { get; init; } = static _ => null;
}
