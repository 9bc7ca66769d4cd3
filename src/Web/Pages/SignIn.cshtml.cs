using System.Security.Claims;
using ClearLexicon.Services.People;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>
/// Signing in and out. The token of its form is looked at here: who clicks twice sends it a second time when the first has signed them in,
/// and a token of nobody is none of theirs.
/// </summary>
[IgnoreAntiforgeryToken]
public sealed class SignInModel(Accounts people, StartOptions start, IAntiforgery antiforgery) : PlacePage
{
    public bool Demo => start.Demo;

    public IActionResult OnGet() => Page();

    public async Task<IActionResult> OnPostAsync(string? returnUrl)
    {
        if (await RefusedAsync() is { } refused)
            return refused;
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
        if (await RefusedAsync() is { } refused)
            return refused;
        await Sessions.EndAsync(HttpContext);
        return Redirect("/SignIn");
    }

    private async Task<IActionResult?> RefusedAsync() =>
        await antiforgery.IsRequestValidAsync(HttpContext) ? null
        : User.Identity?.IsAuthenticated == true ? LocalRedirect("/")
        : BadRequest();
}
