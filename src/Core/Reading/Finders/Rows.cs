using System.Globalization;
using System.Text.Json;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>Rows of a table on paper: columns under their headings, over as many pages as it goes.</summary>
internal static class Rows
{
    /// <summary>A gap so many times the usual distance of two lines ends the table.</summary>
    private const double EndGap = 3.2;

    /// <summary>Headings may stand on so many lines.</summary>
    private const int HeadLines = 3;

    internal static readonly JsonSerializerOptions Written = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private sealed record Head(int Last, IReadOnlyList<(RowColumn Column, Box Box)> Columns);

    private sealed record Row(int Page, Dictionary<string, List<Word>> Cells);

    public static Found? Find(Search search)
    {
        var columns = search.Finder.Columns.Where(c => c.Headings.Count > 0 && search.Field.Columns.Any(f => f.Key == c.Column)).ToList();
        var rows = new List<Row>();
        Head? head = null;
        double[]? bounds = null;
        foreach (var page in search.Looked.OrderBy(p => p.Number))
        {
            var here = Heading(page, columns, search);
            if (here is null && head is null)
                continue;
            // A table that goes on repeats its headings, or begins at the top of the page as it stood on the one before.
            var from = here is null ? 0 : here.Last + 1;
            head = here ?? head!;
            if (here is not null || bounds is null)
                bounds = Bounds(page, head, from);
            var (read, ended) = Body(page, head, bounds, from, search, here is null);
            rows.AddRange(read);
            if (ended || rows.Count >= FieldReader.MostRows)
                break;
        }
        if (rows.Count == 0)
            return null;
        var cells = rows.Take(FieldReader.MostRows).Select(r => r.Cells.ToDictionary(c => c.Key, c => (r.Page, c.Value))).ToList();
        return Give(cells, search, cells.Count == 1 ? "one row" : $"{cells.Count} rows");
    }

    /// <summary>Rows of cells as the value of a table field, each cell with its place.</summary>
    /// <param name="rows">Words by column, with their page; at least one row with at least one cell.</param>
    /// <param name="search">What was looked for.</param>
    /// <param name="says">What was found, in a few words.</param>
    internal static Found Give(List<Dictionary<string, (int Page, List<Word> Words)>> rows, Search search, string says)
    {
        var cells = new List<CellPlace>();
        var texts = new List<Dictionary<string, string>>();
        for (var r = 0; r < rows.Count; r++)
        {
            var row = new Dictionary<string, string>(StringComparer.Ordinal);
            foreach (var (column, (page, words)) in rows[r])
            {
                var raw = string.Join(' ', words.Select(w => w.Text));
                row[column] = Text(search.Field.Columns.First(c => c.Key == column), raw);
                var box = Box.Around(words.Select(w => w.Box))!.Value;
                cells.Add(new CellPlace(r + 1, column, page, box, raw, words.Min(w => w.Confidence)));
            }
            texts.Add(row);
        }
        var json = JsonSerializer.Serialize(texts, Written);
        var first = cells[0].Page;
        var around = Box.Around(cells.Where(c => c.Page == first).Select(c => c.Box))!.Value;
        var evidence = new Evidence(first, around, json, search.Claimed.Text.Method, cells.Min(c => c.Confidence)) { Cells = cells };
        var pages = cells.Select(c => c.Page).Distinct().Count();
        return new Found(evidence, pages > 1 ? $"{says} on {pages} pages" : says, json);
    }

    // Numbers and dates of a cell as their column keeps them; what cannot be read stays as it stands.
    internal static string Text(Field column, string raw) =>
        column.Kind.Measure == Measure.Number
            ? TextCleaning.ReadNumber(
                raw,
                raw.LastIndexOf(',') > raw.LastIndexOf('.') && raw.Length - raw.LastIndexOf(',') != 4 ? ',' : '.',
                column as AmountField
            )
            : raw;

    // The lines in which most headings stand, within a few lines of each other.
    private static Head? Heading(PageLines page, List<RowColumn> columns, Search search)
    {
        var places = columns
            .SelectMany(c => page.Find(c.Headings).Where(r => search.Allows(r.Box)).Select(r => (Column: c, r.Box, r.Line, r.Misread)))
            .ToList();
        if (places.Count == 0)
            return null;
        var best = places
            .Select(p => p.Line)
            .Distinct()
            .Select(line =>
            {
                var band = line.Height * HeadLines;
                var within = places
                    .Where(p => p.Line.CentreY >= line.CentreY - 1e-9 && p.Line.CentreY - line.CentreY <= band)
                    .GroupBy(p => p.Column)
                    .Select(g => g.MinBy(p => (p.Misread, p.Line.CentreY)))
                    .ToList();
                return (Line: line, Within: within);
            })
            .MaxBy(b => b.Within.Count);
        if (best.Within.Count < Math.Max(1, (columns.Count + 1) / 2))
            return null;
        var lines = page.Lines.ToList();
        return new Head(
            best.Within.Max(w => lines.IndexOf(w.Line)),
            [.. best.Within.OrderBy(w => w.Box.CentreX).Select(w => (w.Column, w.Box))]
        );
    }

