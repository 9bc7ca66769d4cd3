using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Services;
using ClearLexicon.Services.Readers;
using ClearLexicon.Storage;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Teaching one reader: the page with its marks, the crosswalk, the proof table.</summary>
public sealed class ReaderModel(TaughtReaders readers) : PlacePage
{
    public Reader Reader { get; private set; } = null!;

    public DocumentType Type { get; private set; } = null!;

    public List<Sample> Samples { get; private set; } = [];

    public Sample? Sample { get; private set; }

    public Claim? Claim { get; private set; }

    public IReadOnlyList<CapturedValue> Read { get; private set; } = [];

    public List<ProofRow> Proof { get; private set; } = [];

    public string? ChosenZone { get; private set; }

    public IActionResult OnGet(string key, long? sample) => Load(key, sample);

    public IActionResult OnPostClue(string key, long sample)
    {
        Note(readers.ToggleClue(key, Sent("text"), SentBox(), Who), $"“{Sent("text")}” marked.");
        Done = null;
        return Load(key, sample);
    }

    public IActionResult OnPostZone(string key, long sample)
    {
        ChosenZone = Sent("zone");
        Problem = readers.SetZone(key, ChosenZone, SentBox(), ChosenZone, Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostRemoveZone(string key, long sample)
    {
        readers.RemoveZone(key, Sent("zone"), Who);
        return Load(key, sample);
    }

    public IActionResult OnPostLine(string key, long sample, string zone)
    {
        Note(readers.SetLine(key, zone, Sent("field"), StepsForm.Read(Posted, "step", "argument"), Who), "Kept, and tried on all samples.");
        Open = zone;
        return Load(key, sample);
    }

    public IActionResult OnPostTruth(string key, long sample)
    {
        var truth = Posted
            .Names.Where(n => n.StartsWith("truth.", StringComparison.Ordinal) && Posted.Text(n) is not null)
            .ToDictionary(n => n["truth.".Length..], n => Posted.Text(n)!);
        readers.SetTruth(sample, truth);
        Done = "Kept as what is true on this sample.";
        return Load(key, sample);
    }

    public async Task<IActionResult> OnPostSampleAsync(string key, IFormFile? file)
    {
        if (file is null)
            Problem = "Choose a sample page.";
        else
        {
            var added = await readers.AddSampleAsync(
                key,
                new BroughtFile(file.FileName, file.OpenReadStream),
                new Dictionary<string, string>()
            );
            if (added.Ok)
                return Redirect($"/Readers/Reader/{key}?sample={added.Value}");
            Problem = added.Problem;
        }
        return Load(key, null);
    }

    private Box SentBox() => new(SentShare("x"), SentShare("y"), SentShare("w"), SentShare("h"));

    private IActionResult Load(string key, long? sample)
    {
        if (readers.Find(key) is not { } reader || readers.TypeOf(reader) is not { } type)
            return NotFound();
        Reader = reader;
        Type = type;
        Samples = readers.Samples(key);
        Sample = Samples.FirstOrDefault(s => s.Id == sample) ?? Samples.FirstOrDefault();
        Proof = readers.Prove(key);
        if (Sample is null)
            return Page();
        Claim = Recognition.Try(Sample.Page, reader);
        Read = ZoneReading.Read(Sample.Page, 1, Claim, type);
        return Page();
    }
}
