using ClearLexicon.Services.People;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class FirstAdministratorModel(Accounts people) : PlacePage
{
    public IActionResult OnGet() => people.NobodyYet ? Page() : Redirect("/SignIn");

    public IActionResult OnPost()
    {
        var result = people.AddFirst(Sent("name"), Sent("password"), Sent("word"));
        if (result.Ok)
            return Redirect("/SignIn");
        Problem = result.Problem;
        return Page();
    }
}
