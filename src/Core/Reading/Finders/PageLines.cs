using ClearLexicon.Core.Vocabularies;
using F23.StringSimilarity;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>A run of words that follow one another on a line.</summary>
/// <param name="Line">The line.</param>
/// <param name="From">First word, from 0.</param>
/// <param name="To">One past the last.</param>
/// <param name="Misread">How much was forgiven, 0 for none to 1.</param>
internal readonly record struct WordRun(TextLine Line, int From, int To, double Misread)
{
    public IEnumerable<Word> Words => Line.Words.Skip(From).Take(To - From);

    public Box Box => Reading.Box.Around(Words.Select(w => w.Box))!.Value;
}

/// <summary>A folded word with the letters it has, by which most that are not alike are told apart.</summary>
internal readonly record struct Piece(string Text, ulong Letters)
{
    public static Piece[] Of(string folded) =>
        [.. folded.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(p => new Piece(p, LettersOf(p)))];

    private static ulong LettersOf(string word)
    {
        ulong letters = 0;
        foreach (var c in word)
            letters |= 1UL << (c & 63);
        return letters;
    }
}

/// <summary>Words that are looked for.</summary>
internal sealed class Phrase(Piece[] words)
{
    public Piece[] Words { get; } = words;
}

/// <summary>A line of a page.</summary>
internal sealed class TextLine(IReadOnlyList<Word> words)
{
    /// <summary>Its words from the left.</summary>
    public IReadOnlyList<Word> Words { get; } = words;

    /// <summary>The words folded.</summary>
    public IReadOnlyList<string> Folded => _folded ??= [.. Words.Select(w => Folding.Letters(w.Text))];

    private string[]? _folded;

    /// <summary>What folding makes of each word: most are one piece, a mark is none.</summary>
    public Piece[][] Pieces => _pieces ??= [.. Folded.Select(Piece.Of)];

    private Piece[][]? _pieces;

    /// <summary>Height of its tallest word of letters, in shares of the page.</summary>
    public double Height { get; } = words.Max(w => w.Box.H);

    public double CentreY { get; } = words.Average(w => w.Box.CentreY);
}

/// <summary>A page as lines of words from the top, made once for all finders that look at it.</summary>
internal sealed class PageLines
{
    private static readonly NormalizedLevenshtein Distance = new();

    /// <summary>Share of a word's letters that may be misread; one letter of three only when the rest of the phrase is right.</summary>
    private const double Forgiven = 0.26;
    private const double OfThree = 0.34;

    public PageLines(int number, PageText text)
    {
        (Number, Text) = (number, text);
        Lines = Divided(text.Words);
    }

    public int Number { get; }

    public PageText Text { get; }

    public IReadOnlyList<TextLine> Lines { get; }

    /// <summary>Height of a page over its width: what is as high as wide on paper has shares in this ratio.</summary>
    public double Aspect => Text is { Width: > 0, Height: > 0 } t ? t.Height / t.Width : 1.414;

    /// <summary>Everywhere a phrase stands, the right spelling before misread ones.</summary>
    public IEnumerable<WordRun> Find(IEnumerable<string> phrases)
    {
        var runs = new List<WordRun>();
        foreach (var phrase in Phrases(phrases))
        foreach (var line in Lines)
            for (var at = 0; at < line.Words.Count; at++)
                if (Match(line, at, phrase) is { } run)
                    runs.Add(run);
        return runs.OrderBy(r => r.Misread).ThenBy(r => r.Line.CentreY).ThenBy(r => r.From);
    }

    /// <summary>Phrases as they are looked for.</summary>
    public static List<Phrase> Phrases(IEnumerable<string> phrases) =>
        [.. phrases.Select(p => new Phrase(Piece.Of(Folding.Letters(p)))).Where(p => p.Words.Length > 0)];

    /// <summary>Whether one of the phrases stands anywhere on a line.</summary>
    public static bool Holds(TextLine line, List<Phrase> phrases) =>
        phrases.Count > 0 && Enumerable.Range(0, line.Words.Count).Any(i => StandsAt(line, i, phrases));

    /// <summary>Whether a phrase begins at a word of a line.</summary>
    public static bool StandsAt(TextLine line, int at, IReadOnlyList<Phrase> phrases)
    {
        for (var i = 0; i < phrases.Count; i++)
            if (Match(line, at, phrases[i]) is not null)
                return true;
        return false;
    }

    // A word of the page may hold several of the phrase ("No.:", "Ref/No"); what folding makes of it is compared piece by piece.
    private static WordRun? Match(TextLine line, int at, Phrase phrase)
    {
        var wanted = phrase.Words;
        var (i, to, misread) = (0, at, 0.0);
        while (i < wanted.Length)
        {
            if (to == line.Words.Count)
                return null;
            var pieces = line.Pieces[to];
            // Marks between the words of a phrase say nothing; before it they are not part of it.
            if (pieces.Length == 0)
            {
                if (i == 0)
                    return null;
                to++;
                continue;
            }
            foreach (var piece in pieces)
            {
                if (i == wanted.Length)
                    return null;
                var far = Far(wanted[i], piece);
                if (far > Forgiven && !(far < OfThree && wanted.Length > 1 && misread == 0))
                    return null;
                misread = Math.Max(misread, far);
                i++;
            }
            to++;
        }
        return new WordRun(line, at, to, misread);
    }

    // From the left, each word goes to the line whose last word it stands beside: by how much they overlap in height, not by their
    // middles, because small letters, figures and what hangs below the line have different ones.
    private static List<TextLine> Divided(IReadOnlyList<Word> words)
    {
        var lines = new List<List<Word>>();
        var ends = new SortedSet<(double Y, int Line)>();
        foreach (
            var word in words.Where(w => w.Text.Length > 0 && double.IsFinite(w.Box.X + w.Box.Y + w.Box.W + w.Box.H)).OrderBy(w => w.Box.X)
        )
        {
            var reach = Math.Max(word.Box.H, Highest);
            var (best, share) = (-1, Beside);
            foreach (var (_, line) in ends.GetViewBetween((word.Box.CentreY - reach, -1), (word.Box.CentreY + reach, int.MaxValue)))
            {
                var (a, b) = (lines[line][^1].Box, word.Box);
                var overlap = Math.Min(a.Y + a.H, b.Y + b.H) - Math.Max(a.Y, b.Y);
                var of = overlap / Math.Max(1e-9, Math.Min(a.H, b.H));
                if (of > share)
                    (best, share) = (line, of);
            }
            if (best < 0)
            {
                best = lines.Count;
                lines.Add([]);
            }
            else
                ends.Remove((lines[best][^1].Box.CentreY, best));
            lines[best].Add(word);
            ends.Add((word.Box.CentreY, best));
        }
        return [.. lines.Select(l => new TextLine(l)).OrderBy(l => l.CentreY)];
    }

    private const double Beside = 0.45;
    private const double Highest = 0.02;

    private static double Far(in Piece wanted, in Piece found)
    {
        if (wanted.Text == found.Text)
            return 0;
        // Long words are not compared letter by letter: no label is one, and the cost grows with the square. Nor are words of other lengths
        // or of other letters, which most are.
        var (length, other) = (wanted.Text.Length, found.Text.Length);
        var edits = (int)(OfThree * Math.Max(length, other));
        return
            length is < 3 or > 40
            || Math.Abs(length - other) > edits
            || System.Numerics.BitOperations.PopCount(wanted.Letters ^ found.Letters) > 2 * edits
            ? 1
            : Distance.Distance(wanted.Text, found.Text);
    }
}
