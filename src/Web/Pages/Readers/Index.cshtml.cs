using ClearLexicon.Core.Reading;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Readers;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

public sealed class ReadersIndexModel(TaughtReaders readers, SampleProofs proofs, PileSorting piles, DeskDocuments desk, Designs designs)
    : PlacePage
{
    /// <summary>The readers, how many samples each has, and its proof when it is known.</summary>
    public List<(Reader Reader, int Samples, SampleProof? Proof)> Readers { get; private set; } = [];

    public List<TypeState> Types { get; private set; } = [];

    /// <summary>Keys of readers that were never published.</summary>
    public HashSet<string> Unpublished { get; private set; } = [];

    public List<Pile> Piles { get; private set; } = [];

    /// <summary>Documents on the desk that no reader knows.</summary>
    public long Unknown { get; private set; }

    public bool NoRecognition => !TextRecognition.Available;

    public void OnGet() => Load();

    /// <summary>How much of a reader's samples comes out right, tried now when it is not known: asked for by the page, one after
    /// another.</summary>
    public IActionResult OnGetRight(string key) => Content(Words(proofs.Of(key)));

    /// <summary>The share of right values in words.</summary>
    public static string Words(SampleProof proof) =>
        proof.Right?.ToString("P0", System.Globalization.CultureInfo.InvariantCulture) ?? "not known";

    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        if (file is null)
            Problem = "Choose a sample page: a PDF, PNG, JPEG or TIFF.";
        else
        {
            var made = readers.Create(Sent("name"), Sent("type"), Who);
            if (made.Ok)
            {
                var sample = await readers.AddSampleAsync(
                    made.Value!,
                    new BroughtFile(file.FileName, file.OpenReadStream),
                    new Dictionary<string, string>()
                );
                if (sample.Ok)
                    return Redirect($"/Readers/Reader/{made.Value}");
                // The reader stays: another page can be brought to it.
                Problem = $"{sample.Problem} The reader was made without a sample.";
            }
            else
                Problem = made.Problem;
        }
        Load();
        return Page();
    }

    public async Task<IActionResult> OnPostPileAsync(List<IFormFile> files)
    {
        var brought = await piles.BringAsync(Sent("name"), [.. files.Select(f => new BroughtFile(f.FileName, f.OpenReadStream))], Who);
        return Opened(brought);
    }

    public IActionResult OnPostPileFromDesk() => Opened(piles.FromDesk(d => desk.Sees(d, ""), Who));

    private IActionResult Opened(Result<long> pile)
    {
        if (pile.Ok)
            return Redirect($"/Readers/Pile/{pile.Value}");
        Problem = pile.Problem;
        Load();
        return Page();
    }

    private void Load()
    {
        (Piles, Unknown) = (piles.All(), piles.Unknown);
        Unpublished = [.. readers.All().Select(r => r.Key).Except(readers.Published().Select(r => r.Key))];
        Types = designs.All();
        Readers = [.. readers.All().Select(r => proofs.Known(r.Key) is var known ? (r, known.Samples, known.Proof) : default)];
    }
}
