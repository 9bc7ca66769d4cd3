using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class DesignIndexModel(Designs designs, Database database) : PlacePage
{
    public List<TypeState> Types { get; private set; } = [];

    public List<Vocabulary> Vocabularies { get; private set; } = [];

    public Dictionary<string, int> Filed { get; private set; } = [];

    public string Pasted { get; private set; } = "";

    public void OnGet() => Load();

    public IActionResult OnPostType()
    {
        var result = designs.Create(Sent("name"), Who);
        if (result.Ok) return Go($"/Design/Type/{result.Value}");
        Problem = result.Problem;
        Load();
        return Page();
    }

    public IActionResult OnPostVocabulary()
    {
        Pasted = Sent("terms");
        var result = designs.CreateVocabulary(Sent("name"), Pasted, Who);
        if (result.Ok) return Go($"/Design/Vocabulary/{result.Value}");
        Problem = result.Problem;
        Open = "vocabulary";
        Load();
        return Page();
    }

    private IActionResult Go(string address)
    {
        Response.Headers["HX-Redirect"] = address;
        return Request.Headers.ContainsKey("HX-Request") ? new EmptyResult() : Redirect(address);
    }

    private void Load()
    {
        Types = designs.All();
        Vocabularies = [.. designs.Vocabularies.Values.Select(v => v.Vocabulary).OrderBy(v => v.Name, StringComparer.OrdinalIgnoreCase)];
        Filed = database.Read(RepositoryStore.CountByType);
    }
}
