using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using System.Threading.Channels;

namespace ClearLexicon.Formats;

/// <summary>What the worker is asked to do with one file.</summary>
/// <param name="What">check, pages, table or terms.</param>
/// <param name="Path">The file.</param>
/// <param name="Name">What the person called it.</param>
/// <param name="Answer">File into which a long answer is written.</param>
internal sealed record FileTask(string What, string Path, string Name, string Answer)
{
    public FileKind Kind { get; init; }

    public WantedPages Pages { get; init; } = 0;

    public string Folder { get; init; } = "";

    public string Language { get; init; } = "";
}

/// <summary>Whether it could be done; the answer itself is in the file.</summary>
/// <param name="Problem">Why not, in one sentence; null when it could.</param>
internal sealed record FileDone(string? Problem);

/// <summary>
/// The other end of <see cref="WorkerReader"/>: the same program in a process of its own, which opens one file at a time. What a file does
/// to it, it does to nothing else.
/// </summary>
public static class FileWorker
{
    /// <summary>The word on the command line that starts it.</summary>
    public const string Switch = "--file-worker";

    internal static JsonSerializerOptions Json { get; } =
        new(JsonSerializerDefaults.Web)
        {
            Converters = { new JsonStringEnumConverter() },
            NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals,
            IncludeFields = true,
        };

    /// <summary>Reads tasks from standard input, one a line, until it is closed, and answers each with a line.</summary>
    public static async Task<int> RunAsync()
    {
        // Libraries that print something must not be taken for an answer.
        await using var answers = Console.OpenStandardOutput();
        Console.SetOut(Console.Error);
        var tasks = Channel.CreateUnbounded<string>();
        var asking = new Thread(() =>
        {
            using var input = new StreamReader(Console.OpenStandardInput(), Encoding.UTF8);
            while (input.ReadLine() is { } line)
                tasks.Writer.TryWrite(line);
            // Nobody waits for an answer any more: the program has ended, perhaps by a kill. What is half read is dropped at once.
            Environment.Exit(0);
        })
        {
            IsBackground = true,
        };
        asking.Start();
        var here = new HereReader();
        await foreach (var line in tasks.Reader.ReadAllAsync())
        {
            FileDone done;
            try
            {
                done = await DoAsync(here, JsonSerializer.Deserialize<FileTask>(line, Json)!);
            }
            catch (FileRefusedException e)
            {
                done = new FileDone(e.Message);
            }
            await answers.WriteAsync(Encoding.UTF8.GetBytes(JsonSerializer.Serialize(done, Json) + "\n"));
            await answers.FlushAsync();
        }
        return 0;
    }

    private static async Task<FileDone> DoAsync(HereReader here, FileTask task)
    {
        switch (task.What)
        {
            case "check":
                Write(task, await here.CheckAsync(task.Path, task.Name, default));
                break;
            case "pages":
                Write(task, await here.PagesAsync(task.Path, task.Name, task.Kind, task.Pages, task.Folder, default));
                break;
            case "terms":
                var (terms, broken) = await here.TermsAsync(task.Path, task.Name, task.Language, default);
                if (terms is null)
                    return new FileDone(broken);
                Write(task, terms);
                break;
            default:
                var (columns, rows, problem) = await here.TableAsync(task.Path, task.Name, default);
                if (columns is null)
                    return new FileDone(problem);
                Write(task, new TableAnswer(columns, rows));
                break;
        }
        return new FileDone(null);
    }

    private static void Write<T>(FileTask task, T answer)
    {
        using var file = File.Create(task.Answer);
        JsonSerializer.Serialize(file, answer, Json);
    }
}

/// <summary>A table as it crosses from the worker.</summary>
internal sealed record TableAnswer(IReadOnlyList<string> Columns, List<string[]> Rows);
