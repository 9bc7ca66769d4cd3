using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading.Proposals;

/// <summary>
/// Tables that pages of one design have: headings that nearly all pages print on one line, with rows under them. Rows are read as the
/// finder that would be kept reads them, so that what is shown is what it gives.
/// </summary>
internal static class TableProposals
{
    /// <summary>Most headings of one table.</summary>
    private const int MostColumns = 12;

    /// <summary>Fewest rows, over all pages, that make a table.</summary>
    private const int FewestRows = 4;

    /// <summary>Share of the cells of rows that are filled in a table.</summary>
    private const double Filled = 0.5;

    /// <summary>So many of its keys have figures in a table whose rows are told by them.</summary>
    private const double ByFigures = 0.8;

    /// <summary>Most words that end a table, or whose rows are left out.</summary>
    private const int MostFeet = 5;

    /// <summary>Print stands on a page so often at most.</summary>
    private const double OncePerPage = 1.2;

    /// <summary>Share of rows that may begin with print; more of it is a form, not a table.</summary>
    private const double MayBePrint = 0.2;

    // A table with its cells by page.
    private sealed record Table(Finder Finder, IReadOnlyList<string> Headings, IReadOnlyList<IReadOnlyList<CellPlace>> Cells)
    {
        public int Rows => Cells.Sum(c => c.Select(p => p.Row).Distinct().Count());
    }

    /// <summary>The tables, as values whose columns are their headings, with the region of each page that their cells take.</summary>
    /// <param name="pages">The pages as lines.</param>
    /// <param name="runs">Print and what is not, of each page.</param>
    /// <param name="enough">On how many pages a heading stands at least.</param>
    public static IReadOnlyList<(ProposedValue Value, IReadOnlyList<Box?> Areas)> Of(
        IReadOnlyList<PageLines> pages,
        IReadOnlyList<List<Proposing.Run>> runs,
        int enough
    )
    {
        var kept = new List<(ProposedValue Value, IReadOnlyList<Box?> Areas)>();
        var print = PrintOn(runs);
        // The widest heading first: a part of it is no table of its own.
        foreach (var headings in HeadLines(runs, enough).OrderByDescending(h => h.Count))
        {
            if (Read(pages, headings, [], []) is not { } whole)
                continue;
            var ends = Feet(whole, print, last: false);
            var leftOut = Feet(whole, print, last: true).Except(ends, StringComparer.Ordinal).ToList();
            if (Read(pages, headings, ends, leftOut) is not { } table || !IsTable(table, enough, print))
                continue;
            var areas = table.Cells.Select(c => Box.Around(c.Select(p => p.Box))).ToList();
            if (kept.TrueForAll(k => !k.Areas.Zip(areas).Any(a => a is ({ } one, { } other) && one.Overlaps(other))))
                kept.Add((Proposed(table), areas));
        }
        return kept;
    }

    // Lines of print alone, in two pieces or more, that nearly all pages have.
    private static List<IReadOnlyList<string>> HeadLines(IReadOnlyList<List<Proposing.Run>> runs, int enough) =>
        [
            .. runs.SelectMany(
                    (page, number) =>
                        page.GroupBy(r => r.Line)
                            .Where(line => line.Count() is > 1 and <= MostColumns && line.All(r => r.IsPrint))
                            .Select(line => (number, Headings: line.OrderBy(r => r.From).Select(r => Proposing.Bare(r.Text)).ToList()))
                )
                .Where(l => l.Headings.TrueForAll(h => h.Any(char.IsLetter)) && l.Headings.Distinct(StringComparer.Ordinal).Count() > 1)
                .GroupBy(l => Folding.Letters(string.Join('\n', l.Headings)), StringComparer.Ordinal)
                .Where(g => g.Select(l => l.number).Distinct().Count() >= enough)
                .Select(g => (IReadOnlyList<string>)g.First().Headings),
        ];

