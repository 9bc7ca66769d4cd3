namespace ClearLexicon.Core.Reading.Finders;

/// <summary>The value that stands beside a label, wherever the label stands.</summary>
internal static class BesideLabel
{
    /// <summary>Widest gap between a label and its value, in shares of the page's width.</summary>
    internal const double Reach = 0.45;

    /// <summary>Widest gap between two words of a value, in heights of the line.</summary>
    internal const double WordGap = 2.6;

    /// <summary>How far below or above a label its value begins, in heights of the line.</summary>
    internal const double LineReach = 4.5;

    private const double MisreadLabel = 0.92;

    public static Found? Find(Search search)
    {
        Found? gentle = null;
        foreach (var page in search.Looked)
        foreach (
            var label in page.Find(search.Finder.Words)
                .Where(l => search.Allows(l.Box))
                .OrderBy(l => l.Misread)
                // The words of a label may stand in a heading or a sentence too; a label begins what stands together.
                .ThenBy(l => !BeginsRun(page, l))
        )
        {
            var words = Beside(page, label, search);
            if (words.Count == 0 || InShape(words, search) is not { } shaped)
                continue;
            var sure = label.Misread > 0 ? MisreadLabel : 1;
            var text = string.Join(' ', label.Words.Select(w => w.Text));
            var found = new Found(
                Search.EvidenceOf(page, [.. shaped.Words], shaped.Raw, sure),
                $"{FinderKinds.SideOf(search.Finder.Side)} “{text}”{(label.Misread > 0 ? ", which may be misread" : "")}",
                shaped.Value
            );
            if (shaped.Fits)
                return found;
            // What has not the shape of the field is taken only when nothing beside another place of the label has it.
            gentle ??= found;
        }
        return gentle;
    }

    /// <summary>All words that stand beside a label, and those of them that are the value; both empty when nothing stands there.</summary>
    internal static (List<Word> All, List<Word> Value) ValueOf(PageLines page, WordRun label, Search search) =>
        Beside(page, label, search) is { Count: > 0 } words
            ? (words, InShape(words, search) is { } shaped ? [.. shaped.Words] : [])
            : ([], []);

    internal static bool BeginsRun(PageLines page, WordRun label) =>
        label.From == 0
        || label.Line.Words[label.From - 1].Box is var before
            && label.Line.Words[label.From].Box.X - (before.X + before.W) > WordGap * label.Line.Height * page.Aspect;

    private static List<Word> Beside(PageLines page, WordRun label, Search search) =>
        search.Finder.Side switch
        {
            Side.Right => Behind(page, label.Line, label.To, label.Box.X + label.Box.W, search.Labels),
            Side.Left => Before(page, label),
            Side.Below => OtherLine(page, label, search.Labels, 1),
            _ => OtherLine(page, label, search.Labels, -1),
        };

    // From a word of a line to the right, until a gap, or until a label of another value begins.
    private static List<Word> Behind(PageLines page, TextLine line, int from, double edge, IReadOnlyList<Phrase> labels)
    {
        var taken = new List<Word>();
        var gap = WordGap * line.Height * page.Aspect;
        for (var i = from; i < line.Words.Count; i++)
        {
            var word = line.Words[i];
            // A colon or a row of dots leads to the value and is no part of it.
            if (taken.Count == 0 && !word.Text.Any(char.IsLetterOrDigit))
                continue;
            if (word.Box.X - edge > (taken.Count == 0 ? Reach : gap) || PageLines.StandsAt(line, i, labels))
                break;
            taken.Add(word);
            edge = word.Box.X + word.Box.W;
        }
        return taken;
    }

    private static List<Word> Before(PageLines page, WordRun label)
    {
        var taken = new List<Word>();
        var (edge, gap) = (label.Box.X, WordGap * label.Line.Height * page.Aspect);
        for (var i = label.From - 1; i >= 0; i--)
        {
            var word = label.Line.Words[i];
            if (edge - (word.Box.X + word.Box.W) > (taken.Count == 0 ? Reach : gap))
                break;
            taken.Insert(0, word);
            edge = word.Box.X;
        }
        return taken;
    }

    // The nearest line over or under the label that has a word within its width, read from there.
    private static List<Word> OtherLine(PageLines page, WordRun label, IReadOnlyList<Phrase> labels, int way)
    {
        var (box, slack) = (label.Box, label.Line.Height * page.Aspect);
        var near = page
            .Lines.Where(l => (l.CentreY - box.CentreY) * way > box.H * 0.6 && Math.Abs(l.CentreY - box.CentreY) < LineReach * box.H)
            .OrderBy(l => Math.Abs(l.CentreY - box.CentreY));
        foreach (var line in near)
        {
            var from = -1;
            for (var i = 0; i < line.Words.Count && from < 0; i++)
                if (line.Words[i].Box is var b && b.X + b.W > box.X - slack && b.X < box.X + box.W + slack)
                    from = i;
            if (from < 0)
                continue;
            // A value may begin left of its label's first letter by a word or two.
            while (from > 0 && line.Words[from].Box.X - (line.Words[from - 1].Box.X + line.Words[from - 1].Box.W) < slack)
                from--;
            return Behind(page, line, from, line.Words[from].Box.X, labels);
        }
        return [];
    }

    private static (IEnumerable<Word> Words, string Raw, string? Value, bool Fits)? InShape(List<Word> words, Search search)
    {
        var shape = search.Finder.Shape.Length > 0 ? search.Finder.Shape : search.Field.Kind.Shape(search.Field);
        // What the field holds by itself is asked for gently: a value that has not quite the shape is shown, and judged, as it stands.
        var asked = search.Finder.Shape.Length > 0;
        var line = new TextLine(words);
        if (!asked && FromList.OfVocabulary(search.Field, search.Context) is { } terms)
        {
            // A term that stands there is the value, without what is written around it.
            var hits = terms.In([line]).ToList();
            if (hits.Count > 0)
                return (search.Finder.Side == Side.Left ? hits[^1] : hits[0]) is var hit
                    ? (hit.Run.Words, Text(hit.Run), hit.Value, true)
                    : null;
        }
        if (shape != "text")
        {
            var found = Shapes.In(line, search.Finder, search.Field).ToList();
            if (found.Count > 0)
                return (search.Finder.Side == Side.Left ? found[^1] : found[0]) is var (run, raw) ? (run.Words, raw, null, true) : null;
        }
        return asked && shape != "text"
            ? null
            : (
                words,
                string.Join(' ', words.Select(w => w.Text)),
                null,
                shape == "text" && FromList.OfVocabulary(search.Field, search.Context) is null
            );

        static string Text(WordRun run) => string.Join(' ', run.Words.Select(w => w.Text));
    }
}
