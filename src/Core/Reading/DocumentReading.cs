using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading;

/// <summary>What was read of a document's pages.</summary>
/// <param name="Values">Values with their evidence; of each field the one that was chosen stands first.</param>
/// <param name="Notices">What a person should know: codes that could not be divided as asked, places that disagree.</param>
public sealed record DocumentRead(IReadOnlyList<CapturedValue> Values, IReadOnlyList<string> Notices)
{
    /// <summary>The text of each field: of several sources that feed one, the first that holds anything.</summary>
    public IReadOnlyDictionary<string, string> Record { get; } =
        Values
            .Where(v => v.Text.Length > 0)
            .GroupBy(v => v.Field, StringComparer.Ordinal)
            .ToDictionary(v => v.Key, v => v.First().Text, StringComparer.Ordinal);

    /// <summary>The value of a field, or where it should stand when nothing was read; null when nothing feeds it.</summary>
    public CapturedValue? Of(string field) =>
        Values.FirstOrDefault(v => v.Field == field && v.Text.Length > 0) ?? Values.FirstOrDefault(v => v.Field == field);
}

/// <summary>
/// Reads a claimed document. The sources of a field are asked in the order of their crosswalk lines, codes before all: a code says for
/// certain what words say to people. The first whose value fits the field is taken; when another that fits says something else, a person
/// is told.
/// </summary>
public static class DocumentReading
{
    /// <summary>What is left of the trust in a value that another place contradicts.</summary>
    private const double Contradicted = 0.6;

    /// <summary>What is left of the trust in a value that is only a part of what stands in its zone.</summary>
    private const double Narrow = 0.9;

