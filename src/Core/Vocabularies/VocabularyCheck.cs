namespace ClearLexicon.Core.Vocabularies;

/// <summary>What cannot stand in a vocabulary.</summary>
public static class VocabularyCheck
{
    /// <summary>
    /// All findings, each as one sentence: labels missing, too long or twice, variants that are another's, unknown relations, cycles.
    /// </summary>
    public static IEnumerable<string> Findings(Vocabulary vocabulary) => Findings(vocabulary.Terms).Select(f => f.Finding);

    /// <summary>All findings with the id of the term they are about.</summary>
    public static IEnumerable<(string Id, string Finding)> Findings(IReadOnlyList<Term> terms)
    {
        var byId = new Dictionary<string, Term>(StringComparer.Ordinal);
        var labels = new Dictionary<string, Term>(StringComparer.Ordinal);
        foreach (var term in terms)
        {
            if (!byId.TryAdd(term.Id, term))
                yield return (term.Id, $"The id “{term.Id}” appears twice.");
            var folded = Folding.Fold(term.Label);
            if (folded.Length == 0)
                yield return (term.Id, $"A term ({term.Id}) has no preferred label.");
            else if (term.Label.Length > Vocabulary.LongestLabel)
                yield return (term.Id, $"“{CodePoints.First(term.Label, 40)}…” is longer than {Vocabulary.LongestLabel} characters.");
            else if (!labels.TryAdd(folded, term))
                yield return (term.Id, $"“{term.Label}” is the preferred label of two terms.");
        }
        var spellings = new Dictionary<string, Term>(StringComparer.Ordinal);
        foreach (var term in terms)
        {
            foreach (var spelling in term.Code is { Length: > 0 } code ? [code, .. term.Variants] : term.Variants)
            {
                var folded = Folding.Fold(spelling);
                if (labels.TryGetValue(folded, out var owner) && owner.Id != term.Id)
                    yield return (term.Id, $"“{spelling}”, a variant of “{term.Label}”, is the preferred label of “{owner.Label}”.");
                else if (folded.Length > 0 && !spellings.TryAdd(folded, term) && spellings[folded].Id != term.Id)
                    yield return (term.Id, $"“{spelling}” leads both to “{spellings[folded].Label}” and to “{term.Label}”.");
            }
            foreach (
                var (name, ids) in new[]
                {
                    ("broader", term.Broader),
                    ("related", term.Related),
                    ("replacing", term.ReplacedBy is { } r ? [r] : []),
                }
            )
            foreach (var id in ids)
                if (!byId.ContainsKey(id))
                    yield return (term.Id, $"“{term.Label}” names the {name} term “{id}”, which is not in the vocabulary.");
        }
        foreach (var term in Cycles(terms, byId))
            yield return (term.Id, $"“{term.Label}” is below itself through its broader terms.");
    }

    // Takes away terms whose broader terms are all taken away; what is left is in a cycle or below one.
    private static IEnumerable<Term> Cycles(IReadOnlyList<Term> terms, Dictionary<string, Term> byId)
    {
        var waiting = terms
            .Where(t => byId[t.Id] == t)
            .ToDictionary(t => t.Id, t => t.Broader.Distinct().Count(byId.ContainsKey), StringComparer.Ordinal);
        var narrower = terms
            .SelectMany(t => t.Broader.Distinct().Select(b => (b, t.Id)))
            .ToLookup(p => p.b, p => p.Id, StringComparer.Ordinal);
        var free = new Queue<string>(waiting.Where(w => w.Value == 0).Select(w => w.Key));
        while (free.TryDequeue(out var id))
        {
            waiting.Remove(id);
            foreach (var below in narrower[id])
                if (waiting.TryGetValue(below, out var left))
                {
                    waiting[below] = left - 1;
                    if (left == 1)
                        free.Enqueue(below);
                }
        }
        // Terms merely below a cycle go up to it, but are not reached from it.
        return waiting.Keys.Where(id => Reaches(id, id)).Select(id => byId[id]).Take(20);

        bool Reaches(string from, string to)
        {
            var seen = new HashSet<string>(StringComparer.Ordinal);
            var up = new Stack<string>(byId[from].Broader);
            while (up.TryPop(out var at))
            {
                if (at == to)
                    return true;
                if (byId.TryGetValue(at, out var term) && seen.Add(at))
                    foreach (var b in term.Broader)
                        up.Push(b);
            }
            return false;
        }
    }
}
