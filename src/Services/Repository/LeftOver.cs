namespace ClearLexicon.Services.Repository;

/// <summary>What a run could not do, as it is kept: sentences, the first of many.</summary>
internal static class LeftOver
{
    private const int Most = 200;

    /// <summary>The first sentences, and how many more there are.</summary>
    public static IReadOnlyList<string> First(IReadOnlyList<string> left) =>
        left.Count > Most ? [.. left.Take(Most), $"and {left.Count - Most} more"] : left;
}
