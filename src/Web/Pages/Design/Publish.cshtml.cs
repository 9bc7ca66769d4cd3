using System.Text;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Publishes a version with its consequences known.</summary>
public sealed class PublishModel(Designs designs, Publishing publishing, Jobs jobs) : PlacePage
{
    private const int Shown = 60;

    public TypeState State { get; private set; } = null!;

    public DocumentType Whole { get; private set; } = null!;

    public List<DesignChange> Changes { get; private set; } = [];

    public List<Finding> Blocking { get; private set; } = [];

    public LookedAt? Looked { get; private set; }

    public List<AffectedRecord> Affected { get; private set; } = [];

    public List<StoredDocument> Parked { get; private set; } = [];

    public Job? Running { get; private set; }

    public IActionResult OnGet(string code) => Load(code);

    /// <summary>All records that would change, as CSV.</summary>
    public IActionResult OnGetList(string code)
    {
        if (designs.Find(code) is null) return NotFound();
        var csv = new StringBuilder("What,Document or row,Cause,Before,After\r\n");
        for (var after = 0; publishing.Affected(code, 5_000, after) is { Count: > 0 } rows; after += rows.Count)
            foreach (var r in rows) csv.Append(string.Join(',', new[] { InWords(r.What), r.Title, r.Cause, r.Before, r.After }.Select(SafeCsv.Cell))).Append("\r\n");
        return File(Encoding.UTF8.GetBytes(csv.ToString()), "text/csv; charset=utf-8", $"consequences of {code}.csv");
    }

    public IActionResult OnPostLook(string code)
    {
        Problem = publishing.StartLook(code).Problem;
        return Load(code);
    }

    public IActionResult OnPost(string code)
    {
        var result = publishing.Publish(code, SentNumber("seen") ?? 0, Enum.TryParse<ForExisting>(Sent("existing"), out var existing) ? existing : ForExisting.Keep, Who);
        Problem = result.Problem;
        if (result.Ok)
            Done = $"Version {result.Value.Version} is published. Desk, edits, API and migration check against it from now on.{(result.Value.Parked > 0 ? $" {result.Value.Parked} documents fail it and are parked." : "")}";
        return Load(code);
    }

    /// <summary>An effect in words.</summary>
    public static string InWords(Effect effect) => effect switch { Effect.NewlyFailing => "would fail", Effect.NewlyPassing => "would pass", _ => "other path" };

    private IActionResult Load(string code)
    {
        if (designs.Find(code) is not { Draft.IsGroup: false } state) return NotFound();
        State = state;
        Whole = designs.Resolve(state.Draft);
        Running = jobs.RunningFor($"/Design/Publish/{code}");
        Looked = publishing.Last(code);
        Affected = Looked is null ? [] : publishing.Affected(code, Shown);
        Parked = publishing.Parked(code);
        if (designs.Versions(code) is [var newest, ..] && state.DraftOpen) Changes = [.. DesignDifference.InWords(newest.Design, Whole)];
        Blocking = state.DraftOpen ? [.. designs.Findings(state.Draft).Where(f => f.Level == Level.Must)] : [];
        return Page();
    }
}
