using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading.Proposals;

/// <summary>A way in which a reader would find a value that a person showed.</summary>
/// <param name="Says">It, in one clause: “right of ‘Passed’”.</param>
/// <param name="Apply">Adds it to a reader; to its draft as well as to what is published.</param>
public sealed record TaughtWay(string Says, Func<Reader, Reader> Apply);

/// <summary>Where on a page a value stands, and how a reader would find it there.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="Box">Its place.</param>
/// <param name="Raw">What stands there.</param>
/// <param name="Ways">Ways of finding it, the best guess first; at least one.</param>
public sealed record ValuePlace(string Field, Box Box, string Raw, IReadOnlyList<TaughtWay> Ways);

/// <summary>What a reader learns from what a person did at the desk: a value shown at another place, a page filled by hand.</summary>
public static class Correcting
{
    private const int MostLabelWords = 4;
    private const int MostValueWords = 10;
    private const int MostClues = 4;

    /// <summary>A word on so many of the samples is print.</summary>
    private const double OnNearlyAll = 0.8;

    /// <summary>Ways in which a reader would find a value where a person showed it, the best guess first.</summary>
    /// <param name="page">The page.</param>
    /// <param name="shown">The region that was shown.</param>
    /// <param name="truth">The value as it was accepted.</param>
    /// <param name="field">Its field.</param>
    /// <param name="claim">What the reader makes of this page.</param>
    /// <param name="role">What page of a document it is; null when the reader knows no such pages: then no zone is drawn.</param>
    /// <param name="samples">Pages of the same design, which tell print from values.</param>
    /// <param name="steps">Repairs that the reader uses for this field already; tried first.</param>
    public static IReadOnlyList<TaughtWay> Ways(
        PageText page,
        Box shown,
        string truth,
        Field field,
        Claim claim,
        PageRole? role,
        IReadOnlyList<PageText> samples,
        IReadOnlyList<CleaningStep> steps
    )
    {
        var lines = new PageLines(1, Proposing.Limited(page));
        if (Standing(lines, shown) is not { } value)
            return [];
        var repairs = FieldMatching.StepsTo(value.Text, truth, field, steps);
        var isPrint = PrintOn(samples);
        var ways = new List<TaughtWay>();
        // A form that changed has labels that no sample has.
        foreach (var (side, words) in Labels(lines, value, isPrint).Concat(Labels(lines, value, null)).Distinct())
        foreach (var first in new[] { true, false })
            ways.Add(
                new TaughtWay(
                    $"{FinderKinds.SideOf(side)} “{words}”{(first ? "" : ", when nothing is found otherwise")}",
                    reader => Beside(reader, field, side, words, repairs, first)
                )
            );
        if (role is { } on)
        {
            var box = new PagePlacing(page, claim, on).Whole.ToTaught(Grown(value.Box));
            var place = on switch
            {
                PageRole.Last => "the last page",
                PageRole.Following => "the page behind the first",
                _ => "the page",
            };
            foreach (var first in new[] { false, true })
                ways.Add(
                    new TaughtWay(
                        $"in this place on {place}{(first ? "" : ", when nothing is found otherwise")}",
                        reader => At(reader, field, new Zone("", box.OnPage()) { On = on }, repairs, first)
                    )
                );
        }
        return ways;
    }

    /// <summary>Where the values that a person typed stand on a page; those that stand on none of it are left out.</summary>
    /// <param name="page">The page.</param>
    /// <param name="record">Values by field.</param>
    /// <param name="type">The type.</param>
    public static IReadOnlyList<ValuePlace> Places(PageText page, IReadOnlyDictionary<string, string> record, TypeFields type)
    {
        var lines = new PageLines(1, Proposing.Limited(page));
        var found = new List<ValuePlace>();
        // The longest values first: what they take is no place for a shorter one.
        foreach (var field in type.Fields.Where(f => !f.Kind.HasRows).OrderByDescending(f => record.GetValueOrDefault(f.Key)?.Length))
        {
            if (record.GetValueOrDefault(field.Key) is not { Length: > 0 } truth)
                continue;
            var places = Standing(lines, truth, field).Where(p => found.TrueForAll(f => !f.Box.Overlaps(p.Box))).ToList();
            if (places.Count == 0)
                continue;
            // Of several places the one with a label that speaks of the field.
            var place = places.MaxBy(p => Labels(lines, p, null).Select(l => FieldMatching.Alike(l.Words, field)).DefaultIfEmpty(0).Max())!;
            var itself = new Claim(new Reader("", "", "", [], [], []), []);
            var ways = Ways(page, place.Box, truth, field, itself, PageRole.First, [], []);
            if (ways.Count > 0)
                found.Add(new ValuePlace(field.Key, place.Box, place.Text, ways));
        }
        return found;
    }

