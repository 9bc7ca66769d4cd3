using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading.Proposals;

/// <summary>
/// Proposes a reader from a few pages of one design. Words that nearly all pages have are print; what stands beside them and varies are
/// values; a value is paired with the print before or over it.
/// </summary>
public static class Proposing
{
    /// <summary>Fewest pages that show what varies.</summary>
    public const int FewestPages = 2;

    /// <summary>Most pages that are compared; more say nothing new.</summary>
    public const int MostPages = 20;

    /// <summary>A word on so many of the pages is print.</summary>
    private const double OnNearlyAll = 0.8;

    /// <summary>A value on so many of the pages is one of the design.</summary>
    private const double OnMany = 0.5;

    private const double SamePlace = 0.02;
    private const int MostClues = 5;
    private const int MostClueWords = 6;
    private const int MostValues = 80;

    /// <summary>Words of a page that are compared; no printed page has as many, and the cost grows with the square.</summary>
    private const int MostWords = 4_000;

    /// <summary>A page with no more words than are compared.</summary>
    internal static PageText Limited(PageText page) =>
        page.Words.Count <= MostWords ? page : page with { Words = [.. page.Words.Take(MostWords)] };

    // A run of words on a line that are all print or all not.
    internal sealed record Run(TextLine Line, int From, int To, bool IsPrint)
    {
        public IReadOnlyList<Word> Words { get; } = [.. Line.Words.Skip(From).Take(To - From)];

        public Box Box { get; } = Reading.Box.Around(Line.Words.Skip(From).Take(To - From).Select(w => w.Box))!.Value;

        public string Text => string.Join(' ', Words.Select(w => w.Text)).TrimEnd(',', ';', '.');

        public string Key { get; } = string.Join(' ', Line.Folded.Skip(From).Take(To - From).Where(f => f.Length > 0));
    }

    /// <summary>Compares pages of one design.</summary>
    /// <param name="pages">From two to twenty pages; more are passed over.</param>
    /// <param name="type">The type whose fields they may fill.</param>
    /// <param name="context">Its vocabularies.</param>
    /// <returns>The proposal; without values when the pages have nothing in common.</returns>
    public static ReaderProposal From(IReadOnlyList<PageText> pages, TypeFields type, FinderContext context)
    {
        var all = pages.Take(MostPages).Select((p, i) => new PageLines(i, Limited(p))).ToList();
        var print = Print(all);
        var runs = all.ConvertAll(p => Runs(p, print));
        var found = new Dictionary<(string Label, Side Side), Dictionary<int, (Run Label, Run Value)>>();
        for (var i = 0; i < all.Count; i++)
            foreach (var value in runs[i].Where(r => !r.IsPrint))
                if (LabelOf(value, runs[i], all[i]) is { } label)
                {
                    var key = (label.Run.Key, label.Side);
                    var places = found.TryGetValue(key, out var known) ? known : found[key] = [];
                    places.TryAdd(i, (label.Run, value));
                }
        var many = Math.Max(2, (int)Math.Ceiling(OnMany * all.Count));
        var tables = TableProposals.Of(all, runs, many);
        var values = found
            .Where(f => f.Value.Count >= many)
            .Select(f =>
            {
                var first = f.Value.MinBy(v => v.Key);
                var texts = Enumerable.Range(0, all.Count).Select(i => f.Value.TryGetValue(i, out var v) ? v.Value.Text : "").ToList();
                return new ProposedValue(first.Value.Label.Text, f.Key.Side, texts, KindOf(texts), first.Value.Value.Box, first.Key);
            })
            // What stands in the rows of a table is no value by itself.
            .Where(v => tables.All(t => t.Areas[v.Page]?.Contains(v.Box.CentreX, v.Box.CentreY) != true))
            // What says the same on every page is print with figures in it.
            .Where(v => all.Count < 3 || v.Values.Where(t => t.Length > 0).Distinct(StringComparer.Ordinal).Count() > 1)
            .Concat(tables.Select(t => t.Value))
            .OrderBy(v => Math.Round(v.Box.CentreY, 2))
            .ThenBy(v => v.Box.X)
            .Take(MostValues)
            .ToList();
        return new ReaderProposal(
            Clues(all, runs, [.. tables.Select(t => t.Areas[0]).OfType<Box>()]),
            FieldMatching.Match(values, type, context)
        );
    }

