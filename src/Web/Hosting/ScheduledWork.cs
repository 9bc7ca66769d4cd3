using ClearLexicon.Services.Repository;
using Serilog;

namespace ClearLexicon.Web.Hosting;

/// <summary>
/// What happens by itself, looked for every few seconds: people are told of what was filed and changed, export plans are run.
/// </summary>
internal sealed class ScheduledWork(Notices notices, NoticeMail mail, Exports exports) : BackgroundService
{
    private static readonly TimeSpan Every = TimeSpan.FromSeconds(5);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Every);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            await TryAsync("Export plans could not be run", () => Task.FromResult(exports.StartDue()));
            await TryAsync("Notices could not be told", () => Task.FromResult(notices.Tick(stoppingToken)));
            await TryAsync("Notices could not be mailed", () => mail.SendAsync(stoppingToken));
        }
    }

    // What went wrong once, such as a database that is busy, is tried again, and keeps nothing else from happening.
    private static async Task TryAsync(string what, Func<Task<int>> act)
    {
        try
        {
            await act();
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            Log.Error(e, "{What}", what);
        }
    }
}
