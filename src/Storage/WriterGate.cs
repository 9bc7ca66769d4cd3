using System.Diagnostics;

namespace ClearLexicon.Storage;

/// <summary>A write was begun inside another write, which would wait for itself for ever. Always an error of the program.</summary>
/// <param name="outer">Where the write under way was begun.</param>
/// <param name="inner">Where the second one was begun.</param>
public sealed class NestedWriteException(string outer, string inner)
    : InvalidOperationException($"A write was begun in {inner} inside the write of {outer}; pass its connection on instead.");

/// <summary>Another write has not ended in time. Nothing was changed; the same can be asked for again.</summary>
/// <param name="who">Where the write under way was begun.</param>
/// <param name="since">How long it has been writing.</param>
/// <param name="waited">How long this one has waited.</param>
public sealed class WriterBusyException(string who, TimeSpan since, TimeSpan waited)
    : TimeoutException(
        $"The database has been busy for {waited.TotalSeconds:0.#} seconds: {who} has been writing for {since.TotalSeconds:0.#} "
            + "seconds. Nothing was changed; try again."
    );

/// <summary>
/// Lets one writer in at a time, in the order they came, so that work in chunks never overtakes somebody who waits. Refuses to be entered
/// twice by one flow of work, and does not let anybody wait for ever.
/// </summary>
internal sealed class WriterGate(TimeSpan patience)
{
    private sealed class Entry(string place)
    {
        public string Place { get; } = place;

        public long Since { get; set; }

        // Work that is started inside a write and outlives it carries the entry along, which then counts no more.
        public bool Open { get; set; }

        public ManualResetEventSlim? Turn { get; set; }
    }

    private readonly AsyncLocal<Entry?> _mine = new();
    private readonly LinkedList<Entry> _waiting = new();
    private Entry? _now;

    /// <summary>Enters and runs; leaves whatever happens.</summary>
    /// <exception cref="NestedWriteException">This flow of work is inside already.</exception>
    /// <exception cref="WriterBusyException">Another one did not leave in time.</exception>
    public T Enter<T>(string place, Func<T> work)
    {
        if (_mine.Value is { Open: true } outer)
            throw new NestedWriteException(outer.Place, place);
        var entry = new Entry(place);
        Wait(entry);
        (entry.Since, entry.Open, _mine.Value) = (Stopwatch.GetTimestamp(), true, entry);
        try
        {
            return work();
        }
        finally
        {
            entry.Open = false;
            _mine.Value = null;
            Leave();
        }
    }

    private void Wait(Entry entry)
    {
        lock (_waiting)
        {
            if (_now is null)
            {
                _now = entry;
                return;
            }
            entry.Turn = new ManualResetEventSlim();
            _waiting.AddLast(entry);
        }
        using var turn = entry.Turn;
        if (turn.Wait(patience))
            return;
        lock (_waiting)
        {
            // The turn may have come at the last moment.
            if (!_waiting.Remove(entry))
                return;
            throw new WriterBusyException(_now!.Place, Stopwatch.GetElapsedTime(_now.Since), patience);
        }
    }

    private void Leave()
    {
        lock (_waiting)
        {
            _now = _waiting.First?.Value;
            if (_now is null)
                return;
            _waiting.RemoveFirst();
            _now.Turn!.Set();
        }
    }
}