    /// <summary>Reads the pages of a document with the reader that claims one of them.</summary>
    /// <param name="pages">All pages with their numbers, from 1; the sheet that came before them is number 0.</param>
    /// <param name="claimed">Number of the page that is claimed.</param>
    /// <param name="claim">The claim.</param>
    /// <param name="type">The document type it fills; lines to fields that are gone are passed over.</param>
    /// <param name="context">Lists and pictures for finders.</param>
    /// <param name="role">What the claimed page is; one that is not a first page is read by itself, for what lies on such pages.</param>
    public static DocumentRead Read(
        IReadOnlyList<(int Number, PageText Text)> pages,
        int claimed,
        Claim claim,
        TypeFields type,
        FinderContext? context = null,
        PageRole role = PageRole.First
    )
    {
        context ??= FinderContext.None;
        var reader = claim.Reader;
        var notices = new List<string>();
        var codes = new Dictionary<string, Evidence>(StringComparer.Ordinal);
        foreach (var source in reader.Codes)
        {
            var read = source.Read(pages);
            if (read.Problem is { } problem)
                notices.Add($"The code for “{source.Key}” could not be divided: {problem}.");
            foreach (var (piece, evidence) in read.Evidence)
                codes.TryAdd(piece, evidence);
        }
        var leaves = new DocumentLeaves(pages, claimed, claim, role, context);
        if (leaves.Of(role)!.Placing.Missing is > 0 and var missing)
            notices.Add(
                $"{missing} of the {reader.Landmarks.Count(l => l.On == role)} landmarks of {reader.Name} were not found: check that its "
                    + "zones are in the right place."
            );
        if (role == PageRole.First)
            notices.AddRange(UnexpectedPages(pages, claimed, claim, context));
        var (once, told) = (new Dictionary<CrosswalkLine, CapturedValue?>(), new Dictionary<string, CapturedValue>(StringComparer.Ordinal));
        var finding = new Finding(pages, claimed, reader, leaves, context, Another);
        var keys = reader
            .Crosswalk.OrderBy(l => !codes.ContainsKey(l.Source))
            .Select(l => l.Field)
            .Distinct(StringComparer.Ordinal)
            .ToList();
        // A field that is filled from another waits for it; those that wait for one another end after as many rounds as there are.
        var changed = true;
        for (var rounds = reader.Finders.Count(Around.IsAnotherField); rounds > 0 && changed; rounds--)
        {
            changed = false;
            foreach (var key in keys)
                changed |= Tell(key);
        }
        List<CapturedValue> values = [],
            together = [];
        foreach (var key in keys)
            // A part does not look like the whole, so that nobody could say which reading of it is right.
            (IsJoined(key) ? together : values).AddRange(ValuesOf(key, notices));
        return new DocumentRead([.. SecondLook.At(values, type, context, LineOf), .. together], notices);

        bool IsJoined(string key) => reader.Joined.Any(j => j.Field == key);

        IEnumerable<CapturedValue> ValuesOf(string key, List<string> says)
        {
            if (type.Find(key) is not { } field)
                return [];
            // Parts that are joined stand in the order that the steward gave them, whether or not one is a code.
            var parts = reader
                .Crosswalk.Where(l => l.Field == key)
                .OrderBy(l => !IsJoined(key) && !codes.ContainsKey(l.Source))
                .Select(l => Read(l, field))
                .OfType<CapturedValue>()
                .ToList();
            return reader.Joined.FirstOrDefault(j => j.Field == key) is { } joined
                ? Join(field, parts, joined.Between)
                : Choose(field, parts, type, context, says);
        }

        // Notes what a field says so far; whether it says something else than before.
        bool Tell(string key)
        {
            var before = told.GetValueOrDefault(key)?.Text;
            if (ValuesOf(key, []).FirstOrDefault(v => v.Text.Length > 0) is not { } value)
                return told.Remove(key);
            told[key] = value;
            return value.Text != before;
        }

        CrosswalkLine LineOf(CapturedValue value) => reader.Crosswalk.First(l => l.Source == value.Source && l.Field == value.Field);

        CapturedValue? InZone(Zone zone, CrosswalkLine line, Field field)
        {
            if (leaves.Of(zone.On) is not { } leaf)
                return null;
            var (map, trust) = leaf.Placing.Of(zone);
            var read = ZoneReading.Read(leaf.Text, leaf.Number, zone, line, field, map) with
            {
                Source = line.Source,
                ZonePage = leaf.Number,
            };
            return read.Evidence is { } e && trust < 1 ? read with { Evidence = e with { Confidence = e.Confidence * trust } } : read;
        }

        // What was read for another field, where it was read.
        Found? Another(string key) =>
            told.GetValueOrDefault(key) is { } value
                ? new Found(
                    value.Evidence is { } place ? place with { Needed = null } : Evidence.NoPlace,
                    $"from {type.LabelOf(key)}",
                    value.Text
                )
                : null;

        // Each line is read once, but for those that ask another field, which may say more later.
        CapturedValue? Read(CrosswalkLine line, Field field)
        {
            var asks = reader.Finders.Any(f => f.Key == line.Source && Around.IsAnotherField(f));
            if (asks || !once.TryGetValue(line, out var value))
                once[line] = value = Captured(line, field);
            return reader.Trust.FirstOrDefault(t => t.Field == field.Key) is { } need && value?.Evidence is { } evidence
                ? value with
                {
                    Evidence = evidence with { Needed = need.Least },
                }
                : value;
        }

        CapturedValue? Captured(CrosswalkLine line, Field field)
        {
            if (codes.TryGetValue(line.Source, out var code))
                return Carried(line, field, code, code.Raw, code.Box) with { How = code.Method };
            if (reader.Finders.FirstOrDefault(f => f.Key == line.Source) is { } finder)
            {
                if (finding.Find(finder, field) is { } found)
                    return Carried(line, field, found.Evidence, found.Value ?? found.Evidence.Raw, found.Evidence.Box) with
                    {
                        How = found.Reason,
                    };
                var (leaf, region) = finding.Region(finder);
                return new CapturedValue(field.Key, "", null, region ?? default) { Source = line.Source, ZonePage = leaf?.Number ?? 0 };
            }
            return reader.Zones.FirstOrDefault(z => z.Key == line.Source) is { } zone ? InZone(zone, line, field) : null;
        }
    }

    // Pages that are not what the reader knows of following and last pages.
    private static IEnumerable<string> UnexpectedPages(
        IReadOnlyList<(int Number, PageText Text)> pages,
        int claimed,
        Claim claim,
        FinderContext context
    )
    {
        if (!claim.Asks(PageRole.Following) && !claim.Asks(PageRole.Last))
            yield break;
        var last = pages.Max(p => p.Number);
        foreach (var (number, text) in pages.Where(p => p.Number > 0 && (p.Number != claimed || p.Number == last)))
        {
            var role = number == last && claim.Asks(PageRole.Last) ? PageRole.Last : PageRole.Following;
            var page = number == claimed ? claim : Recognition.Try(text, claim.Reader, context.Pictures, number);
            if (number == claimed && role == PageRole.Following || page.FailingAs(role) is not [var failing, ..])
                continue;
            var kind = role == PageRole.Last ? "the last page" : "a following page";
            yield return $"Page {number} does not look like {kind} of {claim.Reader.Name}: {failing.Says}.";
        }
    }

