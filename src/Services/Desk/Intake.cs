using System.Collections.Concurrent;
using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>Takes batches in: keeps the files, checks them, reads pages, recognises, reads values.</summary>
public sealed class Intake
{
    private readonly Database database;
    private readonly DataFolder folder;
    private readonly Designs designs;
    private readonly IFileReader files;
    private readonly Jobs jobs;
    private readonly TimeProvider clock;

    /// <summary>Makes the kind of its job known.</summary>
    public Intake(Database database, DataFolder folder, Designs designs, IFileReader files, Jobs jobs, TimeProvider clock)
    {
        (this.database, this.folder, this.designs, this.files, this.jobs, this.clock) = (database, folder, designs, files, jobs, clock);
        // A file that came in while the last one was read is seen in the transaction that ends the job.
        jobs.Add(
            new JobKind("reading", "Reading pages", "desk", ReadWaitingAsync) { NothingLeft = c => BatchStore.Count(c, "waiting") == 0 }
        );
    }

    /// <summary>Pages that the simulated scanner draws in at one press.</summary>
    public const int TrayLoad = 10;

    /// <summary>How often a file is tried on which the program ends.</summary>
    private const int MostTries = 2;

    /// <summary>
    /// Room that the pages of a file may take while they are drawn, in bytes. With less, reading waits, and no file is blamed for the disk.
    /// </summary>
    private const long Room = 32L * 1024 * 1024;

    private const int MostBrokenOff = 10;

    private static readonly TimeSpan Wait = TimeSpan.FromSeconds(1);

    // Files whose reading the disk broke off, and how often it did with room on it: that they were tried says nothing against them.
    private readonly ConcurrentDictionary<long, int> _brokenOff = [];

    private bool HasRoom => folder.Disk.Free(folder.Root) >= Room;

    /// <summary>Keeps the files of a new batch and starts reading them. A bad file is refused by name; the others go on.</summary>
    /// <returns>The batch, the job that reads it, and the numbers of the files, from 0, that could not be kept because of the
    /// disk.</returns>
    public async Task<(long BatchId, Job? Job, IReadOnlyList<int> NotKept)> BringAsync(
        string name,
        IReadOnlyList<BroughtFile> brought,
        string who
    )
    {
        var (notKept, job) = (new List<int>(), (Job?)null);
        var batchId = database.Write(c =>
        {
            LedgerStore.Append(c, clock.GetUtcNow(), who, "added a batch", name, $"{brought.Count} files");
            return BatchStore.Add(c, name, who, clock.GetUtcNow());
        });
        foreach (var (file, number) in brought.Select((f, i) => (f, i + 1)))
        {
            var target = Path.Combine(folder.Brought, batchId.ToString(), $"{number:000} {DataFolder.SafeName(file.Name)}");
            Directory.CreateDirectory(Path.GetDirectoryName(target)!);
            string? problem;
            try
            {
                await using (var from = file.Open())
                await using (var to = File.Create(target))
                    await from.CopyToAsync(to);
                folder.Disk.FlushFile(target);
                folder.Disk.FlushFolders(Path.GetDirectoryName(target)!, folder.Root);
                // Its first bytes only; it is opened by the worker.
                problem = IntakeCheck.Sniff(target, file.Name);
            }
            catch (Exception e) when (Failures.IsFromOutside(e))
            {
                problem = $"“{file.Name}” could not be kept: {Failures.InWords(e)}";
                notKept.Add(number - 1);
            }
            if (problem is not null)
                File.Delete(target);
            // A file that waits has a job that will read it, in one transaction.
            var enlisted = database.Write(c =>
            {
                BatchStore.AddFile(c, batchId, file.Name, folder.Relative(target), problem);
                return problem is null ? jobs.EnlistUnlessOne(c, "reading", Subject, "/Desk", new { }, who) : null;
            });
            job = enlisted is not null ? jobs.Begin(enlisted) : jobs.Running(Subject) ?? job;
        }
        return (batchId, job ?? Start(who), notKept);
    }

    /// <summary>
    /// Takes the next pages from the scanner's tray; those that could not be kept stay in it. Null when the tray is empty.
    /// </summary>
    public async Task<(long BatchId, Job? Job)?> ScanAsync(string who)
    {
        var load = Directory.GetFiles(folder.Tray).Order(StringComparer.Ordinal).Take(TrayLoad).ToList();
        if (load.Count == 0)
            return null;
        var brought = await BringAsync(
            $"Scan of {clock.GetLocalNow():d MMMM yyyy, HH:mm}",
            [.. load.Select(p => new BroughtFile(Path.GetFileName(p), () => File.OpenRead(p)))],
            who
        );
        foreach (var (path, i) in load.Select((path, i) => (path, i)))
            if (!brought.NotKept.Contains(i))
                File.Delete(path);
        return (brought.BatchId, brought.Job);
    }

    /// <summary>Pages left in the scanner's tray.</summary>
    public int InTray => Directory.GetFiles(folder.Tray).Length;

    /// <summary>
    /// Reads whatever files are waiting; also those that were waiting when the process was last stopped. Null while the program is being
    /// stopped.
    /// </summary>
    public Job? Start(string who = "") => jobs.Start("reading", Subject, "/Desk", new { }, who).Value;

    /// <summary>What the job that reads has as its subject.</summary>
    public const string Subject = "waiting files";

