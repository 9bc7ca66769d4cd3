using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>One published version, to be read.</summary>
public sealed class VersionModel(Designs designs) : PlacePage
{
    public TypeVersion Version { get; private set; } = null!;

    public IReadOnlyDictionary<string, Core.Vocabularies.VocabularyIndex> Vocabularies => designs.Vocabularies;

    public IActionResult OnGet(string code, int number)
    {
        if (designs.Versions(code).FirstOrDefault(v => v.Version == number) is not { } version)
            return NotFound();
        Version = version;
        return Page();
    }
}
