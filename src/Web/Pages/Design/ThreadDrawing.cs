using ClearLexicon.Core.Designs.Threads;
using ClearLexicon.Core.Reading;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Pages;

/// <summary>Where an end is drawn.</summary>
/// <param name="X">Left edge.</param>
/// <param name="Y">Middle of its height.</param>
/// <param name="Width">Width.</param>
/// <param name="In">Where threads come in on its left.</param>
/// <param name="Out">Where threads go out on its right.</param>
public readonly record struct DrawnEnd(double X, double Y, double Width, double In, double Out);

/// <summary>A page as it is drawn.</summary>
/// <param name="Page">The page.</param>
/// <param name="Y">Its upper edge; its left edge is 0.</param>
/// <param name="Width">Width.</param>
/// <param name="Height">Height.</param>
public readonly record struct DrawnPage(StoredPage Page, double Y, double Width, double Height)
{
    /// <summary>A region of the page as it is drawn, a little larger than its words.</summary>
    public (double X, double Y, double W, double H) Region(Box box) =>
        (box.X * Width - 2, Y + box.Y * Height - 2, box.W * Width + 4, box.H * Height + 4);
}

/// <summary>
/// Where everything of a thread picture stands: pages and sources in the left column, fields in the middle, path and rules on the
/// right. Units are those of the drawing, which is 900 wide.
/// </summary>
public sealed class ThreadDrawing
{
    /// <summary>Width of the drawing.</summary>
    public const double Width = 900;

    /// <summary>Left edge and width of the fields.</summary>
    public const double FieldX = 322,
        FieldWidth = 246;

    /// <summary>Left edge of the path and the rules.</summary>
    public const double RightX = 652;

    /// <summary>Height of a row's box.</summary>
    public const double Box = 21;

    private const double Row = 25,
        Top = 26,
        Gap = 12,
        WidestPage = 212,
        NarrowestPage = 104,
        NarrowestAlone = 190,
        Port = 7;

    /// <summary>Draws a picture.</summary>
    public ThreadDrawing(WovenDocument woven, ThreadOrder order, bool rules)
    {
        (Woven, Order, ShowsRules) = (woven, order, rules);
        var ends = woven.Picture.Ends;
        var right = order.Right.Where(e => rules || ends[e].Kind != EndKind.Rule).ToList();
        var rightHeight = RightColumn(ends, right);
        var sources = order.Left.Where(e => ends[e].Kind == EndKind.Source).ToList();
        var sourcesHeight = sources.Count * Row + (sources.Count > 0 ? 30 : 0);
        // As tall as the other columns, so that nothing has to be scrolled for the page alone.
        var height = Math.Max(Math.Max(order.Fields.Count * Row, rightHeight - Top), 330);
        var left = Regions(woven, ends, [.. order.Left.Where(e => ends[e].Kind == EndKind.Region)], height - sourcesHeight);
        SourcesY = left + 10;
        for (var i = 0; i < sources.Count; i++)
            At[sources[i]] = Centred(0, SourcesY + 24 + i * Row, WidestPage);
        Height = Math.Max(Math.Max(order.Fields.Count * Row + Top, rightHeight), left + sourcesHeight) + 8;
        // Fields spread over the height, but not so far that they lose one another.
        var step = Math.Min(38, (Height - Top - 8) / Math.Max(1, order.Fields.Count));
        for (var i = 0; i < order.Fields.Count; i++)
            At[order.Fields[i]] = Centred(FieldX, Top + step * (i + 0.5), FieldWidth);
    }

    /// <summary>What is drawn.</summary>
    public WovenDocument Woven { get; }

    /// <summary>In what order.</summary>
    public ThreadOrder Order { get; }

    /// <summary>Whether rules are drawn.</summary>
    public bool ShowsRules { get; }

    /// <summary>Height of the drawing.</summary>
    public double Height { get; }

    /// <summary>Where the heading of the sources stands.</summary>
    public double SourcesY { get; }

    /// <summary>Where the heading of the rules stands.</summary>
    public double RulesY { get; private set; }

    /// <summary>Pages from which something was read.</summary>
    public List<DrawnPage> Pages { get; } = [];

