using Xunit;
using Xunit.Sdk;

namespace ClearLexicon.TestSupport;

/// <summary>
/// A fault that is known and open, by its number, with the case that shows it. A case that begins to hold fails: it is then made a test of
/// its own, beside what was mended.
/// </summary>
internal static class OpenFault
{
    /// <summary>Passes as long as the case does not hold.</summary>
    public static async Task Shows(int number, Func<Task> holds)
    {
        try
        {
            await holds();
        }
        catch (XunitException)
        {
            return;
        }
        Assert.Fail($"{number} is mended: its case is a test of its own now.");
    }

    /// <inheritdoc cref="Shows(int, Func{Task})"/>
    public static void Shows(int number, Action holds) =>
        Shows(
                number,
                () =>
                {
                    holds();
                    return Task.CompletedTask;
                }
            )
            .GetAwaiter()
            .GetResult();
}
