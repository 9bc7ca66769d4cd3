using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading.Proposals;

/// <summary>Pages that have their print in common.</summary>
/// <param name="Pages">Positions in the pile, from 0, the most typical first.</param>
/// <param name="Words">Words that nearly all of them have, the largest print first.</param>
/// <param name="OddOnes">Those of the pages that have less in common with the rest.</param>
public sealed record PileGroup(IReadOnlyList<int> Pages, IReadOnlyList<string> Words, IReadOnlyList<int> OddOnes);

/// <summary>
/// Groups the pages of a pile by design. What pages of one design share is their print: words and pairs of words, where they stand on the
/// page. Two pages are alike by the share of it that both have; rare words count more. Groups are joined by their average likeness
/// (UPGMA, by chains of nearest neighbours), until none is alike enough.
/// </summary>
public static class Piles
{
    /// <summary>Most pages of a pile: the likeness of each pair is kept.</summary>
    public const int MostPages = 2_000;

    /// <summary>Least average likeness of two groups of one design, 0 to 1.</summary>
    private const double Alike = 0.35;

    // How much a word counts that one page has, and how much more with each other that has it.
    private const double Alone = 0.5;
    private const double Each = 0.3;

    /// <summary>A page with less than this share of what nearly all pages of its group have is an odd one.</summary>
    private const double Odd = 0.55;
    private const double OnNearlyAll = 0.8;
    private const int MostWords = 6;

    /// <summary>Groups pages; the largest group first, single pages last.</summary>
    /// <param name="pages">At most <see cref="MostPages"/>.</param>
    /// <param name="cancel">Stops it.</param>
    /// <exception cref="ArgumentException">There are more.</exception>
    public static IReadOnlyList<PileGroup> Group(IReadOnlyList<PageText> pages, CancellationToken cancel = default)
    {
        if (pages.Count > MostPages)
            throw new ArgumentException($"At most {MostPages} pages.", nameof(pages));
        var prints = pages.Select(Print).ToList();
        var likeness = Likeness(prints, cancel);
        return
        [
            .. Joined(likeness, pages.Count, cancel)
                .OrderByDescending(g => g.Count)
                .ThenBy(g => g.Min())
                .Select(g => Describe(g, pages, prints, likeness)),
        ];
    }

    // Words without figures, and pairs of them that follow one another, each also with the part of the page it stands in.
    private static HashSet<string> Print(PageText page)
    {
        var print = new HashSet<string>(StringComparer.Ordinal);
        var before = "";
        foreach (var word in page.Words)
        {
            var folded = Folding.Letters(word.Text);
            if (folded.Length == 0)
                continue;
            if (folded.Length < 2 || folded.Any(char.IsAsciiDigit))
            {
                before = "";
                continue;
            }
            print.Add(folded);
            print.Add($"{folded} {(int)(Math.Clamp(word.Box.CentreX, 0, 0.999) * 6)}");
            if (before.Length > 0)
                print.Add($"{before} {folded}");
            before = folded;
        }
        return print;
    }

    private static float[] Likeness(List<HashSet<string>> prints, CancellationToken cancel)
    {
        var on = new Dictionary<string, int>(StringComparer.Ordinal);
        foreach (var word in prints.SelectMany(p => p))
            on[word] = on.GetValueOrDefault(word) + 1;
        // What one page alone has is a value mostly, what few have may be one, and what all have tells little.
        var numbers = on.Select(
                (w, i) => (w.Key, i, Weight: Math.Min(Alone + Each * (w.Value - 1), Math.Log((prints.Count + 1.0) / w.Value) + Alone))
            )
            .ToList();
        var number = numbers.ToDictionary(n => n.Key, n => n.i, StringComparer.Ordinal);
        var weight = numbers.ConvertAll(n => n.Weight);
        var sorted = prints.ConvertAll(p => p.Where(number.ContainsKey).Select(w => number[w]).Order().ToArray());
        var sums = sorted.ConvertAll(s => s.Sum(i => weight[i]));
        var count = prints.Count;
        var likeness = new float[count * count];
        for (var i = 0; i < count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            for (var j = i + 1; j < count; j++)
            {
                var (a, b, both) = (sorted[i], sorted[j], 0.0);
                for (int x = 0, y = 0; x < a.Length && y < b.Length; )
                    if (a[x] == b[y])
                    {
                        both += weight[a[x]];
                        (x, y) = (x + 1, y + 1);
                    }
                    else if (a[x] < b[y])
                        x++;
                    else
                        y++;
                // By the smaller of both, so that a long letter is not unlike a short one; but not by that alone.
                var share = both / Math.Max(1e-9, 0.5 * (sums[i] + sums[j] - both) + 0.5 * Math.Min(sums[i], sums[j]));
                likeness[i * count + j] = likeness[j * count + i] = (float)share;
            }
        }
        return likeness;
    }

    private static List<List<int>> Joined(float[] pages, int count, CancellationToken cancel)
    {
        var likeness = (float[])pages.Clone();
        var groups = Enumerable.Range(0, count).Select(i => new List<int> { i }).ToArray();
        var alive = Enumerable.Range(0, count).ToHashSet();
        var done = new List<List<int>>();
        var chain = new Stack<int>();
        while (alive.Count > 0)
        {
            cancel.ThrowIfCancellationRequested();
            if (chain.Count == 0)
                chain.Push(alive.Min());
            var top = chain.Peek();
            var (next, best) = (-1, -1f);
            var previous = chain.Count > 1 ? chain.ElementAt(1) : -1;
            foreach (var other in alive)
                // Of equals the one that the chain came from, so that it ends.
                if (other != top && (likeness[top * count + other] is var l && (l > best || l == best && other == previous)))
                    (next, best) = (other, l);
            if (next < 0 || best < Alike)
            {
                // Whoever has no likeness above the limit never gets one: averages of such stay below it.
                done.Add(groups[top]);
                alive.Remove(top);
                chain.Pop();
                continue;
            }
            if (next != previous)
            {
                chain.Push(next);
                continue;
            }
            chain.Pop();
            chain.Pop();
            foreach (var other in alive.Where(o => o != top && o != next))
            {
                var (a, b) = (groups[top].Count, groups[next].Count);
                var average = (a * likeness[top * count + other] + b * likeness[next * count + other]) / (a + b);
                likeness[top * count + other] = likeness[other * count + top] = average;
            }
            groups[top].AddRange(groups[next]);
            alive.Remove(next);
        }
        return done;
    }

    private static PileGroup Describe(
        List<int> group,
        IReadOnlyList<PageText> pages,
        IReadOnlyList<HashSet<string>> prints,
        float[] likeness
    )
    {
        var usual = group.ToDictionary(p => p, p => group.Sum(o => o == p ? 0 : likeness[p * pages.Count + o]));
        var ordered = group.OrderByDescending(p => usual[p]).ToList();
        var common = group
            .SelectMany(p => prints[p])
            .GroupBy(w => w, StringComparer.Ordinal)
            .Where(w => w.Count() >= OnNearlyAll * group.Count)
            .Select(w => w.Key)
            .ToList();
        var words = Proposing.CommonWords([.. ordered.Take(Proposing.MostPages).Select(p => pages[p])], MostWords);
        return new PileGroup(ordered, words, [.. ordered.Where(p => common.Count(prints[p].Contains) < Odd * common.Count)]);
    }
}
