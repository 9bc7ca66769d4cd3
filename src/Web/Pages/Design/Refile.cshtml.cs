using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Files the documents of a type anew by its published convention: what would move, the run, taking it back.</summary>
public sealed class RefileModel(Designs designs, Refiling refiling, Jobs jobs) : PlacePage
{
    private const int MostReasons = 6;

    public TypeState State { get; private set; } = null!;

    public RefilePlan? Plan { get; private set; }

    public bool Published { get; private set; }

    public PathTreeView? Tree { get; private set; }

    /// <summary>Runs, each with how many documents it has moved and why others were not.</summary>
    public List<(Run<RefileOrder> Run, long Moved, List<string> Left)> Runs { get; private set; } = [];

    public Job? Running { get; private set; }

    /// <summary>Moves out of, and into, the folder that is listed; the first ones when none is.</summary>
    public IEnumerable<PlannedMove> Shown =>
        (Plan?.Moves ?? []).Where(m =>
            Tree?.Listed is not { } folder || Beneath(m.FromFolder, folder.Path) || Beneath(m.ToFolder, folder.Path)
        );

    public IActionResult OnGet(string code) => Load(code);

    public IActionResult OnPostLook(string code)
    {
        Problem = refiling.StartPlan(code, Who).Problem;
        return Load(code);
    }

    public IActionResult OnPostApply(string code)
    {
        var started = refiling.Start(code, SentNumber("version") ?? 0, Who);
        Problem = started.Problem;
        return Load(code);
    }

    public IActionResult OnPostContinue(string code, long run)
    {
        Problem = refiling.Resume(run, Who).Problem;
        return Load(code);
    }

    public IActionResult OnPostUndo(string code, long run)
    {
        Problem = refiling.StartUndo(run, Who).Problem;
        return Load(code);
    }

    private static bool Beneath(string folder, string path) => folder == path || folder.StartsWith(path + "/", StringComparison.Ordinal);

    private IActionResult Load(string code)
    {
        if (designs.Find(code) is not { Draft.IsGroup: false } state)
            return NotFound();
        State = state;
        Running = jobs.Running(Designs.Subject(code));
        Runs = refiling.Runs(code).ConvertAll(r => (r, refiling.Moved(r), refiling.Left(r, MostReasons)));
        if (Running is not null)
            return Page();
        Published = designs.Published.ContainsKey(code);
        Plan = refiling.Known(code);
        if (Plan is not null)
            Tree = PathTreeView.Of(Plan.Tree, Request, "", Plan.Moves.Count);
        return Page();
    }
}
