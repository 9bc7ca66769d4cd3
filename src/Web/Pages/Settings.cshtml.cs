using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.People;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>People, their roles and passwords; API tokens; services outside that may be asked.</summary>
public sealed class SettingsModel(Accounts people, ServiceAddresses services, NoticeMail mail, TimeZones zones) : PlacePage
{
    /// <summary>Longest life of a token that is offered, in days.</summary>
    public static IReadOnlyList<(int? Days, string Words)> Lives { get; } =
    [(30, "30 days"), (90, "90 days"), (365, "a year"), (null, "no limit")];

    public List<Person> Everybody { get; private set; } = [];

    public List<Token> Tokens { get; private set; } = [];

    public string? NewToken { get; private set; }

    /// <summary>A one-time password that was just made, and for whom.</summary>
    public (string Name, string Word)? NewWord { get; private set; }

    /// <summary>Addresses of services that may be asked.</summary>
    public IReadOnlyList<string> Services { get; private set; } = [];

    public void OnGet() => Load();

    public IActionResult OnPostAdd()
    {
        Note(people.Add(Sent("name"), Sent("password"), SentMany("role"), Who), $"{Sent("name")} can sign in now.");
        return Loaded();
    }

    public async Task<IActionResult> OnPostRolesAsync(long id)
    {
        var before = people.All().FirstOrDefault(p => p.Id == id);
        var own = before?.Name == Who;
        Note(
            people.SetRoles(id, SentMany("role"), Who),
            own ? "Your roles are changed." : "Their roles are changed; where they were signed in, they have to sign in again."
        );
        // Who changes their own stays where they are, as long as they may.
        if (own && Problem is null && people.Find(Who) is { } person && person.Stamp != before!.Stamp)
        {
            await Sessions.BeginAsync(HttpContext, person);
            return Redirect(person.Roles.Contains(Roles.Administrator) ? "/Settings" : "/");
        }
        if (Problem is not null)
            Open = $"person-{id}";
        return Loaded();
    }

    public IActionResult OnPostReset(long id)
    {
        var word = people.Reset(id, Who, Posted.Ticked("tokens"));
        if (word.Ok)
            NewWord = (people.All().First(p => p.Id == id).Name, word.Value!);
        else
            Problem = word.Problem;
        return Loaded();
    }

    public IActionResult OnPostRemove(long id)
    {
        Note(people.Remove(id, Who), "They can no longer sign in, and are signed out.");
        return Loaded();
    }

    public IActionResult OnPostToken()
    {
        var scopes = SentMany("scope").Where(Scopes.All.Contains).ToList();
        if (people.Find(Sent("person")) is not { } person)
            Problem = "Choose the person whose rights the token carries.";
        else if (scopes.Count == 0)
            Problem = "Choose at least one thing that the token is for.";
        else
            NewToken = people.MakeToken(person, Sent("label"), scopes, SentNumber("days"), Who);
        return Loaded();
    }

    public IActionResult OnPostRevoke(long id)
    {
        people.Revoke(id, Who);
        Done = "The token no longer works.";
        return Loaded();
    }

    public IActionResult OnPostServices()
    {
        Note(services.Set(Sent("services"), Who), "Only services at these addresses are asked.");
        return Loaded();
    }

    /// <summary>How notices are mailed.</summary>
    public MailSettings Mail { get; private set; } = MailSettings.Usual;

    /// <summary>Why the last mail was not sent; null when it was.</summary>
    public string? MailProblem => mail.Problem;

    /// <summary>Whether a password for the mail server is kept.</summary>
    public bool HasMailPassword => mail.HasPassword;

    public IActionResult OnPostMail()
    {
        Note(
            mail.Set(
                new MailSettings(Sent("server").Trim(), Sent("from").Trim(), Sent("site").Trim(), Sent("user").Trim()),
                Who,
                Sent("password")
            ),
            Sent("server").Trim().Length > 0
                ? "Notices are sent by this server from now on."
                : "Notices are written into files from now on."
        );
        return Loaded();
    }

    /// <summary>Time zone of the installation; empty for that of the server.</summary>
    public string Zone => zones.House;

    public IActionResult OnPostZone()
    {
        Note(zones.SetHouse(Sent("zone"), Who), "Days are reckoned in this time zone from now on.");
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
        Services = services.All;
        Mail = mail.Settings;
    }
}
