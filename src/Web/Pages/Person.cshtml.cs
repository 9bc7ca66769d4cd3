using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services.People;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A person's own settings: the language of messages, their password.</summary>
public sealed class PersonModel(Accounts people, TimeZones zones) : PlacePage
{
    /// <summary>Whether a one-time password has to be replaced before anything else.</summary>
    public bool MustChange { get; private set; }

    public string Email { get; private set; } = "";

    /// <summary>A message in the person's language.</summary>
    public string Example => new Problem(new WrongCheckDigit("9074720", "9"), Level.Must, null).In(Language);

    /// <summary>Time zone in which they see times; empty for that of the installation.</summary>
    public string Zone { get; private set; } = "";

    public void OnGet()
    {
        if (people.Find(Who) is { } person)
            (MustChange, Email, Zone) = (person.OneTimeUntil is not null, person.Email, person.Zone);
    }

    public IActionResult OnPostEmail()
    {
        Note(
            people.SetEmail(Who, Sent("email")),
            Sent("email").Trim().Length > 0 ? "Notices are mailed there." : "Notices are not mailed to you."
        );
        OnGet();
        return Page();
    }

    public IActionResult OnPost()
    {
        Note(people.SetLanguage(Who, Sent("language")) is { Ok: false } not ? not : zones.Set(Who, Sent("zone")), "Kept.");
        OnGet();
        return Page();
    }

    public async Task<IActionResult> OnPostPasswordAsync()
    {
        var result =
            Sent("password") == Sent("again")
                ? people.ChangePassword(Who, Sent("old"), Sent("password"))
                : "The two new passwords are not the same.";
        // This session goes on; all others of the person have ended.
        if (result.Ok)
            await Sessions.BeginAsync(HttpContext, people.Find(Who)!);
        Note(result, "Your password is changed. Wherever else you were signed in, you have to sign in again.");
        OnGet();
        return Page();
    }
}
