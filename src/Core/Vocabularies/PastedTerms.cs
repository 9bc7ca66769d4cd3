namespace ClearLexicon.Core.Vocabularies;

/// <summary>What a paste from a spreadsheet would add, and the lines that cannot be taken, each named by its number.</summary>
/// <param name="Terms">Terms in the order of their lines.</param>
/// <param name="Problems">One sentence a refused line.</param>
public sealed record PastedTerms(IReadOnlyList<Term> Terms, IReadOnlyList<string> Problems)
{
    /// <summary>
    /// Reads one, two or three columns separated by tabs: preferred label, variants separated by <c>|</c>, code.
    /// Blank lines are skipped. A label or variant that <paramref name="existing"/> or an earlier line already holds is refused.
    /// </summary>
    public static PastedTerms Parse(string text, IEnumerable<Term> existing)
    {
        var owners = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var term in existing)
        foreach (var spelling in Spellings(term))
            owners.TryAdd(Folding.Fold(spelling), term.Label);

        var terms = new List<Term>();
        var problems = new List<string>();
        var number = 0;
        foreach (var line in text.ReplaceLineEndings("\n").Split('\n'))
        {
            number++;
            if (string.IsNullOrWhiteSpace(line))
                continue;
            var cells = line.Split('\t');
            var label = cells[0].Trim();
            var variants =
                cells.Length > 1 ? cells[1].Split('|', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) : [];
            var code = cells.Length > 2 && cells[2].Trim() is { Length: > 0 } c ? c : null;
            var term = new Term(label, [.. variants.Distinct(StringComparer.Ordinal)], code);
            var problem =
                Folding.Fold(label).Length == 0 ? "has no preferred label in its first column"
                : Spellings(term).FirstOrDefault(s => owners.ContainsKey(Folding.Fold(s))) is { } taken
                    ? $"“{taken}” already leads to “{owners[Folding.Fold(taken)]}”"
                : null;
            if (problem is not null)
            {
                problems.Add($"Line {number}: {problem}.");
                continue;
            }
            foreach (var spelling in Spellings(term))
                owners.TryAdd(Folding.Fold(spelling), label);
            terms.Add(term);
        }
        return new PastedTerms(terms, problems);
    }

    private static IEnumerable<string> Spellings(Term term) =>
        [term.Label, .. term.Variants, .. term.Code is { } code ? [code] : Array.Empty<string>()];
}
