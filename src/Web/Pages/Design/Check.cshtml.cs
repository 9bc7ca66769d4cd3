using System.Diagnostics;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>The design check of one type: each finding with its place, its consequence and the way to its repair.</summary>
public sealed class CheckModel(Designs designs, Drafts drafts) : PlacePage
{
    public TypeState State { get; private set; } = null!;

    public DocumentType Whole { get; private set; } = null!;

    public List<Finding> Findings { get; private set; } = [];

    /// <summary>How long it took.</summary>
    public TimeSpan Took { get; private set; }

    public IActionResult OnGet(string code)
    {
        if (designs.Find(code) is not { } state)
            return NotFound();
        State = state;
        Whole = designs.Resolve(state.Draft);
        var started = Stopwatch.GetTimestamp();
        Findings = drafts.Findings(state.Draft);
        Took = Stopwatch.GetElapsedTime(started);
        return Page();
    }
}
