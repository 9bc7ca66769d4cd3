using System.Diagnostics;

namespace ClearLexicon.Formats.Tests;

/// <summary>Work is bounded by what it takes of a processor, so that a busy machine refuses nothing that an idle one takes.</summary>
public sealed class ProcessorTimeTests
{
    private static readonly TimeSpan Second = TimeSpan.FromSeconds(1);

    private static Task<ExternalProgram.Result> Shell(string does, TimeSpan limit) =>
        ExternalProgram.RunAsync("sh", ["-c", does], limit, TestContext.Current.CancellationToken);

    [Fact]
    public async Task What_waits_is_let_go_on_and_what_works_too_long_is_not()
    {
        Assert.Equal("there\n", (await Shell("sleep 1.4; echo there", Second)).Output);
        await Assert.ThrowsAsync<TimeoutException>(() => Shell("while :; do :; done", Second));
        // What waits for ever ends as well.
        var began = Stopwatch.GetTimestamp();
        await Assert.ThrowsAsync<TimeoutException>(() => Shell("sleep 600", TimeSpan.FromMilliseconds(200)));
        Assert.True(Stopwatch.GetElapsedTime(began) < TimeSpan.FromSeconds(60));
    }

    [Fact]
    public async Task The_time_of_a_process_counts_those_that_it_started_and_those_that_have_ended()
    {
        const string work = "i=0; while [ $i -lt 300000 ]; do i=$((i+1)); done";
        // A child that ends, and one that is at it while the first waits.
        using var shell = Process.Start(
            new ProcessStartInfo("sh", ["-c", $"sh -c '{work}'; sh -c 'echo; while :; do :; done'"])
            {
                UseShellExecute = false,
                RedirectStandardOutput = true,
            }
        )!;
        await shell.StandardOutput.ReadLineAsync(TestContext.Current.CancellationToken);
        var ended = ProcessorTime.OfTree(shell);
        Assert.True(ended > TimeSpan.FromMilliseconds(50), $"{ended} of a child that has ended");
        while (ProcessorTime.OfTree(shell) < ended + TimeSpan.FromMilliseconds(200))
            await Task.Delay(20, TestContext.Current.CancellationToken);
        shell.Kill(entireProcessTree: true);
        await shell.WaitForExitAsync(TestContext.Current.CancellationToken);
        Assert.Equal(TimeSpan.Zero, ProcessorTime.OfTree(shell));
    }
}
