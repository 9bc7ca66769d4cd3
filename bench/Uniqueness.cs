using System.Diagnostics;
using ClearLexicon.Core.Migration;

namespace ClearLexicon.Bench;

/// <summary>Uniqueness over a million records: time a probe and memory, told as it was measured.</summary>
internal static class Uniqueness
{
    public static void Measure(int records)
    {
        var keys = Enumerable.Range(0, records).Select(i => $"vc {1986 + i % 29} {i:000000000}\u001febbwell lines").ToArray();
        GC.Collect();
        var before = GC.GetTotalMemory(forceFullCollection: true);
        var taken = new TakenNames();
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < records; i++)
            taken.TakeUnique("r1", keys[i], i);
        var put = watch.Elapsed;
        watch.Restart();
        var twice = 0;
        for (var i = 0; i < records; i++)
            if (taken.TakeUnique("r1", keys[i], -1) is not null)
                twice++;
        var asked = watch.Elapsed;
        var memory = GC.GetTotalMemory(forceFullCollection: true) - before;
        GC.KeepAlive(taken);
        GC.KeepAlive(keys);
        if (twice != records)
            throw new InvalidOperationException($"Only {twice} of {records} were found again.");
        Console.WriteLine(
            $"uniqueness over {records:N0} records: {put.TotalNanoseconds / records:0} ns to take, "
                + $"{asked.TotalNanoseconds / records:0} ns a probe, {memory / 1e6:0} MB"
        );
    }
}