    private static Table? Read(
        IReadOnlyList<PageLines> pages,
        IReadOnlyList<string> headings,
        IReadOnlyList<string> ends,
        IReadOnlyList<string> leftOut
    )
    {
        var field = new TableField("table", "Table") { Columns = [.. headings.Select((h, i) => new TextField($"c{i}", h))] };
        var finder = new Finder("table", "rows")
        {
            Columns = [.. headings.Select((h, i) => new RowColumn($"c{i}", [h]))],
            Words = ends,
            LeftOut = leftOut,
        };
        var cells = pages
            .Select(p => Rows.Find(new Search(finder, field, [p], p, null, [], FinderContext.None))?.Evidence.Cells ?? [])
            .ToList();
        return cells.TrueForAll(c => c.Count == 0) ? null : new Table(finder, headings, cells);
    }

    private static bool IsTable(Table table, int enough, IReadOnlySet<string> print)
    {
        var rows = table.Cells.Select(c => c.Select(p => p.Row).Distinct().Count()).ToList();
        var cells = table.Cells.SelectMany(c => c).ToList();
        return rows.Sum() >= FewestRows
            && rows.Count(r => r > 1) * 2 >= enough
            && cells.Count >= Filled * rows.Sum() * table.Headings.Count
            && cells.Select(c => c.Raw).Distinct(StringComparer.Ordinal).Count() > table.Headings.Count
            && cells.Count(c => c.Column == "c0" && print.Contains(Folding.Letters(Proposing.Bare(c.Raw)))) <= MayBePrint * rows.Sum();
    }

    // Print that nearly all pages have once: what stands on a page again and again are values.
    private static HashSet<string> PrintOn(IReadOnlyList<List<Proposing.Run>> runs) =>
        runs.SelectMany((page, i) => page.Where(r => r.IsPrint).Select(r => (i, Key: Folding.Letters(Proposing.Bare(r.Text)))))
            .GroupBy(r => r.Key, StringComparer.Ordinal)
            .Where(g => g.Select(r => r.i).Distinct().Count() is var on && on > 1 && g.Count() <= OncePerPage * on)
            .Select(g => g.Key)
            .ToHashSet(StringComparer.Ordinal);

    // Words of the first row of a page that is none: print, or letters where rows are told by figures. Behind it the table has ended
    // (“Total”), or, as the last row, it may go on overleaf (“Carried forward”).
    private static List<string> Feet(Table table, HashSet<string> print, bool last)
    {
        var keys = table.Cells.SelectMany(c => c).Where(c => c.Column == "c0").ToList();
        var byFigures = keys.Count(k => HasFigure(k.Raw)) >= ByFigures * keys.Count;
        bool IsFoot(CellPlace cell) =>
            cell.Column == "c0" && (print.Contains(Folding.Letters(Proposing.Bare(cell.Raw))) || byFigures && Letters(cell.Raw).Length > 0);
        return
        [
            .. table
                .Cells.Where(c => c.Count > 0)
                .Select(cells =>
                    cells.Where(IsFoot).OrderBy(c => c.Row).FirstOrDefault() is { } foot && foot.Row == cells.Max(c => c.Row) == last
                        ? Letters(foot.Raw)
                        : ""
                )
                .Where(w => w.Length > 2)
                .Distinct(StringComparer.OrdinalIgnoreCase)
                .Take(MostFeet),
        ];

        static bool HasFigure(string text) => text.Any(char.IsAsciiDigit);

        // “Least depth 3.4” ends with another number on every page.
        static string Letters(string text) => Proposing.Bare(string.Join(' ', text.Split(' ').TakeWhile(w => !HasFigure(w))));
    }

    private static ProposedValue Proposed(Table table)
    {
        var page = table.Cells.ToList().FindIndex(c => c.Count > 0);
        return new ProposedValue(
            string.Join(", ", table.Headings),
            Side.Below,
            [.. table.Cells.Select(c => Summary(c.Select(p => p.Row).Distinct().Count()))],
            FieldKind.Table,
            Box.Around(table.Cells[page].Select(c => c.Box))!.Value,
            page
        )
        {
            Columns =
            [
                .. table.Headings.Select(
                    (h, i) =>
                        new ProposedColumn(
                            h,
                            [.. table.Cells.SelectMany(c => c).Where(c => c.Column == $"c{i}").Select(c => Proposing.Bare(c.Raw))]
                        )
                ),
            ],
            Ends = table.Finder.Words,
            LeftOut = table.Finder.LeftOut,
        };
    }

    private static string Summary(int rows) =>
        rows switch
        {
            0 => "",
            1 => "one row",
            _ => $"{rows} rows",
        };
}
