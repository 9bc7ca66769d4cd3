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

/// <summary>What a person decides about a field proposed from pages.</summary>
/// <param name="At">Position of the value in the proposal.</param>
/// <param name="Label">Its label.</param>
/// <param name="Kind">What it holds.</param>
public sealed record DecidedField(int At, string Label, FieldKind Kind);

/// <summary>
/// Piles of unlabelled pages: brought, read, grouped by design; a group becomes a reader, and when wanted a document type.
/// </summary>
public sealed class PileSorting
{
    private sealed record OfPile(long Id);

    /// <summary>Pages of a group that become samples.</summary>
    private const int MostSamples = 20;

    private readonly Database database;
    private readonly DataFolder folder;
    private readonly Designs designs;
    private readonly Drafts drafts;
    private readonly FieldsFromPages fromPages;
    private readonly TaughtReaders readers;
    private readonly IFileReader files;
    private readonly Jobs jobs;
    private readonly TimeProvider clock;

    /// <summary>Makes the kind of its job known.</summary>
    public PileSorting(
        Database database,
        DataFolder folder,
        Designs designs,
        Drafts drafts,
        FieldsFromPages fromPages,
        TaughtReaders readers,
        IFileReader files,
        Jobs jobs,
        TimeProvider clock
    )
    {
        (this.database, this.folder, this.designs, this.drafts) = (database, folder, designs, drafts);
        (this.fromPages, this.readers, this.files, this.jobs, this.clock) = (fromPages, readers, files, jobs, clock);
        jobs.Add(new JobKind("pile", "Reading and sorting a pile", "design", SortAsync));
    }

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
    public List<PileFile> Refused(long pile) => database.Read(c => PileStore.Files(c, pile, "refused"));

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
            LedgerStore.Append(c, clock.GetUtcNow(), who, "brought a pile", name, $"{brought.Count} files");
            return PileStore.Begin(
                c,
                name.Trim().Length > 0 ? name.Trim() : $"Pile of {clock.GetLocalNow():d MMMM yyyy, HH:mm}",
                clock.GetUtcNow(),
                who
            );
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
            LedgerStore.Append(c, clock.GetUtcNow(), who, "made a pile of what no reader knows", $"pile {id}");
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
            LedgerStore.Append(c, clock.GetUtcNow(), who, "threw a pile away", $"pile {pile}");
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
        var waiting = database.Read(c => PileStore.Files(c, pile, "waiting"));
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

    /// <summary>Makes the pages of a group samples of a reader that exists.</summary>
    public Result Join(long pile, int number, string reader, string who)
    {
        if (Group(pile, number) is not { } group || readers.Find(reader) is null)
            return "This group or reader no longer exists.";
        KeepSamples(group, reader);
        return database.Write<Result>(c =>
        {
            LedgerStore.Append(c, clock.GetUtcNow(), who, "added samples from a pile", $"reader {reader}", $"pile {pile}, group {number}");
            return Result.Done;
        });
    }

    /// <summary>Makes a reader of a type that exists from a group.</summary>
    /// <returns>The reader's key; its page shows what is proposed.</returns>
    public Result<string> MakeReader(long pile, int number, string name, string typeCode, string who)
    {
        if (Group(pile, number) is not { } group)
            return Result<string>.Not("This group no longer exists.");
        var made = readers.Create(name, typeCode, who);
        if (made.Ok)
            KeepSamples(group, made.Value!);
        return made;
    }

    /// <summary>What the pages of a group have in common and what varies, and a field for each value.</summary>
    public (ReaderProposal Proposal, IReadOnlyList<FieldFromPages> Fields)? Propose(long pile, int number)
    {
        if (Group(pile, number) is not { Pages.Count: >= Proposing.FewestPages } group)
            return null;
        var pages = database.Read(c => group.Typical.Take(Proposing.MostPages).Select(p => PileStore.TextOf(c, p.Id)).ToList());
        if (pages.Count < Proposing.FewestPages)
            return null;
        var proposal = Proposing.From(pages, DocumentType.Empty("", ""), FinderContext.None);
        return (proposal, TypeFromPages.Fields(proposal));
    }

