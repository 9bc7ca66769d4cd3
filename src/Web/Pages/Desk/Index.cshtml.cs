using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class DeskIndexModel(DeskDocuments desk, ParkedDocuments parked, Intake intake, Jobs jobs, DeskPresence presence) : PlacePage
{
    private const int MostRefused = 12;

    public List<JudgedDocument> Waiting { get; private set; } = [];

    public List<BatchFile> Refused { get; private set; } = [];

    /// <summary>What is set aside, the oldest first.</summary>
    public List<(Parking Parking, StoredDocument Document)> Parked { get; private set; } = [];

    /// <summary>Pages being read, or documents being filed.</summary>
    public Job? Running { get; private set; }

    /// <summary>Files that wait because reading was stopped.</summary>
    public int Stopped { get; private set; }

    public int InTray => intake.InTray;

    /// <summary>Stacks whose separation a person looks at first.</summary>
    public int ToLookAt { get; private set; }

    public int Ready { get; private set; }

    public bool NoRecognition => !TextRecognition.Available;

    /// <summary>Who else has a document open; null when nobody has.</summary>
    public AtWork? Other(long document) => presence.Other(document, Who);

    /// <summary>The batch that is looked at; null for the whole desk.</summary>
    [BindProperty(SupportsGet = true)]
    public long? Batch { get; set; }

    /// <summary>Its name.</summary>
    public string BatchName { get; private set; } = "";

    /// <summary>What was filed just before.</summary>
    [BindProperty(SupportsGet = true, Name = "filed")]
    public long? FiledBefore { get; set; }

    /// <summary>The document that was filed just before; null when none was.</summary>
    public StoredDocument? JustFiled => FiledBefore is { } id ? desk.Find(id, Who)?.Document : null;

    public void OnGet() => Load();

    public async Task<IActionResult> OnPostAsync(List<IFormFile> files)
    {
        if (files.Count == 0)
            Problem = "Choose or drop files: PDF, PNG, JPEG or TIFF.";
        else
        {
            await intake.BringAsync(
                files.Count == 1 ? files[0].FileName : $"{files[0].FileName} and {files.Count - 1} more",
                [.. files.Select(f => new BroughtFile(f.FileName, f.OpenReadStream))],
                Who
            );
        }
        Load();
        return Page();
    }

    public async Task<IActionResult> OnPostScanAsync()
    {
        if (await intake.ScanAsync(Who) is null)
            Problem = "The scanner’s tray is empty.";
        Load();
        return Page();
    }

    /// <summary>Goes on with reading that somebody stopped.</summary>
    public IActionResult OnPostRead()
    {
        if (intake.Start(Who) is null)
            Problem = "The program is being stopped; reading continues when it starts again.";
        Load();
        return Page();
    }

    /// <summary>Completion of a term as one types: labels, with the variants that lead to them.</summary>
    public IActionResult OnGetTerms([FromServices] Designs designs, string vocabulary, string? text) =>
        !designs.Vocabularies.TryGetValue(vocabulary, out var index)
            ? new EmptyResult()
            : Partial("Desk/_Terms", index.Complete(text ?? "", 12).ToList());

    private void Load()
    {
        Waiting = desk.Waiting(Who, Batch);
        Ready = Waiting.Count(d => d.State == Readiness.Ready);
        Parked = parked.All(Who);
        if (Batch is { } batch)
            BatchName = desk.BatchName(batch);
        Running = jobs.Running(Intake.Subject) ?? jobs.Running(FilingRuns.Subject);
        Stopped = intake.Stopped;
        Refused = desk.Refused(MostRefused);
        ToLookAt = desk.ToLookAt();
    }
}
