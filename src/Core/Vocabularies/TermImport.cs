namespace ClearLexicon.Core.Vocabularies;

/// <summary>A term of a file that is being brought, with where it stands there.</summary>
/// <param name="Term">The term.</param>
/// <param name="Line">Line in the file, from 1; 0 when the format has no lines a person would look at.</param>
public sealed record BroughtTerm(Term Term, int Line);

/// <summary>What a file says.</summary>
/// <param name="Terms">Terms in the order of the file.</param>
/// <param name="Broken">Lines that cannot be read: number and why.</param>
/// <param name="Name">Name of the vocabulary, when the file says one.</param>
public sealed record BroughtTerms(IReadOnlyList<BroughtTerm> Terms, IReadOnlyList<(int Line, string Why)> Broken, string? Name = null)
{
    /// <summary>What the file says that a vocabulary here cannot hold, in words; it is left out.</summary>
    public IReadOnlyList<string> Dropped { get; init; } = [];
}

/// <summary>What an import would do. It is applied or dropped as a whole.</summary>
/// <param name="New">Terms that come new.</param>
/// <param name="Changed">Terms that exist and would change, with what changes.</param>
/// <param name="Same">Number of terms that stay as they are.</param>
/// <param name="Conflicts">What the import decided where file and vocabulary cannot both be right.</param>
/// <param name="Broken">What stands in the way; while there is any, nothing is applied.</param>
public sealed record TermImportPlan(
    IReadOnlyList<Term> New,
    IReadOnlyList<(Term Before, Term After, string What)> Changed,
    int Same,
    IReadOnlyList<string> Conflicts,
    IReadOnlyList<(int Line, string Why)> Broken
)
{
    /// <summary>What the file says that is left out, in words.</summary>
    public IReadOnlyList<string> Dropped { get; init; } = [];

    /// <summary>The plan as a change.</summary>
    public VocabularyChange AsChange() =>
        new(
            $"imported {New.Count} new and {Changed.Count} changed terms",
            [.. Changed.Select(c => c.After), .. New],
            [],
            [.. Changed.Where(c => c.Before.Label != c.After.Label).Select(c => (c.Before.Label, c.After.Label))]
        );
}

/// <summary>Plans imports of terms.</summary>
public static class TermImport
{
    /// <summary>
    /// Plans: a term with a known id, else with a known label, is the same term. Homonyms get a qualifier, a variant that is
    /// another's label is left out; both are told as conflicts. Cycles and unknown broader terms stand in the way.
    /// </summary>
    public static TermImportPlan Plan(VocabularyIndex index, BroughtTerms brought)
    {
        var broken = brought.Broken.ToList();
        var conflicts = new List<string>();
        var ids = new Dictionary<string, string>(StringComparer.Ordinal);
        var lines = new Dictionary<string, int>(StringComparer.Ordinal);
        var terms = new List<Term>(brought.Terms.Count);
        foreach (var (term, line) in brought.Terms)
        {
            var id =
                index.OfId(term.Id) >= 0
                || index.IndexOf(term.Label) is not (>= 0 and var known)
                || Folding.Fold(index.Vocabulary.Terms[known].Label) != Folding.Fold(term.Label)
                    ? term.Id
                    : index.Vocabulary.Terms[known].Id;
            if (!ids.TryAdd(term.Id, id))
            {
                broken.Add((line, $"“{term.Label}” appears a second time."));
                continue;
            }
            lines[id] = line;
            terms.Add(term with { Id = id });
        }
        terms =
        [
            .. terms.Select(t =>
                t with
                {
                    Broader = Ids(t.Broader),
                    Related = Ids(t.Related),
                    ReplacedBy = t.ReplacedBy is { } r ? ids.GetValueOrDefault(r, r) : null,
                }
            ),
        ];
        terms = Settle(index, terms, conflicts);

        var added = new List<Term>();
        var changed = new List<(Term, Term, string)>();
        var same = 0;
        foreach (var term in terms)
            if (index.OfId(term.Id) is not (>= 0 and var at))
                added.Add(term);
            else if (Difference(index.Vocabulary.Terms[at], term) is { } what)
                changed.Add((index.Vocabulary.Terms[at], term, what));
            else
                same++;
        var plan = new TermImportPlan(added, changed, same, conflicts, broken) { Dropped = brought.Dropped };
        foreach (var (id, finding) in VocabularyCheck.Findings(plan.AsChange().Apply(index.Vocabulary).Terms))
            broken.Add((lines.GetValueOrDefault(id), finding));
        return plan with { Broken = [.. broken.OrderBy(b => b.Line)] };

        List<string> Ids(IReadOnlyList<string> given) => [.. given.Select(i => ids.GetValueOrDefault(i, i)).Distinct()];
    }

