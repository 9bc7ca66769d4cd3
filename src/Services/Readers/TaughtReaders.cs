using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Readers;

/// <summary>Teaching readers: samples, clues, zones, crosswalk, proof.</summary>
public sealed class TaughtReaders(Database database, DataFolder folder, Designs designs, IFileReader files, TimeProvider clock)
{
    /// <summary>All readers.</summary>
    public List<Reader> All() => database.Read(ReaderStore.All);

    /// <summary>One reader, or null.</summary>
    public Reader? Find(string key) => database.Read(c => ReaderStore.Find(c, key));

    /// <summary>Samples of a reader.</summary>
    public List<Sample> Samples(string key) => database.Read(c => ReaderStore.Samples(c, key));

    /// <summary>Ids and names of a reader's samples in the order they were added.</summary>
    public List<(long Id, string Name)> SampleNames(string key) =>
        database.Read(c => ReaderStore.Truths(c, key)).ConvertAll(s => (s.Id, s.Name));

    /// <summary>One sample, or null.</summary>
    public Sample? Sample(long id) => database.Read(c => ReaderStore.FindSample(c, id));

    /// <summary>Makes a reader without marks.</summary>
    public Result<string> Create(string name, string typeCode, string who)
    {
        var key = ShortName.From(name.Trim());
        if (key.Length == 0)
            return Result<string>.Not("Write a name with letters.");
        if (designs.Find(typeCode) is null)
            return Result<string>.Not("Choose the document type it reads.");
        return database.Write<Result<string>>(c =>
        {
            if (ReaderStore.Find(c, key) is not null)
                return Result<string>.Not($"There is a reader called “{name.Trim()}” already.");
            ReaderStore.Save(c, new Reader(key, name.Trim(), typeCode, [], [], []));
            LedgerStore.Append(c, clock.GetUtcNow(), who, "made a reader", new LedgerSubject(SubjectKind.Reader, key));
            return key;
        });
    }

    /// <summary>Adds the first page of a file as a sample.</summary>
    public async Task<Result<long>> AddSampleAsync(
        string key,
        BroughtFile file,
        IReadOnlyDictionary<string, string> truth,
        CancellationToken cancel = default
    )
    {
        var id = Guid.NewGuid().ToString("N")[..12];
        var path = Path.Combine(folder.Drafts, $"{id}-{DataFolder.SafeName(file.Name)}");
        await using (var from = file.Open())
        await using (var to = File.Create(path))
            await from.CopyToAsync(to, cancel);
        try
        {
            if (Find(key) is not { } reader)
                return Result<long>.Not("There is no such reader.");
            if (IntakeCheck.Sniff(path, file.Name) is { } refused)
                return Result<long>.Not(refused);
            var check = await files.CheckAsync(path, file.Name, cancel);
            if (check.Problem is { } problem)
                return Result<long>.Not(problem);
            var pages = await files.PagesAsync(
                path,
                file.Name,
                check.Kind,
                new WantedPages(1, 1) { Languages = reader.Languages ?? "" },
                Path.Combine(folder.Pages, "s" + id),
                cancel
            );
            if (pages[0].Notice is { } notice && pages[0].Text.Words.Count == 0)
                return Result<long>.Not(notice);
            return database.Write(c => ReaderStore.AddSample(c, key, file.Name, folder.Relative(pages[0].ImagePath), pages[0].Text, truth));
        }
        catch (FileRefusedException e)
        {
            return Result<long>.Not(e.Message);
        }
        finally
        {
            File.Delete(path);
        }
    }

    /// <summary>Changes a reader.</summary>
    public Result Change(string key, string change, string who, Func<Reader, Result<Reader>> edit) =>
        database.Write<Result>(c =>
        {
            if (ReaderStore.Find(c, key) is not { } reader)
                return "There is no such reader.";
            var edited = edit(reader);
            if (!edited.Ok)
                return edited.Problem!;
            if (Sql.AreSame(edited.Value, reader))
                return Result.Done;
            ReaderStore.SaveDraft(c, edited.Value!, change);
            LedgerStore.Append(c, clock.GetUtcNow(), who, change, new LedgerSubject(SubjectKind.Reader, key));
            return Result.Done;
        });

    /// <summary>How the draft of a reader stands to what is published.</summary>
    public ReaderState State(string key) => database.Read(c => ReaderStore.State(c, key));

    /// <summary>All readers as they are published.</summary>
    public List<Reader> Published() => database.Read(ReaderStore.Published).ConvertAll(v => v.Reader);

    /// <summary>The newest published version of a reader; null while there is none.</summary>
    public ReaderVersion? PublishedOf(string key) => database.Read(c => ReaderStore.Newest(c, key));

    /// <summary>Takes the last change of the draft back; returns what it was.</summary>
    public string? Undo(string key, string who) =>
        database.Write(c =>
        {
            var undone = ReaderStore.Undo(c, key);
            if (undone is not null)
                LedgerStore.Append(c, clock.GetUtcNow(), who, "undid: " + undone, new LedgerSubject(SubjectKind.Reader, key));
            return undone;
        });

    /// <summary>Publishes the draft of a reader as its next version: from now on it reads incoming pages.</summary>
    public Result<int> Publish(string key, string who) =>
        database.Write<Result<int>>(c =>
        {
            if (ReaderStore.Find(c, key) is not { } reader)
                return Result<int>.Not("There is no such reader.");
            if (!ReaderStore.State(c, key).DraftOpen)
                return Result<int>.Not("Nothing has changed since it was published.");
            if (reader.Clues.Count == 0)
                return Result<int>.Not("A reader without clues claims nothing: mark words that every page of this design has.");
            var version = ReaderStore.Publish(c, reader, clock.GetUtcNow(), who);
            ReaderStore.ForgetChanges(c, key);
            LedgerStore.Append(c, clock.GetUtcNow(), who, $"published version {version}", new LedgerSubject(SubjectKind.Reader, key));
            return version;
        });