    /// <summary>Ends that are drawn, by their position in the picture.</summary>
    public Dictionary<int, DrawnEnd> At { get; } = [];

    /// <summary>Segments of the path that stand as a line of their own.</summary>
    public List<(string Text, int Number, double Y)> Segments { get; } = [];

    /// <summary>The curve of a thread; empty when one of its ends is not drawn.</summary>
    public string Curve(DrawnThread thread)
    {
        if (!At.TryGetValue(thread.Left, out var from) || !At.TryGetValue(thread.Right, out var to))
            return "";
        double x1 = from.X + from.Width,
            x2 = to.X,
            bend = (x2 - x1) * 0.55;
        return FormattableString.Invariant(
            $"M{x1:0.#} {from.Out:0.#}C{x1 + bend:0.#} {from.Out:0.#} {x2 - bend:0.#} {to.In:0.#} {x2:0.#} {to.In:0.#}"
        );
    }

    /// <summary>A text cut to about a width, by the mean width of its letters.</summary>
    public static string Cut(string text, double width, double letter)
    {
        var most = Math.Max(1, (int)(width / letter));
        return text.Length <= most ? text : text[..(most - 1)].TrimEnd() + "…";
    }

    private static DrawnEnd Centred(double x, double y, double width) => new(x, y, width, y, y);

    private double RightColumn(IReadOnlyList<ThreadEnd> ends, List<int> right)
    {
        var y = Top + Row / 2;
        var segments = Woven.Picture.Segments;
        for (var s = 0; s < segments.Count; s++)
        {
            var pieces = right.Where(e => ends[e].Kind == EndKind.Piece && ends[e].Segment == s).ToList();
            // A folder that is one piece and nothing else is told by that piece.
            if (pieces.Count != 1 || ends[pieces[0]].Value != segments[s])
            {
                Segments.Add((segments[s], s, y));
                y += Row - 3;
            }
            foreach (var end in pieces)
            {
                At[end] = Centred(RightX + 12, y, Width - RightX - 12);
                y += Row;
            }
        }
        RulesY = y + 8;
        y += 32;
        foreach (var end in right.Where(e => ends[e].Kind == EndKind.Rule))
        {
            At[end] = Centred(RightX, y, Width - RightX);
            y += Row;
        }
        return ShowsRules ? y : RulesY;
    }

    // Draws the pages one below the other and gives each region a place of its own at the page's edge; returns the lower edge.
    private double Regions(WovenDocument woven, IReadOnlyList<ThreadEnd> ends, List<int> regions, double room)
    {
        var pages = woven.Pages.Where(p => regions.Count == 0 ? p.Number == 1 : regions.Exists(r => ends[r].Page == p.Number)).ToList();
        if (pages.Count == 0)
            return Top;
        double Ratio(StoredPage p) => p.Text.Width > 0 ? p.Text.Height / p.Text.Width : 1.414;
        var width = Math.Clamp(
            (room - pages.Count * Gap) / pages.Sum(Ratio),
            pages.Count == 1 ? NarrowestAlone : NarrowestPage,
            WidestPage
        );
        var y = Top;
        foreach (var page in pages)
        {
            var drawn = new DrawnPage(page, y, width, width * Ratio(page));
            Pages.Add(drawn);
            var here = regions.Where(r => ends[r].Page == page.Number).ToList();
            var step = here.Count == 0 ? Port : Math.Min(Port, drawn.Height / here.Count);
            // Ports are pushed apart downwards, and back up where they would leave the page.
            var ports = here.Select(r => y + ends[r].Box.CentreY * drawn.Height).ToArray();
            for (var i = 1; i < ports.Length; i++)
                ports[i] = Math.Max(ports[i], ports[i - 1] + step);
            for (var i = ports.Length - 1; i >= 0; i--)
                ports[i] = Math.Min(ports[i], y + drawn.Height - (ports.Length - i) * step + step);
            for (var i = 0; i < here.Count; i++)
            {
                var (rx, ry, w, h) = drawn.Region(ends[here[i]].Box);
                At[here[i]] = new DrawnEnd(rx, ry + h / 2, width - rx, ry + h / 2, ports[i]);
            }
            y += drawn.Height + Gap;
        }
        return y;
    }
}
