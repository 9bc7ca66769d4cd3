using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Formats;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Readers;

/// <summary>A group of a pile.</summary>
/// <param name="Number">From 1.</param>
/// <param name="Words">Words that its pages have in common.</param>
/// <param name="Pages">Its pages, the most typical first.</param>
public sealed record SortedGroup(int Number, IReadOnlyList<string> Words, IReadOnlyList<PilePage> Pages)
{
    /// <summary>
    /// Pages that show the design: not the odd ones; and when most of them came in files of their own, only the first of each file, because
    /// what follows it goes on with it.
    /// </summary>
    public IReadOnlyList<PilePage> Typical
    {
        get
        {
            var usual = Pages.Where(p => !p.Odd).ToList();
            var firsts = usual.GroupBy(p => p.File).Select(g => g.MinBy(p => p.Id)!).ToList();
            return 2 * firsts.Count >= usual.Count && firsts.Count > 1 ? firsts : usual;
        }
    }

    /// <summary>The reader that its pages became samples of; null while nobody has decided.</summary>
    public string? Taken => Pages.Select(p => p.Taken).FirstOrDefault(t => t is not null);
}

/// <summary>
/// Piles of unlabelled pages: brought, read, grouped by design. A group becomes a reader by <see cref="PileReaders"/>.
/// </summary>
public sealed class PileSorting(
    Database database,
    DataFolder folder,
    TaughtReaders readers,
    IFileReader files,
    Jobs jobs,
    TimeProvider clock
) : IWorksInJobs
{
    private sealed record OfPile(long Id);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => [new JobKind("pile", "Reading and sorting a pile", "design", SortAsync)];

    /// <summary>What its job has as its subject.</summary>
    public static string Subject(long pile) => $"pile {pile}";

    /// <summary>All piles, newest first.</summary>
    public List<Pile> All() => database.Read(PileStore.All);

    /// <summary>One pile, or null.</summary>
    public Pile? Find(long id) => database.Read(c => PileStore.Find(c, id));

    /// <summary>How many documents on the desk no reader knows.</summary>
    public long Unknown => database.Read(c => DocumentStore.CountIn(c, null, "desk", 0));

    /// <summary>One page, or null.</summary>
    public PilePage? Page(long id) => database.Read(c => PileStore.FindPage(c, id));

    /// <summary>Files of a pile that were refused.</summary>
    public List<PileFile> Refused(long pile) => database.Read(c => PileStore.Files(c, pile, PileFileState.Refused));

    /// <summary>
    /// Groups of a pile, the largest first, and pages that a reader knows, by reader; under the empty name those beyond what is sorted at
    /// once.
    /// </summary>
    public (List<SortedGroup> Groups, ILookup<string, PilePage> Known) Groups(long pile)
    {
        var (pages, words) = database.Read(c => (PileStore.PagesOf(c, pile), PileStore.Words(c, pile)));
        return (
            [.. words.OrderBy(w => w.Key).Select(w => Group(pile, w.Key, w.Value))],
            pages.Where(p => p.Group is null).ToLookup(p => p.Claimed ?? "", StringComparer.Ordinal)
        );
    }

    private SortedGroup Group(long pile, int number, IReadOnlyList<string> words) =>
        new(number, words, database.Read(c => PileStore.PagesOf(c, pile, number)));

    /// <summary>One group; null when there is none.</summary>
    public SortedGroup? Group(long pile, int number) =>
        database.Read(c => PileStore.Words(c, pile)).TryGetValue(number, out var words) ? Group(pile, number, words) : null;

    /// <summary>Takes a pile of files in and starts to read and sort it. A bad file is refused by name; the others go on.</summary>
    public async Task<Result<long>> BringAsync(string name, IReadOnlyList<BroughtFile> brought, string who)
    {
        if (brought.Count == 0)
            return Result<long>.Not("Choose the files of the pile: PDF, PNG, JPEG or TIFF.");
        var pile = database.Write(c =>
        {
            var called = name.Trim().Length > 0 ? name.Trim() : $"Pile of {clock.GetLocalNow():d MMMM yyyy, HH:mm}";
            var id = PileStore.Begin(c, called, clock.GetUtcNow(), who);
            var detail = $"{called}: {Counted.Of(brought.Count, "file")}";
            LedgerStore.Append(c, clock.GetUtcNow(), who, "brought a pile", new LedgerSubject(SubjectKind.Pile, id), detail);
            return id;
        });
        var at = Path.Combine(folder.Brought, $"pile-{pile}");
        Directory.CreateDirectory(at);
        foreach (var (file, i) in brought.Select((f, i) => (f, i)))
        {
            var path = Path.Combine(at, $"{i + 1:0000} {DataFolder.SafeName(Path.GetFileName(file.Name))}");
            string? problem;
            try
            {
                await using (var from = file.Open())
                await using (var to = File.Create(path))
                    await from.CopyToAsync(to);
                problem = IntakeCheck.Sniff(path, file.Name);
            }
            catch (Exception e) when (Failures.IsFromOutside(e))
            {
                problem = $"“{file.Name}” could not be kept: {Failures.InWords(e)}";
            }
            if (problem is not null)
                File.Delete(path);
            database.Write(c => PileStore.AddFile(c, pile, file.Name, folder.Relative(path), problem));
        }
        Start(pile, who);
        return pile;
    }

    /// <summary>Makes a pile of what waits on the desk and no reader knows; nothing is taken off the desk.</summary>
    /// <param name="isOpen">Whether everybody may see a document: a pile is shown to all who teach readers.</param>
    /// <param name="who">Who asks for it.</param>
    public Result<long> FromDesk(Func<StoredDocument, bool> isOpen, string who)
    {
        var unknown = database.Read(c =>
            DocumentStore
                .In(c, null, "desk", 0, Piles.MostPages)
                .Where(isOpen)
                .Select(d => (d.SourceName, Pages: DocumentStore.Pages(c, d.Id)))
                .ToList()
        );
        if (unknown.Count == 0)
            return Result<long>.Not("Nothing on the desk waits for a reader to know it.");
        var pile = database.Write(c =>
        {
            var id = PileStore.Begin(c, $"Unknown on the desk, {clock.GetLocalNow():d MMMM yyyy, HH:mm}", clock.GetUtcNow(), who);
            foreach (var (name, pages) in unknown)
            foreach (var page in pages)
                PileStore.AddPage(c, id, null, pages.Count == 1 ? name : $"{name}, page {page.Number}", page.Image, page.Text);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "made a pile of what no reader knows", new LedgerSubject(SubjectKind.Pile, id));
            return id;
        });
        Start(pile, who);
        return pile;
    }

    /// <summary>Reads what is left of a pile and sorts it; again when readers have changed.</summary>
    public Result<Job> Start(long pile, string who) => jobs.Start("pile", Subject(pile), $"/Readers/Pile/{pile}", new OfPile(pile), who);

    /// <summary>Throws a pile away; readers and types made of it stay.</summary>
    public Result Remove(long pile, string who)
    {
        if (jobs.Running(Subject(pile)) is not null)
            return "The pile is being read; stop that first.";
        database.Write(c =>
        {
            PileStore.Remove(c, pile);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "threw a pile away", new LedgerSubject(SubjectKind.Pile, pile));
        });
        foreach (var at in new[] { Path.Combine(folder.Brought, $"pile-{pile}"), ImagesOf(pile) })
            if (Directory.Exists(at))
                Directory.Delete(at, recursive: true);
        return Result.Done;
    }

    private string ImagesOf(long pile) => Path.Combine(folder.Pages, $"pile-{pile}");

    private async Task SortAsync(Job job, CancellationToken cancel)
    {
        var pile = job.Given<OfPile>().Id;
        var waiting = database.Read(c => PileStore.Files(c, pile, PileFileState.Waiting));
        job.Total = job.Done + waiting.Count;
        await Parallel.ForEachAsync(
            waiting,
            new ParallelOptions { MaxDegreeOfParallelism = 2, CancellationToken = cancel },
            async (file, stop) =>
            {
                await ReadAsync(file, stop);
                job.Step();
            }
        );
        var pages = database.Read(c => PileStore.PagesOf(c, pile).ConvertAll(p => (p.Id, Text: PileStore.TextOf(c, p.Id))));
        var known = readers.Published();
        var claimed = pages
            .Select(p => (p.Id, Reader: Recognition.Recognise(p.Text, known)?.Reader.Key))
            .Where(p => p.Reader is not null)
            .ToDictionary(p => p.Id, p => p.Reader);
        var unknown = pages.Where(p => !claimed.ContainsKey(p.Id)).Take(Piles.MostPages).ToList();
        var groups = Piles.Group([.. unknown.Select(p => p.Text)], cancel);
        database.Write(c =>
        {
            foreach (var (page, reader) in claimed)
                PileStore.Put(c, page, null, 0, false, reader);
            for (var g = 0; g < groups.Count; g++)
            for (var i = 0; i < groups[g].Pages.Count; i++)
                PileStore.Put(c, unknown[groups[g].Pages[i]].Id, g + 1, i, groups[g].OddOnes.Contains(groups[g].Pages[i]), null);
            PileStore.SetGroups(c, pile, [.. groups.Select(g => g.Words)]);
        });
    }

    private async Task ReadAsync(PileFile file, CancellationToken cancel)
    {
        var path = folder.Absolute(file.Stored);
        var images = Path.Combine(ImagesOf(file.Pile), file.Id.ToString());
        string? problem;
        IReadOnlyList<TakenPage> pages = [];
        try
        {
            var check = await files.CheckAsync(path, file.Name, cancel);
            problem = check.Problem;
            if (problem is null)
                pages = await files.PagesAsync(
                    path,
                    file.Name,
                    check.Kind,
                    new WantedPages(1, Math.Min(check.Pages, Piles.MostPages)),
                    images,
                    cancel
                );
        }
        catch (FileRefusedException e)
        {
            problem = e.Message;
        }
        catch (Exception e) when (Failures.IsFromOutside(e))
        {
            problem = $"“{file.Name}” could not be read: {Failures.InWords(e)}";
        }
        // Pages and state of a file in one transaction: after a stop it is read as a whole or not yet.
        database.Write(c =>
        {
            foreach (var page in pages)
                PileStore.AddPage(
                    c,
                    file.Pile,
                    file.Id,
                    pages.Count == 1 ? file.Name : $"{file.Name}, page {page.Number}",
                    folder.Relative(page.ImagePath),
                    page.Text
                );
            PileStore.Settle(c, file.Id, problem);
        });
    }
}
