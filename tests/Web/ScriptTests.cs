using System.Diagnostics;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Web.Tests;

/// <summary>What the scripts compute, tested in Node by <c>tests/Scripts</c>.</summary>
public sealed class ScriptTests(ITestOutputHelper output)
{
    private const int Fewest = 9;

    [Fact]
    public async Task What_the_scripts_compute_is_right()
    {
        using var node = Process.Start(
            new ProcessStartInfo("node", ["--test", "--test-force-exit", "--test-reporter=tap", "tests/Scripts/"])
            {
                WorkingDirectory = SourceTree.Root,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                UseShellExecute = false,
            }
        )!;
        using var late = new CancellationTokenSource(TimeSpan.FromMinutes(2));
        var (said, wrong) = (node.StandardOutput.ReadToEndAsync(late.Token), node.StandardError.ReadToEndAsync(late.Token));
        try
        {
            await node.WaitForExitAsync(late.Token);
        }
        finally
        {
            if (!node.HasExited)
                node.Kill(entireProcessTree: true);
        }
        output.WriteLine(await said);
        Assert.True(node.ExitCode == 0, await said + await wrong);
        Assert.True((await said).Split('\n').Count(l => l.StartsWith("ok ", StringComparison.Ordinal)) >= Fewest, await said);
    }
}
