namespace ClearLexicon.Core.Vocabularies;

/// <summary>A change of a vocabulary as a value: what is put, what goes, and how documents follow.</summary>
/// <param name="What">What is done, as undo will name it.</param>
/// <param name="Put">Terms added or changed, whole.</param>
/// <param name="Removed">Ids of terms that go.</param>
/// <param name="Relabelled">Labels that documents carry and what they carry afterwards.</param>
public sealed record VocabularyChange(
    string What,
    IReadOnlyList<Term> Put,
    IReadOnlyList<string> Removed,
    IReadOnlyList<(string Old, string New)> Relabelled
)
{
    /// <summary>Why it cannot be made; null when it can.</summary>
    public string? Problem { get; private init; }

    /// <summary>A change that cannot be made, since a term that it is about is not there.</summary>
    public static VocabularyChange OfNothing { get; } =
        Not("This term is not there any more: somebody has merged, rejected or removed it. Nothing was changed.");

    /// <summary>A change that must not be made.</summary>
    /// <param name="problem">Why.</param>
    public static VocabularyChange Not(string problem) => new("", [], [], []) { Problem = problem };

    /// <summary>The vocabulary after the change; new terms stand at the end.</summary>
    public Vocabulary Apply(Vocabulary vocabulary)
    {
        var put = Put.ToDictionary(t => t.Id, StringComparer.Ordinal);
        var known = vocabulary.Terms.Select(t => t.Id).ToHashSet(StringComparer.Ordinal);
        return vocabulary with
        {
            Terms =
            [
                .. vocabulary.Terms.Where(t => !Removed.Contains(t.Id)).Select(t => put.GetValueOrDefault(t.Id, t)),
                .. Put.Where(t => !known.Contains(t.Id)),
            ],
        };
    }
}

/// <summary>What a steward does to terms. Each gives a change; whether it may stand says <see cref="VocabularyCheck"/>.</summary>
public static class VocabularyEditing
{
    /// <summary>
    /// Puts one term, new or changed. Documents follow a changed label; the old one stays as a variant, so that rules and readers that know
    /// it go on.
    /// </summary>
    public static VocabularyChange Put(VocabularyIndex index, Term term)
    {
        var old = index.TermOfId(term.Id);
        if (
            old is not null
            && Folding.Fold(old.Label) != Folding.Fold(term.Label)
            && term.Variants.All(v => Folding.Fold(v) != Folding.Fold(old.Label))
        )
            term = term with { Variants = [.. term.Variants, old.Label] };
        return new VocabularyChange(
            old is null ? $"added “{term.Label}”" : $"changed “{old.Label}”",
            [term],
            [],
            old is not null && old.Label != term.Label ? [(old.Label, term.Label)] : []
        );
    }

    /// <summary>
    /// Merges a term into another: its spellings become variants, its narrower and related terms move over, documents follow.
    /// </summary>
    public static VocabularyChange Merge(VocabularyIndex index, string from, string into)
    {
        if (index.TermOfId(from) is not { } gone || index.TermOfId(into) is not { } kept || from == into)
            return VocabularyChange.OfNothing;
        var spellings = kept
            .Variants.Append(gone.Label)
            .Concat(gone.Variants)
            .Concat(gone.Code is { } code && kept.Code is not null && code != kept.Code ? [code] : [])
            .Where(s => Folding.Fold(s) != Folding.Fold(kept.Label))
            .DistinctBy(Folding.Fold)
            .ToList();
        var merged = kept with
        {
            Variants = spellings,
            Code = kept.Code ?? gone.Code,
            Note = kept.Note ?? gone.Note,
            Words = gone.Words.Where(w => !kept.Words.ContainsKey(w.Key)).Concat(kept.Words).ToDictionary(StringComparer.Ordinal),
            Broader = [.. kept.Broader.Where(b => b != from)],
            Related = [.. kept.Related.Concat(gone.Related).Where(r => r != from && r != into).Distinct()],
        };
        var moved = index
            .Vocabulary.Terms.Where(t =>
                t.Id != from && t.Id != into && (t.Broader.Contains(from) || t.Related.Contains(from) || t.ReplacedBy == from)
            )
            .Select(t =>
                t with
                {
                    Broader = Swap(t.Broader),
                    Related = Swap(t.Related),
                    ReplacedBy = t.ReplacedBy == from ? into : t.ReplacedBy,
                }
            );
        return new VocabularyChange($"merged “{gone.Label}” into “{kept.Label}”", [merged, .. moved], [from], [(gone.Label, kept.Label)]);

        List<string> Swap(IReadOnlyList<string> ids) => [.. ids.Select(i => i == from ? into : i).Distinct()];
    }

    /// <summary>Splits variants off into a term of their own beside the first one. Documents stay with the first.</summary>
    public static VocabularyChange Split(VocabularyIndex index, string id, string label, IReadOnlyCollection<string> variants, string newId)
    {
        if (index.TermOfId(id) is not { } term)
            return VocabularyChange.OfNothing;
        var stays = term with { Variants = [.. term.Variants.Where(v => !variants.Contains(v) && Folding.Fold(v) != Folding.Fold(label))] };
        var split = new Term(label, [.. variants.Where(v => Folding.Fold(v) != Folding.Fold(label))])
        {
            Id = newId,
            Broader = term.Broader,
            Related = [id],
        };
        return new VocabularyChange(
            $"split “{label}” off “{term.Label}”",
            [stays with { Related = [.. stays.Related, newId] }, split],
            [],
            []
        );
    }

    /// <summary>Moves a term below another, or to the top.</summary>
    public static VocabularyChange Move(VocabularyIndex index, string id, string? below)
    {
        if (index.TermOfId(id) is not { } term)
            return VocabularyChange.OfNothing;
        return new VocabularyChange($"moved “{term.Label}”", [term with { Broader = below is null ? [] : [below] }], [], []);
    }

    /// <summary>Retires a term, perhaps with the one to be used instead, or brings it back. Documents keep their label.</summary>
    public static VocabularyChange SetStatus(VocabularyIndex index, string id, TermStatus status, string? replacedBy)
    {
        if (index.TermOfId(id) is not { } term)
            return VocabularyChange.OfNothing;
        var what = status switch
        {
            TermStatus.Retired => "retired",
            TermStatus.Current when term.Status == TermStatus.Proposed => "accepted",
            _ => "restored",
        };
        return new VocabularyChange(
            $"{what} “{term.Label}”",
            [term with { Status = status, ReplacedBy = status == TermStatus.Retired ? replacedBy : null }],
            [],
            []
        );
    }

    /// <summary>Rejects a proposed term: documents take the replacement, its spelling leads nowhere.</summary>
    public static VocabularyChange Reject(VocabularyIndex index, string id, string replacement)
    {
        if (index.TermOfId(id) is not { } gone || index.TermOfId(replacement) is not { } kept)
            return VocabularyChange.OfNothing;
        return new VocabularyChange($"rejected “{gone.Label}” for “{kept.Label}”", [], [id], [(gone.Label, kept.Label)]);
    }
}
