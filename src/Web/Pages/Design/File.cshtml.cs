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
        GiveBack(file.Length);
        using var reader = new StreamReader(file.OpenReadStream());
        var read = DesignFileJson.Read(await reader.ReadToEndAsync(HttpContext.RequestAborted));
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
        GiveBack(
            design.Vocabularies.Sum(v => v.Terms?.Count ?? 0) * BytesOfTerm + design.Tables.Sum(t => t.Rows?.Count ?? 0) * BytesOfTerm
        );
        Note(
            files.Import(design, Who),
            $"Imported: {design.Types.Count} types and groups, {design.Vocabularies.Count} vocabularies, {design.Tables.Count} "
                + $"reference tables, {design.Readers.Count} readers."
        );
        return Page();
    }

    // A file of so many bytes, and what a term or row takes of them.
    private const long Large = 4_000_000;
    private const long BytesOfTerm = 200;

    // A large design is read once in a while: what reading it took is given back to the system, not kept for the next one.
    private void GiveBack(long bytes)
    {
        if (bytes > Large)
            Response.OnCompleted(static () =>
            {
                GC.Collect(GC.MaxGeneration, GCCollectionMode.Aggressive, blocking: true, compacting: true);
                return Task.CompletedTask;
            });
    }
}
