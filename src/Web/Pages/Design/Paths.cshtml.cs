using ClearLexicon.Core.Conventions.Inference;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Migration;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Starts a convention from the end: from paths as they should look.</summary>
public sealed class PathsModel(Designs designs, ConventionProposals proposals, Migrations migrations) : PlacePage
{
    public TypeState State { get; private set; } = null!;

    public DocumentType Type => State.Draft;

    public DocumentType Whole { get; private set; } = null!;

    public List<Inventory> Inventories { get; private set; } = [];

    /// <summary>What was pasted; shown again as long as it is short.</summary>
    public string Pasted { get; private set; } = "";

    public string Ticket { get; private set; } = "";

    public ProposedConvention? Proposal { get; private set; }

    /// <summary>The type with the fields that the proposal needs, for naming its pieces.</summary>
    public DocumentType WithProposed =>
        _withProposed ??= Whole with { Fields = [.. Whole.Fields, .. Proposal!.Fields.Select(f => f.Field)] };

    private DocumentType? _withProposed;

    public IActionResult OnGet(string code) => Load(code);

    public IActionResult OnPost(string code)
    {
        IReadOnlyList<string> lines =
            long.TryParse(Sent("inventory"), out var id) && id > 0
                ? migrations.Paths(id, PathInference.Most)
                : Sent("lines").ReplaceLineEndings("\n").Split('\n');
        Pasted = id > 0 ? "" : Sent("lines");
        var result = proposals.Propose(code, lines);
        Problem = result.Problem;
        if (result.Ok)
            (Ticket, Proposal) = result.Value;
        return Load(code);
    }

    public IActionResult OnPostTake(string code)
    {
        var fields = Posted
            .Names.Where(k => k.StartsWith("label-", StringComparison.Ordinal))
            .Select(k => k[6..])
            .ToDictionary(
                k => k,
                k => new ChosenField(
                    Sent($"label-{k}"),
                    FieldKind.OrText(Sent($"kind-{k}")),
                    Sent($"existing-{k}") is { Length: > 0 } existing ? existing : null
                )
            );
        var asText = Posted.All("fixed").Select(f => int.TryParse(f, out var n) ? n : -1).ToHashSet();
        var (result, ticket, proposal) = proposals.Take(code, Sent("ticket"), fields, asText, Who);
        if (result.Ok)
            return RedirectToPage("Convention", new { code });
        (Problem, Ticket, Proposal) = (result.Problem, ticket, proposal);
        return Load(code);
    }

    private IActionResult Load(string code)
    {
        if (designs.Find(code) is not { Draft.IsGroup: false } state)
            return NotFound();
        State = state;
        Whole = designs.Resolve(Type);
        Inventories = migrations.All();
        return Page();
    }
}
