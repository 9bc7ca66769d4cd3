using System.Diagnostics;

namespace ClearLexicon.Services.Work;

/// <summary>How many records a chunk takes so that it holds the writer for about as long as is fair to those who wait.</summary>
/// <param name="first">Records of the first chunk.</param>
internal sealed class ChunkSize(int first = 100)
{
    /// <summary>Time that a chunk aims at. Others wait for one chunk at most.</summary>
    public static readonly TimeSpan Fair = TimeSpan.FromMilliseconds(100);

    private const int Least = 10,
        Most = 2_000;

    /// <summary>Records of the next chunk.</summary>
    public int Now { get; private set; } = first;

    /// <summary>Writes a chunk; by how long it took the next one is larger or smaller, but never by more than twice.</summary>
    public T Timed<T>(Func<T> write)
    {
        var began = Stopwatch.GetTimestamp();
        var written = write();
        var share = Fair / Stopwatch.GetElapsedTime(began);
        Now = (int)Math.Clamp(Now * Math.Clamp(share, 0.5, 2), Least, Most);
        return written;
    }
}
