using System.Diagnostics;

namespace ClearLexicon.Services.Tests;

/// <summary>Programs that look at what was made here, so that we do not only read our own hand.</summary>
internal static class OtherProgram
{
    /// <summary>Runs one to its end, which must be a good one.</summary>
    /// <param name="name">The program.</param>
    /// <param name="arguments">Its arguments.</param>
    /// <param name="folder">Where it runs.</param>
    /// <returns>What it printed.</returns>
    public static string Run(string name, IEnumerable<string> arguments, string folder = "")
    {
        using var process = Process.Start(
            new ProcessStartInfo(name, arguments)
            {
                RedirectStandardOutput = true,
                UseShellExecute = false,
                WorkingDirectory = folder,
            }
        )!;
        var output = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        Assert.Equal(0, process.ExitCode);
        return output;
    }
}
