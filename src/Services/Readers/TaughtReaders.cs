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
            LedgerStore.Append(c, clock.GetUtcNow(), who, "made a reader", key);
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
            if (Sql.ToJson(edited.Value) == Sql.ToJson(reader))
                return Result.Done;
            ReaderStore.SaveDraft(c, edited.Value!, change);
            LedgerStore.Append(c, clock.GetUtcNow(), who, change, $"reader {key}");
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
                LedgerStore.Append(c, clock.GetUtcNow(), who, "undid: " + undone, $"reader {key}");
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
            LedgerStore.Append(c, clock.GetUtcNow(), who, $"published version {version}", $"reader {key}");
            return version;
        });

    /// <summary>Marks, moves or resizes a zone, which is named after the field it feeds.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="zoneKey">The zone.</param>
    /// <param name="box">Where it lies on the page it is drawn on.</param>
    /// <param name="field">The field that a new one feeds.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="on">What page of a document it is drawn on.</param>
    public Result SetZone(string key, string zoneKey, Box box, string? field, string who, PageRole on = PageRole.First) =>
        Change(
            key,
            "set a zone",
            who,
            reader =>
            {
                if (zoneKey.Length is 0 or > 60)
                    return Result<Reader>.Not("Choose the field that the zone feeds.");
                box = Clamp(box);
                if (box.W < 0.002 || box.H < 0.002)
                    return Result<Reader>.Not("The zone is too small to hold a word.");
                var zones = reader.Zones.Any(z => z.Key == zoneKey)
                    ? reader.Zones.Select(z => z.Key == zoneKey ? z with { Box = box, On = on } : z)
                    : reader.Zones.Append(new Zone(zoneKey, box) { On = on });
                var lines =
                    field is null || reader.Crosswalk.Any(l => l.Source == zoneKey)
                        ? reader.Crosswalk
                        : [.. reader.Crosswalk, new CrosswalkLine(zoneKey, field, [])];
                return reader with { Zones = [.. zones], Crosswalk = lines };
            }
        );

    /// <summary>Removes a zone with its crosswalk line.</summary>
    public Result RemoveZone(string key, string zoneKey, string who) =>
        Change(
            key,
            "removed a zone",
            who,
            reader =>
                reader with
                {
                    Zones = [.. reader.Zones.Where(z => z.Key != zoneKey)],
                    // The region of a finder goes, the finder stays.
                    Crosswalk = reader.Finders.Any(f => f.Key == zoneKey)
                        ? reader.Crosswalk
                        : [.. reader.Crosswalk.Where(l => l.Source != zoneKey)],
                }
        );

    /// <summary>Most sources of codes of one reader.</summary>
    public const int MostCodeSources = 20;

    /// <summary>Adds a source of codes, or changes the one with its key.</summary>
    public Result SetCodes(string key, CodeSource source, string who) =>
        Change(
            key,
            "set which codes are read",
            who,
            reader =>
            {
                if (source.Key.Length is 0 or > 60 || source.Key.Contains('/', StringComparison.Ordinal))
                    return Result<Reader>.Not("Write a name without a slash, at most 60 characters.");
                if (source.Finding is { } finding)
                    return Result<Reader>.Not(finding);
                if (reader.Codes.Count >= MostCodeSources && reader.Codes.All(s => s.Key != source.Key))
                    return Result<Reader>.Not($"A reader has at most {MostCodeSources} sources of codes.");
                return reader with
                {
                    Codes = reader.Codes.Any(s => s.Key == source.Key)
                        ? [.. reader.Codes.Select(s => s.Key == source.Key ? source : s)]
                        : [.. reader.Codes, source],
                };
            }
        );

    /// <summary>Removes a source of codes with its crosswalk lines.</summary>
    public Result RemoveCodes(string key, string source, string who) =>
        Change(
            key,
            "no longer reads codes",
            who,
            reader =>
                reader.Codes.FirstOrDefault(s => s.Key == source) is not { } gone
                    ? Result<Reader>.Not("This reader has no such source of codes.")
                    : reader with
                    {
                        Codes = [.. reader.Codes.Where(s => s != gone)],
                        Crosswalk = [.. reader.Crosswalk.Where(l => !gone.Feeds(l.Source))],
                    }
        );

    /// <summary>Most finders of one reader.</summary>
    public const int MostFinders = 100;

    /// <summary>Adds a finder of a field as the last that is asked, or changes the one with its key.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="finder">The finder; an empty key for a new one.</param>
    /// <param name="field">The field that it fills.</param>
    /// <param name="who">Who does it.</param>
    /// <returns>The finder's key.</returns>
    public Result<string> SetFinder(string key, Finder finder, string field, string who)
    {
        var named = finder.Key;
        var changed = Change(
            key,
            "set how a value is found",
            who,
            reader =>
            {
                if (TypeOf(reader)?.Find(field) is not { } target)
                    return Result<Reader>.Not("Choose the field that it fills.");
                if (finder.Finding is { } finding)
                    return Result<Reader>.Not(finding);
                if (FinderKinds.For(target).All(k => k.Code != finder.Kind))
                    return Result<Reader>.Not($"{target.Label} cannot be found that way.");
                if (finder.Kind == "field" && OtherField(TypeOf(reader)!, finder.Text, target) is { } wrong)
                    return Result<Reader>.Not(wrong);
                var known = reader.Finders.Any(f => f.Key == finder.Key);
                if (!known && finder.Key.Length > 0)
                    return Result<Reader>.Not("This reader no longer has that finder.");
                if (!known && reader.Finders.Count >= MostFinders)
                    return Result<Reader>.Not($"A reader has at most {MostFinders} finders.");
                if (known)
                    return reader with
                    {
                        Finders = [.. reader.Finders.Select(f => f.Key == finder.Key ? finder : f)],
                        Crosswalk = [.. reader.Crosswalk.Select(l => l.Source == finder.Key ? l with { Field = field } : l)],
                    };
                named = reader.FreeKey($"{field}-{finder.Kind}");
                return reader with
                {
                    Finders = [.. reader.Finders, finder with { Key = named }],
                    Crosswalk = [.. reader.Crosswalk, new CrosswalkLine(named, field, [])],
                };
            }
        );
        return changed.Ok ? named : Result<string>.Not(changed.Problem!);
    }

    private static string? OtherField(DocumentType type, string key, Field target) =>
        type.Find(key) is not { } other ? "Choose the field that it is filled from."
        : other.Key == target.Key ? $"{target.Label} cannot be filled from itself."
        : other.Restricted && !target.Restricted
            ? $"{other.Label} is restricted and {target.Label} is not, so that everybody would see what only some may."
        : null;

    /// <summary>Removes a finder with its region and its crosswalk line.</summary>
    public Result RemoveFinder(string key, string finder, string who) =>
        Change(
            key,
            "no longer finds a value so",
            who,
            reader =>
                reader with
                {
                    Finders = [.. reader.Finders.Where(f => f.Key != finder)],
                    Zones = [.. reader.Zones.Where(z => z.Key != finder)],
                    Crosswalk = [.. reader.Crosswalk.Where(l => l.Source != finder)],
                }
        );

    /// <summary>Has a source of a field asked before the one that is asked before it now.</summary>
    public Result AskEarlier(string key, string source, string who) =>
        Change(
            key,
            "changed the order in which a value is looked for",
            who,
            reader =>
            {
                var lines = reader.Crosswalk.ToList();
                var at = lines.FindIndex(l => l.Source == source);
                if (at < 0)
                    return Result<Reader>.Not("This reader has no such line.");
                var before = lines.FindLastIndex(at, at + 1, l => l.Field == lines[at].Field && l.Source != source);
                if (before >= 0)
                    (lines[at], lines[before]) = (lines[before], lines[at]);
                return reader with { Crosswalk = lines };
            }
        );

    /// <summary>Has a field made of all its places, or again of the first that fits.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="field">The field.</param>
    /// <param name="between">What stands between the parts; null to take the first place that fits.</param>
    /// <param name="who">Who.</param>
    public Result Join(string key, string field, string? between, string who) =>
        Change(
            key,
            between is null ? "took the first place of a field again" : "joined the places of a field",
            who,
            reader =>
                between is { Length: > JoinedPlaces.LongestBetween } || between?.Any(char.IsControl) == true
                    ? Result<Reader>.Not($"Between two parts stand at most {JoinedPlaces.LongestBetween} characters of one line.")
                : between is not null && reader.Crosswalk.Count(l => l.Field == field) < 2
                    ? Result<Reader>.Not("This field is read in one place only.")
                : reader with
                {
                    Joined =
                    [
                        .. reader.Joined.Where(j => j.Field != field),
                        .. between is null ? Array.Empty<JoinedPlaces>() : [new JoinedPlaces(field, between)],
                    ],
                }
        );

    /// <summary>Sets in which languages its pages are recognised; its samples follow when it is tried on them.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="languages">The recogniser's names of them; none for those in which pages come.</param>
    /// <param name="who">Who.</param>
    public Result SetLanguages(string key, IReadOnlyList<string> languages, string who) =>
        Change(
            key,
            "set in which languages pages are recognised",
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
    /// <returns>Whether it was.</returns>
    internal async Task<bool> RecogniseAsync(Reader reader, long id, CancellationToken cancel)
    {
        if (Sample(id) is not { Page: { Method: "recognised" } page } sample || page.Languages == reader.Languages)
            return false;
        var image = folder.Absolute(sample.Image);
        if (await InLanguages.RecogniseAsync(files, image, page, reader.Languages, image + ".again", cancel) is not { } read)
            return false;
        database.Write(c => ReaderStore.SetPage(c, id, read));
        return true;
    }

    /// <summary>Sets how much trust a field needs.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="field">The field.</param>
    /// <param name="least">One of <see cref="NeededTrust.Offered"/>.</param>
    /// <param name="who">Who.</param>
    public Result Need(string key, string field, double least, string who) =>
        Change(
            key,
            "set how much trust a field needs",
            who,
            reader =>
                !NeededTrust.Offered.Contains(least) ? Result<Reader>.Not("Choose one of the shares that are offered.")
                : reader.Crosswalk.All(l => l.Field != field) ? Result<Reader>.Not("Nothing of this reader fills that field.")
                : reader with
                {
                    Trust =
                    [
                        .. reader.Trust.Where(t => t.Field != field),
                        .. least == Evidence.Sure ? Array.Empty<NeededTrust>() : [new NeededTrust(field, least)],
                    ],
                }
        );

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
                            $"The samples changed meanwhile: nothing stands beside “{label}” any more. Propose again."
                        );
                    chosen.Add((value, field));
                }
                var added = Proposing.Added(
                    reader,
                    proposal.Clues.Where(c => clues.Contains(c.Text)),
                    chosen,
                    designs.Finders(null, new Arrival(""))
                );
                return added.Finders.Count > MostFinders ? Result<Reader>.Not($"A reader has at most {MostFinders} finders.") : added;
            }
        );
    }

    /// <summary>Changes the field and the cleaning steps of a source's line.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="source">Zone, finder or piece of a code.</param>
    /// <param name="field">The field that it fills from now on.</param>
    /// <param name="steps">Cleaning on the way.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="was">The field that the line fills now, when the source has several lines.</param>
    public Result SetLine(string key, string source, string field, IReadOnlyList<CleaningStep> steps, string who, string? was = null) =>
        Change(
            key,
            "changed a crosswalk line",
            who,
            reader =>
            {
                if (field.Length == 0)
                    return Result<Reader>.Not("Choose the field that it fills.");
                if (steps.Select(CleaningSteps.Finding).FirstOrDefault(f => f is not null) is { } finding)
                    return Result<Reader>.Not(finding);
                var line = new CrosswalkLine(source, field, steps);
                var at = reader.Crosswalk.ToList().FindIndex(l => l.Source == source && (was is null || l.Field == was));
                if (reader.Crosswalk.Where((l, i) => i != at).Any(l => l.Source == source && l.Field == field))
                    return Result<Reader>.Not("Another line fills that field from the same place already.");
                return reader with
                {
                    Crosswalk = at >= 0 ? [.. reader.Crosswalk.Select((l, i) => i == at ? line : l)] : [.. reader.Crosswalk, line],
                };
            }
        );

    /// <summary>Has a source fill one more field: a place that holds several values, each with cleaning of its own.</summary>
    public Result AlsoFill(string key, string source, string field, string who) =>
        Change(
            key,
            "has one place fill several fields",
            who,
            reader =>
                TypeOf(reader)?.Find(field) is null ? Result<Reader>.Not("Choose the field that it fills too.")
                : reader.Crosswalk.All(l => l.Source != source) ? Result<Reader>.Not("This reader has no such line.")
                : reader.Crosswalk.Any(l => l.Source == source && l.Field == field) ? Result<Reader>.Not("It fills that field already.")
                : reader with { Crosswalk = [.. reader.Crosswalk, new CrosswalkLine(source, field, [])] }
        );

    /// <summary>Removes one of several lines of a source.</summary>
    public Result RemoveLine(string key, string source, string field, string who) =>
        Change(
            key,
            "removed a crosswalk line",
            who,
            reader =>
                reader.Crosswalk.Count(l => l.Source == source) < 2
                    ? Result<Reader>.Not("It is the only line of this source.")
                    : reader with
                    {
                        Crosswalk = [.. reader.Crosswalk.Where(l => l.Source != source || l.Field != field)],
                    }
        );

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

    private static Box Clamp(Box b)
    {
        double x = Math.Clamp(b.X, 0, 1),
            y = Math.Clamp(b.Y, 0, 1);
        return new Box(x, y, Math.Clamp(b.W, 0, 1 - x), Math.Clamp(b.H, 0, 1 - y));
    }
}
