using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A link by value: straight to the one document, to the list of several, or to what is missing.</summary>
public sealed class AtModel(SearchRequests requests, FiledSearch search) : PlacePage
{
    /// <summary>What was looked for; null when the address cannot be understood.</summary>
    public ViewDefinition? Asks { get; private set; }

    public IActionResult OnGet(string type)
    {
        var asked = requests.At(type, Request.Query.SelectMany(q => q.Value.Select(v => (q.Key, v ?? ""))), Rights);
        (Asks, Problem) = (asked.Value, asked.Problem);
        if (Asks is not null)
            switch (search.First(requests.For(Asks, Rights).Query, 2))
            {
                case [var only]:
                    return Redirect($"/Repository/Document/{only.Id}");
                case { Count: > 1 }:
                    return Redirect(RepositoryIndexModel.Address(Asks));
            }
        Response.StatusCode = StatusCodes.Status404NotFound;
        return Page();
    }
}
