using BenchmarkDotNet.Running;
using ClearLexicon.Formats;

namespace ClearLexicon.Bench;

public static class Program
{
    public static void Main(string[] args)
    {
        if (args is [FileWorker.Switch, ..])
            FileWorker.RunAsync().GetAwaiter().GetResult();
        else if (args is ["unique", ..])
            Uniqueness.Measure(1_000_000);
        else if (args is ["dry-run", ..])
            DryRunRatio.Measure(args.Length > 1 ? int.Parse(args[1]) : 1_000_000);
        else if (args is ["consequences", ..])
            ConsequencesRatio.Measure(args.Length > 1 ? int.Parse(args[1]) : 1_000_000);
        else if (args is ["check", ..])
            Checking.MeasureAsync(args.Length > 1 ? int.Parse(args[1]) : 200_000).GetAwaiter().GetResult();
        else if (args is ["pages", ..])
            Pages.RunAsync(args.Length > 1 ? int.Parse(args[1]) : 40).GetAwaiter().GetResult();
        else if (args is ["texts", ..])
            Pages.TextAsync(args.Length > 1 ? int.Parse(args[1]) : 320).GetAwaiter().GetResult();
        else if (args is ["finders", ..])
            FinderCost.Run();
        else if (args is ["finding", ..])
            Finding.Measure(args.Length > 1 ? int.Parse(args[1]) : 1_400_000, args.Length > 2 ? args[2] : null);
        else
            BenchmarkSwitcher.FromAssembly(typeof(Program).Assembly).Run(args);
    }
}
