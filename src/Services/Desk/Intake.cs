using System.Collections.Concurrent;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Formats;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Desk;

/// <summary>Takes batches in: keeps the files, checks them, reads pages, recognises, reads values.</summary>
public sealed class Intake(Database database, DataFolder folder, Stacks stacks, IFileReader files, Jobs jobs, TimeProvider clock)
    : IWorksInJobs
{
    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds =>
        [
            // A file that came in while the last one was read is seen in the transaction that ends the job.
            new JobKind("reading", "Reading pages", "desk", ReadWaitingAsync)
            {
                NothingLeft = c => BatchStore.Count(c, FileState.Waiting) == 0 && stacks.ToSettle(c).Count == 0,
            },
        ];

    /// <summary>Pages that the simulated scanner draws in at one press.</summary>
    public const int TrayLoad = 10;

    /// <summary>
    /// How often a file is tried on which the program ends. It is opened in a worker only, so that it hardly ever ends the program itself;
    /// a program that is killed again and again must not refuse good files for it.
    /// </summary>
    private const int MostTries = 5;

    /// <summary>
    /// Room that the pages of a file may take while they are drawn, in bytes. With less, reading waits, and no file is blamed for the disk.
    /// </summary>
    private const long Room = 32L * 1024 * 1024;

    private const int MostBrokenOff = 10;

    /// <summary>Pages that a worker reads at one asking.</summary>
    private const int PagesAtOnce = 8;

    /// <summary>Files that are begun at once.</summary>
    private const int FilesAtOnce = 4;

    private static readonly TimeSpan Wait = TimeSpan.FromMilliseconds(500);

    // Files whose reading the disk broke off, and how often it did with room on it: that they were tried says nothing against them.
    private readonly ConcurrentDictionary<long, int> _brokenOff = [];

    /// <summary>Whether the disk has room for pages.</summary>
    internal bool HasRoom => folder.Disk.Free(folder.Root) >= Room;

    /// <summary>Keeps the files of a new batch and starts reading them. A bad file is refused by name; the others go on.</summary>
    /// <param name="name">Name of the batch.</param>
    /// <param name="brought">The files in order; a name may begin with a sub-folder.</param>
    /// <param name="who">Who brings them.</param>
    /// <param name="wayIn">Key of the way they come.</param>
    /// <param name="also">What else is written in the transaction that keeps a file, given its number from 0, its id and its hash.</param>
    /// <param name="begun">What else is written in the transaction that begins the batch.</param>
    /// <returns>The batch, the job that reads it, and the numbers of the files, from 0, that could not be kept because of the
    /// disk.</returns>
    public async Task<(long BatchId, Job? Job, IReadOnlyList<int> NotKept)> BringAsync(
        string name,
        IReadOnlyList<BroughtFile> brought,
        string who,
        string? wayIn = null,
        Action<SqliteConnection, int, long, string>? also = null,
        Action<SqliteConnection, long>? begun = null
    )
    {
        var batchId = database.Write(c =>
        {
            var id = BatchStore.Add(c, name, who, clock.GetUtcNow(), wayIn ?? WayIn.Upload.Key);
            var detail = $"{name}: {Counted.Of(brought.Count, "file")}";
            LedgerStore.Append(c, clock.GetUtcNow(), who, "added a batch", new LedgerSubject(SubjectKind.Batch, id), detail);
            begun?.Invoke(c, id);
            return id;
        });
        IReadOnlyList<int> notKept;
        // The first file may have been read before the last has come; a stack is whole only then.
        using (stacks.Coming(batchId))
            notKept = await KeepAsync(batchId, brought, who, also);
        return (batchId, Enlist(null, who), notKept);
    }

    private async Task<IReadOnlyList<int>> KeepAsync(
        long batchId,
        IReadOnlyList<BroughtFile> brought,
        string who,
        Action<SqliteConnection, int, long, string>? also
    )
    {
        var notKept = new List<int>();
        var texts = TextsBeside(brought);
        foreach (var (file, number) in brought.Select((f, i) => (f, i + 1)))
        {
            if (texts.ContainsValue(file))
                continue;
            var target = Path.Combine(
                folder.Brought,
                batchId.ToString(),
                $"{number:000} {DataFolder.SafeName(Path.GetFileName(file.Name))}"
            );
            Directory.CreateDirectory(Path.GetDirectoryName(target)!);
            string? problem,
                hash = null;
            try
            {
                await CopyAsync(file, target);
                if (texts.TryGetValue(file, out var text))
                    await CopyAsync(text, PageReading.TextBeside(target));
                folder.Disk.FlushFile(target);
                folder.Disk.FlushFolders(Path.GetDirectoryName(target)!, folder.Root);
                hash = DataFolder.HashOf(target);
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
            Enlist(
                c =>
                {
                    var id = BatchStore.AddFile(c, batchId, file.Name, folder.Relative(target), problem, hash);
                    if (hash is not null)
                        also?.Invoke(c, number - 1, id, hash);
                    return problem is null;
                },
                who
            );
        }
        return notKept;
    }

    // What waits has a job that will read it, in one transaction; one that runs sees it before it ends.
    private Job? Enlist(Func<SqliteConnection, bool>? also, string who)
    {
        var enlisted = database.Write(c =>
            also is null || also(c) ? jobs.EnlistUnlessOne(c, "reading", Subject, "/Desk", new { }, who) : null
        );
        return enlisted is null ? jobs.Running(Subject) : jobs.Begin(enlisted);
    }

    // Recognised text that was brought beside a picture, by the picture: the same name but for its ending.
    private static Dictionary<BroughtFile, BroughtFile> TextsBeside(IReadOnlyList<BroughtFile> brought)
    {
        var texts = new Dictionary<BroughtFile, BroughtFile>();
        foreach (var text in brought.Where(f => RecognisedText.IsCalledSo(f.Name)))
            if (
                brought.FirstOrDefault(f =>
                    f != text
                    && !RecognisedText.IsCalledSo(f.Name)
                    && Path.ChangeExtension(f.Name, null) == Path.ChangeExtension(text.Name, null)
                ) is
                { } picture
            )
                texts[picture] = text;
        return texts;
    }

    private static async Task CopyAsync(BroughtFile file, string target)
    {
        await using var from = file.Open();
        await using var to = File.Create(target);
        await from.CopyToAsync(to);
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
            who,
            ScannerWay
        );
        foreach (var (path, i) in load.Select((path, i) => (path, i)))
            if (!brought.NotKept.Contains(i))
                File.Delete(path);
        return (brought.BatchId, brought.Job);
    }

    /// <summary>Brings files whose pages are added to a document on the desk, behind its own.</summary>
    public Task<(long BatchId, Job? Job, IReadOnlyList<int> NotKept)> AddPagesAsync(
        StoredDocument document,
        IReadOnlyList<BroughtFile> brought,
        string who
    ) =>
        BringAsync(
            $"Pages for {document.SourceName}",
            brought,
            who,
            document.BatchId is { } batch ? database.Read(c => BatchStore.Find(c, batch))?.WayIn : null,
            begun: (c, id) => BatchStore.SetJoins(c, id, document.Id)
        );

    /// <summary>Whether files are being read whose pages are added to a document.</summary>
    public bool IsBringing(long document) => database.Read(c => BatchStore.IsJoining(c, document));

    /// <summary>Why files of a batch were not taken in; null when all were.</summary>
    public string? RefusedOf(long batchId) =>
        database.Read(c => BatchStore.Files(c, FileState.Refused, batchId)).ConvertAll(f => f.Message) is { Count: > 0 } why
            ? string.Join(" ", why)
            : null;

    /// <summary>Key of the way in of the simulated scanner.</summary>
    public const string ScannerWay = "scanner";

    /// <summary>Pages left in the scanner's tray.</summary>
    public int InTray => Directory.GetFiles(folder.Tray).Length;

    /// <summary>
    /// Reads whatever files are waiting; also those that were waiting when the process was last stopped. Null while the program is being
    /// stopped.
    /// </summary>
    public Job? Start(string who = "") => jobs.Start("reading", Subject, "/Desk", new { }, who).Value;

    /// <summary>Files that wait although nothing is being read: somebody stopped it.</summary>
    public int Stopped => jobs.Running(Subject) is null ? database.Read(BatchStore.Backlog).Waiting : 0;

    /// <summary>What the job that reads has as its subject.</summary>
    public const string Subject = "waiting files";

    // Files are begun as they come, some at once, so that a page does not wait for a stack of a thousand that came before it; the workers
    // take their chunks in turn.
    private async Task ReadWaitingAsync(Job job, CancellationToken cancel)
    {
        stacks.SettleAll();
        var begun = new Dictionary<long, (BatchFile File, Task Task)>();
        using var failed = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        try
        {
            while (true)
            {
                cancel.ThrowIfCancellationRequested();
                foreach (var (file, task) in begun.Values.Where(b => b.Task.IsCompleted).ToList())
                {
                    begun.Remove(file.Id);
                    await task;
                }
                var waiting = database.Read(c => BatchStore.Files(c, FileState.Waiting)).Where(f => !begun.ContainsKey(f.Id)).ToList();
                job.Problem = HasRoom ? null : "Reading is waiting for room on the disk, and continues by itself.";
                while (job.Problem is null && Fairest(waiting, begun.Values) is { } file)
                {
                    job.More(1);
                    waiting.Remove(file);
                    begun[file.Id] = (file, Task.Run(() => ReadAsync(file, job, failed.Token), CancellationToken.None));
                }
                if (begun.Count == 0 && waiting.Count == 0)
                    return;
                await Task.WhenAny(begun.Values.Select(b => b.Task).Append(Task.Delay(Wait, cancel)));
            }
        }
        finally
        {
            await failed.CancelAsync();
            await Task.WhenAll(begun.Values.Select(b => b.Task.ContinueWith(static _ => { }, TaskScheduler.Default)));
        }
    }

    // The next file to begin: of the batch that has fewest begun, and one more than usual for a batch that has none. Null when all wait.
    private static BatchFile? Fairest(List<BatchFile> waiting, IReadOnlyCollection<(BatchFile File, Task Task)> begun)
    {
        int Of(BatchFile file) => begun.Count(b => b.File.BatchId == file.BatchId);
        return waiting.MinBy(Of) is { } next && begun.Count < FilesAtOnce + (Of(next) == 0 ? 1 : 0) ? next : null;
    }

    private async Task ReadAsync(BatchFile file, Job job, CancellationToken cancel)
    {
        if (await BrokenOffAsync(file, job, cancel) is { } problem)
        {
            job.Problem = $"Reading waits: {problem}";
            await Task.Delay(Wait, cancel);
        }
        else
            job.Step();
    }

    private readonly ConcurrentQueue<(DateTimeOffset At, int Pages)> _reading = [];

    /// <summary>Pages read in the last ten minutes, by the minute in which any was; null when none was.</summary>
    public double? PagesAMinute
    {
        get
        {
            var since = clock.GetUtcNow().AddMinutes(-10);
            while (_reading.TryPeek(out var old) && old.At < since)
                _reading.TryDequeue(out _);
            var read = _reading.ToArray();
            if (read.Length == 0)
                return null;
            return read.Sum(r => r.Pages) / Math.Max(1, (clock.GetUtcNow() - read[0].At).TotalMinutes);
        }
    }

    /// <summary>Whether files wait to be read.</summary>
    public bool AnyWaiting => database.Read(c => BatchStore.Count(c, FileState.Waiting) > 0 || stacks.ToSettle(c).Count > 0);

    // Why the disk broke off the reading of a file, which waits for another try; null when it was read or refused.
    private async Task<string?> BrokenOffAsync(BatchFile file, Job job, CancellationToken cancel)
    {
        try
        {
            await TakeAsync(file, job, cancel);
            return null;
        }
        catch (Exception e) when (Failures.IsFromOutside(e) || e is FileRefusedException)
        {
            var room = HasRoom;
            _brokenOff.AddOrUpdate(file.Id, room ? 1 : 0, (_, times) => room ? times + 1 : times);
            return e is FileRefusedException ? Failures.InWords(new IOException()) : Failures.InWords(e);
        }
    }

    private async Task TakeAsync(BatchFile file, Job job, CancellationToken cancel)
    {
        var images = Path.Combine(folder.Pages, $"f{file.Id}");
        try
        {
            await ReadPagesAsync(file, images, job, cancel);
            database.Write(c => BatchStore.SetFile(c, file.Id, null));
        }
        catch (FileRefusedException e) when (HasRoom)
        {
            database.Write(c => BatchStore.SetFile(c, file.Id, e.Message));
            if (Directory.Exists(images))
                Directory.Delete(images, recursive: true);
        }
        stacks.Settle(file.BatchId, file);
    }

    // A large file is read some pages at a time, on both cores; what was read before a stop is not read again.
    private async Task ReadPagesAsync(BatchFile file, string images, Job job, CancellationToken cancel)
    {
        var path = folder.Absolute(file.Stored);
        var anew = _brokenOff.TryGetValue(file.Id, out var times);
        if (times >= MostBrokenOff)
            throw new FileRefusedException($"“{file.Name}” could not be read from the disk {times} times; add it again.");
        if (file.Tried >= MostTries && !anew)
            throw new FileRefusedException(
                $"“{file.Name}” was being read {file.Tried} times when the program ended; it will not be tried again."
            );
        // Marked before it is tried, so that one on which the whole program dies is not tried for ever.
        if (!anew)
            database.Write(c => BatchStore.Try(c, file.Id));
        if (!File.Exists(path))
            throw new FileRefusedException($"“{file.Name}” is no longer there; add it again.");
        var check = await files.CheckAsync(path, file.Name, cancel);
        if (check.Problem is { } bad)
            throw new FileRefusedException(bad);
        database.Write(c => BatchStore.SetPages(c, file.Id, check.Pages));
        var read = database.Read(c => StackStore.Read(c, file.Id));
        job.More(check.Pages - 1);
        for (var i = 0; i < Math.Min(read.Count, check.Pages - 1); i++)
            job.Step();
        var way = database.Read(c => WaysIn.Of(c, BatchStore.Find(c, file.BatchId)?.WayIn));
        var readers = stacks.Readers(way);
        var kept = read.Count;
        await Parallel.ForEachAsync(
            Chunks(check.Pages, read),
            new ParallelOptions { MaxDegreeOfParallelism = 2, CancellationToken = cancel },
            async (wanted, stop) =>
            {
                // What is written down ends with a page of its own, so that a full disk spoils at most these.
                var taken = await files.PagesAsync(path, file.Name, check.Kind, wanted with { Languages = way.Languages }, images, stop);
                var texts = new List<PageText>();
                foreach (var page in taken)
                    texts.Add(await InLanguages.ReadAsync(files, page.ImagePath, page.Text, readers, stop));
                database.Write(c =>
                {
                    foreach (var (page, text) in taken.Zip(texts))
                        StackStore.Put(c, new StackedPage(file.Id, page.Number, folder.Relative(page.ImagePath), text, page.Notice, null));
                    BatchStore.GotFurther(c, file.Id);
                });
                _reading.Enqueue((clock.GetUtcNow(), taken.Count));
                // The last page of a file is counted when the file is done.
                foreach (var _ in taken)
                    if (Interlocked.Increment(ref kept) < check.Pages)
                        job.Step();
            }
        );
    }

    private static IEnumerable<WantedPages> Chunks(int pages, HashSet<int> read)
    {
        for (var first = 1; first <= pages; )
        {
            if (read.Contains(first))
            {
                first++;
                continue;
            }
            var count = 1;
            while (count < PagesAtOnce && first + count <= pages && !read.Contains(first + count))
                count++;
            yield return new WantedPages(first, count);
            first += count;
        }
    }
}
