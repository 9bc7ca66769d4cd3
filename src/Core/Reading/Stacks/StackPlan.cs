using ClearLexicon.Core.Reading.Sheets;

namespace ClearLexicon.Core.Reading.Stacks;

/// <summary>A page of a stack with what separation asks of it.</summary>
/// <param name="Key">Its name, such as <c>7/12</c>: file and page.</param>
/// <param name="Text">Its text, codes and ink.</param>
/// <param name="BeginsFile">Whether a file begins with it.</param>
public sealed record StackPage(string Key, PageText Text, bool BeginsFile)
{
    /// <summary>Name of the reader that claims it; null when none does.</summary>
    public string? Claim { get; init; }

    /// <summary>What a reader lacks to claim it, in one clause; null when none is near.</summary>
    public string? NearClaim { get; init; }

    /// <summary>What readers that know following or last pages say of it, by their names.</summary>
    public IReadOnlyDictionary<string, PageRoles> Roles { get; init; } = NoRoles;

    private static readonly Dictionary<string, PageRoles> NoRoles = [];

    /// <summary>The sheet made here that it is; null for any other page.</summary>
    public SheetCode? Sheet { get; init; }
}

/// <summary>What a reader that knows more than first pages says of a page.</summary>
/// <param name="Follows">Whether it is one of its following pages.</param>
/// <param name="Ends">Whether it is one of its last pages.</param>
/// <param name="AsksLast">Whether the reader knows last pages.</param>
/// <param name="Lacks">What it lacks to be a following or last page, in one clause.</param>
public sealed record PageRoles(bool Follows, bool Ends, bool AsksLast, string Lacks)
{
    /// <summary>What a claim says of a page; null when the reader knows first pages only.</summary>
    public static PageRoles? Of(Claim claim)
    {
        if (!claim.Asks(PageRole.Following) && !claim.Asks(PageRole.Last))
            return null;
        var lacks = claim.FailingAs(claim.Asks(PageRole.Following) ? PageRole.Following : PageRole.Last);
        return new PageRoles(
            claim.HoldsAs(PageRole.Following),
            claim.HoldsAs(PageRole.Last),
            claim.Asks(PageRole.Last),
            lacks is [var one, ..] ? one.Says : ""
        );
    }
}

/// <summary>What a person changed in a separation.</summary>
/// <param name="Act"><c>cut</c> before a page, <c>join</c> it with the one before, <c>drop</c> it or <c>keep</c> it.</param>
/// <param name="Page">Key of the page.</param>
public sealed record HandEdit(string Act, string Page)
{
    /// <summary>What can be done.</summary>
    public static IReadOnlyList<string> Acts { get; } = ["cut", "join", "drop", "keep"];
}

/// <summary>A page in a plan.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Cut">Why a document begins here; null when it goes on.</param>
/// <param name="Gone">Why the page vanishes; null when it stays.</param>
/// <param name="Doubt">What a person should look at; null for nothing.</param>
/// <param name="ByHand">Whether a person decided it.</param>
public sealed record PlannedPage(string Key, string? Cut, string? Gone, string? Doubt, bool ByHand = false);

/// <summary>A document as planned.</summary>
/// <param name="Pages">Keys of its pages in order; at least one.</param>
/// <param name="Cut">Why it begins where it does.</param>
/// <param name="Doubts">What a person should look at.</param>
/// <param name="Sheet">Key of the page that opened it and vanished, a sheet or a page that separates; null for none.</param>
public sealed record PlannedDocument(IReadOnlyList<string> Pages, string Cut, IReadOnlyList<string> Doubts, string? Sheet);

/// <summary>How a stack is separated: each page in order with the reason for what happens to it.</summary>
/// <param name="Pages">One a page.</param>
/// <param name="Doubt">What is doubtful of the whole; null for nothing.</param>
public sealed record StackPlan(IReadOnlyList<PlannedPage> Pages, string? Doubt)
{
    /// <summary>Keys of pages that vanished, by the page whose document they open.</summary>
    public IReadOnlyDictionary<string, string> Sheets { get; init; } = new Dictionary<string, string>();

    /// <summary>Whether a person should look before documents are made of it.</summary>
    public bool IsDoubtful => Doubt is not null || Pages.Any(p => p.Doubt is not null);

    /// <summary>The documents in order.</summary>
    public IReadOnlyList<PlannedDocument> Documents
    {
        get
        {
            var documents = new List<PlannedDocument>();
            var pages = new List<string>();
            var doubts = new List<string>();
            var cut = "";
            void Close()
            {
                if (pages.Count > 0)
                    documents.Add(new PlannedDocument([.. pages], cut, [.. doubts], Sheets.GetValueOrDefault(pages[0])));
                pages.Clear();
                doubts.Clear();
            }
            foreach (var page in Pages.Where(p => p.Gone is null))
            {
                if (page.Cut is { } why)
                {
                    Close();
                    cut = why;
                }
                pages.Add(page.Key);
                if (page.Doubt is { } doubt)
                    doubts.Add(doubt);
            }
            Close();
            return documents;
        }
    }
}
