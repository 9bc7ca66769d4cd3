using System.Diagnostics;
using System.Text;
using System.Text.Json;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Formats;

/// <summary>How a worker is started and what it may take.</summary>
/// <param name="Program">The program.</param>
/// <param name="Arguments">Its arguments.</param>
/// <param name="Folder">Where answers are written for a moment.</param>
public sealed record WorkerStart(string Program, IReadOnlyList<string> Arguments, string Folder)
{
    /// <summary>
    /// Workers at once: one a core, two at most; and one more for files of somebody who has none (<see cref="FairPlaces"/>).
    /// </summary>
    public int AtOnce { get; init; } = Math.Clamp(Environment.ProcessorCount, 1, 2);

    /// <summary>Most memory of one worker, in bytes.</summary>
    public long Memory { get; init; } = 900L * 1024 * 1024;

    /// <summary>Pages after which a worker is replaced, so that nothing grows in it.</summary>
    public int Pages { get; init; } = 300;

    /// <summary>
    /// Longest time of a processor for one page; by the clock it may take <see cref="ProcessorTime.ClockTimes"/> times that.
    /// </summary>
    public TimeSpan PerPage { get; init; } = TimeSpan.FromSeconds(60);

    /// <summary>Longest time for a look at a file.</summary>
    public TimeSpan PerCheck { get; init; } = TimeSpan.FromSeconds(30);

    /// <summary>Longest time for a table or a file of terms.</summary>
    public TimeSpan PerTable { get; init; } = TimeSpan.FromMinutes(3);
}

/// <summary>
/// Reads files in worker processes. One that crashes, overflows its stack, takes too much memory or too long is ended, the file it had is
/// refused with the reason, and the next file gets a new worker.
/// </summary>
public sealed class WorkerReader(WorkerStart start) : IFileReader, IDisposable
{
    private static readonly TimeSpan Look = TimeSpan.FromMilliseconds(40);

    private sealed class Worker(Process process) : IDisposable
    {
        public Process Process { get; } = process;

        public int Pages { get; set; }

        public void Dispose()
        {
            try
            {
                Process.Kill(entireProcessTree: true);
            }
            catch (InvalidOperationException) { }
            Process.Dispose();
        }
    }

    private readonly FairPlaces _places = new(start.AtOnce);
    private readonly Stack<Worker> _idle = new();
    private bool _disposed;

