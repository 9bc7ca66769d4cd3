using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Finders;

namespace ClearLexicon.Services.Readers;

/// <summary>Where the values of a reader come from: zones, codes and finders, and the crosswalk lines that carry them on.</summary>
public sealed class ReaderSources(TaughtReaders readers)
{
    /// <summary>Marks, moves or resizes a zone, which is named after the field it feeds.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="zoneKey">The zone.</param>
    /// <param name="box">Where it lies on the page it is drawn on.</param>
    /// <param name="field">The field that a new one feeds.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="on">What page of a document it is drawn on.</param>
    public Result SetZone(string key, string zoneKey, Box box, string? field, string who, PageRole on = PageRole.First) =>
        readers.Change(
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
        readers.Change(
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
    /// <param name="key">The reader.</param>
    /// <param name="source">The source.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="guard">Says why it must not be put in place of what is there; null when it may.</param>
    public Result SetCodes(string key, CodeSource source, string who, Func<CodeSource?, string?>? guard = null) =>
        readers.Change(
            key,
            "set which codes are read",
            who,
            reader =>
            {
                if (source.Key.Length is 0 or > 60 || source.Key.Contains('/', StringComparison.Ordinal))
                    return Result<Reader>.Not("Write a name without a slash, at most 60 characters.");
                if (source.Finding is { } finding)
                    return Result<Reader>.Not(finding);
                if (guard?.Invoke(reader.Codes.FirstOrDefault(s => s.Key == source.Key)) is { } changed)
                    return Result<Reader>.Not(changed);
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
        readers.Change(
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
    /// <param name="guard">Says why it must not be put in place of what is there; null when it may.</param>
    /// <returns>The finder's key.</returns>
    public Result<string> SetFinder(string key, Finder finder, string field, string who, Func<Finder?, string?>? guard = null)
    {
        var named = finder.Key;
        var changed = readers.Change(
            key,
            "set how a value is found",
            who,
            reader =>
            {
                if (readers.TypeOf(reader)?.Find(field) is not { } target)
                    return Result<Reader>.Not("Choose the field that it fills.");
                if (finder.Finding is { } finding)
                    return Result<Reader>.Not(finding);
                if (FinderKinds.For(target).All(k => k.Code != finder.Kind))
                    return Result<Reader>.Not($"{target.Label} cannot be found that way.");
                if (finder.Kind == "field" && OtherField(readers.TypeOf(reader)!, finder.Text, target) is { } wrong)
                    return Result<Reader>.Not(wrong);
                var known = reader.Finders.Any(f => f.Key == finder.Key);
                if (!known && finder.Key.Length > 0)
                    return Result<Reader>.Not("This reader no longer has that finder.");
                if (!known && reader.Finders.Count >= MostFinders)
                    return Result<Reader>.Not($"A reader has at most {MostFinders} finders.");
                if (known && guard?.Invoke(reader.Finders.First(f => f.Key == finder.Key)) is { } by)
                    return Result<Reader>.Not(by);
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
        readers.Change(
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
        readers.Change(
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
        readers.Change(
            key,
            between is null ? "took the first place of a field again" : "joined the places of a field",
            who,
            reader =>
                between is { Length: > JoinedPlaces.LongestBetween } || between?.Any(char.IsControl) == true
                    ? Result<Reader>.Not($"Between two parts there can be at most {JoinedPlaces.LongestBetween} characters of one line.")
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

    /// <summary>Sets how much trust a field needs.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="field">The field.</param>
    /// <param name="least">One of <see cref="NeededTrust.Offered"/>.</param>
    /// <param name="who">Who.</param>
    public Result Need(string key, string field, double least, string who) =>
        readers.Change(
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

    /// <summary>Changes the field and the cleaning steps of a source's line.</summary>
    /// <param name="key">The reader.</param>
    /// <param name="source">Zone, finder or piece of a code.</param>
    /// <param name="field">The field that it fills from now on.</param>
    /// <param name="steps">Cleaning on the way.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="was">The field that the line fills now, when the source has several lines.</param>
    public Result SetLine(string key, string source, string field, IReadOnlyList<CleaningStep> steps, string who, string? was = null) =>
        readers.Change(
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
        readers.Change(
            key,
            "has one place fill several fields",
            who,
            reader =>
                readers.TypeOf(reader)?.Find(field) is null ? Result<Reader>.Not("Choose the field that it fills too.")
                : reader.Crosswalk.All(l => l.Source != source) ? Result<Reader>.Not("This reader has no such line.")
                : reader.Crosswalk.Any(l => l.Source == source && l.Field == field) ? Result<Reader>.Not("It fills that field already.")
                : reader with { Crosswalk = [.. reader.Crosswalk, new CrosswalkLine(source, field, [])] }
        );

    /// <summary>Removes one of several lines of a source.</summary>
    public Result RemoveLine(string key, string source, string field, string who) =>
        readers.Change(
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

    private static Box Clamp(Box b)
    {
        double x = Math.Clamp(b.X, 0, 1),
            y = Math.Clamp(b.Y, 0, 1);
        return new Box(x, y, Math.Clamp(b.W, 0, 1 - x), Math.Clamp(b.H, 0, 1 - y));
    }
}
