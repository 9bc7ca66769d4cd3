using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>
/// Groups of labels and values that repeat down the page, each a row of a table. The label that comes first begins each of them; a group
/// may stand beside another and may go on over the page.
/// </summary>
internal static class Groups
{
    /// <summary>Most labels of one page; no page on paper has as many.</summary>
    private const int MostLabels = 4_000;

    private sealed record Label(RowColumn Column, PageLines Page, WordRun Run)
    {
        public Box Box { get; } = Run.Box;
    }

    private sealed class Group(Label key)
    {
        public Label Key { get; } = key;

        public bool LeftOut { get; set; }

        public Dictionary<string, (int Page, List<Word> Words)> Cells { get; } = new(StringComparer.Ordinal);
    }

    public static Found? Find(Search search)
    {
        var columns = search.Finder.Columns.Where(c => c.Headings.Count > 0 && search.Field.Columns.Any(f => f.Key == c.Column)).ToList();
        var (ends, leftOut) = (PageLines.Phrases(search.Finder.Words), PageLines.Phrases(search.Finder.LeftOut));
        // A value ends where the label of another begins.
        search = search with
        {
            Labels = [.. search.Labels, .. PageLines.Phrases(columns.SelectMany(c => c.Headings))],
        };
        var groups = new List<Group>();
        RowColumn? first = null;
        foreach (var page in search.Looked.OrderBy(p => p.Number))
        {
            var end = page.Lines.FirstOrDefault(l => PageLines.Holds(l, ends))?.CentreY;
            var labels = Labels(page, columns, search).Where(l => end is null || l.Run.Line.CentreY < end).ToList();
            // The words of a label may stand in a sentence too; a label begins what stands together.
            first ??= (labels.Find(l => BesideLabel.BeginsRun(l.Page, l.Run)) ?? labels.FirstOrDefault())?.Column;
            var before = groups.Count > 0 ? groups[^1] : null;
            var here = labels.Where(l => l.Column == first).Select(l => new Group(l)).ToList();
            groups.AddRange(here);
            foreach (var label in labels)
                if (Owner(label, here, before) is { } owner && !owner.Cells.ContainsKey(label.Column.Column))
                    Read(label, owner, search, leftOut);
            if (end is not null || groups.Count > FieldReader.MostRows)
                break;
        }
        var rows = groups.Where(b => b.Cells.Count > 0 && !b.LeftOut).Select(b => b.Cells).Take(FieldReader.MostRows).ToList();
        return rows.Count == 0 ? null : Rows.Give(rows, search, rows.Count == 1 ? "one group" : $"{rows.Count} groups");
    }

    // Where labels stand, in reading order; of two on the same words the better spelled one.
    private static List<Label> Labels(PageLines page, List<RowColumn> columns, Search search)
    {
        var (labels, taken) = (new List<Label>(), new HashSet<(TextLine, int)>());
        var places = columns
            .SelectMany(c => page.Find(c.Headings).Where(r => search.Allows(r.Box)).Select(r => new Label(c, page, r)))
            .OrderBy(l => l.Run.Misread)
            .ThenByDescending(l => l.Run.To - l.Run.From)
            .Take(MostLabels);
        foreach (var label in places)
        {
            var words = Enumerable.Range(label.Run.From, label.Run.To - label.Run.From).Select(i => (label.Run.Line, i)).ToList();
            if (words.Exists(taken.Contains))
                continue;
            taken.UnionWith(words);
            labels.Add(label);
        }
        return [.. labels.OrderBy(l => l.Run.Line.CentreY).ThenBy(l => l.Run.From)];
    }

    // The group whose beginning is nearest above and to the left; above any on this page, the last one of the page before.
    private static Group? Owner(Label label, List<Group> here, Group? before)
    {
        var slack = label.Run.Line.Height;
        var above = here.Where(b => b.Key.Run.Line.CentreY <= label.Run.Line.CentreY + slack / 2).ToList();
        var left = above.Where(b => b.Key.Box.X <= label.Box.X + slack).ToList();
        return (left.Count > 0 ? left : above).MaxBy(b => (Math.Round(b.Key.Run.Line.CentreY / slack), b.Key.Box.X)) ?? before;
    }

    private static void Read(Label label, Group owner, Search search, List<Phrase> leftOut)
    {
        var column = search.Field.Columns.First(c => c.Key == label.Column.Column);
        var (all, words) = BesideLabel.ValueOf(label.Page, label.Run, search with { Field = column });
        owner.LeftOut |= all.Count > 0 && PageLines.Holds(new TextLine(all), leftOut);
        if (words.Count > 0)
            owner.Cells[column.Key] = (label.Page.Number, words);
    }
}
