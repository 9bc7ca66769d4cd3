namespace ClearLexicon.Core.Schemas.Threads;

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
    public static ThreadOrder OfDesign(ThreadPicture picture) => Ordered(picture,
        [.. picture.Of(EndKind.Source)], [.. picture.Of(EndKind.Field)], [.. picture.Of(EndKind.Rule)]);

    /// <summary>
    /// The order with the fewest crossings that was found: from the order of the design and from the middle of each field's
    /// threads, one column at a time is sifted, each end put where it crosses least, until nothing gets better. The same picture always
    /// gives the same order, never one with more crossings than the design's.
    /// </summary>
    public static ThreadOrder Fewest(ThreadPicture picture)
    {
        var best = OfDesign(picture);
        foreach (var fields in new[] { best.Fields.ToList(), Median(picture, best.Fields, [.. best.Left]), Median(picture, best.Fields, [.. best.Left, .. best.Right]) })
        {
            List<int> sources = [.. picture.Of(EndKind.Source)], rules = [.. picture.Of(EndKind.Rule)];
            var last = long.MaxValue;
            for (var round = 0; round < MostRounds; round++)
            {
                Sift(picture, rules, fields);
                Sift(picture, sources, fields);
                var now = Ordered(picture, sources, fields, rules);
                Sift(picture, fields, now.Left, now.Right);
                now = Ordered(picture, sources, fields, rules);
                if (now.Crossings < best.Crossings) best = now;
                if (now.Crossings >= last) break;
                last = now.Crossings;
            }
        }
        return best;
    }

    /// <summary>How many pairs of threads between two columns cross; threads that share an end do not.</summary>
    public static long Crossing(IEnumerable<DrawnThread> threads, IReadOnlyList<int> left, IReadOnlyList<int> right)
    {
        var (from, to) = (Places(left), Places(right));
        var sorted = threads.Where(t => from.ContainsKey(t.Left) && to.ContainsKey(t.Right)).Select(t => (From: from[t.Left], To: to[t.Right])).Order().ToList();
        // Counts, from the top, how many threads that began higher end lower: a binary indexed tree over the right column.
        var tree = new int[right.Count + 1];
        long crossings = 0;
        for (var i = 0; i < sorted.Count; i++)
        {
            crossings += i;
            for (var at = sorted[i].To + 1; at > 0; at -= at & -at) crossings -= tree[at];
            for (var at = sorted[i].To + 1; at < tree.Length; at += at & -at) tree[at]++;
        }
        return crossings;
    }

    private static ThreadOrder Ordered(ThreadPicture picture, List<int> sources, List<int> fields, List<int> rules)
    {
        List<int> left = [.. picture.Of(EndKind.Region), .. sources], right = [.. picture.Of(EndKind.Piece), .. rules];
        return new ThreadOrder(left, [.. fields], right, Crossing(picture.Threads, left, fields) + Crossing(picture.Threads, fields, right));
    }

    private static Dictionary<int, int> Places(IReadOnlyList<int> column) => column.Select((end, place) => (end, place)).ToDictionary(p => p.end, p => p.place);

    private static List<int> Median(ThreadPicture picture, IReadOnlyList<int> fields, List<int> others)
    {
        var places = Places(others);
        double Middle(int field)
        {
            var at = Ends(picture, field).Where(places.ContainsKey).Select(e => places[e]).Order().ToList();
            return at.Count == 0 ? int.MaxValue : (at[(at.Count - 1) / 2] + at[at.Count / 2]) / 2.0;
        }
        return [.. fields.OrderBy(Middle)];
    }

    private static IEnumerable<int> Ends(ThreadPicture picture, int end) => picture.Threads.Where(t => t.Left == end || t.Right == end).Select(t => t.Left == end ? t.Right : t.Left);

    // Takes each end out and puts it back where it crosses least against the columns beside it.
    private static void Sift(ThreadPicture picture, List<int> column, params IReadOnlyList<int>[] beside)
    {
        var places = column.ToDictionary(e => e, e => beside.Select(Places).Select(p => Ends(picture, e).Where(p.ContainsKey).Select(x => p[x]).Order().ToArray()).ToArray());
        var cost = new Dictionary<(int Upper, int Lower), int>();
        int Cost(int upper, int lower)
        {
            if (cost.TryGetValue((upper, lower), out var known)) return known;
            var crossing = places[upper].Zip(places[lower]).Sum(side => side.First.Sum(a => side.Second.Count(b => a > b)));
            return cost[(upper, lower)] = crossing;
        }
        foreach (var end in column.ToList())
        {
            var from = column.IndexOf(end);
            column.RemoveAt(from);
            var (here, best, to) = (0, 0, 0);
            // From the top downwards: passing an end turns “above it” into “below it”.
            for (var place = 0; place < column.Count; place++)
            {
                here += Cost(column[place], end) - Cost(end, column[place]);
                if (here < best || (here == best && place + 1 == from)) (best, to) = (here, place + 1);
            }
            column.Insert(to, end);
        }
    }
}
