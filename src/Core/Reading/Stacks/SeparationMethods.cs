using System.Globalization;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Codes;

namespace ClearLexicon.Core.Reading.Stacks;

/// <summary>What a method says of a page.</summary>
/// <param name="Cut">Why a document begins at this page, or after it when it vanishes; null when none does.</param>
/// <param name="Doubt">What may be wrong with that; null when it is certain.</param>
public readonly record struct PageVerdict(string? Cut, string? Doubt = null);

/// <summary>What is known of the pages before, in the document that is open.</summary>
public sealed class SeparationMemory
{
    /// <summary>Pages since the last cut, those that vanished as blank included.</summary>
    public int PagesSince { get; set; }

    /// <summary>The code that was last in force.</summary>
    public string? Value { get; set; }

    /// <summary>The page number last read; 0 for none.</summary>
    public int Number { get; set; }

    /// <summary>Of how many; 0 when that was not read.</summary>
    public int Of { get; set; }

    /// <summary>The reader that claims the document; null when none does.</summary>
    public string? Reader { get; set; }

    /// <summary>Whether the page before was a last page.</summary>
    public bool Ended { get; set; }
}

/// <summary>One way of separating.</summary>
/// <param name="Code">Stable code.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Separator">What a stack that has none lacks; null for a method that needs none.</param>
/// <param name="Judge">What it says of a page.</param>
public sealed record SeparationMethod(
    string Code,
    string Title,
    string? Separator,
    Func<StackPage, Separation, SeparationMemory, PageVerdict> Judge
)
{
    /// <summary>What is wrong with what it was given; null when nothing is.</summary>
    public Func<Separation, string?> Finding { get; init; } = static _ => null;

    /// <summary>Whether a page that separates may vanish.</summary>
    public bool MayVanish { get; init; } = true;
}

/// <summary>The ways of separating, each a function of a page and what went before it.</summary>
public static partial class SeparationMethods
{
    /// <summary>Most pages of one document by number.</summary>
    public const int MostPages = 1_000;

    // Farther than this no words are a misread phrase; nearer than Recognition.Tolerance they are.
    private const double Nearly = 0.45;

    /// <summary>All of them, in the order they are offered.</summary>
    public static IReadOnlyList<SeparationMethod> All { get; } =
    [
        new("file", "each file is one document", null, static (_, _, _) => default) { MayVanish = false },
        new("pages", "every so many pages", null, ByPages)
        {
            MayVanish = false,
            Finding = static s => s.Pages is >= 1 and <= MostPages ? null : $"Write how many pages a document has, 1 to {MostPages}.",
        },
        new("patch", "at a patch code", "patch code", AtPatch)
        {
            Finding = static s =>
                s.Patches.FirstOrDefault(p => !PatchCode.Names.Contains(p)) is { } unknown ? $"There is no patch code {unknown}." : null,
        },
        new("code", "at a code", "code that counts", AtCode) { Finding = static s => s.Codes.Finding },
        new("code-change", "where a code changes", "code that counts", AtChange)
        {
            MayVanish = false,
            Finding = static s => s.Codes.Finding,
        },
        new("words", "at words or a pattern", "page with these words", AtWords) { Finding = WordsFinding },
        new("reader", "at a page that a reader claims", "page that a reader claims", AtClaim) { MayVanish = false },
        new("blank", "at blank pages", "blank page", static (_, _, _) => default),
        new("numbers", "at page numbers: page 1 of n", "page number", AtNumbers) { MayVanish = false },
    ];

    /// <summary>A method by its code, or null.</summary>
    public static SeparationMethod? Find(string code) => All.FirstOrDefault(m => m.Code == code);

    private static PageVerdict ByPages(StackPage page, Separation how, SeparationMemory memory) =>
        memory.PagesSince >= how.Pages ? new PageVerdict($"{how.Pages} {(how.Pages == 1 ? "page is" : "pages are")} a document") : default;

    private static PageVerdict AtPatch(StackPage page, Separation how, SeparationMemory memory)
    {
        var patches = page.Text.Codes.Where(c => c.Kind == PatchCode.Kind).ToList();
        return patches.FirstOrDefault(c => how.Patches.Count == 0 || how.Patches.Contains(c.Text)) is { } patch
                ? new PageVerdict($"patch code {patch.Text}")
            : patches.Count > 0 ? new PageVerdict(null, $"patch code {patches[0].Text} stands here, which does not separate")
            : new PageVerdict(null, Unread(page));
    }

    private static PageVerdict AtCode(StackPage page, Separation how, SeparationMemory memory) =>
        Counted(page, how) is { } code ? new PageVerdict($"{code.Kind} {Short(code.Text)}") : new PageVerdict(null, Unread(page));

    private static PageVerdict AtChange(StackPage page, Separation how, SeparationMemory memory)
    {
        if (Counted(page, how) is not { } code)
            return new PageVerdict(null, Unread(page));
        var before = memory.Value;
        memory.Value = code.Text;
        return before == code.Text
            ? default
            : new PageVerdict(
                before is null ? $"{code.Kind} {Short(code.Text)}" : $"{code.Kind} changes from {Short(before)} to {Short(code.Text)}"
            );
    }

    private static PageCode? Counted(StackPage page, Separation how) =>
        // The page's number in a document is not known before the cut; a filter by page asks for what may be a first page.
        (how.Codes with { Page = null })
            .Sift([(1, page.Text)])
            .FirstOrDefault(s => s.Ignored is null)
            ?.Code;

