using System.Collections.Concurrent;

namespace ClearLexicon.Services.Desk;

/// <summary>Somebody who has a document of the desk open.</summary>
/// <param name="Who">Who.</param>
/// <param name="Since">Since when.</param>
public sealed record AtWork(string Who, DateTimeOffset Since);

/// <summary>
/// Who has which document of the desk open. Whoever opens it first has it, until they go on to another or have not touched it for a while;
/// somebody else is told, and may take it over. It is kept by this process only: a start forgets it.
/// </summary>
public sealed class DeskPresence(TimeProvider clock)
{
    /// <summary>After how long without a touch a document is nobody's.</summary>
    public static readonly TimeSpan Idle = TimeSpan.FromMinutes(5);

    private sealed record Taken(string Who, DateTimeOffset Since, DateTimeOffset Last);

    private readonly ConcurrentDictionary<long, Taken> _taken = new();

    /// <summary>A person opens a document, or goes on with it. What they had open before is free.</summary>
    /// <returns>Who else has it; null when it is the person's own.</returns>
    public AtWork? Open(long document, string who, bool takeOver = false)
    {
        var now = clock.GetUtcNow();
        foreach (var (other, taken) in _taken)
            if (other != document && taken.Who == who || now - taken.Last > Idle)
                _taken.TryRemove(KeyValuePair.Create(other, taken));
        var own = _taken.AddOrUpdate(
            document,
            _ => new Taken(who, now, now),
            (_, taken) =>
                taken.Who == who ? taken with { Last = now }
                : takeOver ? new Taken(who, now, now)
                : taken
        );
        return own.Who == who ? null : new AtWork(own.Who, own.Since);
    }

    /// <summary>Who else than a person has a document open; null when nobody has.</summary>
    public AtWork? Other(long document, string who) =>
        _taken.TryGetValue(document, out var taken) && taken.Who != who && clock.GetUtcNow() - taken.Last <= Idle
            ? new AtWork(taken.Who, taken.Since)
            : null;
}
