using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class DesignIndexModel(Designs designs, Drafts drafts, Vocabularies vocabularies, ReferenceTables tables, FiledSearch search)
    : PlacePage
{
    public List<TypeState> Types { get; private set; } = [];

    public List<TypeState> Groups { get; private set; } = [];

    /// <summary>Types with everything they inherit, by code.</summary>
    public Dictionary<string, Core.Designs.DocumentType> Whole { get; private set; } = [];

    public List<Core.Rules.ReferenceTable> Tables { get; private set; } = [];

    public List<Vocabulary> Vocabularies { get; private set; } = [];

    public Dictionary<string, int> Filed { get; private set; } = [];

    public string Pasted { get; private set; } = "";

    public void OnGet() => Load();

    public IActionResult OnPostType()
    {
        var result = drafts.Create(Sent("name"), Who, refines: Sent("refines") is { Length: > 0 } parent ? parent : null);
        if (result.Ok)
            return Go(Sent("then") == "paths" ? $"/Design/Paths/{result.Value}" : $"/Design/Type/{result.Value}");
        Problem = result.Problem;
        Load();
        return Page();
    }

    public IActionResult OnPostVocabulary()
    {
        Pasted = Sent("terms");
        var result = vocabularies.Create(Sent("name"), Pasted, Who);
        if (result.Ok)
            return Go($"/Design/Vocabulary/{result.Value}");
        Problem = result.Problem;
        Open = "vocabulary";
        Load();
        return Page();
    }

    public IActionResult OnPostGroup()
    {
        var result = drafts.Create(Sent("name"), Who, group: true);
        if (result.Ok)
            return Go($"/Design/Type/{result.Value}");
        Problem = result.Problem;
        Load();
        return Page();
    }

    public async Task<IActionResult> OnPostTableAsync(IFormFile? file)
    {
        var name = Sent("name");
        Problem =
            file is null ? "Choose a file."
            : designs.Tables.ContainsKey(ShortName.From(name))
                ? $"There is a reference table called “{name}” already; open it to import a newer file."
            : null;
        if (Problem is null)
        {
            var compared = await tables.CompareAsync(ShortName.From(name), new BroughtFile(file!.FileName, file.OpenReadStream));
            var brought = compared.Ok ? tables.Bring(name, compared.Value!, Who) : Result<string>.Not(compared.Problem!);
            if (brought.Ok)
                return Go($"/Design/Table/{brought.Value}");
            Problem = brought.Problem;
        }
        Load();
        return Page();
    }

    private IActionResult Go(string address)
    {
        Response.Headers["HX-Redirect"] = address;
        return ByScript ? new EmptyResult() : Redirect(address);
    }

    private void Load()
    {
        var all = designs.All();
        Types = [.. all.Where(t => !t.Draft.IsGroup)];
        Groups = [.. all.Where(t => t.Draft.IsGroup)];
        Whole = Types.ToDictionary(t => t.Draft.Code, t => designs.Resolve(t.Draft));
        Tables = [.. designs.Tables.Values.OrderBy(t => t.Name, StringComparer.OrdinalIgnoreCase)];
        Vocabularies = [.. designs.Vocabularies.Values.Select(v => v.Vocabulary).OrderBy(v => v.Name, StringComparer.OrdinalIgnoreCase)];
        Filed = search.CountByType();
    }
}
