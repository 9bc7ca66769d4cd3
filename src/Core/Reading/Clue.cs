using ClearLexicon.Core.Reading.Codes;

namespace ClearLexicon.Core.Reading;

/// <summary>What a clue or a landmark is.</summary>
public enum ClueKind
{
    /// <summary>One word or several that follow one another.</summary>
    Words,

    /// <summary>A code of a kind or with a pattern.</summary>
    Code,

    /// <summary>A region that is always the same: a crest, a frame.</summary>
    Picture,
}

/// <summary>Which page of a document is meant.</summary>
public enum PageRole
{
    /// <summary>The page by which a reader claims a document.</summary>
    First,

    /// <summary>A page behind it.</summary>
    Following,

    /// <summary>The page that ends a document; of a document of one page that is its first.</summary>
    Last,
}

/// <summary>What must be on a page, or must not, for a reader to claim it.</summary>
/// <param name="Text">Its words; for a code or a picture what people call it.</param>
/// <param name="Box">Where it stood on the page it was marked on.</param>
public sealed record Clue(string Text, Box Box)
{
    /// <summary>What it is.</summary>
    public ClueKind Kind { get; init; }

    /// <summary>The page of a document that must have it.</summary>
    public PageRole On { get; init; }

    /// <summary>Other words of which any one will do as well.</summary>
    public IReadOnlyList<string> Or { get; init; } = [];

    /// <summary>Whether it must not be there.</summary>
    public bool Absent { get; init; }

    /// <summary>Whether it counts only where it was marked, give or take <see cref="Recognition.Near"/> of the page.</summary>
    public bool InRegion { get; init; }

    /// <summary>Whether no misread letter is forgiven.</summary>
    public bool Exact { get; init; }

    /// <summary>Which codes count, for a code.</summary>
    public CodeFilter? Code { get; init; }

    /// <summary>The region as a picture, for a picture.</summary>
    public PicturePatch? Picture { get; init; }

    /// <summary>What is wrong with it by itself; null when it can be used.</summary>
    public string? Finding =>
        Kind switch
        {
            ClueKind.Code => Code is null ? "Say which codes count." : Code.Finding,
            ClueKind.Picture => Picture is null || Picture.Pixels.Length == 0 ? "Mark the region that is always the same." : null,
            _ => Vocabularies.Folding.Words(Text).Length == 0 ? "Write a word with letters or digits."
            : Or.Count > Most || Or.Append(Text).Any(t => t.Length > Longest)
                ? $"Write at most {Most} other words of at most {Longest} characters each."
            : null,
        };

    /// <summary>Most other words, and the longest in characters.</summary>
    public const int Most = 20;

    /// <summary>The longest words in characters.</summary>
    public const int Longest = 200;

    /// <summary>Whether where it stands says how the page lies.</summary>
    internal bool IsPlaced => !Absent && Kind != ClueKind.Code && Or.Count == 0;
}

/// <summary>A piece of a page as a small picture.</summary>
/// <param name="Width">In pixels.</param>
/// <param name="Height">In pixels.</param>
/// <param name="Pixels">Greys by rows from the top left, 0 for black.</param>
public sealed record PicturePatch(int Width, int Height, byte[] Pixels);

/// <summary>What became of a clue or a landmark on a page.</summary>
/// <param name="Clue">It.</param>
/// <param name="Found">Where it is; null when it is not there.</param>
public sealed record ClueMatch(Clue Clue, Box? Found)
{
    /// <summary>How well it fits, 0 to 1: 1 for words spelled as they are asked for.</summary>
    public double Score { get; init; } = Found is null ? 0 : 1;

    /// <summary>Whether the page is as the clue asks.</summary>
    public bool Holds => Found is null == Clue.Absent;

    /// <summary>What is said of it on this page, in one clause.</summary>
    public string Says =>
        (Clue.Absent, Found) switch
        {
            (false, null) => $"“{Clue.Text}” is not on this page{(Clue.InRegion ? " where it should be" : "")}",
            (true, not null) => $"“{Clue.Text}” is on this page and must not be",
            (true, null) => $"without “{Clue.Text}”",
            _ => Score < 0.995 ? $"“{Clue.Text}”, {Score:P0} alike" : $"“{Clue.Text}”",
        };
}
