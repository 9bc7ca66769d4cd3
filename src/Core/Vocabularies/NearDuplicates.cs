using System.Runtime.InteropServices;

namespace ClearLexicon.Core.Vocabularies;

/// <summary>Spellings that are probably one word.</summary>
/// <param name="Spellings">The spellings.</param>
/// <param name="Strength">Strength of the weakest link that holds the group together, from 0 to 1.</param>
/// <param name="Because">Why they are alike, in words.</param>
public sealed record NearGroup(IReadOnlyList<string> Spellings, double Strength, string Because);

/// <summary>
/// Finds near-duplicates among many spellings in time about linear in their number: spellings with an equal key are alike.
/// Designators tell things apart (Quay 1 and Quay 2, Jetty A and Jetty B, Phase I and Phase II), so they must agree; so must short words
/// but
/// for their plural (Nitrate and Nitrite). Groups hang together by their links.
/// </summary>
public static class NearDuplicates
{
    /// <summary>Least number of letters of a word before one swapped or dropped letter counts.</summary>
    public const int LeastLetters = 5;

    /// <summary>Least number of letters of a word before one changed letter counts; berth and birth are two words.</summary>
    public const int LeastLettersChanged = 8;

    // Spellings with an equal key are alike; one with a probe that is another's key is like that other.
    private sealed record Way(
        double Strength,
        string Because,
        Func<string, IEnumerable<string>> Keys,
        Func<string, IEnumerable<string>>? Probes = null
    )
    {
        // Whether what tells things apart must agree besides.
        public bool Designates { get; init; } = true;
    }

    private static readonly Way[] Ways =
    [
        new(0.99, "the same but for case, accents and punctuation", static folded => [folded]) { Designates = false },
        new(0.97, "the same but for blanks", static folded => [folded.Replace(" ", "", StringComparison.Ordinal)]) { Designates = false },
        new(0.95, "the same words in another order", static folded => [string.Join(' ', folded.Split(' ').Order(StringComparer.Ordinal))]),
        new(0.90, "singular and plural", static folded => [string.Join(' ', folded.Split(' ').Select(Stem))]),
        new(0.85, "one letter swapped, dropped or changed", Neighbours, Dropped),
        new(
            0.80,
            "the same letters in another order",
            static folded =>
                Letters(folded) < LeastLetters ? [] : [Digits(folded) + "|" + string.Concat(folded.Where(char.IsLetter).Order())]
        ),
    ];

    /// <summary>Groups of alike spellings, strongest first.</summary>
    /// <param name="spellings">Spellings, each once.</param>
    /// <param name="cancel">Stops the search.</param>
    public static IReadOnlyList<NearGroup> Find(IReadOnlyList<string> spellings, CancellationToken cancel = default)
    {
        var folded = spellings.Select(Folding.Fold).ToArray();
        var apart = folded.Select(Designators).ToArray();
        var parent = Enumerable.Range(0, spellings.Count).ToArray();
        var weakest = new (double Strength, string Because)[spellings.Count];
        Array.Fill(weakest, (1, ""));
        foreach (var way in Ways)
        {
            cancel.ThrowIfCancellationRequested();
            var seen = new Dictionary<string, int>(spellings.Count, StringComparer.Ordinal);
            for (var i = 0; i < folded.Length; i++)
                foreach (var bare in way.Keys(folded[i]))
                {
                    if (bare.Length == 0)
                        continue;
                    var key = way.Designates ? apart[i] + bare : bare;
                    ref var first = ref CollectionsMarshal.GetValueRefOrAddDefault(seen, key, out var known);
                    if (!known)
                        first = i;
                    else
                        Link(first, i, way);
                }
            if (way.Probes is null)
                continue;
            for (var i = 0; i < folded.Length; i++)
                foreach (var probe in way.Probes(folded[i]))
                    if (seen.TryGetValue(way.Designates ? apart[i] + probe : probe, out var other))
                        Link(other, i, way);
        }
        return
        [
            .. Enumerable
                .Range(0, spellings.Count)
                .GroupBy(Root)
                .Where(g => g.Count() > 1)
                .Select(g => new NearGroup([.. g.Select(i => spellings[i])], weakest[g.Key].Strength, weakest[g.Key].Because))
                .OrderByDescending(g => g.Strength)
                .ThenBy(g => g.Spellings[0], StringComparer.Ordinal),
        ];

        void Link(int one, int other, Way way)
        {
            int a = Root(one),
                b = Root(other);
            if (a == b)
                return;
            parent[b] = a;
            // The ways go from strong to weak, so the newest link is the weakest.
            weakest[a] = (way.Strength, way.Because);
        }

        int Root(int i)
        {
            while (parent[i] != i)
                i = parent[i] = parent[parent[i]];
            return i;
        }
    }

