using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// A difference constraint <c>x − y ≤ c</c> that a rule or field puts on its values: numbers, dates as day numbers, lengths of texts.
/// </summary>
/// <param name="X">Key of a field, or <see cref="Length"/> of one; empty for nought.</param>
/// <param name="Y">The like.</param>
/// <param name="C">How far x may lie above y.</param>
public sealed record Bound(string X, string Y, decimal C)
{
    /// <summary>What it says in words, where that is not the sentence of its rule.</summary>
    public string? Says { get; init; }

    /// <summary>“Less than” of numbers without a smallest step.</summary>
    internal const decimal Little = 0.0000001m;

    /// <summary>The length of a text field, in characters. Keys are lower case, so no field is called so.</summary>
    internal static string Length(string key) => $"LENGTH {key}";

    /// <summary>A value is at least and at most so much; a null says nothing.</summary>
    internal static IEnumerable<Bound> Between(string name, decimal? least, decimal? most)
    {
        if (least is { } from)
            yield return new Bound("", name, -from);
        if (most is { } to)
            yield return new Bound(name, "", to);
    }

    /// <summary>How long a text is that matches a pattern; nothing when the pattern cannot be read.</summary>
    internal static IEnumerable<Bound> OfPattern(string key, string pattern)
    {
        if (PatternPieces.Read(pattern) is not { } pieces)
            return [];
        var (least, most) = PatternPieces.Lengths(pieces);
        return Between(Length(key), least, most);
    }
}
