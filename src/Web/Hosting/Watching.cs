using ClearLexicon.Services.Desk;
using Serilog;

namespace ClearLexicon.Web.Hosting;

/// <summary>Looks into the watched folders every other second.</summary>
internal sealed class Watching(WatchedFolders folders) : BackgroundService
{
    private static readonly TimeSpan Every = TimeSpan.FromSeconds(2);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Every);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                await folders.LookAsync(stoppingToken);
            }
            // What went wrong once, such as a database that is busy, is tried again at the next look.
            catch (Exception e) when (e is not OperationCanceledException)
            {
                Log.Error(e, "A watched folder could not be looked into");
            }
        }
    }
}
