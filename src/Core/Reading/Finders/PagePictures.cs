namespace ClearLexicon.Core.Reading.Finders;

/// <summary>A printed box on a page and how full it is.</summary>
/// <param name="Box">Where it stands.</param>
/// <param name="Ink">Share of its inside that is dark, 0 to 1.</param>
public sealed record PrintedBox(Box Box, double Ink);

/// <summary>What is seen on the pictures of a document's pages besides words.</summary>
public interface IPagePictures
{
    /// <summary>Small printed squares in a region of a page, in reading order; none when its picture is not there.</summary>
    /// <param name="page">Its number in the document.</param>
    /// <param name="region">In shares of the page.</param>
    IReadOnlyList<PrintedBox> Boxes(int page, Box region);

    /// <summary>
    /// Where there is ink in a region that is neither a ruled line nor one of the words given; null when there is no more than dust.
    /// </summary>
    /// <param name="page">Its number in the document.</param>
    /// <param name="region">In shares of the page.</param>
    /// <param name="printed">Places of printed words, which do not count.</param>
    Box? Handwriting(int page, Box region, IReadOnlyList<Box> printed);

    /// <summary>Where a piece of a page is seen again, however it was scanned; null when the page's picture is not there.</summary>
    /// <param name="page">Its number in the document.</param>
    /// <param name="patch">The piece.</param>
    /// <param name="region">Where its centre must lie; null for anywhere.</param>
    /// <returns>The place where it fits best, and how well, from 0 to 1.</returns>
    (Box Box, double Likeness)? Find(int page, PicturePatch patch, Box? region);

    /// <summary>Recognises places once more, each by itself, at several sizes.</summary>
    /// <param name="places">Pages, boxes, and the characters that may stand there; none for any.</param>
    /// <returns>For each place what it may say; none when its picture is not there.</returns>
    IReadOnlyList<IReadOnlyList<string>> ReadAgain(IReadOnlyList<(int Page, Box Box, string Characters)> places);
}

/// <summary>What finders know besides the page.</summary>
public sealed record FinderContext
{
    /// <summary>Vocabularies by key; a list finder of a field whose vocabulary is missing finds nothing.</summary>
    public IReadOnlyDictionary<string, Vocabularies.VocabularyIndex> Vocabularies { get; init; } =
        new Dictionary<string, Vocabularies.VocabularyIndex>();

    /// <summary>Reference tables by key; null for one that is not there.</summary>
    public Func<string, Rules.ReferenceTable?> Tables { get; init; } = static _ => null;

    /// <summary>The pages as pictures; null when they cannot be looked at, and then marks and signatures are not found.</summary>
    public IPagePictures? Pictures { get; init; }

    /// <summary>How the document came.</summary>
    public Arrival Arrival { get; init; } = new("");

    /// <summary>Without vocabularies, tables or pictures.</summary>
    public static FinderContext None { get; } = new();
}
