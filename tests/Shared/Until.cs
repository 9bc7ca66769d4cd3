using System.Runtime.CompilerServices;

namespace ClearLexicon.TestSupport;

/// <summary>Waits for what the program does beside the test.</summary>
public static class Until
{
    /// <summary>
    /// Waits until something holds; fails by its name when it does not within two minutes: what takes a moment takes many beside other tests.
    /// </summary>
    public static async Task Holds(Func<bool> condition, [CallerArgumentExpression(nameof(condition))] string what = "")
    {
        for (var tries = 0; !condition(); tries++)
        {
            Assert.True(tries < 2_400, $"Waited two minutes in vain for {what}.");
            await Task.Delay(50);
        }
    }
}
