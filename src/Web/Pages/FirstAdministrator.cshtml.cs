using ClearLexicon.Services;
using ClearLexicon.Services.People;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class FirstAdministratorModel(Accounts people) : PlacePage
{
    public IActionResult OnGet() => people.NobodyYet ? Page() : Redirect("/SignIn");

    /// <summary>Roles that the first administrator can take on besides; without one of them there would be nothing to do.</summary>
    public static IReadOnlyList<(string Role, string Does)> Others { get; } =
    [(Roles.Steward, "design document types, teach readers, migrate"), (Roles.Indexer, "check and file documents")];

    public async Task<IActionResult> OnPostAsync()
    {
        var result = people.AddFirst(
            Sent("name"),
            Sent("password"),
            Sent("word"),
            [.. SentMany("role").Where(r => Others.Any(o => o.Role == r))]
        );
        if (result.Ok && people.Find(Sent("name").Trim()) is { } first)
        {
            await Sessions.BeginAsync(HttpContext, first);
            return Redirect("/");
        }
        Problem = result.Problem;
        return Page();
    }
}
