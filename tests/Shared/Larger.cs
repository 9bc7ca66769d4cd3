namespace ClearLexicon.TestSupport;

/// <summary>How much an oracle compares: as much as fits into the suite, or so many times more; <c>scripts/oracles</c> asks for ten.</summary>
internal static class Larger
{
    /// <summary>How many times more; 1 in the suite.</summary>
    public static int By { get; } = int.TryParse(Environment.GetEnvironmentVariable("LARGER"), out var by) && by > 0 ? by : 1;
}
