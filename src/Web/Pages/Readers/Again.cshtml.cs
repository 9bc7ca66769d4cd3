using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Reading;
using ClearLexicon.Services;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Reads documents again with the published version of a reader: a look, setting the values, taking them back.</summary>
public sealed class ReadAgainModel(TaughtReaders readers, Rereadings again, Jobs jobs) : PlacePage
{
    /// <summary>Values that are listed; the counts say how many there are.</summary>
    public const int Listed = 200;

    public Reader Reader { get; private set; } = null!;

    public DocumentType Type { get; private set; } = null!;

    /// <summary>The published version; 0 when there is none.</summary>
    public int Version { get; private set; }

    public Job? Running { get; private set; }

    /// <summary>Runs, newest first, each with how many of its values are in which state.</summary>
    public List<(Run<RereadOrder> Run, Dictionary<StepState, StepCount> Counts)> Runs { get; private set; } = [];

    /// <summary>What the newest run would set.</summary>
    public List<RunStep<ChangedValue>> Planned { get; private set; } = [];

    /// <summary>What a run could not set, with the reasons.</summary>
    public List<RunStep<ChangedValue>> Left { get; private set; } = [];

    /// <summary>The question whose documents alone are read again; null for all.</summary>
    public ViewDefinition? Asks => RepositoryIndexModel.AsksOf(Queried) is { Type.Length: > 0 } asks ? asks : null;

    public IActionResult OnGet(string key) => Load(key);

    public IActionResult OnPostLook(string key)
    {
        Problem = again.Look(key, Sent("scope"), Sent("which") != "all", Who, Asks, Rights).Problem;
        return Load(key);
    }

    public IActionResult OnPostApply(string key, long run)
    {
        Problem = again.Start(run, Who).Problem;
        return Load(key);
    }

    public IActionResult OnPostUndo(string key, long run)
    {
        Problem = again.StartUndo(run, Who).Problem;
        return Load(key);
    }

    private IActionResult Load(string key)
    {
        if (readers.Find(key) is not { } reader || readers.TypeOf(reader) is not { } type)
            return NotFound();
        (Reader, Type, Version) = (reader, type, readers.State(key).Version);
        Running = jobs.Running(Rereadings.Subject(key));
        Runs = [.. again.Runs(key).Select(r => (r, again.Counts(r)))];
        if (Running is null && Runs is [var (newest, _), ..])
        {
            Planned = newest.State == RunState.Looked ? again.Values(newest, StepState.Planned, Listed) : [];
            Left = newest.State == RunState.Applied ? again.Values(newest, StepState.Skipped, Listed) : [];
        }
        return Page();
    }
}
