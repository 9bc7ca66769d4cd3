using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Services;
using ClearLexicon.Services.Readers;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

// What is done on the page of a reader; what it shows is in Reader.cshtml.cs.
public sealed partial class ReaderModel
{
    public IActionResult OnPostClue(string key, long sample)
    {
        Problem = clues.Toggle(key, Sent("text"), SentBox(), Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostLandmark(string key, long sample)
    {
        Problem = clues.ToggleLandmark(key, Sent("text"), SentBox(), Who, readers.RoleOf(key, sample)).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostPicture(string key, long sample)
    {
        Note(clues.AddPicture(key, sample, "picture", SentBox(), Who), "Kept: this picture must be on every page of the design.");
        return Load(key, sample);
    }

    public IActionResult OnPostCode(string key, long sample)
    {
        var filter = SeparationForm.ReadFilter(Posted);
        Problem = Posted.Problem ?? clues.AddCode(key, Sent("name"), filter, Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostSetClue(string key, long sample, int at)
    {
        OpenClue = at;
        Problem = clues.Set(key, at, Sent("was"), c => ClueForm.Read(Posted, c), Who, AsSeen<Clue>("clue", $"reader {key}")).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostRemoveClue(string key, long sample, int at)
    {
        Problem = clues.Remove(key, at, Sent("was"), Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostFollows(string key, long sample)
    {
        Problem = clues.SetFollows(key, Sent("zone"), Sent("follows"), Who).Problem;
        Open = Sent("zone");
        return Load(key, sample);
    }

    public IActionResult OnPostPublish(string key, long sample)
    {
        var published = readers.Publish(key, Who);
        if (published.Ok)
            Done = $"Published as version {published.Value}: it reads what comes in from now on.";
        Problem = published.Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostUndo(string key, long sample)
    {
        Done = readers.Undo(key, Who) is { } undone ? $"Undone: {undone}." : null;
        return Load(key, sample);
    }

    public IActionResult OnPostZone(string key, long sample)
    {
        ChosenZone = Sent("zone");
        Problem = sources.SetZone(key, ChosenZone, SentBox(), ChosenZone, Who, readers.RoleOf(key, sample)).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostRemoveZone(string key, long sample)
    {
        sources.RemoveZone(key, Sent("zone"), Who);
        return Load(key, sample);
    }

    public IActionResult OnPostLine(string key, long sample, string zone)
    {
        var was = Posted.Text("was");
        Note(
            sources.SetLine(key, zone, Sent("field"), StepsForm.Read(Posted, "step", "argument"), Who, was),
            "Kept, and tried on all samples."
        );
        Open = zone;
        return Load(key, sample);
    }

    public IActionResult OnPostAlso(string key, long sample)
    {
        Problem = sources.AlsoFill(key, Sent("source"), Sent("also"), Who).Problem;
        Open = Sent("source");
        return Load(key, sample);
    }

    public IActionResult OnPostRemoveLine(string key, long sample)
    {
        Problem = sources.RemoveLine(key, Sent("source"), Sent("field"), Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostNewFinder(string key, long sample)
    {
        if (readers.Find(key) is not { } reader || readers.TypeOf(reader) is not { } type)
            return NotFound();
        if (type.Find(Sent("field")) is not { } field)
            Problem = "Choose the field that it fills.";
        else if (FinderKinds.For(field).All(k => k.Code != Sent("kind")))
            Problem =
                $"{field.Label} can be found {string.Join(", ", FinderKinds.For(field).Select(k => k.Title))}; choose one of these ways.";
        else
            _started = (FinderForm.Write(new Finder("", Sent("kind"))), field.Key);
        return Load(key, sample);
    }

    public IActionResult OnPostFinder(string key, long sample)
    {
        var finder = FinderForm.Read(Posted);
        var set = Posted.Problem is { } wrong
            ? Result<string>.Not(wrong)
            : sources.SetFinder(key, finder, Sent("field"), Who, AsSeen<Finder>("finder", $"reader {key}"));
        Problem = set.Problem;
        if (!set.Ok)
            _started = (Posted, Sent("field"));
        else if (FinderKinds.Find(finder.Kind)!.NeedsRegion && finder.Key.Length == 0)
            (Done, ChosenZone) = ("Kept. Now draw its region on the page.", set.Value);
        else
            Done = "Kept, and tried on all samples.";
        Open = set.Ok ? set.Value : finder.Key;
        return Load(key, sample);
    }

    public IActionResult OnPostRemoveFinder(string key, long sample)
    {
        Problem = sources.RemoveFinder(key, Sent("finder"), Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostEarlier(string key, long sample)
    {
        Problem = sources.AskEarlier(key, Sent("source"), Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostJoin(string key, long sample)
    {
        Problem = sources.Join(key, Sent("field"), Posted["apart"].Text.Length > 0 ? null : Sent("between"), Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostLanguages(string key, long sample)
    {
        Problem = readers.SetLanguages(key, [.. SentMany("language")], Who).Problem;
        if (Problem is null)
        {
            proofs.Start(key, Who);
            Done = "Saved. The samples are being recognised in these languages.";
        }
        return Load(key, sample);
    }

    public IActionResult OnPostTrust(string key, long sample)
    {
        var least = double.TryParse(Sent("least"), NumberStyles.Float, CultureInfo.InvariantCulture, out var share) ? share : double.NaN;
        Problem = sources.Need(key, Sent("field"), least, Who).Problem;
        Open = Sent("source");
        return Load(key, sample);
    }

    /// <summary>Tries the reader on all its samples in the background.</summary>
    public IActionResult OnPostProve(string key, long sample)
    {
        Problem = proofs.Start(key, Who).Problem;
        return Load(key, sample);
    }

    public IActionResult OnPostPropose(string key, long sample)
    {
        Proposal = readers.Propose(key);
        if (Proposal is null)
            Problem = "A proposal compares samples: add at least two pages of this design.";
        else if (Proposal.Values.Count == 0 && Proposal.Clues.Count == 0)
            (Problem, Proposal) = ("The samples have no words in common; are they of one design?", null);
        return Load(key, sample);
    }

    public IActionResult OnPostTake(string key, long sample)
    {
        var values = SentMany("take")
            .Select(t => t.Split('|', 2))
            .Where(t => t.Length == 2)
            .Select(t =>
                (Side: Enum.TryParse<Side>(t[0], out var side) ? side : Side.Right, Label: t[1], Field: Sent($"fills.{t[0]}|{t[1]}"))
            )
            .ToList();
        var wanted = values.Where(v => v.Field == NewField).Select(v => (v.Side, v.Label)).ToList();
        if (wanted.Count > 0)
        {
            var made = MakeFields(key, wanted);
            if (!made.Ok)
            {
                (Problem, Proposal) = (made.Problem, readers.Propose(key));
                return Load(key, sample);
            }
            values = values.ConvertAll(v => v.Field == NewField ? v with { Field = made.Value![(v.Side, v.Label)] } : v);
        }
        var taken = readers.Take(key, SentMany("clue"), values, Who);
        Note(
            taken,
            wanted.Count == 0
                ? "Taken, and tried on all samples."
                : "Taken. The new fields are in the draft of the document type: publish it, and they are filled."
        );
        if (!taken.Ok)
            Proposal = readers.Propose(key);
        return Load(key, sample);
    }

    private Result<IReadOnlyDictionary<(Side Side, string Label), string>> MakeFields(string key, List<(Side, string)> wanted) =>
        readers.Find(key) is { } reader && readers.Propose(key) is { } proposal
            ? fromPages.Add(reader, proposal, wanted, Who)
            : Result<IReadOnlyDictionary<(Side Side, string Label), string>>.Not("The samples are gone; add some pages of this design.");

    public IActionResult OnPostCodes(string key, long sample)
    {
        var source = CodeSourceForm.Read(Posted);
        if (Posted.Problem is { } wrong)
            Problem = wrong;
        else
            Note(
                sources.SetCodes(key, source, Who, AsSeen<CodeSource>("source of codes", $"reader {key}")),
                "Kept, and tried on this sample."
            );
        OpenCodes = source.Key;
        return Load(key, sample);
    }

    public IActionResult OnPostRemoveCodes(string key, long sample)
    {
        Problem = sources.RemoveCodes(key, Sent("name"), Who).Problem;
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
}
