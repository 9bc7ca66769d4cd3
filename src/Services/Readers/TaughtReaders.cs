using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
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
            if (Find(key) is null)
                return Result<long>.Not("There is no such reader.");
            if (IntakeCheck.Sniff(path, file.Name) is { } refused)
                return Result<long>.Not(refused);
            var check = await files.CheckAsync(path, file.Name, cancel);
            if (check.Problem is { } problem)
                return Result<long>.Not(problem);
            var pages = await files.PagesAsync(path, file.Name, check.Kind, 1, Path.Combine(folder.Pages, "s" + id), cancel);
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
            ReaderStore.Save(c, edited.Value!);
            LedgerStore.Append(c, clock.GetUtcNow(), who, change, $"reader {key}");
            return Result.Done;
        });

    /// <summary>Marks words as a clue. Words that are a clue already stop being one.</summary>
    public Result ToggleClue(string key, string text, Box box, string who) =>
        Change(
            key,
            "marked a clue",
            who,
            reader =>
            {
                var same = reader.Clues.FirstOrDefault(c => c.Text == text && c.Box.Overlaps(box));
                return reader with
                {
                    Clues = same is null ? [.. reader.Clues, new Clue(text, box)] : [.. reader.Clues.Where(c => c != same)],
                };
            }
        );

    /// <summary>Marks, moves or resizes a zone, which is named after the field it feeds.</summary>
    public Result SetZone(string key, string zoneKey, Box box, string? field, string who) =>
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
                    ? reader.Zones.Select(z => z.Key == zoneKey ? z with { Box = box } : z)
                    : reader.Zones.Append(new Zone(zoneKey, box));
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
                    Crosswalk = [.. reader.Crosswalk.Where(l => l.Source != zoneKey)],
                }
        );

    /// <summary>Changes the field and the cleaning steps of a zone.</summary>
    public Result SetLine(string key, string zoneKey, string field, IReadOnlyList<CleaningStep> steps, string who) =>
        Change(
            key,
            "changed a crosswalk line",
            who,
            reader =>
            {
                if (steps.Select(CleaningSteps.Finding).FirstOrDefault(f => f is not null) is { } finding)
                    return Result<Reader>.Not(finding);
                var line = new CrosswalkLine(zoneKey, field, steps);
                return reader with
                {
                    Crosswalk = reader.Crosswalk.Any(l => l.Source == zoneKey)
                        ? [.. reader.Crosswalk.Select(l => l.Source == zoneKey ? line : l)]
                        : [.. reader.Crosswalk, line],
                };
            }
        );

    /// <summary>Says what is true on a sample.</summary>
    public void SetTruth(long sampleId, IReadOnlyDictionary<string, string> truth) =>
        database.Write(c => ReaderStore.SetTruth(c, sampleId, truth));

    /// <summary>The proof table of a reader.</summary>
    public List<ProofRow> Prove(string key)
    {
        if (Find(key) is not { } reader || TypeOf(reader) is not { } type)
            return [];
        return [.. Samples(key).Select(s => Proof.Try(s.Name, s.Page, reader, type, s.Truth))];
    }

    /// <summary>The type a reader fills: as published, or its draft while nothing is.</summary>
    public DocumentType? TypeOf(Reader reader) =>
        designs.Published.TryGetValue(reader.TypeCode, out var published) ? published.Type.Type : designs.Find(reader.TypeCode)?.Draft;

    private static Box Clamp(Box b)
    {
        double x = Math.Clamp(b.X, 0, 1),
            y = Math.Clamp(b.Y, 0, 1);
        return new Box(x, y, Math.Clamp(b.W, 0, 1 - x), Math.Clamp(b.H, 0, 1 - y));
    }
}