    // The text itself for others to drop a letter to, a sign in place of a letter that may differ, two neighbours in either order.
    private static IEnumerable<string> Neighbours(string folded)
    {
        if (Letters(folded) < LeastLetters - 1)
            yield break;
        yield return folded;
        for (var i = 0; i < folded.Length; i++)
        {
            if (!char.IsLetter(folded[i]))
                continue;
            var letters = WordAround(folded, i);
            if (letters >= LeastLettersChanged)
                yield return string.Concat(folded.AsSpan(0, i), "\u0001", folded.AsSpan(i + 1));
            if (letters >= LeastLetters && i + 1 < folded.Length && char.IsLetter(folded[i + 1]) && folded[i] != folded[i + 1])
                yield return string.Concat(
                    folded.AsSpan(0, i),
                    folded[i] < folded[i + 1] ? $"\u0002{folded[i]}{folded[i + 1]}" : $"\u0002{folded[i + 1]}{folded[i]}",
                    folded.AsSpan(i + 2)
                );
        }
    }

    private static IEnumerable<string> Dropped(string folded)
    {
        for (var i = 0; i < folded.Length; i++)
            if (char.IsLetter(folded[i]) && WordAround(folded, i) >= LeastLetters)
                yield return string.Concat(folded.AsSpan(0, i), folded.AsSpan(i + 1));
    }

    // Letters of the word in which a place lies.
    private static int WordAround(string folded, int at)
    {
        var (begin, end) = (folded.LastIndexOf(' ', at) + 1, folded.IndexOf(' ', at));
        return Letters(folded[begin..(end < 0 ? folded.Length : end)]);
    }

    // The words that tell one thing from another of its kind: single letters, Roman numerals, and all with digits or signs.
    private static string Designators(string folded) =>
        string.Join(' ', folded.Split(' ').Where(IsDesignator).Order(StringComparer.Ordinal)) + "|";

    private static bool IsDesignator(string word) =>
        word.Length == 1 || word.Any(c => !char.IsLetter(c)) || word.Length <= 5 && Roman.Contains(word);

    private static readonly HashSet<string> Roman =
    [
        .. new[] { "", "x", "xx", "xxx" }.SelectMany(tens =>
            new[] { "", "i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix" }.Select(ones => tens + ones)
        ),
    ];

    private static int Letters(string folded) => folded.Count(char.IsLetter);

    private static string Digits(string folded) => string.Concat(folded.Where(char.IsDigit));

    // English plurals; other languages are caught by the letter that is more.
    private static string Stem(string word) =>
        word.Length < 4 || word.Any(char.IsDigit) ? word
        : word.EndsWith("ies", StringComparison.Ordinal) ? word[..^3] + "y"
        : word.EndsWith("sses", StringComparison.Ordinal)
        || word.EndsWith("xes", StringComparison.Ordinal)
        || word.EndsWith("ches", StringComparison.Ordinal)
        || word.EndsWith("shes", StringComparison.Ordinal)
            ? word[..^2]
        : word[^1] == 's' && word[^2] is not ('s' or 'u' or 'i') ? word[..^1]
        : word;
}
