using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>How documents arrive, and where what arrived stands.</summary>
public sealed class DeskWaysInModel(WaysIn ways, Arrivals arrivals, WatchedFolders folders, Jobs jobs) : PlacePage
{
    private const int MostBatches = 100;
    private const int MostRefused = 20;

    public IReadOnlyList<(WayIn Way, FolderState? State)> Ways { get; private set; } = [];

    public ArrivalState State { get; private set; } = null!;

    public Job? Running { get; private set; }

    public bool MayChange => Rights.Designs;

    /// <summary>Stacks that the stand-in for a copier can still send into a watched folder.</summary>
    public int InCopier(string way) => arrivals.InCopier(way);

    /// <summary>States that batches are listed by.</summary>
    public static IReadOnlyList<(string Code, string Says)> States { get; } =
    [
        ("waiting", "waiting or being read"),
        ("look", "waiting for a person"),
        ("desk", "on the desk"),
        ("filed", "filed"),
        ("refused", "with refused files"),
        ("given-up", "given up"),
    ];

    /// <summary>The state of the batches that are listed; empty for all.</summary>
    [BindProperty(SupportsGet = true, Name = "state")]
    public string OnlyState { get; set; } = "";

    /// <summary>The way in of the batches that are listed; empty for all.</summary>
    [BindProperty(SupportsGet = true, Name = "way")]
    public string OnlyWay { get; set; } = "";

    /// <summary>The batches that are listed.</summary>
    public IReadOnlyList<BatchStatus> Batches =>
        [.. State.Batches.Where(b => (string.IsNullOrEmpty(OnlyWay) || b.Batch.WayIn == OnlyWay) && Is(b, OnlyState))];

    /// <summary>Where a batch stands, in words.</summary>
    public string Stands(BatchStatus batch) =>
        batch.Batch.State switch
        {
            BatchState.GivenUp => "given up",
            BatchState.Look => "waits for a person",
            _ when batch.Waiting > 0 && batch.Read < batch.Pages =>
                $"{(Running is null ? "stopped" : "being read")}, {batch.Read:N0} of {batch.Pages:N0} pages",
            _ when batch.Waiting > 0 => "waits to be read",
            _ when batch.OnDesk > 0 => "on the desk",
            _ when batch.Filed > 0 => "filed",
            _ => batch.Refused > 0 ? "refused" : "empty",
        };

    private static bool Is(BatchStatus batch, string state) =>
        state switch
        {
            "waiting" => batch.Waiting > 0,
            "look" => batch.Batch.State == BatchState.Look,
            "desk" => batch.OnDesk > 0,
            "filed" => batch.Filed > 0 && batch.OnDesk == 0,
            "refused" => batch.Refused > 0,
            "given-up" => batch.Batch.State == BatchState.GivenUp,
            _ => true,
        };

    public void OnGet() => Load();

    public IActionResult OnPostRetry(long file)
    {
        Note(arrivals.Retry(file, Who), "The file is tried once more.");
        Load();
        return Page();
    }

    public IActionResult OnPostCopy(string into)
    {
        var result = arrivals.Copy(into);
        if (result.Ok)
            Done = $"The copier puts “{result.Value}” into the folder. It is taken when it has stopped growing.";
        else
            Problem = result.Problem;
        Load();
        return Page();
    }

    private void Load()
    {
        Ways = [.. ways.All().Where(w => w.SeenBy(Who)).Select(w => (w, folders.StateOf(w.Key)))];
        State = arrivals.State(Who, MostBatches, MostRefused);
        Running = jobs.Running(Intake.Subject);
    }
}