    /// <summary>Makes a document type with the fields that a person chose, its vocabularies, and a reader that fills them.</summary>
    /// <param name="pile">The pile.</param>
    /// <param name="number">The group.</param>
    /// <param name="name">Name of the type, and of the reader.</param>
    /// <param name="chosen">The fields, in order.</param>
    /// <param name="who">Who decides.</param>
    /// <returns>Code of the type and key of the reader, both drafts.</returns>
    public Result<(string Type, string Reader)> MakeType(long pile, int number, string name, IReadOnlyList<DecidedField> chosen, string who)
    {
        if (Propose(pile, number) is not { } proposed || Group(pile, number) is not { } group)
            return Not("This group no longer exists; look at the pile again.");
        var fields = new List<(Field Field, ProposedValue Value, IReadOnlyList<string> Terms)>();
        foreach (var each in chosen)
        {
            if (proposed.Fields.FirstOrDefault(f => f.At == each.At) is not { } known)
                return Not("The pages of the group have changed in the meantime; look at them again.");
            var label = each.Label.Trim();
            if (ShortName.From(label) is not { Length: > 0 } key || label.Length > DesignCheck.LongestName)
                return Not($"“{label}” is not a label; write one with letters, of at most {DesignCheck.LongestName} characters.");
            if (each.Kind == FieldKind.Table != known.Field is TableField)
                return Not($"{label} cannot be {FieldKindNames.Of(each.Kind)}: choose what it holds again.");
            if (fields.Exists(f => f.Field.Key == key))
                return Not($"Two fields would be called “{label}”; write another label for one.");
            var field = each.Kind == known.Field.Kind ? known.Field with { Key = key, Label = label } : Field.Of(each.Kind, key, label);
            var value = proposed.Proposal.Values[each.At];
            IReadOnlyList<string> terms =
                field is VocabularyField
                    ? known.Terms.Count > 0
                        ? known.Terms
                        : [.. value.Values.Where(v => v.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase)]
                    : [];
            fields.Add((field, value, terms));
        }
        if (fields.Count == 0)
            return Not("Take at least one field.");
        if (readers.Find(ShortName.From(name.Trim())) is not null)
            return Not($"There is a reader called “{name.Trim()}” already; choose another name.");
        var made = drafts.Create(name, who);
        if (!made.Ok)
            return Not(made.Problem!);
        var code = made.Value!;
        var put = fromPages.Put(
            code,
            [.. fields.Select(f => (f.Field, f.Terms))],
            "took fields from pages",
            who,
            (type, made) => TypeFromPages.Made(code, type.Name, made)
        );
        if (!put.Ok)
            return Not(put.Problem!);
        var wanted = put.Value!;
        var reader = readers.Create(name, code, who);
        if (!reader.Ok)
            return Not(reader.Problem!);
        var taught = readers.Change(
            reader.Value!,
            "took what was proposed",
            who,
            r =>
                Proposing.Added(
                    r,
                    proposed.Proposal.Clues,
                    fields.Select((f, i) => (f.Value, wanted[i])),
                    designs.Finders(null, new Arrival(""))
                )
        );
        if (!taught.Ok)
            return Not(taught.Problem!);
        KeepSamples(group, reader.Value!);
        return (code, reader.Value!);

        static Result<(string, string)> Not(string problem) => Result<(string, string)>.Not(problem);
    }

    // A sample keeps its picture when the pile is thrown away.
    private void KeepSamples(SortedGroup group, string reader)
    {
        var known = readers.Samples(reader).Select(s => s.Name).ToHashSet(StringComparer.Ordinal);
        foreach (var page in group.Typical.Where(p => known.Add(p.Name)).Take(MostSamples))
        {
            var copy = Path.Combine(folder.Pages, $"s{Guid.NewGuid():N}{Path.GetExtension(page.Image)}");
            if (!File.Exists(folder.Absolute(page.Image)))
                continue;
            File.Copy(folder.Absolute(page.Image), copy);
            database.Write(c =>
            {
                ReaderStore.AddSample(
                    c,
                    reader,
                    page.Name,
                    folder.Relative(copy),
                    PileStore.TextOf(c, page.Id),
                    new Dictionary<string, string>()
                );
                PileStore.Take(c, page.Id, reader);
            });
        }
    }
}