    /// <summary>Words of a page that may tell its design: its heading, and the words beside values.</summary>
    /// <param name="page">The page.</param>
    /// <param name="values">Where values stand; none of their words is a clue.</param>
    public static IReadOnlyList<Clue> Clues(PageText page, IReadOnlyList<ValuePlace> values)
    {
        var lines = new PageLines(1, Proposing.Limited(page));
        var runs = lines
            .Lines.SelectMany(l => Runs(lines, l))
            .Where(r => values.All(v => !v.Box.Overlaps(r.Box)))
            .Select(r => r with { Text = Proposing.Bare(r.Text) })
            .Where(r => r.Text.Count(char.IsLetter) >= 5 && !r.Text.Any(char.IsDigit) && r.Words.Count <= 6)
            .DistinctBy(r => Folding.Letters(r.Text))
            .ToList();
        if (runs.Count == 0)
            return [];
        var chosen = new List<WordsTogether> { runs.MaxBy(r => r.Words.Max(w => w.Box.H))! };
        bool IsLabel(WordsTogether run) =>
            values.Any(v => Labels(lines, v, null).Any(l => Folding.Letters(l.Words) == Folding.Letters(run.Text)));
        foreach (var run in runs.Except(chosen).Where(IsLabel).Take(MostClues - 1).ToList())
            chosen.Add(run);
        foreach (var run in runs.Except(chosen).OrderByDescending(r => r.Words.Max(w => w.Box.H)).Take(MostClues - chosen.Count).ToList())
            chosen.Add(run);
        return [.. chosen.OrderBy(r => r.Box.Y).Select(r => new Clue(r.Text, r.Box))];
    }

    // Words that stand together on a line.
    private sealed record WordsTogether(TextLine Line, int From, int To, string Text, Box Box)
    {
        public IReadOnlyList<Word> Words { get; } = [.. Line.Words.Skip(From).Take(To - From)];
    }

    private static WordsTogether Run(TextLine line, int from, int to)
    {
        var words = line.Words.Skip(from).Take(to - from).ToList();
        return new WordsTogether(line, from, to, string.Join(' ', words.Select(w => w.Text)), Box.Around(words.Select(w => w.Box))!.Value);
    }

    private static IEnumerable<WordsTogether> Runs(PageLines page, TextLine line)
    {
        var gap = BesideLabel.WordGap * line.Height * page.Aspect;
        for (int from = 0, to; from < line.Words.Count; from = to)
        {
            for (to = from + 1; to < line.Words.Count; to++)
                if (
                    line.Words[to].Box.X - (line.Words[to - 1].Box.X + line.Words[to - 1].Box.W) > gap
                    || line.Words[to - 1].Text.EndsWith(':')
                )
                    break;
            yield return Run(line, from, to);
        }
    }

    private static WordsTogether? Standing(PageLines page, Box shown)
    {
        foreach (var line in page.Lines)
        {
            var at = Enumerable
                .Range(0, line.Words.Count)
                .Where(i => shown.Contains(line.Words[i].Box.CentreX, line.Words[i].Box.CentreY))
                .ToList();
            if (at.Count > 0)
                return Run(line, at[0], at[^1] + 1);
        }
        return null;
    }

