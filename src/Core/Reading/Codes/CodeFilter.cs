using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading.Codes;

/// <summary>Which codes count. What is left empty asks for nothing; a code must pass all that is asked.</summary>
public sealed record CodeFilter
{
    /// <summary>Lets every code but patch codes pass.</summary>
    public static CodeFilter Every { get; } = new();

    /// <summary>Kinds by name, e.g. <c>Code 128</c>; empty for every kind. Patch codes count only where they are named.</summary>
    public IReadOnlyList<string> Kinds { get; init; } = [];

    /// <summary>Fewest characters.</summary>
    public int? Shortest { get; init; }

    /// <summary>Most characters.</summary>
    public int? Longest { get; init; }

    /// <summary>Pattern that the whole text must match (<see cref="SafePattern"/>).</summary>
    public string Pattern { get; init; } = "";

    /// <summary>Where the centre of the code must lie, in shares of the page.</summary>
    public Box? Region { get; init; }

    /// <summary>Page of the document, from 1.</summary>
    public int? Page { get; init; }

    /// <summary>Of several that pass, the n-th in reading order, from 1.</summary>
    public int? Which { get; init; }

    /// <summary>What is wrong with the filter itself; null when it can be used.</summary>
    public string? Finding =>
        Pattern.Length > 0 && !SafePattern.TryWhole(Pattern, out _, out var problem) ? $"The pattern cannot be used: {problem}"
        : Shortest > Longest ? $"A code cannot have at least {Shortest} and at most {Longest} characters."
        : Shortest < 0 || Longest < 1 || Page < 1 || Which < 1 ? "Lengths, pages and positions are counted from 1."
        : null;

    /// <summary>Why a code does not count, in one clause; null when it passes all but <see cref="Which"/>.</summary>
    /// <param name="code">The code.</param>
    /// <param name="page">Page of the document it stands on, from 1.</param>
    public string? Refuses(PageCode code, int page)
    {
        var length = CodePoints.Count(code.Text);
        if (Kinds.Count > 0 ? !Kinds.Contains(code.Kind, StringComparer.Ordinal) : code.Kind == PatchCode.Kind)
            return Kinds.Count > 0 ? $"it is {code.Kind}, not {string.Join(" or ", Kinds)}" : "it is a patch code";
        if (length < Shortest || length > Longest)
            return Shortest == Longest ? $"it has {length} characters, not {Shortest}"
                : length < Shortest ? $"it has {length} characters, fewer than {Shortest}"
                : $"it has {length} characters, more than {Longest}";
        if (Pattern.Length > 0 && !(SafePattern.TryWhole(Pattern, out var regex, out _) && SafePattern.Matches(regex!, code.Text) == true))
            return "it does not follow the pattern";
        if (Region is { } region && !region.Contains(code.Box.CentreX, code.Box.CentreY))
            return "it is outside the region";
        return Page is { } wanted && page != wanted ? $"it is on page {page}, not on page {wanted}" : null;
    }

    /// <summary>Every code of some pages with the reason why it is passed over, in reading order.</summary>
    /// <param name="pages">Pages with their numbers in the document, from 1.</param>
    public IReadOnlyList<SiftedCode> Sift(IEnumerable<(int Number, PageText Text)> pages)
    {
        var sifted = new List<SiftedCode>();
        var passed = 0;
        foreach (var (number, text) in pages)
        foreach (var code in text.Codes)
        {
            var ignored = Refuses(code, number);
            if (ignored is null && ++passed != (Which ?? passed))
                ignored = $"it is number {passed} of those that pass, not number {Which}";
            sifted.Add(new SiftedCode(code, number, ignored));
        }
        return sifted;
    }
}

/// <summary>A code and whether it counts.</summary>
/// <param name="Code">The code.</param>
/// <param name="Page">Page of the document, from 1.</param>
/// <param name="Ignored">Why it is passed over; null when it counts.</param>
public sealed record SiftedCode(PageCode Code, int Page, string? Ignored);
