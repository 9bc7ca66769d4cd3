using ClearLexicon.Services;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class JobModel(Jobs jobs) : PlacePage
{
    public IActionResult OnPostStop(string id)
    {
        jobs.Find(id)?.Stop();
        return new NoContentResult();
    }
}