    private async Task ReadWaitingAsync(Job job, CancellationToken cancel)
    {
        while (database.Read(c => BatchStore.Files(c, "waiting")) is { Count: > 0 } waiting)
        {
            job.Total = job.Done + waiting.Count;
            job.Problem = HasRoom ? null : "Reading waits for room on the disk, and goes on by itself.";
            if (job.Problem is null)
                await Parallel.ForEachAsync(
                    waiting,
                    new ParallelOptions { MaxDegreeOfParallelism = 2, CancellationToken = cancel },
                    async (file, stop) =>
                    {
                        if (await BrokenOffAsync(file, stop) is { } problem)
                            job.Problem = $"Reading waits: {problem}";
                        else
                            job.Step();
                    }
                );
            if (job.Problem is not null)
                await Task.Delay(Wait, cancel);
        }
    }

    /// <summary>Whether files wait to be read.</summary>
    public bool AnyWaiting => database.Read(c => BatchStore.Count(c, "waiting")) > 0;

    // Why the disk broke off the reading of a file, which waits for another try; null when it was read or refused.
    private async Task<string?> BrokenOffAsync(BatchFile file, CancellationToken cancel)
    {
        try
        {
            await TakeAsync(file, cancel);
            return null;
        }
        catch (Exception e) when (Failures.IsFromOutside(e) || e is FileRefusedException)
        {
            var room = HasRoom;
            _brokenOff.AddOrUpdate(file.Id, room ? 1 : 0, (_, times) => room ? times + 1 : times);
            return e is FileRefusedException ? Failures.InWords(new IOException()) : Failures.InWords(e);
        }
    }

    private async Task TakeAsync(BatchFile file, CancellationToken cancel)
    {
        var path = folder.Absolute(file.Stored);
        var images = Path.Combine(folder.Pages, $"f{file.Id}");
        IReadOnlyList<TakenPage> pages;
        try
        {
            var anew = _brokenOff.TryGetValue(file.Id, out var times);
            if (times >= MostBrokenOff)
                throw new FileRefusedException($"“{file.Name}” could not be read from the disk {times} times; add it again.");
            if (file.Tried >= MostTries && !anew)
                throw new FileRefusedException(
                    $"“{file.Name}” was being read {file.Tried} times when the program ended; it is not tried again."
                );
            // Marked before it is tried, so that one on which the whole program dies is not tried for ever.
            if (!anew)
                database.Write(c => BatchStore.Try(c, file.Id));
            if (!File.Exists(path))
                throw new FileRefusedException($"“{file.Name}” is no longer there; add it again.");
            var check = await files.CheckAsync(path, file.Name, cancel);
            if (check.Problem is { } bad)
                throw new FileRefusedException(bad);
            pages = await files.PagesAsync(path, file.Name, check.Kind, check.Pages, images, cancel);
        }
        catch (FileRefusedException e) when (HasRoom)
        {
            database.Write(c => BatchStore.SetFile(c, file.Id, e.Message));
            if (Directory.Exists(images))
                Directory.Delete(images, recursive: true);
            return;
        }
        var document = Recognise(pages) with { BatchId = file.BatchId, SourceName = file.Name, SourceFile = file.Stored };
        database.Write(c =>
        {
            var id = DocumentStore.Add(
                c,
                document,
                pages.Select(p => new StoredPage(p.Number, folder.Relative(p.ImagePath), p.Text, p.Notice))
            );
            foreach (var (field, evidence) in document.Evidence.Where(e => e.Value.Raw.Length > 0))
                DocumentStore.AddChange(
                    c,
                    id,
                    field,
                    "",
                    document.Record.GetValueOrDefault(field, ""),
                    evidence.Method switch
                    {
                        "recognised" => "read by text recognition",
                        "text layer" => "read from the text layer",
                        var code => $"read from a code ({code})",
                    },
                    clock.GetUtcNow(),
                    document.ReaderKey!
                );
            KeepUniqueKeys(c, document with { Id = id });
            BatchStore.SetFile(c, file.Id, null);
        });
    }

    private StoredDocument Recognise(IReadOnlyList<TakenPage> pages)
    {
        var readers = database.Read(ReaderStore.All).Where(r => designs.Published.ContainsKey(r.TypeCode)).ToList();
        foreach (var page in pages)
        {
            if (Recognition.Recognise(page.Text, readers) is not { } claim)
                continue;
            var published = designs.Published[claim.Reader.TypeCode];
            var captured = ZoneReading.Read(page.Text, page.Number, claim, published.Type.Type);
            return new StoredDocument
            {
                SourceName = "",
                TypeCode = claim.Reader.TypeCode,
                Version = published.Version,
                ReaderKey = claim.Reader.Key,
                // Of several zones that feed one field, the first that holds anything.
                Record = captured
                    .Where(v => v.Text.Length > 0)
                    .GroupBy(v => v.Field, StringComparer.Ordinal)
                    .ToDictionary(v => v.Key, v => v.First().Text, StringComparer.Ordinal),
                Evidence = ZoneReading.Places(captured, page.Number),
            };
        }
        return new StoredDocument { SourceName = "" };
    }

    private void KeepUniqueKeys(SqliteConnection c, StoredDocument document)
    {
        if (document.TypeCode is not { } code || !designs.Published.TryGetValue(code, out var published))
            return;
        RecordJudge.KeepKeys(c, document, published.Type);
    }
}