    // Between two columns: the middle of the widest white strip between the middles of their headings.
    private static double[] Bounds(PageLines page, Head head, int from)
    {
        var bounds = new double[head.Columns.Count - 1];
        var words = page.Lines.Skip(from).Take(60).SelectMany(l => l.Words).Select(w => w.Box).OrderBy(b => b.X).ToList();
        for (var i = 0; i < bounds.Length; i++)
        {
            var (left, right) = (head.Columns[i].Box, head.Columns[i + 1].Box);
            var (start, end) = (left.CentreX, right.CentreX);
            var (widest, middle, edge) = (0.0, (left.X + left.W + right.X) / 2, start);
            foreach (var b in words.Where(b => b.X + b.W > start && b.X < end).Append(new Box(end, 0, 0, 0)))
            {
                if (b.X - edge > widest)
                    (widest, middle) = (b.X - edge, (b.X + edge) / 2);
                edge = Math.Max(edge, b.X + b.W);
            }
            bounds[i] = middle;
        }
        return bounds;
    }

    private static (List<Row> Rows, bool Ended) Body(PageLines page, Head head, double[] bounds, int from, Search search, bool goesOn)
    {
        var rows = new List<Row>();
        var (ends, leftOut) = (PageLines.Phrases(search.Finder.Words), PageLines.Phrases(search.Finder.LeftOut));
        var (key, keyField) = (head.Columns[0].Column.Column, search.Field.Columns.First(c => c.Key == head.Columns[0].Column.Column));
        // Left of the first heading and right of the last nothing belongs to the table, within what a wide cell needs.
        var (leftEdge, rightEdge) = (head.Columns[0].Box.X - 0.06, head.Columns[^1].Box.X + head.Columns[^1].Box.W + 0.12);
        double last = -1,
            pitch = 0;
        for (var at = from; at < page.Lines.Count; at++)
        {
            var line = page.Lines[at];
            if (PageLines.Holds(line, ends))
                return (rows, true);
            var step = last < 0 ? 0 : line.CentreY - last;
            if (pitch > 0 && step > EndGap * pitch)
                return (rows, true);
            var cells = Cells(line, head, bounds, leftEdge, rightEdge);
            if (cells.Count == 0)
                continue;
            last = line.CentreY;
            if (PageLines.Holds(line, leftOut))
                continue;
            var begins = cells.TryGetValue(key, out var keyed) && Fits(keyField, keyed);
            if (begins)
            {
                // On a page without headings the table goes on only where it did: at the top, in its columns.
                if (rows.Count > 0 && step > 0)
                    pitch = pitch == 0 ? step : Math.Min(Math.Max(pitch, step), pitch * 1.6);
                rows.Add(new Row(page.Number, cells));
            }
            else if (rows.Count > 0 && (pitch == 0 ? step < line.Height * 2.2 : step < pitch * 0.95 || cells.Count < head.Columns.Count))
                // A cell on two lines.
                foreach (var (column, words) in cells)
                    (rows[^1].Cells.TryGetValue(column, out var above) ? above : rows[^1].Cells[column] = []).AddRange(words);
            else if (!goesOn || rows.Count > 0)
                return (rows, rows.Count > 0);
        }
        return (rows, false);
    }

    // Whether a key cell is one: a number where the column holds numbers, else anything with a letter or digit.
    private static bool Fits(Field field, List<Word> words)
    {
        var raw = string.Join(' ', words.Select(w => w.Text));
        return field.Kind.Measure == Measure.Number ? raw.Any(char.IsAsciiDigit)
            : field.Kind.Measure == Measure.Day ? raw.Count(char.IsAsciiDigit) >= 3
            : raw.Any(char.IsLetterOrDigit);
    }

    private static Dictionary<string, List<Word>> Cells(TextLine line, Head head, double[] bounds, double leftEdge, double rightEdge)
    {
        var cells = new Dictionary<string, List<Word>>(StringComparer.Ordinal);
        foreach (var word in line.Words)
        {
            // Rules between columns are read as letters of no meaning.
            if (!word.Text.Any(char.IsLetterOrDigit) && word.Text is not ("-" or "–" or "—"))
                continue;
            var x = word.Box.CentreX;
            if (x < leftEdge || x > rightEdge)
                continue;
            var i = 0;
            while (i < bounds.Length && x >= bounds[i])
                i++;
            var column = head.Columns[i].Column.Column;
            (cells.TryGetValue(column, out var words) ? words : cells[column] = []).Add(word);
        }
        return cells;
    }
}
