using ClearLexicon.Services;
using ClearLexicon.Services.Today;
using ClearLexicon.Services.Work;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>The page one works from.</summary>
public sealed class IndexModel(
    TodayWork today,
    Designs designs,
    Jobs jobs,
    Services.Repository.Views views,
    Services.Repository.Notices notices
) : PlacePage
{
    public TodaySheet Sheet { get; private set; } = null!;

    /// <summary>Long work that runs, and that the person may stop.</summary>
    public List<Job> Running { get; private set; } = [];

    /// <summary>What the person was told and has not seen yet.</summary>
    public Storage.FoundCount NewNotices { get; private set; }

    /// <summary>Whether nothing is designed yet and the person may begin.</summary>
    public bool Begins { get; private set; }

    public void OnGet()
    {
        Begins = Rights.Designs && designs.All().Count == 0;
        NewNotices = notices.New(Who);
        Sheet = today.For(Who, Rights);
        Running = [.. Sheet.Running.Select(jobs.Find).OfType<Job>()];
    }

    /// <summary>How many documents the person's views find: asked apart, so that the page need not wait for it.</summary>
    public IActionResult OnGetViews() => Partial("_ViewCounts", views.Counts(Who, Rights));
}
