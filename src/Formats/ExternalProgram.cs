using System.Diagnostics;
using System.Text;

namespace ClearLexicon.Formats;

/// <summary>
/// Runs a helper program without a shell, within limits of time, memory and output; kills it when it is cancelled, late or says too much.
/// </summary>
public static class ExternalProgram
{
    /// <summary>Most memory that a program may reserve, in bytes.</summary>
    public const long MostMemory = 1_000_000_000;

    /// <summary>Most that a program may print, in bytes.</summary>
    public const long MostOutput = 400_000_000;

    // 128 and the number of the signal for too much processor time, SIGXCPU.
    private const int OutOfTime = 152;

    /// <summary>What a program printed.</summary>
    /// <param name="ExitCode">0 for success.</param>
    /// <param name="Output">Standard output as UTF-8 text.</param>
    /// <param name="Error">The beginning of standard error.</param>
    public sealed record Result(int ExitCode, string Output, string Error);

    /// <summary>Whether a program can be found on the path.</summary>
    public static bool Exists(string name) =>
        (Environment.GetEnvironmentVariable("PATH") ?? "")
            .Split(Path.PathSeparator)
            .Any(folder => folder.Length > 0 && File.Exists(Path.Combine(folder, name)));

    /// <summary>Runs a program and gives what it printed.</summary>
    /// <exception cref="TimeoutException">
    /// It took more of a processor than <paramref name="limit"/>, or <see cref="ProcessorTime.ClockTimes"/> times as long by the clock.
    /// </exception>
    /// <exception cref="InvalidDataException">It printed more than <see cref="MostOutput"/>.</exception>
    public static async Task<Result> RunAsync(string name, IEnumerable<string> arguments, TimeSpan limit, CancellationToken cancel)
    {
        using var output = new MemoryStream();
        var (code, error) = await RunAsync(name, arguments, output, limit, cancel);
        return new Result(code, Encoding.UTF8.GetString(output.GetBuffer(), 0, (int)output.Length), error);
    }

    /// <summary>Runs a program and writes what it prints into a stream.</summary>
    /// <exception cref="TimeoutException">
    /// It took more of a processor than <paramref name="limit"/>, or <see cref="ProcessorTime.ClockTimes"/> times as long by the clock.
    /// </exception>
    /// <exception cref="InvalidDataException">It printed more than <see cref="MostOutput"/>.</exception>
    public static async Task<(int ExitCode, string Error)> RunAsync(
        string name,
        IEnumerable<string> arguments,
        Stream output,
        TimeSpan limit,
        CancellationToken cancel
    )
    {
        var start = Limited(name, arguments, limit);
        // Two pages are recognised at once by two processes; threads inside each would only fight.
        start.Environment["OMP_THREAD_LIMIT"] = "1";
        using var late = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        late.CancelAfter(limit * ProcessorTime.ClockTimes);
        using var process = Process.Start(start) ?? throw new InvalidOperationException($"{name} did not start.");
        try
        {
            var error = BeginningAsync(process.StandardError, late.Token);
            var buffer = new byte[64 * 1024];
            var total = 0L;
            for (int read; (read = await process.StandardOutput.BaseStream.ReadAsync(buffer, late.Token)) > 0; )
            {
                if ((total += read) > MostOutput)
                    throw new InvalidDataException("It comes to more than may be read.");
                await output.WriteAsync(buffer.AsMemory(0, read), late.Token);
            }
            await process.WaitForExitAsync(late.Token);
            if (process.ExitCode == OutOfTime)
                throw new TimeoutException($"{name} took more than {limit.TotalSeconds:0} seconds of a processor.");
            return (process.ExitCode, await error);
        }
        catch (Exception e)
        {
            process.Kill(entireProcessTree: true);
            if (e is not OperationCanceledException)
                throw;
            cancel.ThrowIfCancellationRequested();
            throw new TimeoutException($"{name} took longer than {limit.TotalSeconds * ProcessorTime.ClockTimes:0} seconds.", e);
        }
    }

    // Where prlimit is there, the system itself bounds memory and time.
    private static ProcessStartInfo Limited(string name, IEnumerable<string> arguments, TimeSpan limit)
    {
        var bounded = Exists("prlimit");
        var seconds = (int)Math.Ceiling(limit.TotalSeconds);
        var start = new ProcessStartInfo(bounded ? "prlimit" : name)
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            UseShellExecute = false,
        };
        if (bounded)
            foreach (var part in new[] { $"--as={MostMemory}", $"--cpu={seconds}:{seconds + 5}", "--core=0", "--", name })
                start.ArgumentList.Add(part);
        foreach (var argument in arguments)
            start.ArgumentList.Add(argument);
        return start;
    }

    private static async Task<string> BeginningAsync(StreamReader error, CancellationToken cancel)
    {
        var kept = new StringBuilder();
        var buffer = new char[4_096];
        for (int read; (read = await error.ReadAsync(buffer, cancel)) > 0; )
            if (kept.Length < 16_000)
                kept.Append(buffer, 0, read);
        return kept.ToString();
    }
}
