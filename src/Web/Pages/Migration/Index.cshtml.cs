using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class MigrationIndexModel(Migrations migrations) : PlacePage
{
    public List<(Inventory Inventory, List<Wave> Waves)> Inventories { get; private set; } = [];

    public void OnGet() => Load();

    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        if (file is null) Problem = "Choose a CSV file.";
        else
        {
            var brought = await migrations.ImportAsync(new BroughtFile(file.FileName, file.OpenReadStream), Who);
            if (brought.Ok)
            {
                migrations.StartProfile(brought.Value);
                return Redirect($"/Migration/Inventory/{brought.Value}");
            }
            Problem = brought.Problem;
        }
        Load();
        return Page();
    }

    private void Load() => Inventories = [.. migrations.All().Select(i => (i, migrations.Waves(i.Id)))];
}