    /// <summary>Print that nearly all pages have, the largest first.</summary>
    /// <param name="pages">Pages of one design; of a single page its own largest print.</param>
    /// <param name="most">Most of it.</param>
    internal static IReadOnlyList<string> CommonWords(IReadOnlyList<PageText> pages, int most)
    {
        var all = pages.Select((p, i) => new PageLines(i, Limited(p))).ToList();
        if (all.Count == 0)
            return [];
        var runs = Runs(all[0], Print(all.Count == 1 ? [all[0], all[0]] : all));
        return
        [
            // What stands on a page again and again are values of a table.
            .. runs.Where(r => r.IsPrint && r.Key.Count(char.IsLetter) >= 4)
                .GroupBy(r => r.Key, StringComparer.Ordinal)
                .Where(g => g.Count() <= 2)
                .Select(g => g.First())
                .OrderByDescending(r => r.Words.Max(w => w.Box.H))
                .Take(most)
                .Select(r => Bare(r.Text)),
        ];
    }

    /// <summary>A reader with clues and values of a proposal that a person chose.</summary>
    /// <param name="reader">The reader as it is.</param>
    /// <param name="clues">Clues to add; those it has already are passed over.</param>
    /// <param name="values">Values with the fields they fill.</param>
    /// <param name="context">Vocabularies of the type.</param>
    public static Reader Added(
        Reader reader,
        IEnumerable<Clue> clues,
        IEnumerable<(ProposedValue Value, Field Field)> values,
        FinderContext context
    )
    {
        reader = reader with { Clues = [.. reader.Clues, .. clues.Where(c => reader.Clues.All(k => k.Text != c.Text))] };
        foreach (var (value, field) in values)
        {
            if (field is TableField table)
            {
                reader = WithRows(reader, value, table);
                continue;
            }
            var label = Bare(value.Label);
            // Once is enough: the same label on the same side finds the same value.
            if (
                reader.Finders.Any(f =>
                    f.Kind == "beside"
                    && f.Side == value.Side
                    && f.Words.Contains(label)
                    && reader.Crosswalk.Any(l => l.Source == f.Key && l.Field == field.Key)
                )
            )
                continue;
            var key = reader.FreeKey($"{field.Key}-beside");
            reader = reader with
            {
                Finders = [.. reader.Finders, new Finder(key, "beside") { Words = [label], Side = value.Side }],
                Crosswalk =
                [
                    .. reader.Crosswalk,
                    new Cleaning.CrosswalkLine(key, field.Key, FieldMatching.StepsFor(value, field, context)),
                ],
            };
        }
        return reader;
    }

    // The finder of a table's rows, unless the reader has one with these headings.
    private static Reader WithRows(Reader reader, ProposedValue value, TableField table)
    {
        var columns = FieldMatching.Columns(value.Columns, table).Select(c => new RowColumn(c.Column.Key, [c.Heading.Heading])).ToList();
        bool Known(Finder f) =>
            f.Kind == "rows"
            && reader.Crosswalk.Any(l => l.Source == f.Key && l.Field == table.Key)
            && columns.TrueForAll(c => f.Columns.Any(k => k.Column == c.Column && k.Headings.Contains(c.Headings[0])));
        if (columns.Count == 0 || reader.Finders.Any(Known))
            return reader;
        var key = reader.FreeKey($"{table.Key}-rows");
        return reader with
        {
            Finders =
            [
                .. reader.Finders,
                new Finder(key, "rows")
                {
                    Columns = columns,
                    Words = value.Ends,
                    LeftOut = value.LeftOut,
                },
            ],
            Crosswalk = [.. reader.Crosswalk, new Cleaning.CrosswalkLine(key, table.Key, [])],
        };
    }

