using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A group of near-duplicates with the term that the others would be merged into.</summary>
/// <param name="Group">The group.</param>
/// <param name="Terms">Its terms.</param>
/// <param name="Best">Position in them of the term that should stay.</param>
public sealed record ReviewGroup(NearGroup Group, IReadOnlyList<Term> Terms, int Best);

/// <summary>Words that wait for review, and near-duplicates to be settled with one key each.</summary>
public sealed class ReviewModel(Designs designs, Vocabularies vocabularies) : PlacePage
{
    private const int MostGroups = 100;

    public VocabularyIndex Index { get; private set; } = null!;

    public Vocabulary Vocabulary => Index.Vocabulary;

    public List<Term> Waiting { get; private set; } = [];

    public List<ReviewGroup> Groups { get; private set; } = [];

    public int AllGroups { get; private set; }

    public Dictionary<string, long> Counts { get; private set; } = [];

    public string? LastChange { get; private set; }

    /// <summary>For a word that waits: the terms nearest to it.</summary>
    public Dictionary<string, List<Term>> Nearest { get; private set; } = [];

    public IActionResult OnGet(string key) => Load(key);

    /// <summary>Settles a group: all its terms are merged into one.</summary>
    public IActionResult OnPostSettle(string key)
    {
        var kept = Sent("kept");
        var others = SentMany("other").Where(o => o != kept).ToList();
        foreach (var other in others)
            if (Problem is null)
                Problem = vocabularies.Apply(key, index => VocabularyEditing.Merge(index, other, kept), Who).Problem;
        if (Problem is null && designs.Vocabularies.GetValueOrDefault(key) is { } index && index.OfId(kept) is >= 0 and var at)
        {
            if (index.Vocabulary.Terms[at].Status == TermStatus.Proposed)
                vocabularies.Apply(key, i => VocabularyEditing.SetStatus(i, kept, TermStatus.Current, null), Who);
            var lead = others.Count == 1 ? "leads" : "lead";
            Done = $"Settled: {Counted.Of(others.Count, "spelling")} {lead} to “{index.Vocabulary.Terms[at].Label}” now.";
        }
        return Load(key);
    }

    public IActionResult OnPostAccept(string key, string term)
    {
        Note(vocabularies.Apply(key, index => VocabularyEditing.SetStatus(index, term, TermStatus.Current, null), Who), "Accepted.");
        return Load(key);
    }

    /// <summary>Maps a word onto a term, or rejects it for one: documents take the term either way.</summary>
    public IActionResult OnPostOnto(string key, string term)
    {
        if (!designs.Vocabularies.TryGetValue(key, out var known))
            return NotFound();
        if (known.IndexOfAny(Sent("onto")) is not (>= 0 and var at) || known.Vocabulary.Terms[at].Id == term)
        {
            Problem = $"There is no other term “{Sent("onto")}”.";
            return Load(key);
        }
        var onto = known.Vocabulary.Terms[at].Id;
        var reject = Sent("how") == "reject";
        Note(
            vocabularies.Apply(
                key,
                index => reject ? VocabularyEditing.Reject(index, term, onto) : VocabularyEditing.Merge(index, term, onto),
                Who
            ),
            reject ? "Rejected; documents carry the replacement." : "Mapped; its spelling is a variant now, and documents follow."
        );
        return Load(key);
    }

    public IActionResult OnPostUndo(string key)
    {
        Done = vocabularies.Undo(key, Who) is { } undone ? $"Undone: {undone}." : "There is nothing to undo.";
        return Load(key);
    }

    private IActionResult Load(string key)
    {
        if (!designs.Vocabularies.TryGetValue(key, out var index))
            return NotFound();
        Index = index;
        Counts = vocabularies.Counts(key);
        Waiting = [.. Vocabulary.Terms.Where(t => t.Status == TermStatus.Proposed)];
        var groups = Vocabularies.NearDuplicateGroups(index);
        AllGroups = groups.Count;
        Groups = [.. groups.Take(MostGroups).Select(g => new ReviewGroup(g.Group, g.Terms, Best(g.Terms)))];
        Nearest = groups
            .SelectMany(g =>
                g.Terms.Where(t => t.Status == TermStatus.Proposed)
                    .Select(t => (t.Id, Others: g.Terms.Where(o => o.Id != t.Id && o.Status == TermStatus.Current).ToList()))
            )
            .DistinctBy(n => n.Id)
            .ToDictionary(n => n.Id, n => n.Others);
        LastChange = vocabularies.LastChange(key);
        return Page();
    }

    // A reviewed term stays rather than a proposed one, then the one that more documents carry.
    private int Best(IReadOnlyList<Term> terms) =>
        Enumerable
            .Range(0, terms.Count)
            .OrderBy(i => terms[i].Status == TermStatus.Proposed)
            .ThenByDescending(i => Counts.GetValueOrDefault(terms[i].Label))
            .First();
}
