using ClearLexicon.Services;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class MigrationIndexModel(Migrations migrations, Waves waves, Designs designs, Jobs jobs) : PlacePage
{
    public List<(Inventory Inventory, List<Wave> Waves)> Inventories { get; private set; } = [];

    public bool IsRunning(IRun wave) => jobs.Running(wave.Subject) is not null;

    /// <summary>What the rows become, as people call it.</summary>
    public string? NameOf(string? code) =>
        code is not null && designs.Published.TryGetValue(code, out var published) ? published.Type.Type.Name : code;

    public void OnGet() => Load();

    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        if (file is null)
            Problem = "Choose a CSV file.";
        else
        {
            var started = await migrations.StartImportAsync(
                new BroughtFile(file.FileName, file.OpenReadStream),
                Who,
                HttpContext.RequestAborted
            );
            Problem = started.Problem;
            // A list of some hundred thousand rows is read while one waits; a longer one shows how far it is.
            if (started.Value is { } job && await Task.WhenAny(job.Completion, Task.Delay(Patience)) == job.Completion)
            {
                var imported = migrations.Imported(job);
                if (imported.Ok)
                    return Redirect($"/Migration/Inventory/{imported.Value}");
                Problem = imported.Problem;
            }
            else
                Running = started.Value;
        }
        Load();
        return Page();
    }

    /// <summary>A list that is being read.</summary>
    public Job? Running { get; private set; }

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(4);

    private void Load() => Inventories = [.. migrations.All().Select(i => (i, waves.Of(i.Id)))];
}
