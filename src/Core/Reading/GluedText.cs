using System.Text;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading;

/// <summary>
/// Words folded (<see cref="Folding"/>) and put together without anything between them, so that a spelling is found however it is spaced,
/// hyphenated or broken across lines. Text that stands on its head is the same text backwards.
/// </summary>
internal sealed class GluedText
{
    private readonly string _letters;
    private readonly int[] _word;
    private readonly bool[] _starts;

    /// <summary>Puts words together in the order given.</summary>
    public GluedText(IReadOnlyList<string> words)
    {
        var letters = new StringBuilder();
        var (word, starts) = (new List<int>(), new List<bool>());
        for (var i = 0; i < words.Count; i++)
        {
            var start = true;
            foreach (var c in Folding.Letters(words[i]))
            {
                if (c == ' ')
                {
                    start = true;
                    continue;
                }
                // A digit beside a letter begins anew: “EUR1234”, “No12b”.
                if (!start && char.IsDigit(c) != char.IsDigit(letters[^1]))
                    start = true;
                letters.Append(c);
                word.Add(i);
                starts.Add(start);
                start = false;
            }
        }
        (_letters, _word, _starts) = (letters.ToString(), [.. word], [.. starts]);
    }

    /// <summary>Numbers of the words, from 0, in which any of the spellings stands.</summary>
    public IEnumerable<int> Finds(Spellings spellings)
    {
        var found = new HashSet<int>();
        foreach (var (spelling, hold) in spellings.All)
        {
            Find(spelling, hold, found);
            var backwards = new string([.. spelling.Reverse()]);
            if (backwards != spelling)
                Find(backwards, hold == Hold.Ending ? Hold.Whole : hold, found);
        }
        return found.Order();
    }

    private void Find(string spelling, Hold hold, HashSet<int> found)
    {
        for (
            var at = _letters.IndexOf(spelling, StringComparison.Ordinal);
            at >= 0;
            at = _letters.IndexOf(spelling, at + 1, StringComparison.Ordinal)
        )
        {
            var end = at + spelling.Length;
            bool begins = Begins(at, spelling),
                ends = end == _letters.Length || _starts[end];
            var holds = hold switch
            {
                Hold.Anywhere => true,
                Hold.Edge => begins || ends,
                Hold.Ending => begins && (ends || (_letters[end] == 's' && (end + 1 == _letters.Length || _starts[end + 1]))),
                _ => begins && ends,
            };
            if (holds)
                for (var i = at; i < end; i++)
                    found.Add(_word[i]);
        }
    }

    // Zeros before a number do not make it another.
    private bool Begins(int at, string spelling)
    {
        if (char.IsDigit(spelling[0]))
            while (at > 0 && !_starts[at] && _letters[at - 1] == '0')
                at--;
        return _starts[at];
    }
}
