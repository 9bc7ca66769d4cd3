namespace ClearLexicon.Core.Reading;

/// <summary>What becomes of words and of evidence when pages of a document are turned, or get other numbers.</summary>
public static class PageMoves
{
    /// <summary>A region of a page that is turned.</summary>
    /// <param name="box">The region before.</param>
    /// <param name="degrees">Clockwise: 90, 180 or 270.</param>
    public static Box Turned(Box box, int degrees) =>
        degrees switch
        {
            90 => new Box(1 - box.Y - box.H, box.X, box.H, box.W),
            180 => new Box(1 - box.X - box.W, 1 - box.Y - box.H, box.W, box.H),
            270 => new Box(box.Y, 1 - box.X - box.W, box.H, box.W),
            _ => throw new ArgumentOutOfRangeException(nameof(degrees), degrees, "Pages are turned by quarters."),
        };

    /// <summary>
    /// The words, codes and size of a page that is turned; words in reading order, and how it lay when it came told anew.
    /// </summary>
    /// <param name="text">The page before.</param>
    /// <param name="degrees">Clockwise: 90, 180 or 270.</param>
    public static PageText Turned(PageText text, int degrees)
    {
        var swaps = degrees != 180;
        var words = text.Words.Select(w => w with { Box = Turned(w.Box, degrees) }).Select(w => (w, w.Box.CentreX, w.Box.CentreY));
        return text with
        {
            Width = swaps ? text.Height : text.Width,
            Height = swaps ? text.Width : text.Height,
            Words = [.. ZoneReading.Lines(words).SelectMany(line => line)],
            Codes = [.. text.Codes.Select(c => c with { Box = Turned(c.Box, degrees) })],
            Unread = [.. text.Unread.Select(b => Turned(b, degrees))],
            Size = swaps && text.Size is { } size ? new PageSize(size.Height, size.Width) : text.Size,
            Lay = text.Lay with { Turned = (text.Lay.Turned + degrees) % 360 },
        };
    }

    /// <summary>Evidence on a page that is turned.</summary>
    /// <param name="evidence">The evidence before.</param>
    /// <param name="page">The page, from 1.</param>
    /// <param name="degrees">Clockwise: 90, 180 or 270.</param>
    public static Evidence Turned(Evidence evidence, int page, int degrees)
    {
        Box Of(int on, Box box) => on == page ? Turned(box, degrees) : box;
        return evidence with
        {
            Box = Of(evidence.Page, evidence.Box),
            Also = [.. evidence.Also.Select(b => Of(evidence.Page, b))],
            Elsewhere = [.. evidence.Elsewhere.Select(e => e with { Box = Of(e.Page, e.Box) })],
            Cells = [.. evidence.Cells.Select(c => c with { Box = Of(c.Page, c.Box) })],
        };
    }

    /// <summary>Evidence where its pages have other numbers; null when the page that it stands on is gone.</summary>
    /// <param name="evidence">The evidence before.</param>
    /// <param name="number">The new number of a page by its old one, both from 1; null for a page that is gone.</param>
    public static Evidence? Follow(Evidence evidence, Func<int, int?> number)
    {
        // Page 0 is the sheet, or no page at all: it has no other number.
        int? To(int page) => page == 0 ? 0 : number(page);
        return To(evidence.Page) is not { } page
            ? null
            : evidence with
            {
                Page = page,
                Elsewhere = [.. evidence.Elsewhere.Where(e => To(e.Page) is not null).Select(e => e with { Page = To(e.Page)!.Value })],
                Cells = [.. evidence.Cells.Where(c => To(c.Page) is not null).Select(c => c with { Page = To(c.Page)!.Value })],
            };
    }
}
