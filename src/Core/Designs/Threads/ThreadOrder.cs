using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Designs.Threads;

/// <summary>
/// The ends of a picture in three columns, each from top to bottom: where values come from, fields, what they lead to. Regions
/// stand where they are on the page and pieces in the order of the path; sources, fields and rules are free, and stand so that
/// few threads cross.
/// </summary>
/// <param name="Left">Regions, then sources.</param>
/// <param name="Fields">Fields.</param>
/// <param name="Right">Pieces, then rules.</param>
/// <param name="Crossings">How many pairs of threads cross.</param>
public sealed record ThreadOrder(IReadOnlyList<int> Left, IReadOnlyList<int> Fields, IReadOnlyList<int> Right, long Crossings)
{
    private const int MostRounds = 24;

    /// <summary>Everything in the order of the design.</summary>
    public static ThreadOrder OfDesign(ThreadPicture picture) =>
        Ordered(picture, [.. picture.Of(EndKind.Source)], [.. picture.Of(EndKind.Field)], [.. picture.Of(EndKind.Rule)]);

    /// <summary>
    /// The order with the fewest crossings that was found: from the order of the design and from the middle of each field's
    /// threads, one column at a time is sifted, each end put where it crosses least, until nothing gets better. The same picture always
    /// gives the same order, never one with more crossings than the design's.
    /// </summary>
    public static ThreadOrder Fewest(ThreadPicture picture)
    {
        var best = OfDesign(picture);
        var ends = new List<int>[picture.Ends.Count];
        for (var i = 0; i < ends.Length; i++)
            ends[i] = [];
        foreach (var (left, right) in picture.Threads)
        {
            ends[left].Add(right);
            ends[right].Add(left);
        }
        foreach (
            var fields in new[]
            {
                best.Fields.ToList(),
                Median(ends, best.Fields, [.. best.Left]),
                Median(ends, best.Fields, [.. best.Left, .. best.Right]),
            }
        )
        {
            List<int> sources = [.. picture.Of(EndKind.Source)],
                rules = [.. picture.Of(EndKind.Rule)];
            var last = long.MaxValue;
            for (var round = 0; round < MostRounds; round++)
            {
                Sift(ends, rules, fields);
                Sift(ends, sources, fields);
                var now = Ordered(picture, sources, fields, rules);
                Sift(ends, fields, now.Left, now.Right);
                now = Ordered(picture, sources, fields, rules);
                if (now.Crossings < best.Crossings)
                    best = now;
                if (now.Crossings >= last)
                    break;
                last = now.Crossings;
            }
        }
        return best;
    }

    /// <summary>How many pairs of threads between two columns cross; threads that share an end do not.</summary>
    public static long Crossing(IEnumerable<DrawnThread> threads, IReadOnlyList<int> left, IReadOnlyList<int> right)
    {
        var (from, to) = (Places(left), Places(right));
        var sorted = threads
            .Where(t => from.ContainsKey(t.Left) && to.ContainsKey(t.Right))
            .Select(t => (From: from[t.Left], To: to[t.Right]))
            .Order()
            .ToList();
        // Counts, from the top, how many threads that began higher end lower: a binary indexed tree over the right column.
        var tree = new int[right.Count + 1];
        long crossings = 0;
        for (var i = 0; i < sorted.Count; i++)
        {
            crossings += i;
            for (var at = sorted[i].To + 1; at > 0; at -= at & -at)
                crossings -= tree[at];
            for (var at = sorted[i].To + 1; at < tree.Length; at += at & -at)
                tree[at]++;
        }
        return crossings;
    }

    private static ThreadOrder Ordered(ThreadPicture picture, List<int> sources, List<int> fields, List<int> rules)
    {
        List<int> left = [.. picture.Of(EndKind.Region), .. sources],
            right = [.. picture.Of(EndKind.Piece), .. rules];
        return new ThreadOrder(
            left,
            [.. fields],
            right,
            Crossing(picture.Threads, left, fields) + Crossing(picture.Threads, fields, right)
        );
    }

    private static Dictionary<int, int> Places(IReadOnlyList<int> column) =>
        column.Select((end, place) => (end, place)).ToDictionary(p => p.end, p => p.place);

    private static List<int> Median(List<int>[] ends, IReadOnlyList<int> fields, List<int> others)
    {
        var places = Places(others);
        double Middle(int field)
        {
            var at = ends[field].Where(places.ContainsKey).Select(e => places[e]).Order().ToList();
            return at.Count == 0 ? int.MaxValue : (at[(at.Count - 1) / 2] + at[at.Count / 2]) / 2.0;
        }
        return [.. fields.OrderBy(Middle)];
    }

    // Takes each end out and puts it back where it crosses least against the columns beside it.
    private static void Sift(List<int>[] ends, List<int> column, params IReadOnlyList<int>[] beside)
    {
        // What the ends at two places would cross if the first stood above the second.
        var cost = new int[column.Count, column.Count];
        foreach (var side in beside.Select(Places))
        {
            var places = column.Select(e => ends[e].Where(side.ContainsKey).Select(x => side[x]).Order().ToArray()).ToArray();
            for (var upper = 0; upper < column.Count; upper++)
            for (var lower = 0; lower < column.Count; lower++)
                if (upper != lower)
                    cost[upper, lower] += Above(places[upper], places[lower]);
        }
        List<int> order = [.. Enumerable.Range(0, column.Count)];
        for (var end = 0; end < column.Count; end++)
        {
            var from = order.IndexOf(end);
            order.RemoveAt(from);
            var (here, best, to) = (0, 0, 0);
            // From the top downwards: passing an end turns “above it” into “below it”.
            for (var place = 0; place < order.Count; place++)
            {
                here += cost[order[place], end] - cost[end, order[place]];
                if (here < best || (here == best && place + 1 == from))
                    (best, to) = (here, place + 1);
            }
            order.Insert(to, end);
        }
        int[] before = [.. column];
        for (var i = 0; i < before.Length; i++)
            column[i] = before[order[i]];
    }

    // How many pairs of two sorted lists have the first greater than the second.
    private static int Above(int[] first, int[] second)
    {
        var (pairs, below) = (0, 0);
        foreach (var a in first)
        {
            while (below < second.Length && second[below] < a)
                below++;
            pairs += below;
        }
        return pairs;
    }
}
