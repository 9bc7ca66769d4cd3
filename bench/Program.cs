using BenchmarkDotNet.Running;

namespace ClearLexicon.Bench;

public static class Program
{
    public static void Main(string[] args)
    {
        if (args is ["unique", ..]) Uniqueness.Measure(1_000_000);
        else if (args is ["dry-run", ..]) DryRunRatio.Measure(args.Length > 1 ? int.Parse(args[1]) : 1_000_000);
        else if (args is ["consequences", ..]) ConsequencesRatio.Measure(args.Length > 1 ? int.Parse(args[1]) : 1_000_000);
        else BenchmarkSwitcher.FromAssembly(typeof(Program).Assembly).Run(args);
    }
}
