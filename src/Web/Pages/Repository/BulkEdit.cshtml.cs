using ClearLexicon.Core.Fields;
using ClearLexicon.Services;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>One change of one field of everything that a question finds: what it would do, setting it, taking it back.</summary>
public sealed class BulkEditModel(
    BulkEdits edits,
    SearchRequests requests,
    Designs designs,
    Jobs jobs,
    Services.Readers.TaughtReaders readers
) : PlacePage
{
    /// <summary>Values that are listed; the counts say how many there are.</summary>
    public const int Listed = 200;

    public ViewDefinition Asks { get; private set; } = new();

    public SearchRequest Asked { get; private set; } = null!;

    public Run<BulkOrder>? Edit { get; private set; }

    public Dictionary<StepState, StepCount> Counts { get; private set; } = [];

    public Job? Running { get; private set; }

    public List<Run<BulkOrder>> Newest { get; private set; } = [];

    public List<RunStep<ChangedValue>> Values(StepState state) => Edit is null ? [] : edits.Values(Edit, state, Listed);

    public long Number(StepState state) => Counts.GetValueOrDefault(state).Number;

    /// <summary>The fields that may be changed, with what can be done to each.</summary>
    public IEnumerable<Field> Fields => Asked.Fields.Fields;

    /// <summary>Published readers of the type, for reading what is found again.</summary>
    public IEnumerable<Core.Reading.Reader> Readers => Rights.Designs ? readers.Published().Where(r => r.TypeCode == Asked.Type?.Code) : [];

    /// <summary>What is done, in words.</summary>
    public static string InWords(BulkAct act) =>
        act switch
        {
            BulkAct.Set => "set to",
            BulkAct.Clear => "clear",
            BulkAct.Replace => "replace",
            BulkAct.Add => "add the term",
            BulkAct.Remove => "remove the term",
            _ => "work out again",
        };

    /// <summary>Label of a bulk edit's change.</summary>
    public string InWords(Run<BulkOrder> edit) =>
        designs.Published.TryGetValue(edit.Order.TypeCode, out var published)
            ? edit.Order.What.InWords(published.Type.Type)
            : edit.Order.What.Field;

    public bool IsRunning(IRun run) => jobs.Running(run.Subject) is not null;

    public RunActs Acts(IRun edit) =>
        new(
            edit,
            Running is not null,
            Number(StepState.Done) + Number(StepState.Moving) > 0,
            $"/Repository/BulkEdit?handler=Apply&edit={edit.Id}",
            $"/Repository/BulkEdit?handler=Undo&edit={edit.Id}"
        )
        {
            UndoText = $"Undo for {Counted.Of(Number(StepState.Done) + Number(StepState.Moving), "document")}",
        };

    /// <summary>Where a look at another change is asked for.</summary>
    public string LookAddress =>
        RepositoryIndexModel.AddressOn("/Repository/BulkEdit", Asks, KeyValuePair.Create("handler", (string?)"Look"));

    public IActionResult OnGet(long? edit) => Load(edit);

    public IActionResult OnPostLook()
    {
        Asks = RepositoryIndexModel.AsksOf(Queried);
        var act = Enum.TryParse<BulkAct>(Sent("act"), out var known) && Enum.IsDefined(known) ? known : BulkAct.Set;
        var order = new BulkOrder(
            new BulkChange(Sent("field"), act, Sent("text"), Sent("with")),
            Sent("reason").Trim(),
            Sent("moves") == "on"
        );
        var looked = edits.Look(Asks, order, Who, Rights);
        Problem = looked.Problem;
        if (looked.Ok)
            Standing($"/Repository/BulkEdit?edit={looked.Value}");
        return Load(looked.Ok ? looked.Value : null);
    }

    public IActionResult OnPostApply(long edit)
    {
        Problem = edits.Start(edit, Who).Problem;
        return Load(edit);
    }

    public IActionResult OnPostUndo(long edit)
    {
        Problem = edits.StartUndo(edit, Who).Problem;
        return Load(edit);
    }

    private IActionResult Load(long? id)
    {
        if (id is { } known)
        {
            if (edits.Find(known) is not { } found)
                return NotFound();
            (Edit, Counts, Asks) = (found, edits.Counts(found), found.Order.Asks);
        }
        else
            Asks = RepositoryIndexModel.AsksOf(Queried);
        Asked = requests.For(Asks, Rights);
        Running = Edit is null ? null : jobs.Running(Edit.Subject);
        Newest = edits.Newest(10);
        return Page();
    }
}
