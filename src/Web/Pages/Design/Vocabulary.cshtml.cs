using System.Text;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A vocabulary: its tree, one term's card, and in the margin what uses it and what waits for review.</summary>
public sealed class VocabularyModel(Designs designs, Vocabularies vocabularies) : PlacePage
{
    /// <summary>A vocabulary of at most so many terms shows its whole tree.</summary>
    public const int WholeTree = 400;

    private const int MostFound = 200;

    public VocabularyIndex Index { get; private set; } = null!;

    public Vocabulary Vocabulary => Index.Vocabulary;

    public string Filter { get; private set; } = "";

    public string Pasted { get; private set; } = "";

    /// <summary>Position of the term whose card is shown; -1 for none.</summary>
    public int Chosen { get; private set; } = -1;

    public Term? Term => Chosen < 0 ? null : Vocabulary.Terms[Chosen];

    /// <summary>What uses the chosen term.</summary>
    public TermUse? Use { get; private set; }

    public List<int> Found { get; private set; } = [];

    public List<VocabularyUse> UsedBy { get; private set; } = [];

    public string? LastChange { get; private set; }

    public List<Term> Waiting { get; private set; } = [];

    /// <summary>Whether the branch below a term is drawn.</summary>
    public bool Spread(int term) => Vocabulary.Terms.Count <= WholeTree || Chosen >= 0 && Index.IsWithin(Chosen, term);

    public IActionResult OnGet(string key, string? filter, string? term) => Load(key, filter, term);

    /// <summary>The branch below a term, for trees too large to be sent whole.</summary>
    public IActionResult OnGetBelow(string key, string of)
    {
        var loaded = Load(key, null, null);
        return loaded is NotFoundResult || Index.OfId(of) is not (>= 0 and var at)
            ? NotFound()
            : Partial("_Branch", new BranchPart(this, Index.Narrower(at).ToArray(), [at]));
    }

    public IActionResult OnPostAdd(string key, string? term)
    {
        Pasted = Sent("terms");
        var result = vocabularies.AddTerms(key, Pasted, Sent("below") is { Length: > 0 } below ? below : null, Who);
        if (result.Ok)
        {
            Done = result.Value == 1 ? "One term added." : $"{result.Value} terms added.";
            Pasted = "";
        }
        else
            Problem = result.Problem;
        return Load(key, null, term);
    }

    public IActionResult OnPostTerm(string key, string term)
    {
        var fresh = Sent("new-language").Trim().ToLowerInvariant();
        var words = Sent("languages")
            .Split(',', StringSplitOptions.RemoveEmptyEntries)
            .Select(l => (l, from: l))
            .Append((fresh, "new"))
            .Where(l => l.Item1.Length is > 0 and <= 20)
            .Select(l =>
                (l: l.Item1, w: new TermWords(Sent($"label-{l.Item2}").Trim(), Lines($"variants-{l.Item2}"), Note($"note-{l.Item2}")))
            )
            .Where(w => w.w.Label.Length > 0 || w.w.Variants.Count > 0 || w.w.Note is not null)
            .DistinctBy(w => w.l)
            .ToDictionary(w => w.l, w => w.w);
        Apply(
            key,
            index =>
                index.TermOfId(term) is not { } known ? VocabularyChange.OfNothing
                : Seen.Changed(Sent("seen"), known, "term", () => designs.LastDone(key)) is { } why ? VocabularyChange.Not(why)
                : VocabularyEditing.Put(
                    index,
                    known with
                    {
                        Label = Sent("label").Trim(),
                        Variants = Lines("variants"),
                        Code = Note("code"),
                        Note = Note("note"),
                        Words = words,
                        Broader = Names(index, "broader"),
                        Related = Names(index, "related"),
                        LabelLanguage = null,
                    }
                ),
            "Kept."
        );
        return Load(key, null, term);
    }

    public IActionResult OnPostMove(string key, string id, string? below)
    {
        Apply(key, index => VocabularyEditing.Move(index, id, string.IsNullOrEmpty(below) ? null : below), "Moved.");
        return Load(key, null, id);
    }

    public IActionResult OnPostStatus(string key, string term)
    {
        var status = Enum.TryParse<TermStatus>(Sent("status"), out var s) ? s : TermStatus.Current;
        string? by = null;
        if (Sent("replaced-by") is { Length: > 0 } name && designs.Vocabularies.TryGetValue(key, out var known))
        {
            if (known.IndexOfAny(name) is not (>= 0 and var at))
            {
                Problem = $"There is no term “{name}” to be used instead.";
                return Load(key, null, term);
            }
            by = known.Vocabulary.Terms[at].Id;
        }
        Apply(
            key,
            index => VocabularyEditing.SetStatus(index, term, status, by),
            status == TermStatus.Retired ? "Retired. Documents that carry it keep it; new ones cannot choose it." : "It can be chosen now."
        );
        return Load(key, null, term);
    }

