using ClearLexicon.Services;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A person's own settings: the language of messages.</summary>
public sealed class PersonModel(People people) : PlacePage
{
    public void OnGet()
    {
    }

    public IActionResult OnPost()
    {
        Note(people.SetLanguage(Who, Sent("language")), "Kept.");
        return Page();
    }
}
