using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using F23.StringSimilarity;

namespace ClearLexicon.Core.Reading;

/// <summary>Where a clue was found on a page.</summary>
/// <param name="Clue">The clue.</param>
/// <param name="Found">Region of the words that match it; null when it is not there.</param>
public sealed record ClueMatch(Clue Clue, Box? Found);

/// <summary>What a reader makes of a page.</summary>
/// <param name="Reader">The reader.</param>
/// <param name="Matches">One a clue.</param>
public sealed record Claim(Reader Reader, IReadOnlyList<ClueMatch> Matches)
{
    /// <summary>Whether all clues are there. A reader without clues claims nothing.</summary>
    public bool Holds => Matches.Count > 0 && Matches.All(m => m.Found is not null);
}

/// <summary>Finds which reader claims a page.</summary>
public static class Recognition
{
    /// <summary>
    /// Share of characters that may differ in a clue word of five letters or more: one misread letter in five, so that faint
    /// print is still recognised and short words are not confused.
    /// </summary>
    public const double Tolerance = 0.2;

    private static readonly NormalizedLevenshtein Distance = new();

    /// <summary>The claim with most clues found in full; null when no reader claims the page.</summary>
    public static Claim? Recognise(PageText page, IEnumerable<Reader> readers) =>
        readers.Select(r => Try(page, r)).Where(c => c.Holds).MaxBy(c => c.Matches.Count);

    /// <summary>Looks for every clue of a reader.</summary>
    public static Claim Try(PageText page, Reader reader)
    {
        var folded = page.Words.Select(w => Folding.Fold(w.Text)).ToArray();
        return new Claim(reader, [.. reader.Clues.Select(c => new ClueMatch(c, Find(c, page.Words, folded)))]);
    }

    /// <summary>The occurrence nearest to where the clue stood; misread words count when no exact one exists.</summary>
    private static Box? Find(Clue clue, IReadOnlyList<Word> words, string[] folded)
    {
        var wanted = clue.Text.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(Folding.Fold).Where(w => w.Length > 0).ToArray();
        if (wanted.Length == 0)
            return null;
        Box? best = null;
        var bestScore = double.MaxValue;
        for (var at = 0; at + wanted.Length <= words.Count; at++)
        {
            var misread = 0.0;
            for (var i = 0; i < wanted.Length && misread < 100; i++)
                misread += Misread(wanted[i], folded[at + i]);
            if (misread >= 100)
                continue;
            var box = Box.Around(words.Skip(at).Take(wanted.Length).Select(w => w.Box))!.Value;
            double dx = box.CentreX - clue.Box.CentreX,
                dy = box.CentreY - clue.Box.CentreY;
            var score = misread * 10 + Math.Sqrt(dx * dx + dy * dy);
            if (score < bestScore)
            {
                bestScore = score;
                best = box;
            }
        }
        return best;
    }

    private static double Misread(string wanted, string found)
    {
        if (wanted == found)
            return 0;
        if (wanted.Length < 5 || Math.Abs(wanted.Length - found.Length) > 2)
            return 100;
        var distance = Distance.Distance(wanted, found);
        return distance <= Tolerance ? distance : 100;
    }
}
