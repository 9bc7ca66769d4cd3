using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>One migration from the profile to the waves, as one column that can be re-entered anywhere.</summary>
public sealed class InventoryModel(Migrations migrations, Waves waves, Designs designs, Jobs jobs) : PlacePage
{
    private const int LeftShown = 50;

    public Inventory Inventory { get; private set; } = null!;

    public DocumentType? Type { get; private set; }

    public List<Wave> Waves { get; private set; } = [];

    public List<LeftRow> Left { get; private set; } = [];

    public IReadOnlyList<CrosswalkSuggestion> Suggested { get; private set; } = [];

    public Job? Running { get; private set; }

    public int After { get; private set; }

    public IEnumerable<DocumentType> Types => designs.Published.Values.Select(p => p.Type.Type);

    public string Address => $"/Migration/Inventory/{Inventory.Id}";

    /// <summary>The state of a wave in words.</summary>
    public static string InWords(Wave wave, bool running) =>
        wave.Run.State switch
        {
            RunState.Undone => "undone",
            RunState.Undoing => running ? "being undone" : "partly undone",
            RunState.Applied => "applied",
            _ => running ? "under way" : "stopped on the way",
        };

    public IActionResult OnGet(long id, int after) => Load(id, after);

    public IActionResult OnPostType(long id)
    {
        var code = Sent("type");
        if (migrations.Find(id) is { } inventory)
            Note(
                migrations.SetPlan(id, new MigrationPlan(code, [.. migrations.Suggest(inventory, code).Select(s => s.Line)], []), Who),
                "Lines are suggested below, by name and by what the columns hold. Look at each."
            );
        return Load(id);
    }

    public IActionResult OnPostLine(long id)
    {
        var source = Sent("source");
        var steps = StepsForm.Read(Posted, "step", "argument");
        ChangePlan(
            id,
            plan =>
                plan with
                {
                    // A line that is there keeps its place.
                    Crosswalk =
                        source.Length == 0
                            ? [.. plan.Crosswalk.Where(l => l.Field != Sent("field"))]
                            :
                            [
                                .. plan.Crosswalk.Select(l => l.Field == Sent("field") ? new CrosswalkLine(source, l.Field, steps) : l),
                                .. plan.Crosswalk.All(l => l.Field != Sent("field"))
                                    ? [new CrosswalkLine(source, Sent("field"), steps)]
                                    : Array.Empty<CrosswalkLine>(),
                            ],
                }
        );
        if (Problem is not null)
            Open = Sent("field");
        return Load(id);
    }

    public IActionResult OnPostPass(long id)
    {
        var formats = Sent("formats").Trim();
        var pass = new TaggingPass(
            $"p{Guid.NewGuid():N}"[..8],
            Sent("kind"),
            Sent("field"),
            Sent("source"),
            Sent("argument").Trim(),
            Sent("only-empty") == "on",
            formats.Length > 0 ? [new CleaningStep("read-date", formats)] : []
        );
        ChangePlan(id, plan => plan with { Passes = [.. plan.Passes, pass] });
        if (Problem is not null)
            Open = "new-pass";
        return Load(id);
    }

    public IActionResult OnPostRemovePass(long id, string pass)
    {
        ChangePlan(id, plan => plan with { Passes = [.. plan.Passes.Where(p => p.Id != pass)] });
        return Load(id);
    }

    public IActionResult OnPostMovePass(long id, string pass)
    {
        ChangePlan(
            id,
            plan =>
            {
                var passes = plan.Passes.ToList();
                var at = passes.FindIndex(p => p.Id == pass);
                if (at > 0)
                    (passes[at - 1], passes[at]) = (passes[at], passes[at - 1]);
                return plan with { Passes = passes };
            }
        );
        return Load(id);
    }

    public IActionResult OnPostDryRun(long id) => Started(id, () => migrations.StartDryRun(id, Who));

    public IActionResult OnPostApply(long id) =>
        Started(id, () => waves.Start(id, Sent("take-questionable") == "on" ? Sent("reason") : null, Who));

    public IActionResult OnPostResume(long id, long wave) => Started(id, () => waves.Resume(wave, Who));

    public IActionResult OnPostUndo(long id, long wave) =>
        Started(id, () => waves.StartUndo(wave, Who), $"Wave {wave} is undone completely.");

    /// <summary>The rows that were left, with their reasons.</summary>
    public IActionResult OnGetLeft(long id)
    {
        using var writer = new StringWriter();
        SafeCsv.WriteLine(writer, ["row", "verdict", "path", "reasons"]);
        foreach (var row in migrations.Left(id, int.MaxValue))
            SafeCsv.WriteLine(writer, [row.Row.ToString(), row.Verdict.ToString(), row.Title, string.Join(" | ", row.Reasons)]);
        return File(System.Text.Encoding.UTF8.GetBytes(writer.ToString()), "text/csv", "left-rows.csv");
    }

    private IActionResult Started(long id, Func<Result<Job>> start, string? done = null)
    {
        var started = start();
        Problem = started.Problem;
        // What takes less than a second needs no progress line.
        if (started.Value is { } job && job.Completion.Wait(900))
        {
            Problem = job.Problem;
            if (Problem is null)
                Done = done;
        }
        return Load(id);
    }

    private void ChangePlan(long id, Func<MigrationPlan, MigrationPlan> change)
    {
        if (migrations.Find(id)?.Plan is { } plan)
            Problem = migrations.SetPlan(id, change(plan), Who).Problem;
    }

    private IActionResult Load(long id, int after = 0)
    {
        if (migrations.Find(id) is not { } inventory)
            return NotFound();
        Inventory = inventory;
        Type = inventory.Plan is { } plan && designs.Published.TryGetValue(plan.TypeCode, out var published) ? published.Type.Type : null;
        Waves = waves.Of(id);
        After = after;
        Left = migrations.Left(id, LeftShown, after);
        Running = jobs.Running(Migrations.Subject(id));
        if (Type is not null && inventory.Profile is not null)
            Suggested = migrations.Suggest(inventory, Type.Code);
        return Page();
    }
}
