using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class SettingsModel(People people) : PlacePage
{
    public List<Person> Everybody { get; private set; } = [];

    public List<Token> Tokens { get; private set; } = [];

    public string? NewToken { get; private set; }

    public void OnGet() => Load();

    public IActionResult OnPostAdd()
    {
        Note(people.Add(Sent("name"), Sent("password"), Sent("role"), Who), $"{Sent("name")} can sign in now.");
        return Loaded();
    }

    public IActionResult OnPostRemove(long id)
    {
        Note(people.Remove(id, Who), "They can no longer sign in.");
        return Loaded();
    }

    public IActionResult OnPostToken()
    {
        if (people.All().FirstOrDefault(p => p.Name == Sent("person")) is { } person) NewToken = people.MakeToken(person, Sent("label"));
        return Loaded();
    }

    public IActionResult OnPostRevoke(long id)
    {
        people.Revoke(id, Who);
        Done = "The token no longer works.";
        return Loaded();
    }

    private IActionResult Loaded()
    {
        Load();
        return Page();
    }

    private void Load()
    {
        Everybody = people.All();
        Tokens = people.Tokens();
    }
}