    /// <inheritdoc/>
    public async Task<IntakeResult> CheckAsync(string path, string name, CancellationToken cancel)
    {
        try
        {
            return await AskAsync<IntakeResult>(Task("check", path, name), start.PerCheck, 0, cancel);
        }
        catch (FileRefusedException e)
        {
            return new IntakeResult(FileKind.Pdf, 0, e.Message);
        }
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<TakenPage>> PagesAsync(
        string path,
        string name,
        FileKind kind,
        WantedPages pages,
        string imageFolder,
        CancellationToken cancel
    ) =>
        await AskAsync<List<TakenPage>>(
            Task("pages", path, name) with
            {
                Kind = kind,
                Pages = pages,
                Folder = imageFolder,
            },
            start.PerPage * Math.Min(pages.Count, 20),
            pages.Count,
            cancel
        );

    /// <inheritdoc/>
    public async Task<(IReadOnlyList<string>? Columns, List<string[]> Rows, string? Problem)> TableAsync(
        string path,
        string name,
        CancellationToken cancel
    )
    {
        try
        {
            return await AskAsync<TableAnswer>(Task("table", path, name), start.PerTable, 1, cancel) is var (columns, rows)
                ? (columns, rows, null)
                : default;
        }
        catch (FileRefusedException e)
        {
            return (null, [], e.Message);
        }
    }

    /// <inheritdoc/>
    public async Task<(BroughtTerms? Terms, string? Problem)> TermsAsync(
        string path,
        string name,
        string language,
        CancellationToken cancel
    )
    {
        try
        {
            return (await AskAsync<BroughtTerms>(Task("terms", path, name) with { Language = language }, start.PerTable, 1, cancel), null);
        }
        catch (FileRefusedException e)
        {
            return (null, e.Message);
        }
    }

    private FileTask Task(string what, string path, string name) =>
        new(what, path, name, Path.Combine(start.Folder, $"answer-{Guid.NewGuid():N}.json"));

    private async Task<T> AskAsync<T>(FileTask task, TimeSpan limit, int pages, CancellationToken cancel)
    {
        // What was brought together lies in one folder.
        var owner = Path.GetDirectoryName(task.Path) ?? "";
        await _places.EnterAsync(owner, cancel);
        try
        {
            var worker = Take();
            var sound = false;
            try
            {
                var done = await AnswerAsync(worker, task, limit, cancel);
                sound = true;
                if (done.Problem is { } problem)
                    throw new FileRefusedException(problem);
                await using var answer = File.OpenRead(task.Answer);
                return (await JsonSerializer.DeserializeAsync<T>(answer, FileWorker.Json, cancel))!;
            }
            finally
            {
                worker.Pages += pages;
                if (sound)
                    Return(worker);
                else
                    worker.Dispose();
            }
        }
        finally
        {
            File.Delete(task.Answer);
            _places.Leave(owner);
        }
    }

    private async Task<FileDone> AnswerAsync(Worker worker, FileTask task, TimeSpan limit, CancellationToken cancel)
    {
        var (began, worked) = (Stopwatch.GetTimestamp(), ProcessorTime.OfTree(worker.Process));
        try
        {
            await worker.Process.StandardInput.WriteLineAsync(JsonSerializer.Serialize(task, FileWorker.Json).AsMemory(), cancel);
            await worker.Process.StandardInput.FlushAsync(cancel);
        }
        catch (IOException)
        {
            throw new FileRefusedException($"“{task.Name}” could not be read; try it once more.");
        }
        var answer = worker.Process.StandardOutput.ReadLineAsync(cancel).AsTask();
        while (await System.Threading.Tasks.Task.WhenAny(answer, System.Threading.Tasks.Task.Delay(Look, cancel)) != answer)
        {
            cancel.ThrowIfCancellationRequested();
            var elapsed = Stopwatch.GetElapsedTime(began);
            if (elapsed > limit && (elapsed > limit * ProcessorTime.ClockTimes || ProcessorTime.OfTree(worker.Process) - worked > limit))
                throw new FileRefusedException($"“{task.Name}” takes too long to be read.");
            if (Memory(worker.Process) > start.Memory)
                throw new FileRefusedException($"“{task.Name}” needs more memory than a file may take.");
        }
        return await answer is { } line
            ? JsonSerializer.Deserialize<FileDone>(line, FileWorker.Json)!
            : throw new FileRefusedException($"“{task.Name}” is damaged so that reading it breaks off; it was not taken in.");
    }

    private static long Memory(Process process)
    {
        try
        {
            process.Refresh();
            return process.WorkingSet64;
        }
        catch (InvalidOperationException)
        {
            return 0;
        }
    }

    private Worker Take()
    {
        lock (_idle)
            while (_idle.TryPop(out var idle))
                if (!idle.Process.HasExited)
                    return idle;
                else
                    idle.Dispose();
        var info = new ProcessStartInfo(start.Program)
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            // What a crash prints is of no use to anybody but the log.
            RedirectStandardError = true,
            UseShellExecute = false,
            StandardInputEncoding = new UTF8Encoding(false),
            StandardOutputEncoding = new UTF8Encoding(false),
        };
        foreach (var argument in start.Arguments)
            info.ArgumentList.Add(argument);
        info.Environment["DOTNET_gcServer"] = "0";
        // Nobody waits for it but who gave it the file: garbage need not be collected beside the work.
        info.Environment["DOTNET_gcConcurrent"] = "0";
        // It lives for one file: what matters is how soon it begins.
        info.Environment["DOTNET_TC_QuickJit"] = "1";
        // Nor long enough for its code to be watched for a better one, and what is called a few hundred times need not be compiled again:
        // both take a sixth of its time.
        info.Environment["DOTNET_TieredPGO"] = "0";
        info.Environment["DOTNET_TC_CallCountThreshold"] = "300";
        info.Environment["DOTNET_GCHeapHardLimit"] = $"0x{start.Memory:X}";
        info.Environment["DOTNET_DbgEnableMiniDump"] = "0";
        var process = Process.Start(info) ?? throw new InvalidOperationException("The worker did not start.");
        process.ErrorDataReceived += static (_, _) => { };
        process.BeginErrorReadLine();
        return new Worker(process);
    }

    private void Return(Worker worker)
    {
        lock (_idle)
        {
            if (_disposed || worker.Pages >= start.Pages)
                worker.Dispose();
            else
                _idle.Push(worker);
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        lock (_idle)
        {
            _disposed = true;
            while (_idle.TryPop(out var worker))
                worker.Dispose();
        }
    }
}
