using System.Security.Claims;
using ClearLexicon.Services.People;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class SignInModel(Accounts people, StartOptions start) : PlacePage
{
    public bool Demo => start.Demo;

    public IActionResult OnGet() => Page();

    public async Task<IActionResult> OnPostAsync(string? returnUrl)
    {
        var verdict = people.SignIn(Sent("name"), Sent("password"), HttpContext.Connection.RemoteIpAddress?.ToString() ?? "");
        if (verdict.Person is not { } person)
        {
            Problem = verdict.Problem;
            return Page();
        }
        await Sessions.BeginAsync(HttpContext, person);
        return LocalRedirect(
            person.OneTimeUntil is not null ? "/Person"
            : Url.IsLocalUrl(returnUrl) ? returnUrl
            : "/"
        );
    }

    public async Task<IActionResult> OnPostOutAsync()
    {
        await HttpContext.SignOutAsync();
        return Redirect("/SignIn");
    }
}
