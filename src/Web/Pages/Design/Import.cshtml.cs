using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Brings a file of terms into a vocabulary: first the plan, then all of it or nothing.</summary>
public sealed class ImportModel(Designs designs, Vocabularies vocabularies) : PlacePage
{
    public Vocabulary Vocabulary { get; private set; } = null!;

    public TermImportPlan? Plan { get; private set; }

    public string FileName { get; private set; } = "";

    /// <summary>Name of the plan that waits to be applied.</summary>
    public string? Ticket { get; private set; }

    public IActionResult OnGet(string key) => Load(key);

    public async Task<IActionResult> OnPostAsync(string key, IFormFile? file)
    {
        if (Load(key) is NotFoundResult gone)
            return gone;
        if (file is null)
        {
            Problem = "Choose a file.";
            return Page();
        }
        FileName = file.FileName;
        var read = await vocabularies.ReadAsync(key, new BroughtFile(file.FileName, file.OpenReadStream));
        if (!read.Ok)
        {
            Problem = read.Problem;
            return Page();
        }
        Plan = TermImport.Plan(designs.Vocabularies[key], read.Value!);
        if (Plan.Broken.Count == 0)
            Ticket = vocabularies.Hold(read.Value!);
        return Page();
    }

    public IActionResult OnPostApply(string key)
    {
        if (Load(key) is NotFoundResult gone)
            return gone;
        if (vocabularies.Take(Sent("ticket")) is not { } brought)
        {
            Problem = "That plan has expired; import the file again.";
            return Page();
        }
        var result = vocabularies.Import(key, brought, Who);
        if (!result.Ok)
        {
            Problem = result.Problem;
            return Page();
        }
        Response.Headers["HX-Redirect"] = $"/Design/Vocabulary/{key}";
        return ByScript ? new EmptyResult() : Redirect($"/Design/Vocabulary/{key}");
    }

    private IActionResult Load(string key)
    {
        if (!designs.Vocabularies.TryGetValue(key, out var index))
            return NotFound();
        Vocabulary = index.Vocabulary;
        return Page();
    }
}
