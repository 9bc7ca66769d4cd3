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
    private readonly Dictionary<string, int> _byId = new(StringComparer.Ordinal);
    private readonly int[][] _broader;
    private readonly int[][] _narrower;
    private readonly int[] _level;

    /// <summary>The vocabulary this index was made from.</summary>
    public Vocabulary Vocabulary { get; }

    /// <summary>Compiles a vocabulary. When two terms share a spelling the earlier one keeps it.</summary>
    public VocabularyIndex(Vocabulary vocabulary)
    {
        Vocabulary = vocabulary;
        var completions = new List<(string, int)>();
        // Preferred labels first: a variant never takes another term's label away.
        for (var i = 0; i < vocabulary.Terms.Count; i++)
            Add(vocabulary.Terms[i].Label, i, completions);
        for (var i = 0; i < vocabulary.Terms.Count; i++)
        {
            var term = vocabulary.Terms[i];
            if (term.Code is { Length: > 0 } code)
                Add(code, i, completions);
            foreach (var variant in term.Variants)
                Add(variant, i, completions);
        }
        for (var i = 0; i < vocabulary.Terms.Count; i++)
            foreach (var words in vocabulary.Terms[i].Words.Values)
            {
                if (words.Label.Length > 0)
                    Add(words.Label, i, completions);
                foreach (var variant in words.Variants)
                    Add(variant, i, completions);
            }
        for (var i = 0; i < vocabulary.Terms.Count; i++)
            _byId.TryAdd(vocabulary.Terms[i].Id, i);
        _broader = [.. vocabulary.Terms.Select(t => t.Broader.Select(OfId).Where(b => b >= 0).ToArray())];
        var narrower = new List<int>?[vocabulary.Terms.Count];
        for (var i = 0; i < _broader.Length; i++)
            foreach (var b in _broader[i])
                (narrower[b] ??= []).Add(i);
        _narrower = [.. narrower.Select(n => n?.ToArray() ?? [])];
        _level = new int[vocabulary.Terms.Count];
        for (var i = 0; i < _level.Length; i++)
            LevelOf(i);
        completions.Sort(static (a, b) => string.CompareOrdinal(a.Item1, b.Item1));
        _completions = [.. completions];
    }

    /// <summary>Position of the term with an id, or -1.</summary>
    public int OfId(string id) => _byId.TryGetValue(id, out var i) ? i : -1;

    /// <summary>The term with an id; null when there is none.</summary>
    public Term? TermOfId(string id) => OfId(id) is >= 0 and var at ? Vocabulary.Terms[at] : null;

    /// <summary>Position of a term by id or any spelling, or -1.</summary>
    public int IndexOfAny(string name) => OfId(name) is >= 0 and var i ? i : IndexOf(name);

    /// <summary>Positions of the broader terms.</summary>
    public ReadOnlySpan<int> Broader(int term) => _broader[term];

    /// <summary>Positions of the narrower terms, in the vocabulary's order.</summary>
    public ReadOnlySpan<int> Narrower(int term) => _narrower[term];

    /// <summary>Positions of the terms without a broader one.</summary>
    public IEnumerable<int> Tops => Enumerable.Range(0, _broader.Length).Where(i => _broader[i].Length == 0);

    /// <summary>Level of a term in the tree, from 1 at the top; the shortest way up counts.</summary>
    public int Level(int term) => _level[term];

    /// <summary>Whether a term is another one or lies below it by any way.</summary>
    public bool IsWithin(int term, int branch)
    {
        if (term < 0)
            return false;
        if (term == branch)
            return true;
        if (_broader[term].Length == 1 && _level[term] <= 2)
            return _broader[term][0] == branch;
        var seen = new HashSet<int>();
        var up = new Stack<int>(_broader[term]);
        while (up.TryPop(out var at))
        {
            if (at == branch)
                return true;
            if (seen.Add(at))
                foreach (var b in _broader[at])
                    up.Push(b);
        }
        return false;
    }

    // Breadth first, so that neither a deep tree nor a cycle can hurt.
    private int LevelOf(int term)
    {
        if (_level[term] > 0)
            return _level[term];
        var seen = new HashSet<int> { term };
        List<int> row = [term];
        for (var level = 1; row.Count > 0; level++)
        {
            if (row.Any(t => _broader[t].Length == 0))
                return _level[term] = level;
            row = [.. row.SelectMany(t => _broader[t]).Where(seen.Add)];
        }
        return _level[term] = 1;
    }

    private void Add(string spelling, int term, List<(string, int)> completions)
    {
        _exact.TryAdd(spelling, term);
        var folded = Folding.Fold(spelling);
        if (folded.Length == 0 || !_bySpelling.TryAdd(folded, term))
            return;
        var words = folded.Count(' ') + 1;
        var first = words == 1 ? folded : folded[..folded.IndexOf(' ')];
        _longestByFirstWord[first] = Math.Max(words, _longestByFirstWord.GetValueOrDefault(first));
        // Every word of a spelling is a place where typing may begin.
        completions.Add((folded, term));
        for (var at = folded.IndexOf(' '); at >= 0; at = folded.IndexOf(' ', at + 1))
            completions.Add((folded[(at + 1)..], term));
    }

    /// <summary>The term that a spelling leads to, or null.</summary>
    public Term? Find(string spelling) => IndexOf(spelling) is var i and >= 0 ? Vocabulary.Terms[i] : null;

    /// <summary>Position of the term a spelling leads to in <see cref="Vocabulary.Terms"/>; -1 when none does.</summary>
    public int IndexOf(string spelling)
    {
        if (_exact.TryGetValue(spelling, out var exact))
            return exact;
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
            if (!folded.StartsWith(start, StringComparison.Ordinal))
                yield break;
            if (Vocabulary.Terms[term].Status != TermStatus.Retired && seen.Add(term))
                yield return Vocabulary.Terms[term];
        }
    }

    private int LowerBound(string start)
    {
        int low = 0,
            high = _completions.Length;
        while (low < high)
        {
            var middle = (low + high) / 2;
            if (string.CompareOrdinal(_completions[middle].Folded, start) < 0)
                low = middle + 1;
            else
                high = middle;
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
        int best = -1,
            bestWords = 0;
        for (var start = 0; start < folded.Length; )
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

    private static void Longest(
        ReadOnlySpan<char> rest,
        int end,
        int longest,
        Dictionary<string, int>.AlternateLookup<ReadOnlySpan<char>> spellings,
        ref int best,
        ref int bestWords
    )
    {
        for (var words = 1; words <= longest; words++)
        {
            if (words > bestWords && spellings.TryGetValue(rest[..end], out var term))
            {
                best = term;
                bestWords = words;
            }
            if (end >= rest.Length)
                return;
            var next = rest[(end + 1)..].IndexOf(' ');
            end = next < 0 ? rest.Length : end + 1 + next;
        }
    }
}
