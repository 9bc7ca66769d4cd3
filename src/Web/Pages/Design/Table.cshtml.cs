using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A reference table: its rows, bringing it anew by difference, and the service that may answer instead.</summary>
public sealed class TableModel(Designs designs, ReferenceTables tables) : PlacePage
{
    private const int MostShown = 200;

    public ReferenceTable Table { get; private set; } = null!;

    public string Filter { get; private set; } = "";

    public List<string[]> Shown { get; private set; } = [];

    public TableDifference? Difference { get; private set; }

    public string? Ticket { get; private set; }

    /// <summary>What the service answered when it was tried.</summary>
    public LookUp? Tried { get; private set; }

    public List<(string Type, string Code, string What)> UsedBy { get; private set; } = [];

    public IActionResult OnGet(string key, string? filter) => Load(key, filter);

    public async Task<IActionResult> OnPostAsync(string key, IFormFile? file)
    {
        if (file is null)
            Problem = "Choose a file.";
        else
        {
            var compared = await tables.CompareAsync(key, new BroughtFile(file.FileName, file.OpenReadStream));
            if (compared.Ok)
            {
                Difference = compared.Value;
                Ticket = tables.Hold(compared.Value!);
            }
            else
                Problem = compared.Problem;
        }
        return Load(key, null);
    }

    public IActionResult OnPostApply(string key)
    {
        if (designs.Tables.GetValueOrDefault(key) is not { } table)
            return NotFound();
        if (tables.Take(Sent("ticket")) is not { } difference)
            Problem = "That plan has expired; import the file again.";
        else
            Note(tables.Bring(table.Name, difference, Who) is { Ok: false } bad ? bad.Problem! : Result.Done, "Imported.");
        return Load(key, null);
    }

    public IActionResult OnPostAddress(string key)
    {
        Note(tables.SetAddress(key, Sent("address"), Who), "Kept.");
        return Load(key, null);
    }

    public async Task<IActionResult> OnPostTry(string key)
    {
        if (designs.Tables.GetValueOrDefault(key) is not { Address: not null } table)
            return NotFound();
        Tried = await tables.AskAsync(
            table,
            new Dictionary<string, string> { [table.Columns[0]] = Sent("value") },
            HttpContext.RequestAborted
        );
        return Load(key, null);
    }

    private IActionResult Load(string key, string? filter)
    {
        if (designs.Tables.GetValueOrDefault(key) is not { } table)
            return NotFound();
        Table = table;
        Filter = filter?.Trim() ?? "";
        var folded = Folding.Fold(Filter);
        Shown =
        [
            .. table
                .Rows.Where(r => folded.Length == 0 || r.Any(c => Folding.Fold(c).Contains(folded, StringComparison.Ordinal)))
                .Take(MostShown),
        ];
        UsedBy =
        [
            .. designs
                .All()
                .SelectMany(t =>
                    t.Draft.Fillings.Where(f => f.Table == key)
                        .Select(f => (t.Draft.Name, t.Draft.Code, $"fills {t.Draft.LabelsOf(f.Targets.Values)}"))
                        .Concat(
                            t.Draft.Rules.Where(r => r.Kind == InTable.Kind && InTable.Table.Of(r) == key)
                                .Select(r => (t.Draft.Name, t.Draft.Code, RuleKinds.Sentence(r, t.Draft)))
                        )
                ),
        ];
        return Page();
    }
}
