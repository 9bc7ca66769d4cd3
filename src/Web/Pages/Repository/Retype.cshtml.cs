using ClearLexicon.Core.Designs;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Another type for one document, or for all that a question finds: what it would make of them, changing, taking back.</summary>
public sealed class RetypeModel(Retyping retyping, DeskDocuments desk, SearchRequests requests, Designs designs, Jobs jobs) : PlacePage
{
    /// <summary>Documents that are listed; the counts say how many there are.</summary>
    public const int Listed = 200;

    /// <summary>Documents of a run, those first with which something is to be done.</summary>
    public static readonly StepState[] InOrder =
    [
        StepState.Held,
        StepState.Skipped,
        StepState.Stays,
        StepState.Planned,
        StepState.Moving,
        StepState.Done,
        StepState.Returning,
        StepState.Undone,
    ];

    private const int MostRuns = 10;

    /// <summary>The one document that is looked at; null for those of a question.</summary>
    public StoredDocument? Document { get; private set; }

    public ViewDefinition? Asks { get; private set; }

    public SearchRequest? Asked { get; private set; }

    public Run<RetypeOrder>? Run { get; private set; }

    public Dictionary<StepState, StepCount> Counts { get; private set; } = [];

    /// <summary>What the type would make of the one document, in full.</summary>
    public RetypeLook? Look { get; private set; }

    public Job? Running { get; private set; }

    public List<Run<RetypeOrder>> Newest { get; private set; } = [];

    public IEnumerable<DocumentType> Types =>
        designs
            .Published.Values.Select(p => p.Type.Type)
            .Where(t => !t.IsGroup && t.Code != (Document?.TypeCode ?? Asks?.Type))
            .OrderBy(t => t.Name);

    public string NameOf(string? code) =>
        code is not null && designs.Published.TryGetValue(code, out var p) ? p.Type.Type.Name : code ?? "no type yet";

    public long Number(StepState state) => Counts.GetValueOrDefault(state).Number;

    public List<RunStep<RetypedDocument>> Documents(params StepState[] states) => retyping.Documents(Run!, Listed, states);

    public bool IsRunning(IRun run) => jobs.Running(run.Subject) is not null;

    public RunActs Acts(IRun run) =>
        new(
            run,
            Running is not null,
            Number(StepState.Done) + Number(StepState.Moving) > 0,
            $"/Repository/Retype/{run.Id}?handler=Apply",
            $"/Repository/Retype/{run.Id}?handler=Undo"
        );

    /// <summary>Where the document is looked at.</summary>
    public string DocumentAddress => Document!.Filed ? $"/Repository/Document/{Document.Id}" : $"/Desk/Document/{Document.Id}";

    public string LookAddress =>
        Document is { } one
            ? $"/Repository/Retype?handler=Look&document={one.Id}"
            : RepositoryIndexModel.AddressOn("/Repository/Retype", Asks!, KeyValuePair.Create("handler", (string?)"Look"));

    public IActionResult OnGet(long? run, long? document) => Load(run, document);

    public IActionResult OnPostLook(long? document)
    {
        if (document is { } id && desk.Find(id, Who) is null)
            return NotFound();
        var begun = retyping.Begin(
            Sent("type"),
            document is null ? RepositoryIndexModel.AsksOf(Queried) : null,
            document,
            Sent("rereads") == "on",
            Sent("reason"),
            Who,
            Rights
        );
        Problem = begun.Problem;
        if (!begun.Ok)
            return Load(null, document);
        jobs.Running(Retyping.Subject)?.Completion.Wait(2_000);
        return Load(begun.Value, null);
    }

    public IActionResult OnPostApply(long run) => Do(run, retyping.Start);

    public IActionResult OnPostUndo(long run) => Do(run, retyping.StartUndo);

    private IActionResult Do(long run, Func<long, string, Result<Job>> act)
    {
        var started = act(run, Who);
        Problem = started.Problem;
        started.Value?.Completion.Wait(2_000);
        return Load(run, null);
    }

    private IActionResult Load(long? id, long? document)
    {
        if (id is { } known)
        {
            if (retyping.Find(known) is not { } found)
                return NotFound();
            (Run, Counts) = (found, retyping.Counts(found));
            (Asks, document) = (Run.Order.Asks, Run.Order.Document);
            Running = jobs.Running(Retyping.Subject);
            Standing($"/Repository/Retype/{known}");
        }
        if (document is { } one)
        {
            if (desk.Find(one, Who) is not { } judged)
                return NotFound();
            Document = judged.Document;
            if (Run is { State: RunState.Looked })
                Look = retyping.Of(Run);
        }
        else
        {
            Asks ??= RepositoryIndexModel.AsksOf(Queried);
            Asked = requests.For(Asks, Rights);
        }
        Newest = retyping.Newest(MostRuns);
        return Page();
    }
}
