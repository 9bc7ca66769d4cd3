using ClearLexicon.Core.Reading.Finders;

namespace ClearLexicon.Core.Reading;

/// <summary>A page of a document with how it lies.</summary>
/// <param name="Number">Its number, from 1.</param>
/// <param name="Text">Its text.</param>
/// <param name="Placing">How it lies against the page that its reader was taught on.</param>
internal sealed record DocumentLeaf(int Number, PageText Text, PagePlacing Placing);

/// <summary>
/// The pages of a claimed document by what they are to its reader: the first, one that follows, the last. Each is looked for once.
/// </summary>
/// <param name="pages">All pages with their numbers.</param>
/// <param name="claimed">Number of the page that is claimed.</param>
/// <param name="claim">The claim on it.</param>
/// <param name="claimedAs">What that page is; one that is not a first page stands for itself alone.</param>
/// <param name="context">Pictures for clues that are pictures.</param>
internal sealed class DocumentLeaves(
    IReadOnlyList<(int Number, PageText Text)> pages,
    int claimed,
    Claim claim,
    PageRole claimedAs,
    FinderContext context
)
{
    private readonly Dictionary<PageRole, DocumentLeaf?> _known = [];

    /// <summary>The page of a role; null when the document has none. What its reader does not know as such a page is none.</summary>
    public DocumentLeaf? Of(PageRole role) => _known.TryGetValue(role, out var leaf) ? leaf : _known[role] = Find(role);

    private DocumentLeaf? Find(PageRole role)
    {
        if (role == claimedAs)
            return new DocumentLeaf(claimed, TextOf(claimed), new PagePlacing(TextOf(claimed), claim, role));
        if (claimedAs != PageRole.First)
            return null;
        var last = pages.Max(p => p.Number);
        foreach (
            var (number, text) in pages.Where(p => role == PageRole.Last ? p.Number == last : p.Number > claimed).OrderBy(p => p.Number)
        )
            if (ClaimOf(number) is var of && (!of.Asks(role) || of.HoldsAs(role)))
                return new DocumentLeaf(number, text, new PagePlacing(text, of, role));
        return null;
    }

    private PageText TextOf(int number) => pages.First(p => p.Number == number).Text;

    private Claim ClaimOf(int number) =>
        number == claimed ? claim : Recognition.Try(TextOf(number), claim.Reader, context.Pictures, number);
}
