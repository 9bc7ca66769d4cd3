using System.Text;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Publishes a version with its consequences known.</summary>
public sealed class PublishModel(Designs designs, Drafts drafts, Publishing publishing, Carrying carrying, Jobs jobs) : PlacePage
{
    private const int MostRuns = 4;
    private const int MostReasons = 5;

    private const int Shown = 60;

    public TypeState State { get; private set; } = null!;

    public DocumentType Whole { get; private set; } = null!;

    public List<DesignChange> Changes { get; private set; } = [];

    public List<Finding> Blocking { get; private set; } = [];

    public LookedAt? Looked { get; private set; }

    public List<AffectedRecord> Affected { get; private set; } = [];

    public List<StoredDocument> Parked { get; private set; } = [];

    public Job? Running { get; private set; }

    /// <summary>The published version; null when nothing is published.</summary>
    public DocumentType? Before { get; private set; }

    /// <summary>The mapping from it to the draft.</summary>
    public List<CarryLine> Lines { get; private set; } = [];

    /// <summary>Lines that are likely and not there yet.</summary>
    public IReadOnlyList<CarryLine> Suggested { get; private set; } = [];

    /// <summary>What the mapping makes of a few documents.</summary>
    public List<(string Name, List<(string Field, string Before, string After)> Changes)> Carried { get; private set; } = [];

    /// <summary>Documents carried through to earlier versions.</summary>
    /// <summary>The newest runs, each with how many of its documents are in which state, and why some could not be taken back.</summary>
    public List<(Run<CarryOrder> Run, Dictionary<StepState, StepCount> Counts, List<string> Stays)> Runs { get; private set; } = [];

    public IActionResult OnGet(string code) => Load(code);

    /// <summary>All records that would change, as CSV.</summary>
    public IActionResult OnGetList(string code)
    {
        if (designs.Find(code) is null)
            return NotFound();
        var csv = new StringBuilder("What,Document or row,Cause,Before,After\r\n");
        for (var after = 0; publishing.Affected(code, 5_000, after) is { Count: > 0 } rows; after += rows.Count)
            foreach (var r in rows)
                csv.Append(string.Join(',', new[] { InWords(r.What), r.Title, r.Cause, r.Before, r.After }.Select(SafeCsv.Cell)))
                    .Append("\r\n");
        return File(Encoding.UTF8.GetBytes(csv.ToString()), "text/csv; charset=utf-8", $"consequences of {code}.csv");
    }

    public IActionResult OnPostLook(string code)
    {
        Problem = publishing.StartLook(code, Who).Problem;
        return Load(code);
    }

    public IActionResult OnPost(string code)
    {
        var result = publishing.Publish(
            code,
            SentNumber("seen") ?? 0,
            Enum.TryParse<ForExisting>(Sent("existing"), out var existing) ? existing : ForExisting.Keep,
            Who
        );
        Problem = result.Problem;
        if (result.Ok)
            Done =
                $"Version {result.Value.Version} is published."
                + (existing == ForExisting.Carry ? " Documents are being carried through; you may leave the page." : "")
                + " Desk, edits, API and migration check against it from now on."
                + (result.Value.Parked > 0 ? $" {result.Value.Parked} documents fail it and are parked." : "");
        return Load(code);
    }

    /// <summary>Keeps a line of the mapping.</summary>
    public IActionResult OnPostLine(string code)
    {
        if (designs.Find(code) is not { } state || designs.Versions(code) is not [var newest, ..])
            return NotFound();
        var how = Enum.TryParse<CarryHow>(Sent("how"), out var h) ? h : CarryHow.Whole;
        var line = new CarryLine(Sent("field"), how, [.. SentMany("from").Where(k => k.Length > 0)])
        {
            Between = Sent("between"),
            Part = how == CarryHow.Part ? SentNumber("part") ?? 0 : 1,
            AndRest = how == CarryHow.Part && Sent("rest") == "on",
            Steps = StepsForm.Read(Posted, "step-kind", "step-argument"),
        };
        var result = carrying.SetLine(code, line, newest.Design, designs.Resolve(state.Draft), Who);
        Note(result, "Kept. Look at the consequences to see what it would do to all documents.");
        if (!result.Ok)
            Open = "line";
        return Load(code);
    }

    public IActionResult OnPostRemoveLine(string code, string field)
    {
        carrying.RemoveLine(code, field, Who);
        return Load(code);
    }

    public IActionResult OnPostCarryBack(string code, long run) => Run(code, carrying.StartUndo(run, Who));

    public IActionResult OnPostCarryOn(string code, long run) => Run(code, carrying.Start(run, Who));

    public IActionResult OnPostCarryAgain(string code, long run) => Run(code, carrying.StartAgain(run, Who));

    private IActionResult Run(string code, Result<Job> started)
    {
        Problem = started.Problem;
        return Load(code);
    }

    /// <summary>An effect in words.</summary>
    public static string InWords(Effect effect) =>
        effect switch
        {
            Effect.NewlyFailing => "would fail",
            Effect.NewlyPassing => "would pass",
            _ => "other path",
        };

    private IActionResult Load(string code)
    {
        if (designs.Find(code) is not { Draft.IsGroup: false } state)
            return NotFound();
        State = state;
        Whole = designs.Resolve(state.Draft);
        Running = jobs.Running(Designs.Subject(code));
        Looked = publishing.Last(code);
        Affected = Looked is null ? [] : publishing.Affected(code, Shown);
        Parked = publishing.Parked(code);
        Runs = carrying
            .Runs(code)
            .Take(MostRuns)
            .Select(r => (r, carrying.Counts(r), carrying.Documents(r, StepState.Stays, MostReasons).ConvertAll(d => d.Message)))
            .ToList();
        if (designs.Versions(code) is [var newest, ..] && state.DraftOpen)
        {
            Before = newest.Design;
            Changes = [.. DesignDifference.InWords(newest.Design, Whole)];
            (Lines, Suggested) = carrying.Mapping(code, newest.Design, Whole);
            if (Lines.Count > 0)
                Carried = carrying.Samples(code, newest.Design, Whole, 4);
        }
        Blocking = state.DraftOpen ? [.. drafts.Findings(state.Draft).Where(f => f.Level == Level.Must)] : [];
        return Page();
    }
}
