using System.Security.Claims;
using ClearLexicon.Services;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class SignInModel(People people, StartOptions start) : PlacePage
{
    public bool Demo => start.Demo;

    public IActionResult OnGet() => Page();

    public async Task<IActionResult> OnPostAsync(string? returnUrl)
    {
        if (people.SignIn(Sent("name"), Sent("password")) is not { } person)
        {
            Problem = "Name and password do not go together.";
            return Page();
        }
        var identity = new ClaimsIdentity([new(ClaimTypes.Name, person.Name), new(ClaimTypes.Role, person.Role)], CookieAuthenticationDefaults.AuthenticationScheme);
        await HttpContext.SignInAsync(CookieAuthenticationDefaults.AuthenticationScheme, new ClaimsPrincipal(identity));
        return LocalRedirect(Url.IsLocalUrl(returnUrl) ? returnUrl : "/");
    }

    public async Task<IActionResult> OnPostOutAsync()
    {
        await HttpContext.SignOutAsync();
        return Redirect("/SignIn");
    }
}
