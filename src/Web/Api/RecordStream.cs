using System.Buffers;
using System.Collections.Concurrent;
using System.Diagnostics;
using System.IO.Pipelines;
using System.Threading.Channels;

namespace ClearLexicon.Web.Api;

/// <summary>Some lines of a body, checked together, and their answers.</summary>
internal sealed class RecordChunk
{
    /// <summary>Most records of one chunk.</summary>
    public const int MostRecords = 512;

    private const int EnoughBytes = 256 * 1024;

    private readonly ArrayBufferWriter<byte> _lines = new(EnoughBytes);
    private readonly List<(int Start, int Length, int Number)> _at = [];

    /// <summary>How many lines it has.</summary>
    public int Count => _at.Count;

    /// <summary>Whether it should be checked now.</summary>
    /// <param name="most">Most lines that may be checked together.</param>
    public bool IsFull(int most) => _at.Count >= most || _lines.WrittenCount >= EnoughBytes;

    /// <summary>The answers, a line each.</summary>
    public ArrayBufferWriter<byte> Answers { get; } = new(EnoughBytes);

    /// <summary>How long checking it took.</summary>
    public TimeSpan Took { get; set; }

    /// <summary>A line and its number, from 1.</summary>
    public (ReadOnlyMemory<byte> Line, int Number, bool TooLong) this[int at]
    {
        get
        {
            var (start, length, number) = _at[at];
            return length < 0 ? (default, number, true) : (_lines.WrittenMemory.Slice(start, length), number, false);
        }
    }

    /// <summary>Adds a line; null for one that was too long to be read.</summary>
    public void Add(ReadOnlyMemory<byte>? line, int number)
    {
        _at.Add((_lines.WrittenCount, line?.Length ?? -1, number));
        if (line is { } text)
            _lines.Write(text.Span);
    }

    /// <summary>Makes room for other lines.</summary>
    public void Clear()
    {
        _at.Clear();
        _lines.ResetWrittenCount();
        Answers.ResetWrittenCount();
    }
}

/// <summary>
/// Checks a body of lines while it comes: lines that have come are checked in chunks side by side, the answers go out in the order of the
/// lines. What has come is checked at once, so that who sends one record at a time is not kept waiting.
/// </summary>
/// <param name="checker">Makes a checker; one for each chunk that is checked at the same time.</param>
internal sealed class RecordStream(Func<RecordChecker> checker) : IDisposable
{
    // Answers go out at least this often while records are checked.
    private static readonly TimeSpan Often = TimeSpan.FromMilliseconds(100);

    private readonly ConcurrentBag<RecordChecker> _checkers = [];
    private readonly ConcurrentBag<RecordChunk> _chunks = [];
    private volatile int _most = 64;

    /// <summary>Checks a body.</summary>
    public async Task RunAsync(Stream body, PipeWriter output, CancellationToken cancel)
    {
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var waiting = Channel.CreateBounded<Task<RecordChunk>>(Math.Max(2, Environment.ProcessorCount));
        var reading = ReadAsync(body, waiting.Writer, stop.Token);
        try
        {
            await foreach (var checking in waiting.Reader.ReadAllAsync(cancel))
            {
                var chunk = await checking;
                output.Write(chunk.Answers.WrittenSpan);
                await output.FlushAsync(cancel);
                _most = Math.Clamp((int)(chunk.Count * (Often / chunk.Took)), 1, RecordChunk.MostRecords);
                chunk.Clear();
                _chunks.Add(chunk);
            }
            await reading;
        }
        finally
        {
            // Nothing goes on with a connection that is about to be closed.
            await stop.CancelAsync();
            await ((Task)reading).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            while (waiting.Reader.TryRead(out var left))
                await ((Task)left).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    private async Task ReadAsync(Stream body, ChannelWriter<Task<RecordChunk>> waiting, CancellationToken cancel)
    {
        try
        {
            using var lines = new RecordLines(body);
            for (var (number, any) = (1, true); any; )
            {
                var chunk = _chunks.TryTake(out var used) ? used : new RecordChunk();
                do
                {
                    (any, var line) = await lines.NextAsync(cancel);
                    if (any && !(line is { } text && text.Span.Trim(" \t\r"u8).IsEmpty))
                        chunk.Add(line, number);
                    number++;
                } while (any && !chunk.IsFull(_most) && (lines.HasNext || chunk.Count == 0));
                if (chunk.Count == 0)
                    continue;
                // A chunk is begun only when there is room for it, so that none is under way that nobody waits for.
                if (!await waiting.WaitToWriteAsync(cancel))
                    break;
                waiting.TryWrite(Task.Run(() => Check(chunk), CancellationToken.None));
            }
            waiting.Complete();
        }
        catch (Exception e)
        {
            waiting.Complete(e);
        }
    }

    private RecordChunk Check(RecordChunk chunk)
    {
        var began = Stopwatch.GetTimestamp();
        var one = _checkers.TryTake(out var idle) ? idle : checker();
        try
        {
            one.CheckLines(chunk);
        }
        finally
        {
            _checkers.Add(one);
        }
        chunk.Took = Stopwatch.GetElapsedTime(began);
        return chunk;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var one in _checkers)
            one.Dispose();
    }
}