    private static CapturedValue Carried(CrosswalkLine line, Field field, Evidence evidence, string text, Box zone) =>
        // The rows of a table are carried as they are; steps are for single values.
        new(
            field.Key,
            field.Kind.HasRows ? text : CleaningSteps.Compile(line.Steps, field)(text),
            // What stands on no page has no evidence: nobody can say that the pages do not show it.
            evidence.Page == 0
            && evidence.Method == Evidence.NoPlace.Method
                ? null
                : evidence,
            zone
        )
        {
            Source = line.Source,
        };

    // The chosen value first, then the others; nothing is thrown away, because each is a place where the value stands.
    private static IEnumerable<CapturedValue> Choose(
        Field field,
        List<CapturedValue> read,
        TypeFields type,
        FinderContext context,
        List<string> notices
    )
    {
        var fitting = read.Where(v => v.Text.Length > 0 && (read.Count == 1 || FieldFit.Fits(field, v.Text, context))).ToList();
        var chosen = fitting.FirstOrDefault() ?? read.FirstOrDefault(v => v.Text.Length > 0);
        if (chosen is null)
            return read;
        var (rest, contradicted) = (read.Where(v => v != chosen), chosen);
        if (fitting.Find(v => v.Text != chosen.Text) is { } other)
        {
            notices.Add($"{type.LabelOf(field.Key)}: “{chosen.Text}” was taken, but another place on the page says “{other.Text}”.");
            if (chosen.Evidence is { } evidence)
                contradicted = chosen with { Evidence = evidence with { Confidence = evidence.Confidence * Contradicted } };
        }
        return rest.Prepend(contradicted);
    }

    // All parts that hold anything as one value, which stands first; each part stays a place where it stands.
    private static IEnumerable<CapturedValue> Join(Field field, List<CapturedValue> parts, string between)
    {
        var filled = parts.Where(p => p.Text.Length > 0).ToList();
        if (filled.Count < 2 || field.Kind.HasRows)
            return parts;
        var evidence = filled.Select(p => p.Evidence).OfType<Evidence>().ToList();
        var whole = filled[0] with
        {
            Text = string.Join(between, filled.Select(p => p.Text)),
            Evidence = evidence is [var first, ..]
                ? first with
                {
                    Raw = string.Join(between, evidence.Select(e => e.Raw)),
                    Confidence = evidence.Min(e => e.Confidence),
                }
                : null,
            How = $"{filled.Count} places joined",
        };
        return parts.Prepend(whole);
    }

    // Pages as lines, made once when a finder asks for them.
    private sealed class Finding(
        IReadOnlyList<(int Number, PageText Text)> pages,
        int claimed,
        Reader reader,
        DocumentLeaves leaves,
        FinderContext context,
        Func<string, Found?> another
    )
    {
        private readonly Lazy<IReadOnlyList<PageLines>> _lines = new(() =>
            [.. pages.Where(p => p.Number > 0 || p.Number == claimed).OrderBy(p => p.Number).Select(p => new PageLines(p.Number, p.Text))]
        );
        private readonly Lazy<IReadOnlyList<Phrase>> _labels = new(() =>
            PageLines.Phrases(
                reader.Finders.Where(f => f.Kind == "beside").SelectMany(f => f.Words).Concat(reader.Clues.Select(c => c.Text))
            )
        );

        /// <summary>
        /// The page that a finder's region lies on, and the region there; nothing without one, or where there is no such page.
        /// </summary>
        public (DocumentLeaf? Leaf, Box? Region) Region(Finder finder) =>
            reader.Zones.FirstOrDefault(z => z.Key == finder.Key) is { } zone && leaves.Of(zone.On) is { } leaf
                ? (leaf, leaf.Placing.Of(zone).Map.FromTaught(zone.Box))
                : (null, null);

        public Found? Find(Finder finder, Field field)
        {
            if (FinderKinds.Find(finder.Kind) is not { } kind || finder.Finding is not null)
                return null;
            var (leaf, region) = Region(finder);
            if (region is null && reader.Zones.Any(z => z.Key == finder.Key))
                return null;
            var search = new Search(
                finder,
                field,
                _lines.Value,
                _lines.Value.First(p => p.Number == (leaf?.Number ?? claimed)),
                region,
                _labels.Value,
                context
            )
            {
                Other = another,
            };
            return kind.Find(search) is { } found ? found with { Evidence = Within(found.Evidence) } : null;
        }

        // What an outside text layer says of its words may lie beyond the page; evidence does not.
        private static Evidence Within(Evidence e) => e.Page == 0 ? e : e with { Box = e.Box.OnPage() };
    }
}
