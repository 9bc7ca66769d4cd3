using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Printing separator sheets and cover sheets.</summary>
public sealed class DeskSheetsModel(Sheets sheets, Designs designs) : PlacePage
{
    /// <summary>The document type that cover sheets are printed for; empty to let a box say which.</summary>
    [BindProperty(SupportsGet = true)]
    public string Type { get; set; } = "";

    public IReadOnlyList<DocumentType> Types => [.. designs.Published.Values.Select(p => p.Type.Type)];

    public DocumentType? Chosen => designs.Published.GetValueOrDefault(Type)?.Type.Type;

    public IReadOnlyList<Field> WithBoxes => sheets.WithBoxes(Type);

    public IReadOnlyList<string> Ticked => SentMany("box");

    public void OnGet() { }

    public IActionResult OnPostSeparators() =>
        Answer(
            SentNumber("count") is { } count ? sheets.Separators(count, Who) : Result<byte[]>.Not("Write how many sheets."),
            "separator sheets.pdf"
        );

    public IActionResult OnPostCovers()
    {
        var rows = PastedRows.Read(Sent("rows"), designs.Published.GetValueOrDefault(Type)?.Type.Type);
        if (!rows.Ok)
            return Answer(Result<byte[]>.Not(rows.Problem!), "");
        var typed =
            Chosen
                ?.Fields.Where(f => Posted.Text($"value.{f.Key}") is not null)
                .ToDictionary(f => f.Key, f => Posted.Text($"value.{f.Key}")!)
            ?? [];
        // What is typed once stands on every sheet; a row of the list goes before it.
        var each =
            rows.Value!.Count == 0
                ? Enumerable.Repeat(typed, Math.Max(1, SentNumber("copies") ?? 1))
                : rows.Value.Select(row => Over(typed, row));
        return Answer(sheets.Covers(Type, [.. each], Ticked, Who), "cover sheets.pdf");
    }

    private static Dictionary<string, string> Over(Dictionary<string, string> typed, IReadOnlyDictionary<string, string> row)
    {
        var all = new Dictionary<string, string>(typed);
        foreach (var (key, value) in row.Where(v => v.Value.Length > 0))
            all[key] = value;
        return all;
    }

    private IActionResult Answer(Result<byte[]> result, string name)
    {
        if (result.Ok)
            return File(result.Value!, "application/pdf", name);
        Problem = result.Problem;
        return Page();
    }
}
