using ClearLexicon.Storage;

namespace ClearLexicon.Web.Pages;

/// <summary>What a person can do with a run that was begun: go on with it, or undo it; for the partial <c>_RunActs</c>.</summary>
/// <param name="Run">The run.</param>
/// <param name="IsRunning">Whether a job works on it; nothing can be done then.</param>
/// <param name="IsUndoable">Whether there is anything of it that could be undone.</param>
/// <param name="Apply">Where going on is sent to.</param>
/// <param name="Undo">Where undoing is sent to.</param>
public sealed record RunActs(IRun Run, bool IsRunning, bool IsUndoable, string Apply, string Undo)
{
    /// <summary>Id of the button that undoes it.</summary>
    public string UndoId { get; init; } = "undo";

    /// <summary>Whether it stands in a list, where acts are links among words.</summary>
    public bool InList { get; init; }

    /// <summary>What undoing it is called.</summary>
    public string UndoText { get; init; } = "Undo it";

    /// <summary>What going on is called.</summary>
    public string ContinueText { get; init; } = "Continue";

    /// <summary>Whether it can be undone.</summary>
    public bool MayUndo => !IsRunning && IsUndoable && Run.State is RunState.Applied or RunState.Applying;

    /// <summary>What has become of a run, in words.</summary>
    public static string InWords(IRun run, bool isRunning, string done) =>
        run.State switch
        {
            RunState.Looking or RunState.Looked => "only previewed",
            RunState.Applied => done,
            RunState.Undone => "undone",
            _ => isRunning ? "under way" : "stopped",
        };
}