    /// <summary>Sets in which languages its pages are recognised; its samples follow when it is tried on them.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="languages">The recogniser's names of them; none for those in which pages come.</param>
    /// <param name="who">Who.</param>
    public Result SetLanguages(string key, IReadOnlyList<string> languages, string who) =>
        Change(
            key,
            "set the languages of its pages",
            who,
            reader =>
                languages.Except(TextRecognition.Languages).FirstOrDefault() is { } unknown
                    ? Result<Reader>.Not($"The language “{CodePoints.First(unknown, 20)}” is not installed for text recognition here.")
                    : reader with
                    {
                        Languages = languages.Count > 0 ? string.Join('+', languages.Distinct()) : null,
                    }
        );

    /// <summary>Recognises a sample once more when it was recognised in other languages than its reader names.</summary>
    internal async Task RecogniseAsync(Reader reader, long id, CancellationToken cancel)
    {
        if (Sample(id) is not { Page: { Method: "recognised" } page } sample || page.Languages == reader.Languages)
            return;
        if (await InLanguages.RecogniseAsync(files, folder.Absolute(sample.Image), page, reader.Languages, cancel) is { } read)
            database.Write(c => ReaderStore.SetPage(c, id, read));
    }

    /// <summary>What the samples of a reader have in common and what varies; null when there are too few of them.</summary>
    public ReaderProposal? Propose(string key) =>
        Find(key) is { } reader && TypeOf(reader) is { } type && Samples(key) is { Count: >= Proposing.FewestPages } samples
            ? Proposing.From([.. samples.Select(s => s.Page)], type, designs.Finders(null, new Arrival("")))
            : null;

    /// <summary>Adds what a person chose of a proposal: as one change, so that it is taken or left as a whole.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="clues">Texts of the clues chosen.</param>
    /// <param name="values">Side and label of the values chosen, with the field each fills.</param>
    /// <param name="who">Who does it.</param>
    public Result Take(string key, IReadOnlyList<string> clues, IReadOnlyList<(Side Side, string Label, string Field)> values, string who)
    {
        if (Propose(key) is not { } proposal)
            return $"A proposal needs at least {Proposing.FewestPages} samples.";
        return Change(
            key,
            "took what was proposed",
            who,
            reader =>
            {
                var chosen = new List<(ProposedValue, Field)>();
                foreach (var (side, label, fieldKey) in values)
                {
                    if (FieldOf(reader, fieldKey) is not { } field)
                        return Result<Reader>.Not($"Choose the field that the value beside “{label}” fills, or leave it unticked.");
                    if (proposal.Values.FirstOrDefault(v => v.Side == side && v.Label == label) is not { } value)
                        return Result<Reader>.Not(
                            $"The samples have changed in the meantime: there is nothing beside “{label}” now. Propose again."
                        );
                    chosen.Add((value, field));
                }
                var added = Proposing.Added(
                    reader,
                    proposal.Clues.Where(c => clues.Contains(c.Text)),
                    chosen,
                    designs.Finders(null, new Arrival(""))
                );
                return added.Finders.Count > ReaderSources.MostFinders
                    ? Result<Reader>.Not($"A reader has at most {ReaderSources.MostFinders} finders.")
                    : added;
            }
        );
    }

    /// <summary>Says what is true on a sample.</summary>
    public void SetTruth(long sampleId, IReadOnlyDictionary<string, string> truth) =>
        database.Write(c => ReaderStore.SetTruth(c, sampleId, truth));

    /// <summary>What a reader makes of one of its samples, whether or not it claims it.</summary>
    public DocumentRead Read(Reader reader, Claim claim, Sample sample)
    {
        using var ink = InkOf(sample);
        return DocumentReading.Read(
            [(1, sample.Page)],
            1,
            claim,
            TypeOf(reader)!,
            designs.Finders(ink, new Arrival(sample.Name)),
            claim.Role ?? PageRole.First
        );
    }

    /// <summary>A reader tried on one of its samples, against what is known to be true.</summary>
    public ProofRow Try(Reader reader, DocumentType type, Sample sample)
    {
        using var ink = InkOf(sample);
        return Proof.Try(sample.Name, sample.Page, reader, type, sample.Truth, designs.Finders(ink, new Arrival(sample.Name)));
    }

    /// <summary>Which clues and landmarks of a reader a sample has.</summary>
    public Claim Claim(Reader reader, Sample sample)
    {
        using var ink = InkOf(sample);
        return Recognition.Try(sample.Page, reader, ink);
    }

    /// <summary>What page of a document a sample is to its reader; a first one when it is none.</summary>
    public PageRole RoleOf(string key, long sampleId) =>
        Find(key) is { } reader && Sample(sampleId) is { } sample && sample.ReaderKey == key
            ? Claim(reader, sample).Role ?? PageRole.First
            : PageRole.First;

    private PagePictures InkOf(Sample sample) => new(_ => folder.Absolute(sample.Image));

    /// <summary>The type a reader fills: as published, or its draft while nothing is.</summary>
    public DocumentType? TypeOf(Reader reader) =>
        designs.Published.TryGetValue(reader.TypeCode, out var published) ? published.Type.Type : designs.Find(reader.TypeCode)?.Draft;

    /// <summary>
    /// A field that a reader fills, of its type or of the draft of that: one that was taken from pages is published later.
    /// </summary>
    public Field? FieldOf(Reader reader, string key) =>
        TypeOf(reader)?.Find(key) ?? (designs.Find(reader.TypeCode) is { } state ? designs.Resolve(state.Draft).Find(key) : null);
}
