using ClearLexicon.Services.Repository;
using Serilog;

namespace ClearLexicon.Web.Hosting;

/// <summary>Tells people of what was filed and changed, every few seconds, and mails it.</summary>
internal sealed class Telling(Notices notices, NoticeMail mail) : BackgroundService
{
    private static readonly TimeSpan Every = TimeSpan.FromSeconds(5);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Every);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                notices.Tick(stoppingToken);
                await mail.SendAsync(stoppingToken);
            }
            // What went wrong once, such as a database that is busy, is tried again.
            catch (Exception e) when (e is not OperationCanceledException)
            {
                Log.Error(e, "Notices could not be told");
            }
        }
    }
}
