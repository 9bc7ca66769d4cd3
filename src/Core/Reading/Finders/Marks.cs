using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>Boxes that are filled with a pen, words that are ringed, and places that are signed.</summary>
internal static class Marks
{
    /// <summary>A box whose inside is at least so dark is filled: a thin tick darkens a tenth of it.</summary>
    private const double Filled = 0.07;

    /// <summary>Up to this it is empty: print that touches its edge, and dust.</summary>
    private const double Empty = 0.03;

    /// <summary>A box that is so many times as dark as the next was meant, and the other is a slip.</summary>
    private const double Clearly = 3;

    /// <summary>Boxes of one group are of one size.</summary>
    private const double OfOneSize = 0.65;
    private const double Doubtful = 0.4;
    private const double Reach = 0.3;
    private const double Ring = 0.012;

    public static Found? Find(Search search)
    {
        if (search.Region is not { } region || search.Context.Pictures is not { } ink)
            return null;
        var page = search.Claimed;
        var squares = ink.Boxes(page.Number, region).Where(b => !IsLetter(page, b.Box)).ToList();
        var largest = squares.Count == 0 ? 0 : squares.Max(b => b.Box.W);
        var boxes = squares.Where(b => b.Box.W > OfOneSize * largest).Select(b => (b.Box, b.Ink, Label: LabelOf(page, b.Box))).ToList();
        if (search.Field.Kind.Measure == Measure.Truth && boxes.Count > 0)
            return YesNo(page, boxes);
        var named = boxes.Select(b => (b.Box, b.Ink, Value: ValueOf(search, b.Label))).Where(b => b.Value is not null).ToList();
        if (named.Count == 0)
            return search.Field.Kind.Measure == Measure.Truth ? null : Ringed(search, page, region, ink);
        var filled = named.Where(b => b.Ink > Empty).OrderByDescending(b => b.Ink).ToList();
        if (filled.Count == 0)
            return null;
        if (search.Field.Kind.IsMultiple)
        {
            var sure = filled.All(b => b.Ink >= Filled) ? 1 : Doubtful;
            var inOrder = named.Where(b => b.Ink > Empty).ToList();
            return Give(
                page,
                Box.Around(inOrder.Select(b => b.Box))!.Value,
                string.Join("; ", inOrder.Select(b => b.Value)),
                sure,
                $"{inOrder.Count} boxes are filled"
            );
        }
        var best = filled[0];
        var (also, clear) = (filled.Count > 1, filled.Count == 1 || best.Ink > Clearly * filled[1].Ink);
        var trust =
            best.Ink < Filled || !clear ? Doubtful
            : also ? 0.7
            : 1;
        return Give(page, best.Box, best.Value!, trust, also ? $"{filled.Count} boxes are filled where one is asked" : "its box is filled");
    }

    public static Found? Written(Search search)
    {
        if (search.Region is not { } region || search.Context.Pictures is not { } ink)
            return null;
        var printed = search.Claimed.Text.Words.Where(w => w.Confidence >= 0.6 && w.Text.Count(char.IsLetterOrDigit) >= 2);
        return ink.Handwriting(search.Claimed.Number, region, [.. printed.Select(w => w.Box)]) is { } written
            ? Give(search.Claimed, written, "yes", 1, "something is written there")
            : Give(search.Claimed, region, "no", 1, "nothing is written there");
    }

    private static Found? YesNo(PageLines page, List<(Box Box, double Ink, IReadOnlyList<Word> Label)> boxes)
    {
        var best = boxes.MaxBy(b => b.Ink);
        // One box without such a word is the question itself; with one it is half of a pair whose other half was not seen.
        if (boxes.Count == 1 && !best.Label.Any(w => Said(w.Text) is not null))
            return Give(
                page,
                best.Box,
                best.Ink > (Empty + Filled) / 2 ? "yes" : "no",
                best.Ink is > Empty and < Filled ? Doubtful : 1,
                best.Ink > Empty ? "its box is filled" : "its box is empty"
            );
        // Two boxes say yes and no, in the words beside them.
        var said = boxes
            .Where(b => b.Ink > Empty)
            .Select(b => (b.Box, b.Ink, Value: b.Label.Select(w => Said(w.Text)).FirstOrDefault(v => v is not null)))
            .Where(b => b.Value is not null)
            .OrderByDescending(b => b.Ink)
            .ToList();
        return said.Count == 0
            ? null
            : Give(
                page,
                said[0].Box,
                said[0].Value!,
                said[0].Ink < Filled || said.Count > 1 ? Doubtful : 1,
                said.Count > 1 ? "both boxes are filled" : "its box is filled"
            );
    }

    // A round letter within a word is square enough to be taken for a box.
    private static bool IsLetter(PageLines page, Box box) =>
        page.Text.Words.Any(w =>
            w.Box.Contains(box.CentreX, box.CentreY) && w.Box.W > 1.5 * box.W && w.Text.Count(char.IsLetterOrDigit) > 1
        );

    private static string? Said(string word) =>
        Vocabularies.Folding.Letters(word) switch
        {
            "yes" or "ja" or "oui" => "yes",
            "no" or "nein" or "non" => "no",
            _ => null,
        };

    // The words behind a box on its line, up to a gap.
    private static IReadOnlyList<Word> LabelOf(PageLines page, Box box)
    {
        var taken = new List<Word>();
        var edge = box.X + box.W;
        foreach (
            var word in page
                .Text.Words.Where(w => Math.Abs(w.Box.CentreY - box.CentreY) < box.H * 0.9 && w.Box.CentreX > edge)
                .OrderBy(w => w.Box.X)
        )
        {
            if (word.Box.X - edge > (taken.Count == 0 ? Math.Min(Reach, 2.5 * box.W) : 1.1 * box.W))
                break;
            taken.Add(word);
            edge = word.Box.X + word.Box.W;
        }
        return taken;
    }

    private static string? ValueOf(Search search, IReadOnlyList<Word> label)
    {
        if (label.Count == 0)
            return null;
        if (search.Field is TextField)
            return string.Join(' ', label.Select(w => w.Text));
        return FromList.OfVocabulary(search.Field, search.Context)?.In([new TextLine(label)]).Select(h => h.Value).FirstOrDefault();
    }

    // A word of the vocabulary that somebody drew a ring around, or struck through.
    private static Found? Ringed(Search search, PageLines page, Box region, IPagePictures ink)
    {
        if (FromList.OfVocabulary(search.Field, search.Context) is not { } index)
            return null;
        var words = index.In(page.Lines).Where(h => region.Contains(h.Run.Box.CentreX, h.Run.Box.CentreY)).ToList();
        var printed = page.Text.Words.Select(w => w.Box).ToList();
        var ringed = words.Where(h => ink.Handwriting(page.Number, Wider(h.Run.Box), printed) is not null).ToList();
        return ringed.Count == 0
            ? null
            : Give(
                page,
                ringed[0].Run.Box,
                ringed[0].Value,
                ringed.Count > 1 ? Doubtful : 0.9,
                ringed.Count > 1 ? $"{ringed.Count} words are marked where one is asked" : "it is marked by hand"
            );
    }

    private static Box Wider(Box box) => new(box.X - Ring, box.Y - Ring, box.W + 2 * Ring, box.H + 2 * Ring);

    private static Found Give(PageLines page, Box box, string value, double sure, string reason) =>
        new(new Evidence(page.Number, box, value, "marked by pen", sure), reason, value);
}
