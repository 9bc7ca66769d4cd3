namespace ClearLexicon.Core.Reading.Stacks;

/// <summary>Cuts a stack into documents by a method and by hand. Nothing is kept here; the same stack gives the same plan.</summary>
public static class Separator
{
    /// <summary>Why a blank page vanishes that separates nothing.</summary>
    public const string Blank = "blank page";

    /// <summary>
    /// Plans a stack. A page that separates vanishes unless it stays as first page; two in a row, or one at the end, make no empty
    /// document; its back vanishes with it when both sides were scanned.
    /// </summary>
    /// <param name="pages">The pages in order.</param>
    /// <param name="how">The separation; one with a finding cuts nothing.</param>
    /// <param name="byHand">What a person changed, oldest first.</param>
    public static StackPlan Plan(IReadOnlyList<StackPage> pages, Separation how, IReadOnlyList<HandEdit> byHand)
    {
        var method = SeparationMethods.Find(how.Method) ?? SeparationMethods.All[0];
        var isSound = how.Finding is null;
        var planned = new List<PlannedPage>(pages.Count);
        var memory = new SeparationMemory();
        var sheets = new Dictionary<string, string>(StringComparer.Ordinal);
        var separators = 0;
        // Why the next page that stays begins a document, and the page that vanished before it.
        string? pending = pages.Count > 0 ? "the stack begins" : null;
        string? sheet = null;
        var afterSeparator = false;
        foreach (var page in pages)
        {
            var (isBlank, blankDoubt) = how.Blank(page.Text);
            if (page.BeginsFile && how.EndsWithFile && planned.Count > 0)
            {
                pending = "a file begins";
                sheet = null;
                memory = new SeparationMemory();
            }
            if (page.Sheet is { } made)
            {
                separators++;
                (pending, sheet, afterSeparator) = ($"{made.Name} before it", page.Key, true);
                memory = new SeparationMemory();
                planned.Add(new PlannedPage(page.Key, null, made.Name, made.Doubt));
                continue;
            }
            if (afterSeparator && how.Duplex)
            {
                afterSeparator = false;
                if (isBlank || page.Text.Words.Count == 0)
                {
                    planned.Add(new PlannedPage(page.Key, null, "back of the page that separates", null));
                    continue;
                }
            }
            if (isBlank && how.Method == "blank")
            {
                separators++;
                pending = "blank page before it";
                sheet = null;
                memory = new SeparationMemory();
                planned.Add(new PlannedPage(page.Key, null, "blank page that separates", blankDoubt));
                continue;
            }
            if (isBlank && (how.Blanks == BlankPages.Drop || afterSeparator))
            {
                memory.PagesSince++;
                planned.Add(new PlannedPage(page.Key, null, afterSeparator ? "blank back of the page that separates" : Blank, blankDoubt));
                continue;
            }
            var verdict = isSound ? method.Judge(page, how, memory) : default;
            var vanishes = verdict.Cut is not null && method.MayVanish && !how.Stays;
            separators += verdict.Cut is null ? 0 : 1;
            if (vanishes)
            {
                (pending, sheet, afterSeparator) = ($"{verdict.Cut} before it", page.Key, true);
                memory = new SeparationMemory { Value = memory.Value };
                planned.Add(new PlannedPage(page.Key, null, $"{verdict.Cut} separates", verdict.Doubt));
                continue;
            }
            afterSeparator = false;
            var cut = verdict.Cut ?? pending;
            if (cut is not null)
            {
                memory.PagesSince = 0;
                if (sheet is not null)
                    sheets[page.Key] = sheet;
                (pending, sheet) = (null, null);
            }
            memory.PagesSince++;
            var doubt = verdict.Doubt ?? (how.Blanks == BlankPages.Drop || how.Method == "blank" ? blankDoubt : null);
            if (cut is "the stack begins" or "a file begins" && method.Separator is { } lacks && verdict.Cut is null)
                doubt ??= $"no {lacks} stands before or on the first page";
            planned.Add(new PlannedPage(page.Key, cut, null, doubt));
        }
        var whole =
            how.Finding is { } finding ? finding
            : separators == 0 && pages.Count > 1 && method.Separator is { } missing ? $"No {missing} was found in this stack."
            : how.Method == "pages" && Short(planned, how.Pages) is { } few ? few
            : null;
        return ByHand(new StackPlan(planned, whole) { Sheets = sheets }, byHand);
    }

    // A remainder that does not fill a document is seen before it becomes one.
    private static string? Short(List<PlannedPage> pages, int wanted)
    {
        var last = pages.FindLastIndex(p => p.Cut is not null);
        var rest = last < 0 ? 0 : pages.Count - last;
        return rest > 0 && rest < wanted ? $"The last document has {rest} of {wanted} pages." : null;
    }

    private static StackPlan ByHand(StackPlan plan, IReadOnlyList<HandEdit> edits)
    {
        if (edits.Count == 0)
            return plan;
        var pages = plan.Pages.ToList();
        foreach (var edit in edits)
        {
            var at = pages.FindIndex(p => p.Key == edit.Page);
            if (at < 0)
                continue;
            var page = pages[at];
            var first = pages.FindIndex(p => p.Gone is null);
            pages[at] = edit.Act switch
            {
                "cut" when page.Gone is null => page with { Cut = "cut by hand", Doubt = null, ByHand = true },
                // The first page of all cannot be joined with anything.
                "join" when page.Gone is null && at != first => page with { Cut = null, Doubt = null, ByHand = true },
                "drop" when page.Gone is null && pages.Count(p => p.Gone is null) > 1 => page with
                {
                    Gone = "taken out by hand",
                    Doubt = null,
                    ByHand = true,
                },
                "keep" when page.Gone is not null => page with { Gone = null, Doubt = null, ByHand = true },
                _ => page with { Doubt = null },
            };
            // What began at a page that goes begins at the next one that stays.
            if (
                edit.Act == "drop"
                && page is { Gone: null, Cut: { } cut }
                && pages.FindIndex(at + 1, p => p.Gone is null) is var next and >= 0
            )
                pages[next] = pages[next] with { Cut = pages[next].Cut ?? cut };
        }
        var begin = pages.FindIndex(p => p.Gone is null);
        if (begin >= 0 && pages[begin].Cut is null)
            pages[begin] = pages[begin] with { Cut = "the stack begins" };
        return plan with { Pages = pages };
    }
}
