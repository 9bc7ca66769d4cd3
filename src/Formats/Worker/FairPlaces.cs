namespace ClearLexicon.Formats;

/// <summary>
/// Places at which files are read, shared fairly between those who bring them: who has fewest gets the next, the first who came among
/// equals; and one place more is kept for who has none, so that two files which are read for minutes keep nobody waiting.
/// </summary>
/// <param name="most">Places at once, but for the one that is kept.</param>
public sealed class FairPlaces(int most)
{
    private sealed record Waiting(string Owner, TaskCompletionSource Turn);

    private readonly Lock _lock = new();
    private readonly Dictionary<string, int> _taken = new(StringComparer.Ordinal);
    private readonly LinkedList<Waiting> _waiting = [];
    private int _all;

    /// <summary>Waits for a place; <see cref="Leave"/> gives it back.</summary>
    /// <param name="owner">Who brings the file.</param>
    /// <param name="cancel">Stops waiting.</param>
    public async Task EnterAsync(string owner, CancellationToken cancel)
    {
        var waiting = new Waiting(owner, new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously));
        lock (_lock)
        {
            _waiting.AddLast(waiting);
            Next();
        }
        await using var stop = cancel.Register(() =>
        {
            lock (_lock)
                if (_waiting.Remove(waiting))
                    waiting.Turn.SetCanceled(cancel);
        });
        await waiting.Turn.Task;
    }

    /// <summary>Gives a place back.</summary>
    public void Leave(string owner)
    {
        lock (_lock)
        {
            _all--;
            if (--_taken[owner] == 0)
                _taken.Remove(owner);
            Next();
        }
    }

    private void Next()
    {
        while (_waiting.MinBy(w => _taken.GetValueOrDefault(w.Owner)) is { } next)
        {
            var has = _taken.GetValueOrDefault(next.Owner);
            if (_all >= most + (has == 0 ? 1 : 0))
                return;
            _waiting.Remove(next);
            _taken[next.Owner] = has + 1;
            _all++;
            next.Turn.SetResult();
        }
    }
}
