using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;
using F23.StringSimilarity;

namespace ClearLexicon.Core.Reading;

/// <summary>What a reader makes of a page.</summary>
/// <param name="Reader">The reader.</param>
/// <param name="Matches">One a clue.</param>
public sealed record Claim(Reader Reader, IReadOnlyList<ClueMatch> Matches)
{
    /// <summary>One a landmark.</summary>
    public IReadOnlyList<ClueMatch> Landmarks { get; init; } = [];

    /// <summary>Whether all clues of a first page hold, and one of them is more than the absence of something.</summary>
    public bool Holds => HoldsAs(PageRole.First);

    /// <summary>How much speaks for it: each clue of a first page that holds counts by how well it fits, 0 to 1.</summary>
    public double Score => Of(PageRole.First).Where(m => m.Holds).Sum(m => m.Clue.Absent ? 1 : m.Score);

    /// <summary>The clue without which it would hold; null when it holds, or more than one fails.</summary>
    public ClueMatch? Failing => FailingAs(PageRole.First) is [var one] ? one : null;

    /// <summary>What a page is by itself: a first one before a last one before a following one; null for none of the reader's.</summary>
    public PageRole? Role =>
        Holds ? PageRole.First
        : HoldsAs(PageRole.Last) ? PageRole.Last
        : HoldsAs(PageRole.Following) ? PageRole.Following
        : null;

    /// <summary>Whether the reader has clues for such pages at all.</summary>
    public bool Asks(PageRole role) => Of(role).Any();

    /// <summary>Whether all but one of several clues of a first page hold: at least three, so that a single word says nothing.</summary>
    public bool NearlyHolds => Of(PageRole.First).Count() > 2 && Failing is not null;

    /// <summary>Whether all clues of such a page hold, and one of them is more than the absence of something.</summary>
    public bool HoldsAs(PageRole role) => Of(role).All(m => m.Holds) && Of(role).Any(m => !m.Clue.Absent);

    /// <summary>The clues of such a page that do not hold.</summary>
    public IReadOnlyList<ClueMatch> FailingAs(PageRole role) => [.. Of(role).Where(m => !m.Holds)];

    private IEnumerable<ClueMatch> Of(PageRole role) => Matches.Where(m => m.Clue.On == role);
}

/// <summary>Finds which reader claims a page.</summary>
public static class Recognition
{
    /// <summary>
    /// Share of characters that may differ in a clue word of five letters or more: one misread letter in five, so that faint
    /// print is still recognised and short words are not confused.
    /// </summary>
    public const double Tolerance = 0.2;

    /// <summary>How far a clue that is asked for in its region may be from it, in shares of the page.</summary>
    public const double Near = 0.04;

    /// <summary>Least likeness of a picture, 0 to 1.</summary>
    public const double Alike = 0.6;

    /// <summary>Two claims whose scores are nearer than this are for a person to decide.</summary>
    public const double TooClose = 0.5;

    private static readonly NormalizedLevenshtein Distance = new();

    /// <summary>The claim with the best score; null when no reader claims the page.</summary>
    public static Claim? Recognise(PageText page, IEnumerable<Reader> readers, IPagePictures? pictures = null, int number = 1) =>
        Claims(page, readers, pictures, number) is [var best, ..] ? best : null;

    /// <summary>All claims that hold, the best first.</summary>
    /// <param name="page">The page.</param>
    /// <param name="readers">Who may claim it.</param>
    /// <param name="pictures">The document's pages as pictures; without them no clue that is a picture is found.</param>
    /// <param name="number">Number of the page in the document.</param>
    public static List<Claim> Claims(PageText page, IEnumerable<Reader> readers, IPagePictures? pictures = null, int number = 1)
    {
        var pieces = Pieces(page.Words);
        return
        [
            .. readers
                .Select(r => Try(page, r, pieces, pictures, number))
                .Where(c => c.Holds)
                .OrderByDescending(c => c.Score)
                .ThenByDescending(c => c.Matches.Count),
        ];
    }

    /// <summary>Looks for every clue and landmark of a reader.</summary>
    public static Claim Try(PageText page, Reader reader, IPagePictures? pictures = null, int number = 1) =>
        Try(page, reader, Pieces(page.Words), pictures, number);

    private static Claim Try(PageText page, Reader reader, (List<Word> Words, string[] Folded) pieces, IPagePictures? pictures, int number)
    {
        var matches = new ClueMatch[reader.Clues.Count];
        // Pictures are compared last, and only when nothing else speaks against the claim: that takes longest.
        foreach (var i in Enumerable.Range(0, matches.Length).OrderBy(i => reader.Clues[i].Kind == ClueKind.Picture))
            matches[i] = Match(
                reader.Clues[i],
                page,
                pieces,
                Array.TrueForAll(matches, m => m is null || m.Holds || m.Clue.On != reader.Clues[i].On) ? pictures : null,
                number
            );
        var claim = new Claim(reader, matches);
        return reader.Landmarks.Count == 0
            ? claim
            : claim with
            {
                Landmarks = [.. reader.Landmarks.Select(l => Match(l, page, pieces, claim.Holds ? pictures : null, number))],
            };
    }

