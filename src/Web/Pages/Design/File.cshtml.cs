using ClearLexicon.Services.Design;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>The whole design as a file: take it away, or bring one after seeing its plan.</summary>
public sealed class FileModel(DesignFiles files) : PlacePage
{
    public DesignPlan? Plan { get; private set; }

    public string Brought { get; private set; } = "";

    public string FileName { get; private set; } = "";

    public void OnGet() { }

    public IActionResult OnGetExport(bool byReference) =>
        File(System.Text.Encoding.UTF8.GetBytes(DesignFileJson.Write(files.Export(byReference))), "application/json", "design.json");

    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        if (file is null)
        {
            Problem = "Choose a file.";
            return Page();
        }
        FileName = file.FileName;
        using var reader = new StreamReader(file.OpenReadStream());
        var text = await reader.ReadToEndAsync(HttpContext.RequestAborted);
        var read = DesignFileJson.Read(text);
        if (!read.Ok)
        {
            Problem = $"“{file.FileName}”: {read.Problem}";
            return Page();
        }
        Plan = files.Plan(read.Value!);
        if (Plan.Problems.Count == 0)
            Brought = files.Hold(read.Value!);
        return Page();
    }

    public IActionResult OnPostApply()
    {
        if (files.Take(Sent("ticket")) is not { } design)
        {
            Problem = "That plan has expired; import the file again.";
            return Page();
        }
        Note(
            files.Import(design, Who),
            $"Imported: {design.Types.Count} types and groups, {design.Vocabularies.Count} vocabularies, {design.Tables.Count} "
                + $"reference tables, {design.Readers.Count} readers."
        );
        return Page();
    }
}
