namespace ClearLexicon.Formats;

/// <summary>The program that takes PDFs apart and puts them together without touching what is drawn on their pages.</summary>
internal static class Qpdf
{
    // It had to warn, as of a file that is not quite as it should be.
    private const int Warned = 3;

    /// <summary>Whether it is here.</summary>
    public static bool Available => ExternalProgram.Exists("qpdf");

    /// <summary>Runs it.</summary>
    /// <returns>Whether it did what it was asked.</returns>
    /// <exception cref="TimeoutException">It took longer than <paramref name="limit"/>.</exception>
    /// <exception cref="InvalidDataException">It printed too much.</exception>
    public static async Task<bool> RunAsync(IEnumerable<string> arguments, TimeSpan limit, CancellationToken cancel) =>
        (await ExternalProgram.RunAsync("qpdf", arguments, limit, cancel)).ExitCode is 0 or Warned;
}
