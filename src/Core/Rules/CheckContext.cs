using System.Collections.Frozen;

namespace ClearLexicon.Core.Rules;

/// <summary>By which way a record comes to be judged.</summary>
public enum EntryChannel
{
    /// <summary>The desk, before filing.</summary>
    Desk,

    /// <summary>An edit of a filed document.</summary>
    Edit,

    /// <summary>An intake form.</summary>
    Form,

    /// <summary>The API.</summary>
    Api,

    /// <summary>A migration.</summary>
    Migration,
}

/// <summary>A day on which the office is closed.</summary>
/// <param name="Day">The day.</param>
/// <param name="Name">What it is called, in at most <see cref="LongestName"/> characters; may be empty.</param>
public sealed record ClosedDay(DateOnly Day, string Name)
{
    /// <summary>Most days that are kept.</summary>
    public const int Most = 2_000;

    /// <summary>Longest name of a day, in characters.</summary>
    public const int LongestName = 80;
}

/// <summary>What surrounds a record when it is judged and no field says.</summary>
/// <param name="Today">The current date where the records are kept.</param>
/// <param name="Channel">By which way it comes.</param>
/// <param name="Roles">Roles of the person at work; none when nobody is.</param>
/// <param name="Person">Name of that person.</param>
/// <param name="Batch">Name of the batch.</param>
public sealed record CheckContext(
    DateOnly Today,
    EntryChannel Channel,
    IReadOnlyList<string>? Roles = null,
    string Person = "",
    string Batch = ""
)
{
    /// <summary>The record before this one in its batch, as texts by key; for defaults that carry on.</summary>
    public IReadOnlyDictionary<string, string>? Previous { get; init; }

    /// <summary>Days on which the office is closed besides Saturdays and Sundays.</summary>
    public IReadOnlySet<DateOnly> Closed { get; init; } = FrozenSet<DateOnly>.Empty;

    /// <summary>The file it came as, with the path it had; empty when it is none.</summary>
    public string Original { get; init; } = "";

    /// <summary>How many pages it has; 0 when unknown.</summary>
    public int Pages { get; init; }

    /// <summary>Its number in its batch, from 1; 0 when it is in none.</summary>
    public int NumberInBatch { get; init; }
}