    private static List<Term> Settle(VocabularyIndex index, List<Term> terms, List<string> conflicts)
    {
        var coming = terms.Select(t => t.Id).ToHashSet(StringComparer.Ordinal);
        var owners = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var term in index.Vocabulary.Terms.Where(t => !coming.Contains(t.Id)))
            owners.TryAdd(Folding.Fold(term.Label), term.Id);
        var byId = terms.ToDictionary(t => t.Id, StringComparer.Ordinal);
        var labelled = new List<Term>(terms.Count);
        foreach (var term in terms)
        {
            if (owners.TryAdd(Folding.Fold(term.Label), term.Id))
            {
                labelled.Add(term);
                continue;
            }
            var qualifier =
                term.Broader.Select(b => byId.GetValueOrDefault(b)?.Label).FirstOrDefault(l => l is not null) ?? term.Code ?? term.Id;
            var label = $"{term.Label} ({qualifier})";
            for (var n = 2; !owners.TryAdd(Folding.Fold(label), term.Id); n++)
                label = $"{term.Label} ({qualifier} {n})";
            conflicts.Add($"Two terms are called “{term.Label}”; one becomes “{label}”.");
            labelled.Add(term with { Label = label });
        }
        var variants = new Dictionary<string, string>(owners, StringComparer.Ordinal);
        foreach (var term in index.Vocabulary.Terms.Where(t => !coming.Contains(t.Id)))
        foreach (var spelling in term.Variants.Append(term.Code ?? ""))
            variants.TryAdd(Folding.Fold(spelling), term.Id);
        for (var i = 0; i < labelled.Count; i++)
        {
            var term = labelled[i];
            if (term.Code is { Length: > 0 } code)
                variants.TryAdd(Folding.Fold(code), term.Id);
            if (term.Variants.Count == 0)
                continue;
            var kept = new List<string>(term.Variants.Count);
            foreach (var variant in term.Variants)
            {
                if (variants.TryAdd(Folding.Fold(variant), term.Id) || variants[Folding.Fold(variant)] == term.Id)
                    kept.Add(variant);
                else
                    conflicts.Add($"“{variant}” cannot lead to “{term.Label}”: it leads to another term already.");
            }
            if (kept.Count < term.Variants.Count)
                labelled[i] = term with { Variants = kept };
        }
        return labelled;
    }

    /// <summary>What differs between two states of a term, in words; null when nothing does.</summary>
    public static string? Difference(Term before, Term after)
    {
        var parts = new List<string>();
        if (before.Label != after.Label)
            parts.Add($"label “{before.Label}” → “{after.Label}”");
        if (!before.Variants.Order(StringComparer.Ordinal).SequenceEqual(after.Variants.Order(StringComparer.Ordinal)))
            parts.Add("variants");
        if ((before.Code ?? "") != (after.Code ?? ""))
            parts.Add("code");
        if ((before.Note ?? "") != (after.Note ?? ""))
            parts.Add("scope note");
        if (before.Status != after.Status)
            parts.Add("status");
        if (!before.Broader.Order(StringComparer.Ordinal).SequenceEqual(after.Broader.Order(StringComparer.Ordinal)))
            parts.Add("broader");
        if (!before.Related.Order(StringComparer.Ordinal).SequenceEqual(after.Related.Order(StringComparer.Ordinal)))
            parts.Add("related");
        if (before.ReplacedBy != after.ReplacedBy)
            parts.Add("replaced by");
        if (Words(before) != Words(after))
            parts.Add("other languages");
        return parts.Count == 0 ? null : string.Join(", ", parts);

        static string Words(Term t) =>
            string.Join(
                '\n',
                t.Words.OrderBy(w => w.Key, StringComparer.Ordinal)
                    .Select(w =>
                        $"{w.Key}\t{w.Value.Label}\t{string.Join('|', w.Value.Variants.Order(StringComparer.Ordinal))}\t{w.Value.Note}"
                    )
            );
    }
}