    private static string? Unread(StackPage page) =>
        page.Text.Unread.Count > 0 ? "something that looks like a code could not be read" : null;

    private static string? WordsFinding(Separation how) =>
        string.IsNullOrWhiteSpace(how.Words) ? "Write the words, or the pattern, that a first page has."
        : how.IsPattern && !SafePattern.TryAnywhere(how.Words, out _, out var problem) ? $"The pattern cannot be used: {problem}"
        : null;

    private static PageVerdict AtWords(StackPage page, Separation how, SeparationMemory memory)
    {
        if (!how.IsPattern)
        {
            var far = Recognition.Nearest(page.Text, how.Words, how.Region);
            return far <= Recognition.Tolerance ? new PageVerdict($"“{Short(how.Words)}”")
                : far <= Nearly ? new PageVerdict(null, $"words much like “{Short(how.Words)}” stand here")
                : default;
        }
        if (!SafePattern.TryAnywhere(how.Words, out var regex, out _))
            return default;
        foreach (var line in Lines(page.Text, how.Region))
            if (SafePattern.Matches(regex!, line) == true)
                return new PageVerdict($"“{Short(line)}”");
        return default;
    }

    // A page that looks like a first one and says that it follows goes on; behind a last page a document begins, claimed or not.
    private static PageVerdict AtClaim(StackPage page, Separation how, SeparationMemory memory)
    {
        var (open, ended) = (memory.Reader, memory.Ended);
        var role = open is null ? null : page.Roles.GetValueOrDefault(open);
        if (page.Claim is { } reader && (ended || reader != open || role is not ({ Follows: true } or { Ends: true })))
        {
            (memory.Reader, memory.Ended) = (reader, page.Roles.GetValueOrDefault(reader)?.Ends == true);
            return new PageVerdict(
                $"{reader} claims it",
                role is { AsksLast: true } && !ended ? $"the document before ends without the last page that {open} knows" : null
            );
        }
        if (ended)
        {
            (memory.Reader, memory.Ended) = (null, false);
            return new PageVerdict($"the page before is the last one of {open}", page.NearClaim ?? "it is of unknown kind");
        }
        memory.Ended = role?.Ends == true;
        return role is { Ends: true } && page.Claim is not null
                ? new PageVerdict(null, $"it looks like the last page of {open} and like a first one")
            : role is { Follows: true } or { Ends: true } ? default
            : role is not null ? new PageVerdict(null, $"it does not look like a page of {open}: {role.Lacks}")
            : page.NearClaim is { } nearly ? new PageVerdict(null, nearly)
            : default;
    }

    private static PageVerdict AtNumbers(StackPage page, Separation how, SeparationMemory memory)
    {
        var (number, of) = NumberOf(page.Text, how.Region);
        var (before, beforeOf) = (memory.Number, memory.Of);
        var complete = beforeOf > 0 && before == beforeOf;
        if (number == 0)
        {
            memory.Number = before == 0 || complete ? 0 : before + 1;
            if (complete)
                memory.Of = 0;
            return complete
                ? new PageVerdict($"page {before} of {beforeOf} came before", "no page number was read here")
                : new PageVerdict(null, "no page number was read here");
        }
        (memory.Number, memory.Of) = (number, of);
        if (number == 1)
            return new PageVerdict(
                $"page 1 of {of}",
                before > 0 && beforeOf > 0 && !complete ? $"the document before ends with page {before} of {beforeOf}" : null
            );
        if (number == before + 1 && of == beforeOf)
            return default;
        return complete || before > 0 && of != beforeOf
            ? new PageVerdict($"page {number} of {of} follows page {before} of {beforeOf}", "its first page is missing or was not read")
            : new PageVerdict(null, $"page {number} of {of} follows page {before} of {beforeOf}");
    }

    // A letter read for a digit is one: “page l of 3”.
    private static (int Number, int Of) NumberOf(PageText page, Box? region)
    {
        foreach (var line in Lines(page, region).Reverse())
            if (PageNumber().Match(line) is { Success: true } match)
            {
                int Read(string text) =>
                    int.TryParse(
                        text.Replace('l', '1').Replace('I', '1').Replace('|', '1').Replace('O', '0').Replace('o', '0'),
                        NumberStyles.None,
                        CultureInfo.InvariantCulture,
                        out var n
                    )
                        ? n
                        : 0;
                var (number, of) = (Read(match.Groups["n"].Value), Read(match.Groups["of"].Value));
                if (number >= 1 && number <= of)
                    return (number, of);
            }
        return (0, 0);
    }

    /// <summary>The lines of a page as texts, of the whole or of a region.</summary>
    internal static IEnumerable<string> Lines(PageText page, Box? region) =>
        ZoneReading
            .Lines(
                page.Words.Where(w => region is not { } r || r.Contains(w.Box.CentreX, w.Box.CentreY))
                    .Select(w => (w, w.Box.CentreX, w.Box.CentreY))
            )
            .Select(line => string.Join(' ', line.Select(w => w.Text)))
            .Select(line => line.Length > SafePattern.LongestValue ? line[..SafePattern.LongestValue] : line);

    internal static string Short(string text) => text.Length <= 40 ? text : text[..39] + "…";

    [GeneratedRegex(
        @"\b(?:page|sheet|seite|blatt|feuille)\s*(?<n>[0-9lIOo|]{1,4})\s*(?:of|/|von|sur|de)\s*(?<of>[0-9lIOo|]{1,4})(?![0-9A-Za-z])",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture
    )]
    private static partial Regex PageNumber();
}
