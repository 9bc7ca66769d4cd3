using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A stack as a ribbon of pages: where it is cut and why, what vanishes; by a method and by hand.</summary>
public sealed class DeskStackModel(Stacks stacks, Jobs jobs) : PlacePage
{
    /// <summary>Pages of the ribbon that are shown at once.</summary>
    public const int MostShown = 400;

    public StackView Stack { get; private set; } = null!;

    /// <summary>The separation in its form.</summary>
    public Form Separation { get; private set; } = new();

    /// <summary>Whether another separation is only previewed.</summary>
    public bool Trying { get; private set; }

    /// <summary>Documents of the ribbon, each with its pages and the vanished ones before them.</summary>
    public IReadOnlyList<RibbonRun> Runs { get; private set; } = [];

    /// <summary>First page shown, from 0.</summary>
    [BindProperty(SupportsGet = true)]
    public int From { get; set; }

    public Job? Running { get; private set; }

    public int Vanished => Stack.Plan.Pages.Count(p => p.Gone is not null);

    /// <summary>Pages that a person should look at, from 1, with the reason.</summary>
    public IReadOnlyList<(int At, string Doubt)> Doubtful =>
        field ??= [.. Stack.Plan.Pages.Select((p, i) => (i + 1, p.Doubt!)).Where(p => p.Item2 is not null)];

    public IActionResult OnGet(long id) => Load(id, Queried.Has("method") ? Queried : null);

    public IActionResult OnPostEdit(long id)
    {
        var (act, page) = Sent("edit").Split(' ', 2) is [var a, var p] ? (a, p) : ("", "");
        Problem = stacks.Decide(id, new CuttingStep(null, new HandEdit(act, page)), Who).Problem;
        return Load(id);
    }

    public IActionResult OnPostSeparation(long id)
    {
        var how = SeparationForm.Read(Posted);
        if (Posted.Problem is { } wrong)
        {
            Problem = wrong;
            return Load(id, Posted);
        }
        var result = stacks.Decide(id, new CuttingStep(how, null), Who);
        Problem = result.Problem;
        return Load(id, result.Ok ? null : Posted);
    }

    public IActionResult OnPostUndo(long id)
    {
        Problem = stacks.Undo(id, Who).Problem;
        return Load(id);
    }

    public IActionResult OnPostMake(long id)
    {
        var result = stacks.Make(id, Who);
        var loaded = Load(id);
        if (result.Ok && loaded is not NotFoundResult)
            Note(
                result,
                Stack.Plan.Documents.Count == 1
                    ? "One document is on the desk."
                    : $"{Stack.Plan.Documents.Count} documents are on the desk."
            );
        else
            Problem = result.Problem;
        return loaded;
    }

    public IActionResult OnPostGiveUp(long id)
    {
        Note(stacks.GiveUp(id, Who), "The batch is given up; its documents left the desk. The files are kept.");
        return Load(id);
    }

    private IActionResult Load(long id, Form? tried = null)
    {
        var how = tried is null ? null : SeparationForm.Read(tried);
        if (stacks.Look(id, Who, how) is not { } stack)
            return NotFound();
        Stack = stack;
        Trying = how is not null;
        Separation = tried ?? SeparationForm.Write(stack.Separation);
        if (tried is { Problem: { } wrong })
            Problem ??= wrong;
        From = Math.Clamp(From, 0, Math.Max(0, stack.Pages.Count - 1)) / MostShown * MostShown;
        Runs = RibbonRun.Of(stack, From, MostShown);
        Running = jobs.Running(Intake.Subject);
        return Page();
    }
}

/// <summary>One document in the ribbon.</summary>
/// <param name="Number">Its number, from 1; 0 for pages that vanish after the last document.</param>
/// <param name="Cut">Why it begins where it does.</param>
/// <param name="Pages">Its pages, the vanished ones among them, each with its place in the stack from 1.</param>
public sealed record RibbonRun(int Number, string Cut, IReadOnlyList<(int At, PlannedPage Planned, StackedPage Page)> Pages)
{
    /// <summary>Pages that stay.</summary>
    public int Staying => Pages.Count(p => p.Planned.Gone is null);

    /// <summary>The runs of a part of a stack.</summary>
    public static IReadOnlyList<RibbonRun> Of(StackView stack, int from, int count)
    {
        var planned = stack.Plan.Pages;
        // Whether a document begins at the next page that stays, and the page itself is one that separates, or stands behind one.
        var opens = new bool[planned.Count];
        for (var at = planned.Count - 1; at >= 0; at--)
            opens[at] = planned[at].Gone is null ? planned[at].Cut is not null : at + 1 < planned.Count && opens[at + 1];
        for (var at = 0; at < planned.Count; at++)
            opens[at] &= planned[at].Gone != Separator.Blank || at > 0 && planned[at - 1].Gone is not null && opens[at - 1];
        var runs = new List<RibbonRun>();
        var pages = new List<(int, PlannedPage, StackedPage)>();
        var (number, cut) = (0, "");
        for (var at = 0; at < planned.Count; at++)
        {
            // Pages that vanish before a document stand with it, so that one sees what opened it.
            var startsRun = opens[at] && (at == 0 || !opens[at - 1] || planned[at - 1].Gone is null);
            if (startsRun && pages.Count > 0)
            {
                runs.Add(new RibbonRun(number, cut, [.. pages]));
                pages.Clear();
            }
            if (planned[at] is { Gone: null, Cut: { } why })
                (number, cut) = (number + 1, why);
            if (at >= from && at < from + count)
                pages.Add((at + 1, planned[at], stack.Pages[at]));
        }
        if (pages.Count > 0)
            runs.Add(new RibbonRun(number, cut, [.. pages]));
        return runs;
    }
}
