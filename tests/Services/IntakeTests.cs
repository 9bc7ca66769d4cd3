using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

public sealed class IntakeTests : IDisposable
{
    private readonly House _house = new House(files: new HereReader()).WithDesigns();

    [Fact]
    public async Task The_scanner_draws_ten_pages_at_a_press_until_the_tray_is_empty()
    {
        foreach (var page in HarbourDocuments.AlreadyFiled())
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        Assert.Equal(12, _house.Intake.InTray);
        var first = (await _house.Intake.ScanAsync("me"))!.Value;
        Assert.Equal(2, _house.Intake.InTray);
        await first.Job!.Completion;
        Assert.Equal(10, _house.Desk.Waiting("me", first.BatchId).Count);
        await (await _house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
        Assert.Null(await _house.Intake.ScanAsync("me"));
        Assert.Equal(
            Enumerable.Range(0, 12).Select(i => HarbourDocuments.AlreadyFiled()[i].FileName).Order().Count(),
            _house.Desk.Waiting("me").Count
        );
        Assert.Equal(
            _house.Desk.Waiting("me").Select(d => d.Document.SourceName).Take(10),
            _house.Desk.Waiting("me", first.BatchId).Select(d => d.Document.SourceName)
        );
    }

    /// <summary>Stopped in the middle of a batch: what was read stays, the rest is read at the next start, nothing twice.</summary>
    [Fact]
    public async Task Reading_goes_on_after_a_stop_where_it_left_off()
    {
        foreach (var page in HarbourDocuments.AlreadyFiled().Take(8))
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        var (_, job) = (await _house.Intake.ScanAsync("me"))!.Value;
        // On this thread: one of the pool may come when all is read.
        SpinWait.SpinUntil(() => job is not { Done: 0, Ended: false });
        job!.Stop();
        await job.Completion;
        Assert.NotNull(job.Problem);
        var read = _house.Desk.Waiting("me").Count;
        Assert.InRange(read, 1, 7);
        Assert.True(_house.Intake.AnyWaiting);

        var again = new House(_house.Folder.Root, new HereReader()).Intake;
        await again.Start()!.Completion;
        Assert.Equal(8, _house.Desk.Waiting("me").Select(d => d.Document.SourceName).Distinct().Count());
        Assert.Equal(8, _house.Desk.Waiting("me").Count);
        Assert.False(again.AnyWaiting);
    }

    [Fact]
    public async Task A_scan_of_several_tiff_pages_becomes_one_document()
    {
        var scan = HarbourDocuments.Incoming().First(p => p.FileName.EndsWith(".tif", StringComparison.Ordinal));
        HarbourDocuments.Draw(scan, _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
        var document = Assert.Single(_house.Desk.Waiting("me")).Document;
        Assert.Equal(scan.Design.Key, document.ReaderKey);
        Assert.All(document.Evidence.Values, e => Assert.InRange(e.Confidence, 0, 1));
        Assert.Contains(_house.Database.Read(c => ValueHistoryStore.Of(c, document.Id)), h => h.How == "read by text recognition");
        var filed = document.Record["statement-number"];
        var judged = _house.Desk.Find(document.Id, "me")!;
        if (judged.State != Readiness.Ready)
            return;
        var path = _house.Filer.File(document.Id, "me").Value!;
        var words = PageReading.TextLayer(Path.Combine(_house.Folder.Repository, path), 1).Words;
        Assert.Contains(words, w => w.Text.Contains(filed, StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_failed_job_says_why_and_a_stopped_one_too()
    {
        var jobs = _house.Jobs;
        jobs.Add(new JobKind("failing", "Failing", "desk", (_, _) => throw new InvalidDataException("the disk is full")));
        jobs.Add(new JobKind("waiting", "Waiting", "desk", (_, cancel) => Task.Delay(Timeout.Infinite, cancel)));
        var failed = await jobs.Start("failing", "x", "/x", 1, "me").Ended();
        Assert.True(failed.Ended);
        Assert.Contains("the disk is full", failed.Problem);
        var stopped = jobs.Start("waiting", "y", "/y", 1, "me").Value!;
        Assert.Same(stopped, jobs.Running("y"));
        Assert.Same(stopped, jobs.Find(stopped.Id));
        stopped.Stop("me");
        await stopped.Completion;
        Assert.Contains("Stopped", stopped.Problem);
        Assert.Null(jobs.Running("y"));
        Assert.Null(jobs.Find("nothing"));
    }

    public void Dispose() => _house.Dispose();
}