    public IActionResult OnPostMerge(string key, string term)
    {
        var into = Sent("into");
        if (!designs.Vocabularies.TryGetValue(key, out var index))
            return NotFound();
        if (index.IndexOfAny(into) is not (>= 0 and var at) || index.Vocabulary.Terms[at].Id == term)
        {
            Problem = $"There is no other term “{into}” to merge into.";
            return Load(key, null, term);
        }
        var kept = index.Vocabulary.Terms[at].Id;
        Apply(key, i => VocabularyEditing.Merge(i, term, kept), "Merged; its spellings lead here, and documents follow.");
        return Load(key, null, Problem is null ? kept : term);
    }

    public IActionResult OnPostSplit(string key, string term)
    {
        var label = Sent("split-label").Trim();
        var variants = SentMany("split-variant").ToList();
        var id = ShortName.From(label);
        Apply(
            key,
            index =>
                VocabularyEditing.Split(index, term, label, variants, index.OfId(id) >= 0 ? $"{id}-{index.Vocabulary.Terms.Count}" : id),
            $"“{label}” is a term of its own."
        );
        return Load(key, null, term);
    }

    public IActionResult OnPostGrowth(string key)
    {
        vocabularies.SetGrowth(key, Enum.TryParse<Growth>(Sent("growth"), out var growth) ? growth : Growth.Fixed, Who);
        return Load(key, null, null);
    }

    public IActionResult OnPostUndo(string key)
    {
        Done = vocabularies.Undo(key, Who) is { } undone ? $"Undone: {undone}." : "There is nothing to undo.";
        return Load(key, null, null);
    }

    /// <summary>The vocabulary as a file: ttl, jsonld or csv.</summary>
    public IActionResult OnGetExport(string key, string form)
    {
        if (!designs.Vocabularies.TryGetValue(key, out var index))
            return NotFound();
        var text = new StringWriter();
        switch (form)
        {
            case "ttl":
                SkosWriting.Turtle(index.Vocabulary, text);
                return File(Encoding.UTF8.GetBytes(text.ToString()), "text/turtle", $"{key}.ttl");
            case "jsonld":
                return File(Encoding.UTF8.GetBytes(SkosWriting.JsonLd(index.Vocabulary)), "application/ld+json", $"{key}.jsonld");
            case "csv":
                TermCsv.Write(index.Vocabulary, text);
                return File(Encoding.UTF8.GetBytes(text.ToString()), "text/csv", $"{key}.csv");
            default:
                return NotFound();
        }
    }

    private void Apply(string key, Func<VocabularyIndex, VocabularyChange> change, string done) =>
        Note(vocabularies.Apply(key, change, Who), done);

    private List<string> Lines(string name) =>
        [
            .. Sent(name)
                .Split(['\n', '|'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                .Distinct(StringComparer.Ordinal),
        ];

    private string? Note(string name) => Sent(name).Trim() is { Length: > 0 } text ? text : null;

    private List<string> Names(VocabularyIndex index, string name) =>
        [.. Lines(name).Select(n => index.IndexOfAny(n) is >= 0 and var at ? index.Vocabulary.Terms[at].Id : n)];

    private IActionResult Load(string key, string? filter, string? term)
    {
        if (!designs.Vocabularies.TryGetValue(key, out var index))
            return NotFound();
        Index = index;
        Filter = filter?.Trim() ?? "";
        var folded = Folding.Fold(Filter);
        if (folded.Length > 0)
            Found =
            [
                .. Enumerable
                    .Range(0, Vocabulary.Terms.Count)
                    .Where(i =>
                        Folding
                            .Fold(
                                $"{Vocabulary.Terms[i].Label} {Vocabulary.Terms[i].Code} "
                                    + $"{string.Join(' ', Vocabulary.Terms[i].Variants)} "
                                    + $"{string.Join(' ', Vocabulary.Terms[i].Words.Values.Select(w => w.Label))}"
                            )
                            .Contains(folded, StringComparison.Ordinal)
                    )
                    .Take(MostFound),
            ];
        Chosen = term is { Length: > 0 } ? index.OfId(term) : -1;
        if (Term is { } chosen)
            Use = vocabularies.Use(key, chosen);
        UsedBy = vocabularies.Uses(key);
        LastChange = vocabularies.LastChange(key);
        Waiting = [.. Vocabulary.Terms.Where(t => t.Status == TermStatus.Proposed)];
        return Page();
    }
}