    // What is print: words that nearly all pages have at one distance from the left edge, and pairs of words that nearly all have. A value
    // of few words ("South Quay 2") has its words on many pages too, but neither in one place nor always beside the same.
    private sealed record Printed(IReadOnlyDictionary<string, List<double>> Places, IReadOnlySet<(string, string)> Pairs)
    {
        public bool Has(TextLine line, int at)
        {
            var word = line.Folded[at];
            if (word.Length == 0)
                return at > 0 && Has(line, at - 1);
            return Places.TryGetValue(word, out var places) && places.Exists(x => Math.Abs(x - line.Words[at].Box.X) < SamePlace)
                || at > 0 && Pairs.Contains((line.Folded[at - 1], word))
                || at + 1 < line.Words.Count && Pairs.Contains((word, line.Folded[at + 1]));
        }
    }

    private static Printed Print(List<PageLines> pages)
    {
        var enough = Math.Max(2, (int)Math.Ceiling(OnNearlyAll * pages.Count));
        var at = new Dictionary<string, List<(int Page, double X)>>(StringComparer.Ordinal);
        var pairs = new Dictionary<(string, string), HashSet<int>>();
        for (var p = 0; p < pages.Count; p++)
            foreach (var line in pages[p].Lines)
                for (var i = 0; i < line.Words.Count; i++)
                {
                    if (!IsWord(line.Folded[i]))
                        continue;
                    (at.TryGetValue(line.Folded[i], out var known) ? known : at[line.Folded[i]] = []).Add((p, line.Words[i].Box.X));
                    if (i > 0 && IsWord(line.Folded[i - 1]))
                        (
                            pairs.TryGetValue((line.Folded[i - 1], line.Folded[i]), out var on)
                                ? on
                                : pairs[(line.Folded[i - 1], line.Folded[i])] = []
                        ).Add(p);
                }
        var places = new Dictionary<string, List<double>>(StringComparer.Ordinal);
        foreach (var (word, all) in at)
        {
            var stable = all.Select(a => a.X)
                .Distinct()
                .Where(x => all.Where(a => Math.Abs(a.X - x) < SamePlace).Select(a => a.Page).Distinct().Count() >= enough)
                .ToList();
            if (stable.Count > 0)
                places[word] = stable;
        }
        return new Printed(places, pairs.Where(p => p.Value.Count >= enough).Select(p => p.Key).ToHashSet());

        // Numbers are never print.
        static bool IsWord(string folded) => folded.Any(char.IsLetter) && !folded.Any(char.IsAsciiDigit);
    }

    private static List<Run> Runs(PageLines page, Printed print)
    {
        var runs = new List<Run>();
        foreach (var line in page.Lines)
        {
            var gap = BesideLabel.WordGap * line.Height * page.Aspect;
            for (int from = 0, to; from < line.Words.Count; from = to)
            {
                var isPrint = print.Has(line, from);
                for (to = from + 1; to < line.Words.Count; to++)
                {
                    var (before, word) = (line.Words[to - 1].Box, line.Words[to].Box);
                    if (
                        print.Has(line, to) != isPrint
                        || word.X - (before.X + before.W) > gap
                        || isPrint && line.Words[to - 1].Text.EndsWith(':')
                    )
                        break;
                }
                var run = new Run(line, from, to, isPrint);
                if (run.Key.Length > 0)
                    runs.Add(run);
            }
        }
        return runs;
    }

