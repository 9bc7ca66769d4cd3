using ClearLexicon.Services.Work;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>How far long work has come, for its progress line; stopping it.</summary>
public sealed class JobModel(Jobs jobs, IAuthorizationService authorization) : PlacePage
{
    /// <summary>The progress line; once the job has ended, the page it belongs to is shown anew.</summary>
    public async Task<IActionResult> OnGetAsync(string id)
    {
        var job = jobs.Find(id);
        if (job is not null && !await MayAsync(job))
            return NotFound();
        if (job is { Ended: false })
            return Partial("_Progress", job);
        // The page shows itself anew, unless somebody is typing there.
        Response.Headers["HX-Trigger"] = "job-ended";
        Response.Headers["HX-Reswap"] = "none";
        return new EmptyResult();
    }

    public async Task<IActionResult> OnPostStopAsync(string id)
    {
        if (jobs.Find(id) is not { } job || !await MayAsync(job))
            return NotFound();
        job.Stop(Who);
        return new NoContentResult();
    }

    // Whoever may begin work of a kind may see and stop it.
    private async Task<bool> MayAsync(Job job) => (await authorization.AuthorizeAsync(User, job.Policy)).Succeeded;
}
