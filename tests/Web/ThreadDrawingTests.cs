using ClearLexicon.Core.Designs.Threads;
using ClearLexicon.Core.Reading;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;
using ClearLexicon.Web.Pages;

namespace ClearLexicon.Web.Tests;

/// <summary>Places of a drawn picture of threads, over many made-up pictures.</summary>
public class ThreadDrawingTests
{
    private static (ThreadPicture Picture, ThreadDrawing Drawing) Draw(int seed, bool rules = true)
    {
        var random = new Random(seed);
        int pages = random.Next(0, 4),
            fields = random.Next(1, 40),
            pieces = random.Next(0, 9);
        var ends = new List<ThreadEnd>();
        var threads = new List<DrawnThread>();
        for (var i = 0; pages > 0 && i < fields - 2; i++)
            ends.Add(
                new ThreadEnd(EndKind.Region, $"f{i}", "", "")
                {
                    Page = 1 + random.Next(pages),
                    Box = new Box(random.NextDouble() * 0.7, random.NextDouble() * 0.97, 0.2, 0.012),
                }
            );
        ends = [.. ends.OrderBy(e => e.Page).ThenBy(e => e.Box.CentreY).ThenBy(e => e.Box.X)];
        for (var i = 0; i < random.Next(5); i++)
            ends.Add(new ThreadEnd(EndKind.Source, $"s{i}", "", ""));
        var (left, firstField) = (ends.Count, ends.Count);
        ends.AddRange(Enumerable.Range(0, fields).Select(i => new ThreadEnd(EndKind.Field, $"f{i}", $"Field {i}", "")));
        for (var i = 0; i < left; i++)
            threads.Add(new DrawnThread(i, firstField + random.Next(fields)));
        for (var i = 0; i < pieces; i++)
            ends.Add(new ThreadEnd(EndKind.Piece, $"{i}", "", "x") { Segment = i / 3 });
        for (var i = 0; i < random.Next(30); i++)
            ends.Add(new ThreadEnd(EndKind.Rule, $"r{i}", "", ""));
        for (var i = firstField + fields; i < ends.Count; i++)
            threads.Add(new DrawnThread(firstField + random.Next(fields), i));
        var picture = new ThreadPicture(ends, threads, [.. Enumerable.Range(0, Math.Max(1, (pieces + 2) / 3)).Select(i => $"segment {i}")]);
        var woven = new WovenDocument(
            new ThreadSubject("made-up", "", () => new StoredDocument { SourceName = "x" }),
            picture,
            [.. Enumerable.Range(1, pages).Select(n => new StoredPage(n, "", new PageText(595, 842, [], "text layer"), null))]
        );
        return (picture, new ThreadDrawing(woven, ThreadOrder.Fewest(picture), rules));
    }

    [Fact]
    public void Nothing_covers_anything_and_all_stands_inside()
    {
        for (var seed = 0; seed < 300; seed++)
        {
            var (picture, drawing) = Draw(seed);
            Assert.Equal(picture.Ends.Count, drawing.At.Count);
            var boxes = drawing.At.Where(a => picture.Ends[a.Key].Kind != EndKind.Region).Select(a => a.Value).ToList();
            Assert.All(
                boxes,
                b =>
                    Assert.True(
                        b.X >= 0
                            && b.X + b.Width <= ThreadDrawing.Width + 0.01
                            && b.Y - ThreadDrawing.Box / 2 > 14
                            && b.Y + ThreadDrawing.Box / 2 <= drawing.Height,
                        $"seed {seed}: {b} of {drawing.Height}"
                    )
            );
            foreach (
                var column in boxes.GroupBy(b =>
                    b.X < 300 ? 0
                    : b.X < 600 ? 1
                    : 2
                )
            )
            foreach (var (upper, lower) in column.OrderBy(b => b.Y).Zip(column.OrderBy(b => b.Y).Skip(1)))
                Assert.True(lower.Y - upper.Y >= ThreadDrawing.Box + 1, $"seed {seed}: {upper} and {lower}");
            // Lines of the path stand between the pieces, not on them; sources stand below the pages.
            Assert.All(drawing.Segments, s => Assert.DoesNotContain(boxes, b => b.X > 600 && Math.Abs(b.Y - s.Y) < 16));
            foreach (var (upper, lower) in drawing.Pages.Zip(drawing.Pages.Skip(1)))
                Assert.True(lower.Y > upper.Y + upper.Height);
            if (drawing.Pages.Count > 0)
                Assert.All(
                    boxes.Where(b => b.X < 300),
                    b => Assert.True(b.Y - ThreadDrawing.Box / 2 > drawing.Pages[^1].Y + drawing.Pages[^1].Height)
                );
            Assert.All(drawing.Pages, p => Assert.True(p.Width <= 212.01 && p.Y + p.Height <= drawing.Height));
        }
    }

    [Fact]
    public void Each_region_has_a_way_out_of_its_own_at_the_edge_of_its_page()
    {
        for (var seed = 0; seed < 300; seed++)
        {
            var (picture, drawing) = Draw(seed);
            foreach (var page in drawing.Pages)
            {
                var ports = drawing
                    .Order.Left.Where(e => picture.Ends[e].Kind == EndKind.Region && picture.Ends[e].Page == page.Page.Number)
                    .Select(e => drawing.At[e])
                    .ToList();
                // A document of which nothing was read shows its first page.
                Assert.True(ports.Count > 0 || page.Page.Number == 1);
                Assert.All(ports, p => Assert.Equal(page.Width, p.X + p.Width, 3));
                Assert.All(ports, p => Assert.InRange(p.Out, page.Y - 0.01, page.Y + page.Height + 0.01));
                foreach (var (upper, lower) in ports.Zip(ports.Skip(1)))
                    Assert.True(lower.Out - upper.Out > 1.5, $"seed {seed}, page {page.Page.Number}: {upper.Out} and {lower.Out}");
            }
        }
    }

    [Fact]
    public void Threads_are_drawn_from_end_to_end_and_rules_can_be_left_out()
    {
        var (picture, drawing) = Draw(7);
        foreach (var thread in picture.Threads)
        {
            var (from, to) = (drawing.At[thread.Left], drawing.At[thread.Right]);
            var curve = drawing.Curve(thread);
            Assert.StartsWith(FormattableString.Invariant($"M{from.X + from.Width:0.#} {from.Out:0.#}C"), curve, StringComparison.Ordinal);
            Assert.EndsWith(FormattableString.Invariant($" {to.X:0.#} {to.In:0.#}"), curve, StringComparison.Ordinal);
        }
        var (_, without) = Draw(7, rules: false);
        Assert.All(picture.Threads, t => Assert.Equal(picture.Ends[t.Right].Kind == EndKind.Rule, without.Curve(t).Length == 0));
        Assert.True(without.Height <= drawing.Height);
        Assert.Equal(
            ("Number of…", "short"),
            (ThreadDrawing.Cut("Number of the certificate", 66, 6.6), ThreadDrawing.Cut("short", 66, 6.6))
        );
    }
}
