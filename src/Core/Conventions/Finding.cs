using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Conventions;

/// <summary>A finding about a design, before any document meets it.</summary>
/// <param name="Code">Stable code.</param>
/// <param name="Level">Must-findings block publishing.</param>
/// <param name="Text">What is wrong and what follows from it.</param>
/// <param name="Place">Where: a field key, a rule id, <c>folder</c>, <c>name</c>, <c>limits</c>, <c>fields</c>, <c>fillings</c>, or
/// <c>vocabulary …</c> or <c>reader …</c> with a key.</param>
public sealed record Finding(string Code, Level Level, string Text, string Place)
{
    /// <summary>What follows from it when nothing is done; empty where the text says so.</summary>
    public string Consequence { get; init; } = "";
}
