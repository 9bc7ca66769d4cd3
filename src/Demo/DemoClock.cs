using ClearLexicon.Services;

namespace ClearLexicon.Demo;

/// <summary>The clock of the demo, which is set back while the year before today is gone through once more.</summary>
public sealed class DemoClock : HouseClock
{
    private TimeSpan _back;

    /// <inheritdoc/>
    public override DateTimeOffset GetUtcNow() => base.GetUtcNow() - _back;

    /// <summary>Makes it a moment; it goes on from there.</summary>
    internal void Set(DateTimeOffset moment) => _back = base.GetUtcNow() - moment;

    /// <summary>Makes it now.</summary>
    internal void Now() => _back = TimeSpan.Zero;
}
