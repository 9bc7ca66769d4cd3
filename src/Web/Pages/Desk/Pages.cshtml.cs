using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>All pages of a document on the desk: moved, turned, taken out, cut off, joined, added.</summary>
public sealed class DeskPagesModel(DocumentPages pages, Intake intake, Jobs jobs) : PlacePage
{
    /// <summary>Other documents that are offered as a place for pages.</summary>
    private const int MostOthers = 60;

    // What takes less than this needs no progress line.
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(6);

    public PageSet Set { get; private set; } = null!;

    public List<StoredDocument> Others { get; private set; } = [];

    /// <summary>What runs on these pages, or brings some.</summary>
    public Job? Running { get; private set; }

    /// <summary>The page that keeps the focus.</summary>
    public int Focus { get; private set; }

    /// <summary>A document that an act has made.</summary>
    public long? Made { get; private set; }

    /// <summary>The document's pages without the sheet.</summary>
    public int Count => Set.Pages.Count(p => p.Number > 0);

    private List<int> Chosen => [.. SentMany("page").Select(p => int.TryParse(p, out var n) ? n : 0)];

    private string Mark => Sent("mark");

    public IActionResult OnGet(long id) => Load(id);

    /// <summary>Does with the ticked pages what a button says.</summary>
    public async Task<IActionResult> OnPostActAsync(long id)
    {
        var chosen = Chosen;
        Focus = chosen.FirstOrDefault();
        switch (Sent("act"))
        {
            case "left" or "right" or "over":
                var turned = pages.Turn(
                    id,
                    Mark,
                    chosen,
                    Sent("act") switch
                    {
                        "left" => 270,
                        "right" => 90,
                        _ => 180,
                    },
                    Who
                );
                Problem = turned.Problem;
                if (turned.Value is { } job)
                {
                    await Task.WhenAny(job.Completion, Task.Delay(Patience, HttpContext.RequestAborted));
                    Problem = job.Problem;
                }
                break;
            case "earlier" when chosen.Count > 0:
                Problem = pages.Move(id, Mark, chosen, chosen.Min() - 1, Who).Problem;
                Focus--;
                break;
            case "later" when chosen.Count > 0:
                Problem = pages.Move(id, Mark, chosen, chosen.Max() + 2, Who).Problem;
                Focus++;
                break;
            case "out":
                Problem = pages.TakeOut(id, Mark, chosen, Who).Problem;
                break;
            case "cut" when chosen.Count > 0:
                var cut = pages.Cut(id, Mark, chosen.Min(), Who);
                (Problem, Made) = (cut.Problem, cut.Ok ? cut.Value : null);
                break;
            case "send":
                var to = long.TryParse(Sent("to"), out var other) ? other : 0;
                Problem = pages.Send(id, Mark, chosen, to, Who).Problem;
                // With its last page the document went into the other one.
                if (Problem is null && pages.Look(id, Who) is null)
                    return Redirect($"/Desk/Pages/{to}");
                break;
            default:
                Problem = "Choose the pages first.";
                break;
        }
        return Load(id);
    }

    /// <summary>Moves one page before another, as it was dragged.</summary>
    public IActionResult OnPostMove(long id)
    {
        Focus = SentNumber("before") ?? 0;
        Problem = pages.Move(id, Mark, Chosen, Focus, Who).Problem;
        return Load(id);
    }

    public IActionResult OnPostPutBack(long id)
    {
        Problem = pages.PutBack(id, Mark, SentNumber("aside") ?? 0, Who).Problem;
        return Load(id);
    }

    public IActionResult OnPostJoin(long id)
    {
        Problem = pages.Join(id, Mark, long.TryParse(Sent("other"), out var other) ? other : 0, Who).Problem;
        return Load(id);
    }

    public async Task<IActionResult> OnPostAddAsync(long id, List<IFormFile> files)
    {
        if (pages.Look(id, Who) is not { } set)
            return NotFound();
        if (files.Count == 0)
            Problem = "Choose or drop files: PDF, PNG, JPEG or TIFF.";
        else
        {
            var brought = await intake.AddPagesAsync(
                set.Document,
                [.. files.Select(f => new BroughtFile(f.FileName, f.OpenReadStream))],
                Who
            );
            if (brought.Job is { } job)
                await Task.WhenAny(job.Completion, Task.Delay(Patience, HttpContext.RequestAborted));
            Problem = intake.RefusedOf(brought.BatchId);
        }
        return Load(id);
    }

    public IActionResult OnPostUndo(long id)
    {
        Problem = pages.Undo(id, Who).Problem;
        return Load(id);
    }

    private IActionResult Load(long id)
    {
        if (pages.Look(id, Who) is not { } set)
            return NotFound();
        Set = set;
        Others = pages.Others(id, Who, MostOthers);
        Running = jobs.Running(DocumentPages.Subject(id)) ?? (intake.IsBringing(id) ? jobs.Running(Intake.Subject) : null);
        return Page();
    }
}
