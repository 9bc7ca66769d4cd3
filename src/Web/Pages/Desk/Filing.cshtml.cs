using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Filing everything that is ready: where it goes, how far it has come, what was filed, and taking it back.</summary>
public sealed class DeskFilingModel(FilingRuns filing, Jobs jobs) : PlacePage
{
    /// <summary>Documents that are listed at most.</summary>
    public const int MostListed = 500;

    private const int MostRuns = 12;

    /// <summary>What would be filed; null when a run is looked at.</summary>
    public FilingLook? Look { get; private set; }

    public PathTreeView? Tree { get; private set; }

    public Run<FilingOrder>? Run { get; private set; }

    public List<RunStep<DocumentAlone>> Documents { get; private set; } = [];

    public List<Run<FilingOrder>> Earlier { get; private set; } = [];

    public Job? Running { get; private set; }

    [BindProperty(SupportsGet = true)]
    public long? Batch { get; set; }

    public int Count(StepState state) => Documents.Count(d => d.State == state);

    public IActionResult OnGet(long? run) => Load(run);

    public IActionResult OnPostStart()
    {
        var started = filing.Start(Who, Batch, Posted.Has("mark") ? Sent("mark") : null);
        if (!started.Ok)
        {
            Problem = started.Problem;
            return Load(null);
        }
        // What takes less than a second needs no progress line.
        started.Value.Job.Completion.Wait(900);
        return Load(started.Value.Run);
    }

    public IActionResult OnPostResume(long run) => Do(run, filing.Resume(run, Who));

    public IActionResult OnPostUndo(long run) => Do(run, filing.StartUndo(run, Who));

    private IActionResult Do(long run, Services.Result<Job> started)
    {
        Problem = started.Problem;
        started.Value?.Completion.Wait(900);
        return Load(run);
    }

    private IActionResult Load(long? id)
    {
        Running = jobs.Running(FilingRuns.Subject);
        Earlier = filing.Newest(MostRuns);
        if (id is { } run)
        {
            if (filing.Find(run, Who) is not { } found)
                return NotFound();
            (Run, Documents) = found;
            Standing($"/Desk/Filing/{run}");
            return Page();
        }
        Look = filing.Look(Who, Batch);
        Tree = PathTreeView.Of(Look.Tree, Request, Batch is { } batch ? $"batch={batch}" : "", Look.Ready.Count);
        return Page();
    }
}