    private static IEnumerable<WordsTogether> Standing(PageLines page, string truth, Field field)
    {
        var ways = FieldMatching.WaysOf(field);
        foreach (var line in page.Lines)
            for (var from = 0; from < line.Words.Count; from++)
            for (var to = from + 1; to <= line.Words.Count && to - from <= MostValueWords; to++)
            {
                var run = Run(line, from, to);
                if (run.Text.Length > 2 * truth.Length + 40)
                    break;
                if (ways.Any(clean => string.Equals(clean(run.Text), truth, StringComparison.OrdinalIgnoreCase)))
                {
                    yield return run;
                    break;
                }
            }
    }

    private static IEnumerable<(Side Side, string Words)> Labels(PageLines page, ValuePlace place, Func<string, bool>? isPrint) =>
        Standing(page, place.Box) is { } value ? Labels(page, value, isPrint) : [];

    // The words before it on its line, as many of them as are print; then those over it.
    private static IEnumerable<(Side Side, string Words)> Labels(PageLines page, WordsTogether value, Func<string, bool>? isPrint)
    {
        var slack = value.Line.Height * page.Aspect;
        var line = value.Line;
        var (from, edge) = (value.From, value.Box.X);
        while (from > 0 && value.From - from < MostLabelWords)
        {
            var before = line.Words[from - 1];
            var gap = edge - (before.Box.X + before.Box.W);
            if (gap > (from == value.From ? BesideLabel.Reach : BesideLabel.WordGap * slack) || !IsLabelWord(before.Text))
                break;
            if (from < value.From && before.Text.EndsWith(':'))
                break;
            (from, edge) = (from - 1, before.Box.X);
        }
        if (from < value.From && Proposing.Bare(Run(line, from, value.From).Text) is { Length: > 1 } left && left.Any(char.IsLetter))
            yield return (Side.Right, left);
        var above = page
            .Lines.Where(l => l.CentreY < line.CentreY && line.CentreY - l.CentreY < BesideLabel.LineReach * line.Height)
            .Reverse()
            .SelectMany(l => Runs(page, l))
            .FirstOrDefault(r => r.Box.X < value.Box.X + value.Box.W + slack && r.Box.X + r.Box.W > value.Box.X - slack);
        if (
            above is not null
            && above.Words.Count <= 6
            && above.Words.All(w => IsLabelWord(w.Text))
            && Proposing.Bare(above.Text) is { Length: > 1 } over
        )
            yield return (Side.Below, over);

        bool IsLabelWord(string text) => !text.Any(char.IsDigit) && (isPrint is null || isPrint(text));
    }

    private static Func<string, bool>? PrintOn(IReadOnlyList<PageText> samples)
    {
        if (samples.Count < 2)
            return null;
        var pages = samples.Select(s => s.Words.Select(w => Folding.Letters(w.Text)).ToHashSet(StringComparer.Ordinal)).ToList();
        return text =>
            Folding.Letters(text) is var folded
            && (folded.Length == 0 || pages.Count(p => p.Contains(folded)) >= OnNearlyAll * pages.Count);
    }

    private static Reader Beside(Reader reader, Field field, Side side, string label, IReadOnlyList<CleaningStep> steps, bool first)
    {
        var key = reader.FreeKey($"{field.Key}-beside");
        return With(
            reader with
            {
                Finders = [.. reader.Finders, new Finder(key, "beside") { Words = [label], Side = side }],
            },
            new CrosswalkLine(key, field.Key, steps),
            first
        );
    }

    private static Reader At(Reader reader, Field field, Zone zone, IReadOnlyList<CleaningStep> steps, bool first)
    {
        var key = reader.FreeKey(field.Key);
        return With(reader with { Zones = [.. reader.Zones, zone with { Key = key }] }, new CrosswalkLine(key, field.Key, steps), first);
    }

    private static Reader With(Reader reader, CrosswalkLine line, bool first) =>
        reader with
        {
            Crosswalk = first ? [line, .. reader.Crosswalk] : [.. reader.Crosswalk, line],
        };

    private static Box Grown(Box box) => new Box(box.X - 0.006, box.Y - 0.004, box.W + 0.05, box.H + 0.008).OnPage();
}
