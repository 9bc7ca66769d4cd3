using System.Diagnostics;
using System.Globalization;

namespace ClearLexicon.Formats;

/// <summary>
/// How long work has been worked on, rather than how long ago it was begun: on a machine that is busy elsewhere a page that is sound takes
/// long by the clock.
/// </summary>
internal static class ProcessorTime
{
    /// <summary>
    /// By the clock, work may take so many times as long as it may take of a processor: what only waits ends as well.
    /// </summary>
    public const int ClockTimes = 4;

    // Fields of /proc/PID/stat behind the name: its own time and that of the children it has waited for, user's and system's.
    private const int First = 11;
    private const double TicksASecond = 100;

    /// <summary>Time of a process and of those that it started, ended ones included; zero when it has ended.</summary>
    public static TimeSpan OfTree(Process process)
    {
        try
        {
            return OperatingSystem.IsLinux() ? TimeSpan.FromSeconds(Ticks(process.Id) / TicksASecond) : process.TotalProcessorTime;
        }
        catch (InvalidOperationException)
        {
            return TimeSpan.Zero;
        }
    }

    private static long Ticks(int id)
    {
        try
        {
            // A name may hold blanks and brackets.
            var stat = File.ReadAllText($"/proc/{id}/stat");
            var fields = stat[(stat.LastIndexOf(')') + 2)..].Split(' ');
            var ticks = fields.Skip(First).Take(4).Sum(f => long.Parse(f, CultureInfo.InvariantCulture));
            foreach (var task in Directory.GetDirectories($"/proc/{id}/task"))
            foreach (var child in File.ReadAllText(Path.Combine(task, "children")).Split(' ', StringSplitOptions.RemoveEmptyEntries))
                ticks += Ticks(int.Parse(child, CultureInfo.InvariantCulture));
            return ticks;
        }
        // It has ended while it was looked at.
        catch (IOException)
        {
            return 0;
        }
        catch (UnauthorizedAccessException)
        {
            return 0;
        }
    }
}
