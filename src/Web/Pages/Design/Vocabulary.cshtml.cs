using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class VocabularyModel(Designs designs) : PlacePage
{
    public Vocabulary Vocabulary { get; private set; } = null!;

    public string Filter { get; private set; } = "";

    public string Pasted { get; private set; } = "";

    public IEnumerable<Term> Shown { get; private set; } = [];

    public List<(string Type, string Field, string Code)> UsedBy { get; private set; } = [];

    public IActionResult OnGet(string key, string? filter) => Load(key, filter);

    public IActionResult OnPostAdd(string key)
    {
        Pasted = Sent("terms");
        var result = designs.AddTerms(key, Pasted, Who);
        if (result.Ok)
        {
            Done = result.Value == 1 ? "One term added." : $"{result.Value} terms added.";
            Pasted = "";
        }
        else Problem = result.Problem;
        return Load(key, null);
    }

    public IActionResult OnPostStatus(string key)
    {
        var retire = Sent("status") == nameof(TermStatus.Retired);
        designs.SetTermStatus(key, Sent("label"), retire ? TermStatus.Retired : TermStatus.Current, Who);
        Done = retire ? $"“{Sent("label")}” is retired. Records that carry it keep it; new ones cannot choose it." : $"“{Sent("label")}” may be chosen again.";
        return Load(key, null);
    }

    private IActionResult Load(string key, string? filter)
    {
        if (!designs.Vocabularies.TryGetValue(key, out var index)) return NotFound();
        Vocabulary = index.Vocabulary;
        Filter = filter?.Trim() ?? "";
        var folded = Folding.Fold(Filter);
        Shown = Vocabulary.Terms.Where(t => folded.Length == 0 || Folding.Fold($"{t.Label} {t.Code} {string.Join(' ', t.Variants)}").Contains(folded, StringComparison.Ordinal)).Take(500);
        UsedBy = [.. designs.All().SelectMany(t => t.Draft.Fields.Where(f => f.Vocabulary == key).Select(f => (t.Draft.Name, f.Label, t.Draft.Code)))];
        return Page();
    }
}
