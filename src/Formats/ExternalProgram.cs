using System.Diagnostics;

namespace ClearLexicon.Formats;

/// <summary>Runs a helper program without a shell, with a time limit; kills it when cancelled or late.</summary>
public static class ExternalProgram
{
    /// <summary>What a program printed.</summary>
    /// <param name="ExitCode">0 for success.</param>
    /// <param name="Output">Standard output as UTF-8 text.</param>
    /// <param name="Error">Standard error.</param>
    public sealed record Result(int ExitCode, string Output, string Error);

    /// <summary>Whether a program can be found on the path.</summary>
    public static bool Exists(string name) => (Environment.GetEnvironmentVariable("PATH") ?? "").Split(Path.PathSeparator)
        .Any(folder => folder.Length > 0 && File.Exists(Path.Combine(folder, name)));

    /// <summary>Runs a program.</summary>
    /// <exception cref="TimeoutException">It took longer than <paramref name="limit"/>.</exception>
    public static async Task<Result> RunAsync(string name, IEnumerable<string> arguments, TimeSpan limit, CancellationToken cancel)
    {
        var start = new ProcessStartInfo(name) { RedirectStandardOutput = true, RedirectStandardError = true, UseShellExecute = false };
        foreach (var argument in arguments) start.ArgumentList.Add(argument);
        // Two pages are recognised at once by two processes; threads inside each would only fight.
        start.Environment["OMP_THREAD_LIMIT"] = "1";
        using var late = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        late.CancelAfter(limit);
        using var process = Process.Start(start) ?? throw new InvalidOperationException($"{name} did not start.");
        try
        {
            var output = process.StandardOutput.ReadToEndAsync(late.Token);
            var error = process.StandardError.ReadToEndAsync(late.Token);
            await process.WaitForExitAsync(late.Token);
            return new Result(process.ExitCode, await output, await error);
        }
        catch (OperationCanceledException e)
        {
            process.Kill(entireProcessTree: true);
            cancel.ThrowIfCancellationRequested();
            throw new TimeoutException($"{name} took longer than {limit.TotalSeconds:0} seconds.", e);
        }
    }
}
