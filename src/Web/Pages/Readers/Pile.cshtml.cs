using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A pile of unlabelled pages: its groups, and what a person makes of one.</summary>
public sealed class PileModel(PileSorting piles, PileReaders making, TaughtReaders readers, Intake intake, Designs designs, Jobs jobs)
    : PlacePage
{
    public Pile Pile { get; private set; } = null!;

    public List<SortedGroup> Groups { get; private set; } = [];

    /// <summary>Pages that a reader knows, by its key.</summary>
    public ILookup<string, PilePage> Known { get; private set; } = null!;

    public List<PileFile> Refused { get; private set; } = [];

    public Job? Running { get; private set; }

    /// <summary>The group that is decided about; null for none.</summary>
    public SortedGroup? Chosen { get; private set; }

    /// <summary>What its pages propose; null for a single page.</summary>
    public (ReaderProposal Proposal, IReadOnlyList<FieldFromPages> Fields)? Proposed { get; private set; }

    public List<Reader> Readers { get; private set; } = [];

    public IEnumerable<TypeState> Types => designs.All().Where(t => !t.Draft.IsGroup);

    /// <summary>Kinds of fields that are offered for a value.</summary>
    public static IEnumerable<FieldKind> Kinds =>
        FieldKind.All.Where(k => k is { HasRows: false, IsMultiple: false, HasCurrency: false } && k.New("", "") is not IdentifierField);

    /// <summary>What a kind is called for a field that is still to be made.</summary>
    public static string NameOf(FieldKind kind) => kind.HasTerms ? "term of a new vocabulary" : kind.Label;

    /// <summary>Name of a reader.</summary>
    public string NameOf(string reader) => Readers.FirstOrDefault(r => r.Key == reader)?.Name ?? reader;

    public IActionResult OnGet(long id, int? group) => Load(id, group);

    public IActionResult OnPostSort(long id)
    {
        Problem = piles.Start(id, Who).Problem;
        return Load(id, null);
    }

    public IActionResult OnPostRemove(long id)
    {
        Problem = piles.Remove(id, Who).Problem;
        return Problem is null ? Redirect("/Readers") : Load(id, null);
    }

    public IActionResult OnPostJoin(long id, int group)
    {
        var joined = making.Join(id, group, Sent("reader"), Who);
        Problem = joined.Problem;
        return joined.Ok ? Redirect($"/Readers/Reader/{Sent("reader")}") : Load(id, group);
    }

    public IActionResult OnPostReader(long id, int group)
    {
        var reader = making.MakeReader(id, group, Sent("name"), Sent("type"), Who);
        Problem = reader.Problem;
        return reader.Ok ? Redirect($"/Readers/Reader/{reader.Value}?propose=true") : Load(id, group);
    }

    public async Task<IActionResult> OnPostTypeAsync(long id, int group)
    {
        var fields = SentMany("take")
            .Select(t => int.TryParse(t, out var at) ? at : -1)
            .Select(at => new DecidedField(at, Sent($"label.{at}"), FieldKind.OrText(Sent($"kind.{at}"))))
            .ToList();
        var type = making.MakeType(id, group, Sent("name"), fields, Who);
        Problem = type.Problem;
        if (!type.Ok)
            return Load(id, group);
        if (Sent("then") != "desk")
            return Redirect($"/Design/Type/{type.Value.Type}");
        // What stands against it is shown where it can be put right.
        if (!making.Publish(type.Value.Type, type.Value.Reader, Who).Ok || piles.Group(id, group) is not { } made)
            return Redirect($"/Design/Check/{type.Value.Type}");
        var brought = await intake.BringAsync(piles.Find(id)!.Name, making.FilesOf(made), Who);
        return Redirect($"/Desk?batch={brought.BatchId}");
    }

    /// <summary>How many files with pages of the group can be brought to the desk.</summary>
    public int ToBring => Chosen is null ? 0 : making.FilesOf(Chosen).Count;

    private IActionResult Load(long id, int? group)
    {
        if (piles.Find(id) is not { } pile)
            return NotFound();
        (Pile, Refused, Readers) = (pile, piles.Refused(id), readers.All());
        Running = jobs.Running(PileSorting.Subject(id));
        (Groups, Known) = piles.Groups(id);
        Chosen = Groups.FirstOrDefault(g => g.Number == group);
        if (Chosen is not null)
            Proposed = making.Propose(id, Chosen.Number);
        return Page();
    }
}