    private static ClueMatch Match(
        Clue clue,
        PageText page,
        (List<Word> Words, string[] Folded) pieces,
        IPagePictures? pictures,
        int number
    )
    {
        var near = new Box(clue.Box.X - Near, clue.Box.Y - Near, clue.Box.W + 2 * Near, clue.Box.H + 2 * Near);
        bool Allowed(Box box) => !clue.InRegion || near.Contains(box.CentreX, box.CentreY);
        switch (clue.Kind)
        {
            case ClueKind.Code:
                var code = clue.Code is { } filter
                    ? page.Codes.FirstOrDefault(c => filter.Refuses(c, number) is null && Allowed(c.Box))
                    : null;
                return new ClueMatch(clue, code?.Box);
            case ClueKind.Picture:
                var seen = clue.Picture is { } patch ? pictures?.Find(number, patch, clue.InRegion ? near : null) : null;
                return new ClueMatch(clue, seen is { } s && s.Likeness >= Alike ? s.Box : null) { Score = seen?.Likeness ?? 0 };
            default:
                var best = clue
                    .Or.Prepend(clue.Text)
                    .Select(t => Find(t, clue, pieces.Words, pieces.Folded, Allowed))
                    .Where(f => f is not null)
                    .MinBy(f => f!.Value.Misread);
                return best is { } found ? new ClueMatch(clue, found.Box) { Score = 1 - found.Misread } : new ClueMatch(clue, null);
        }
    }

    /// <summary>
    /// How far the nearest words of a page are from a phrase: 0 when it stands there, up to 1; up to <see cref="Tolerance"/> it counts as
    /// misread.
    /// </summary>
    /// <param name="page">The page.</param>
    /// <param name="phrase">One word or several that follow one another.</param>
    /// <param name="region">Where the words must stand; null for anywhere.</param>
    public static double Nearest(PageText page, string phrase, Box? region)
    {
        var wanted = Folding.Words(phrase);
        if (wanted.Length == 0)
            return 1;
        var (words, folded) = Pieces(page.Words.Where(w => region is not { } r || r.Contains(w.Box.CentreX, w.Box.CentreY)));
        var nearest = 1.0;
        for (var at = 0; at + wanted.Length <= words.Count && nearest > 0; at++)
        {
            var farthest = 0.0;
            for (var i = 0; i < wanted.Length && farthest < nearest; i++)
                farthest = Math.Max(farthest, wanted[i] == folded[at + i] ? 0 : Far(wanted[i], folded[at + i]));
            nearest = Math.Min(nearest, farthest);
        }
        return nearest;
    }

    // A speck between two words makes one of them ("We.hereby"): what folding divides is compared piece by piece.
    private static (List<Word> Words, string[] Folded) Pieces(IEnumerable<Word> of)
    {
        var (words, folded) = (new List<Word>(), new List<string>());
        foreach (var word in of)
        foreach (var piece in Folding.Letters(word.Text).Split(' '))
        {
            words.Add(word);
            folded.Add(piece);
        }
        return (words, [.. folded]);
    }

    // Words of a length that no misreading explains are not compared letter by letter.
    private static double Far(string wanted, string found) =>
        wanted.Length < 4 || Math.Abs(wanted.Length - found.Length) > 3 ? 1 : Distance.Distance(wanted, found);

    // The occurrence nearest to where the clue stood; misread words count when no exact one exists.
    private static (Box Box, double Misread)? Find(
        string text,
        Clue clue,
        IReadOnlyList<Word> words,
        string[] folded,
        Func<Box, bool> isAllowed
    )
    {
        var wanted = Folding.Words(text);
        if (wanted.Length == 0)
            return null;
        (Box, double)? best = null;
        var bestScore = double.MaxValue;
        for (var at = 0; at + wanted.Length <= words.Count; at++)
        {
            var misread = 0.0;
            for (var i = 0; i < wanted.Length && misread < 100; i++)
                misread += Misread(wanted[i], folded[at + i]);
            if (misread >= 100 || clue.Exact && misread > 0)
                continue;
            var box = Box.Around(words.Skip(at).Take(wanted.Length).Select(w => w.Box))!.Value;
            if (!isAllowed(box))
                continue;
            double dx = box.CentreX - clue.Box.CentreX,
                dy = box.CentreY - clue.Box.CentreY;
            var score = misread * 10 + Math.Sqrt(dx * dx + dy * dy);
            if (score < bestScore)
                (bestScore, best) = (score, (box, misread / wanted.Length));
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
