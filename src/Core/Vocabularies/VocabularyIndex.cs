namespace ClearLexicon.Core.Vocabularies;

/// <summary>
/// A vocabulary compiled for look-up: by preferred label, variant or code, regardless of case, accents and
/// punctuation; by the beginning of any word; and inside running text. Immutable and thread-safe.
/// </summary>
public sealed class VocabularyIndex
{
    private readonly Dictionary<string, int> _bySpelling = new(StringComparer.Ordinal);
    private readonly Dictionary<string, int> _exact = new(StringComparer.Ordinal);
    private readonly Dictionary<string, int> _longestByFirstWord = new(StringComparer.Ordinal);
    private readonly (string Folded, int Term)[] _completions;

    /// <summary>The vocabulary this index was made from.</summary>
    public Vocabulary Vocabulary { get; }

    /// <summary>Compiles a vocabulary. When two terms share a spelling the earlier one keeps it.</summary>
    public VocabularyIndex(Vocabulary vocabulary)
    {
        Vocabulary = vocabulary;
        var completions = new List<(string, int)>();
        // Preferred labels first: a variant never takes another term's label away.
        for (var i = 0; i < vocabulary.Terms.Count; i++) Add(vocabulary.Terms[i].Label, i, completions);
        for (var i = 0; i < vocabulary.Terms.Count; i++)
        {
            var term = vocabulary.Terms[i];
            if (term.Code is { Length: > 0 } code) Add(code, i, completions);
            foreach (var variant in term.Variants) Add(variant, i, completions);
        }
        completions.Sort(static (a, b) => string.CompareOrdinal(a.Item1, b.Item1));
        _completions = [.. completions];
    }

    private void Add(string spelling, int term, List<(string, int)> completions)
    {
        _exact.TryAdd(spelling, term);
        var folded = Folding.Fold(spelling);
        if (folded.Length == 0 || !_bySpelling.TryAdd(folded, term)) return;
        var words = folded.Count(' ') + 1;
        var first = words == 1 ? folded : folded[..folded.IndexOf(' ')];
        _longestByFirstWord[first] = Math.Max(words, _longestByFirstWord.GetValueOrDefault(first));
        // Every word of a spelling is a place where typing may begin.
        completions.Add((folded, term));
        for (var at = folded.IndexOf(' '); at >= 0; at = folded.IndexOf(' ', at + 1)) completions.Add((folded[(at + 1)..], term));
    }

    /// <summary>The term that a spelling leads to, or null.</summary>
    public Term? Find(string spelling) => IndexOf(spelling) is var i and >= 0 ? Vocabulary.Terms[i] : null;

    /// <summary>Position of the term a spelling leads to in <see cref="Vocabulary.Terms"/>; -1 when none does.</summary>
    public int IndexOf(string spelling)
    {
        if (_exact.TryGetValue(spelling, out var exact)) return exact;
        return _bySpelling.TryGetValue(Folding.Fold(spelling), out var found) ? found : -1;
    }

    /// <summary>Current terms of which a label, variant or code has a word beginning with what was typed.</summary>
    public IEnumerable<Term> Complete(string typed, int atMost)
    {
        var start = Folding.Fold(typed);
        var at = start.Length == 0 ? 0 : LowerBound(start);
        var seen = new HashSet<int>();
        for (; at < _completions.Length && seen.Count < atMost; at++)
        {
            var (folded, term) = _completions[at];
            if (!folded.StartsWith(start, StringComparison.Ordinal)) yield break;
            if (Vocabulary.Terms[term].Status == TermStatus.Current && seen.Add(term)) yield return Vocabulary.Terms[term];
        }
    }

    private int LowerBound(string start)
    {
        int low = 0, high = _completions.Length;
        while (low < high)
        {
            var middle = (low + high) / 2;
            if (string.CompareOrdinal(_completions[middle].Folded, start) < 0) low = middle + 1;
            else high = middle;
        }
        return low;
    }

    /// <summary>The term whose spelling stands in a running text with most words; the earliest of equals; null when none does.</summary>
    public Term? FindIn(ReadOnlySpan<char> text)
    {
        char[]? large = null;
        Span<char> buffer = text.Length * 3 <= 1536 ? stackalloc char[1536] : (large = new char[text.Length * 3]);
        ReadOnlySpan<char> folded = buffer[..Folding.Fold(text, buffer)];
        var spellings = _bySpelling.GetAlternateLookup<ReadOnlySpan<char>>();
        var firsts = _longestByFirstWord.GetAlternateLookup<ReadOnlySpan<char>>();
        int best = -1, bestWords = 0;
        for (var start = 0; start < folded.Length;)
        {
            var rest = folded[start..];
            var end = rest.IndexOf(' ');
            var word = end < 0 ? rest : rest[..end];
            if (firsts.TryGetValue(word, out var longest))
                Longest(rest, word.Length, longest, spellings, ref best, ref bestWords);
            start += word.Length + 1;
        }
        return best >= 0 ? Vocabulary.Terms[best] : null;
    }

    private static void Longest(ReadOnlySpan<char> rest, int end, int longest,
        Dictionary<string, int>.AlternateLookup<ReadOnlySpan<char>> spellings, ref int best, ref int bestWords)
    {
        for (var words = 1; words <= longest; words++)
        {
            if (words > bestWords && spellings.TryGetValue(rest[..end], out var term)) { best = term; bestWords = words; }
            if (end >= rest.Length) return;
            var next = rest[(end + 1)..].IndexOf(' ');
            end = next < 0 ? rest.Length : end + 1 + next;
        }
    }
}