    // The print that ends before the value on its line, else the print over it.
    private static (Run Run, Side Side)? LabelOf(Run value, List<Run> runs, PageLines page)
    {
        var before = runs.Where(r =>
                r.IsPrint && r.Line == value.Line && r.To <= value.From && value.Box.X - (r.Box.X + r.Box.W) < BesideLabel.Reach
            )
            .MaxBy(r => r.To);
        // Between a label and its value stands no other value.
        if (before is not null && !runs.Any(r => !r.IsPrint && r.Line == value.Line && r.From >= before.To && r.To <= value.From))
            return (before, Side.Right);
        // In running text a value that begins its line is followed by what says what it is.
        var slack = value.Line.Height * page.Aspect;
        if (
            runs.Find(r => r.IsPrint && r.Line == value.Line && r.From == value.To) is { } after
            && after.Box.X - (value.Box.X + value.Box.W) < slack
        )
            return (after, Side.Left);
        var above = runs.Where(r =>
                r.Line.CentreY < value.Line.CentreY
                && value.Line.CentreY - r.Line.CentreY < BesideLabel.LineReach * value.Line.Height
                && r.Box.X < value.Box.X + value.Box.W + slack
                && r.Box.X + r.Box.W > value.Box.X - slack
            )
            .MaxBy(r => r.Line.CentreY);
        return above is { IsPrint: true } ? (above, Side.Below) : null;
    }

    internal static FieldKind KindOf(IReadOnlyList<string> texts)
    {
        var given = texts.Where(t => t.Length > 0).ToList();
        bool All(string shape) =>
            given.TrueForAll(t =>
                Shapes
                    .In(new TextLine([new Word(t, default)]), new Finder("", "") { Shape = shape }, new TextField("", ""))
                    .Any(s => s.Raw.Length >= t.Trim().Length - 3)
            );
        return given.TrueForAll(t => Folding.Letters(t) is "yes" or "no") ? FieldKind.YesNo
            : All("date") ? FieldKind.Date
            : All("time") ? FieldKind.Time
            : All("amount") ? FieldKind.Decimal
            : All("number") && given.TrueForAll(t => t.Count(c => c is '.' or ',') == 1 && char.IsAsciiDigit(t[^1])) ? FieldKind.Decimal
            : All("number") && !given.Exists(t => t.Any(char.IsLetter)) && given.TrueForAll(t => t.Length < 12) ? FieldKind.WholeNumber
            : FieldKind.Text;
    }

    // The largest print first, which is the heading; then print from all over the page.
    private static List<Clue> Clues(List<PageLines> pages, List<List<Run>> runs, List<Box> tables)
    {
        var everywhere = runs[0]
            .Where(r => r.IsPrint && r.Key.Count(char.IsLetter) >= 5)
            // What stands in rows may stand in none of the next page.
            .Where(r => tables.TrueForAll(t => !t.Contains(r.Box.CentreX, r.Box.CentreY)))
            .Where(r => r.Words.Count <= MostClueWords && r.Words.All(w => w.Text.Any(char.IsLetter)))
            .Where(r => pages.TrueForAll(p => Recognition.Nearest(p.Text, Bare(r.Text), null) <= 0))
            .DistinctBy(r => r.Key)
            .ToList();
        var clues = new List<Run>();
        if (everywhere.Count > 0)
            clues.Add(everywhere.MaxBy(r => r.Words.Max(w => w.Box.H))!);
        while (clues.Count < Math.Min(MostClues, everywhere.Count))
            clues.Add(
                everywhere
                    .Except(clues)
                    .MaxBy(r => clues.Min(c => Math.Abs(c.Box.CentreY - r.Box.CentreY) + Math.Abs(c.Box.X - r.Box.X) / 3))!
            );
        return [.. clues.OrderBy(c => c.Box.Y).Select(c => new Clue(Bare(c.Text), c.Box))];
    }

    /// <summary>Print without the marks that lead to a value.</summary>
    internal static string Bare(string text) => text.Trim(' ', ':', '.', ',', '·');
}
