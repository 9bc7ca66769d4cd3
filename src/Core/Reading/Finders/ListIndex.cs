using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>Where an entry of a list stands.</summary>
/// <param name="Run">Its words.</param>
/// <param name="Value">The entry.</param>
/// <param name="Letters">How long its spelling is.</param>
/// <param name="Misread">Whether a letter or two was forgiven.</param>
internal readonly record struct ListHit(WordRun Run, string Value, int Letters, bool Misread);

/// <summary>
/// The spellings of a list, so that all that occur on a page are found in one walk over its words, whatever the length of the list: by what
/// is left when letters that are misread for one another are one, and in lists that are not very long also with one letter lost or added.
/// </summary>
internal sealed class ListIndex
{
    /// <summary>Longest list in which lost and added letters are forgiven; beyond, the memory for it is not worth it.</summary>
    private const int MostForgiven = 20_000;

    private const int Shortest = 2;
    private const int ShortestForgiven = 5;
    private const int MostWords = 12;
    private const int LongestSpelling = 200;

    private readonly Dictionary<string, Entry> _exact = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Entry> _alike = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Entry> _lost = new(StringComparer.Ordinal);
    private readonly int _mostWords;

    private sealed record Entry(string Value);

    // Two entries that look the same stand for neither.
    private static readonly Entry Several = new("");

    public ListIndex(IEnumerable<(string Spelling, string Value)> entries)
    {
        foreach (var (spelling, value) in entries)
        {
            if (spelling.Length > LongestSpelling)
                continue;
            var words = Folding.Words(spelling);
            var glued = string.Concat(words);
            if (glued.Length < Shortest || words.Length > MostWords)
                continue;
            _mostWords = Math.Max(_mostWords, words.Length);
            Put(_exact, glued, value);
        }
        var forgiven = _exact.Count <= MostForgiven;
        foreach (var (glued, entry) in _exact)
        {
            if (glued.Length < ShortestForgiven || entry == Several)
                continue;
            var alike = Alike(glued);
            Put(_alike, alike, entry.Value);
            if (forgiven && !HasDigit(glued))
                foreach (var lost in Lost(alike))
                    Put(_lost, lost, entry.Value);
        }
    }

    /// <summary>All that stand in the lines; where several begin at a word, the longest.</summary>
    public IEnumerable<ListHit> In(IEnumerable<TextLine> lines)
    {
        foreach (var line in lines)
            for (var at = 0; at < line.Words.Count; at++)
                if (At(line, at) is { } hit)
                {
                    yield return hit;
                    at = hit.Run.To - 1;
                }
    }

    private ListHit? At(TextLine line, int at)
    {
        ListHit? best = null;
        var glued = "";
        // One word more than any entry has: recognition breaks words.
        for (var to = at; to < line.Words.Count && to - at <= _mostWords && glued.Length <= LongestSpelling; to++)
        {
            var folded = line.Folded[to].Replace(" ", "", StringComparison.Ordinal);
            if (folded.Length == 0)
            {
                if (to == at)
                    return null;
                continue;
            }
            glued += folded;
            if (Find(glued) is { } found)
                best = new ListHit(new WordRun(line, at, to + 1, 0), found.Value, glued.Length, found.Misread);
        }
        return best;
    }

    /// <summary>The entry that a folded text without blanks stands for.</summary>
    public (string Value, bool Misread)? Find(string glued)
    {
        if (_exact.TryGetValue(glued, out var exact))
            return exact == Several ? null : (exact.Value, false);
        if (glued.Length < ShortestForgiven)
            return null;
        var alike = Alike(glued);
        if (_alike.TryGetValue(alike, out var same))
            return same == Several ? null : (same.Value, true);
        // Digits are not forgiven: another number is another thing.
        if (_lost.Count == 0 || HasDigit(glued))
            return null;
        if (_lost.TryGetValue(alike, out var shorter) && shorter != Several)
            return (shorter.Value, true);
        Entry? only = null;
        foreach (var lost in Lost(alike))
            if (_alike.TryGetValue(lost, out var longer) || _lost.TryGetValue(lost, out longer))
            {
                if (longer == Several || only is not null && only.Value != longer.Value)
                    return null;
                only = longer;
            }
        return only is null ? null : (only.Value, true);
    }

    private static void Put(Dictionary<string, Entry> to, string key, string value)
    {
        if (!to.TryGetValue(key, out var known))
            to[key] = new Entry(value);
        else if (known.Value != value)
            to[key] = Several;
    }

    private static IEnumerable<string> Lost(string text)
    {
        for (var i = 0; i < text.Length; i++)
            yield return text.Remove(i, 1);
    }

    private static bool HasDigit(string text) => text.Any(char.IsAsciiDigit);

    // Letters and digits that recognition takes for one another are written as one of them.
    private static string Alike(string glued)
    {
        if (glued.All(char.IsAsciiDigit))
            return glued;
        return string.Create(
                glued.Length,
                glued,
                static (to, from) =>
                {
                    for (var i = 0; i < to.Length; i++)
                        to[i] = from[i] switch
                        {
                            '0' or 'q' => 'o',
                            '1' or 'i' or 'j' => 'l',
                            '5' => 's',
                            '8' => 'b',
                            '2' => 'z',
                            '6' => 'g',
                            var c => c,
                        };
                }
            )
            .Replace("rn", "m", StringComparison.Ordinal)
            .Replace("vv", "w", StringComparison.Ordinal);
    }
}
