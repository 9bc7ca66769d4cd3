using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Codes;

namespace ClearLexicon.Core.Reading.Stacks;

/// <summary>What happens to blank pages.</summary>
public enum BlankPages
{
    /// <summary>They stay.</summary>
    Keep,

    /// <summary>They vanish.</summary>
    Drop,
}

/// <summary>How a stack of pages becomes documents: one method with what it needs. Sheets made here always begin a document.</summary>
public sealed record Separation
{
    /// <summary>Code of the method; see <see cref="SeparationMethods"/>.</summary>
    public string Method { get; init; } = "file";

    /// <summary>Pages of each document, for the method <c>pages</c>.</summary>
    public int Pages { get; init; } = 1;

    /// <summary>Patch codes that separate; empty for any.</summary>
    public IReadOnlyList<string> Patches { get; init; } = [];

    /// <summary>Codes that count, for the methods <c>code</c> and <c>code-change</c>.</summary>
    public CodeFilter Codes { get; init; } = CodeFilter.Every;

    /// <summary>Words or a pattern, for the method <c>words</c>.</summary>
    public string Words { get; init; } = "";

    /// <summary>
    /// Whether <see cref="Words"/> is a pattern that a line of the page must match somewhere (<see cref="SafePattern"/>).
    /// </summary>
    public bool IsPattern { get; init; }

    /// <summary>Where the words must stand, in shares of the page; null for anywhere.</summary>
    public Box? Region { get; init; }

    /// <summary>Whether the page that separates is itself the first page; otherwise it vanishes.</summary>
    public bool Stays { get; init; }

    /// <summary>Whether sheets were scanned on both sides, so that a page that separates has a back that vanishes with it.</summary>
    public bool Duplex { get; init; }

    /// <summary>Whether a document ends with its file; otherwise the files of a batch follow one another as one stack.</summary>
    public bool EndsWithFile { get; init; } = true;

    /// <summary>What happens to blank pages that do not separate.</summary>
    public BlankPages Blanks { get; init; }

    /// <summary>Share of dark area inside the border up to which a page is blank, 0 to 1.</summary>
    public double BlankShare { get; init; } = UsualBlankShare;

    /// <summary>What is blank unless somebody says otherwise: less than a line of print.</summary>
    public const double UsualBlankShare = 0.0008;

    /// <summary>What is wrong with it; null when it can be used.</summary>
    public string? Finding =>
        SeparationMethods.Find(Method) is not { } method ? $"There is no separation “{Method}”."
        : BlankShare is not (>= 0 and <= 0.2) ? "A page counts as blank up to a share between 0 and 20 % of ink."
        : Region is { } r && !(r.X >= 0 && r.Y >= 0 && r.W > 0 && r.H > 0 && r.X + r.W <= 1.0001 && r.Y + r.H <= 1.0001)
            ? "The region must lie within the page: left and top from 0, left and width and top and height together at most 100 %."
        : method.Finding(this);

    /// <summary>Whether a page is blank, and when that is doubtful, why.</summary>
    /// <returns>Whether it is; a doubt in one clause or null.</returns>
    public (bool IsBlank, string? Doubt) Blank(PageText page)
    {
        if (page.Ink is not { } ink || page.Codes.Count > 0)
            return (false, null);
        var holdsWords = page.Words.Any(w => w.Confidence >= SureWord && w.Text.Count(char.IsLetterOrDigit) >= 3);
        if (holdsWords)
            return (false, ink <= BlankShare ? $"only {ink:P2} of it is ink, but words were read" : null);
        if (ink <= BlankShare)
            return (true, ink > BlankShare * 0.6 ? $"{ink:P2} of it is ink, nearly more than a blank page has" : null);
        return (false, ink <= BlankShare * 2 ? $"{ink:P2} of it is ink, hardly more than a blank page has" : null);
    }

    private const double SureWord = 0.8;
}
