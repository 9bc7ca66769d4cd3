using System.Globalization;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Formats;
using ClearLexicon.Services;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Teaching one reader: the page with its marks, the crosswalk, the proof table.</summary>
public sealed class ReaderModel(
    TaughtReaders readers,
    SampleProofs proofs,
    Jobs jobs,
    ReaderClues clues,
    ReaderSources sources,
    ReaderWatch watch,
    FieldsFromPages fromPages,
    Designs designs
) : PlacePage
{
    public Reader Reader { get; private set; } = null!;

    public DocumentType Type { get; private set; } = null!;

    /// <summary>Ids and names of the samples.</summary>
    public List<(long Id, string Name)> Samples { get; private set; } = [];

    /// <summary>Most samples that are shown as pictures, and most rows of the proof table.</summary>
    public const int MostShown = 100;

    /// <summary>Trying the reader on all its samples, while that is under way.</summary>
    public Job? Running => jobs.Running(SampleProofs.Subject(Reader.Key));

    public Sample? Sample { get; private set; }

    public Claim? Claim { get; private set; }

    /// <summary>What page of a document the sample is.</summary>
    public PageRole Role => Claim?.Role ?? PageRole.First;

    /// <summary>Languages that are installed or that the reader names, and which it names.</summary>
    public IReadOnlyList<(string Code, bool Ticked)> Languages
    {
        get
        {
            var named = Reader.Languages?.Split('+') ?? [];
            return [.. TextRecognition.Languages.Union(named).Select(l => (l, named.Contains(l)))];
        }
    }

    /// <summary>A page of a document in words.</summary>
    public static string RoleInWords(PageRole role) =>
        role switch
        {
            PageRole.Last => "the last page",
            PageRole.Following => "a following page",
            _ => "the first page",
        };

    /// <summary>How the draft stands to what is published.</summary>
    public ReaderState State { get; private set; } = null!;

    /// <summary>How much of what it read was accepted, by field and week; those that fall first.</summary>
    public List<WatchedField> Watched { get; private set; } = [];

    /// <summary>Documents behind a field that falls.</summary>
    public List<(long Id, string Name, string Before, string After)> Behind(string field) => watch.Behind(Reader.Key, field, 8);

    /// <summary>Position of the clue whose form stays open.</summary>
    public int? OpenClue { get; private set; }

    public IReadOnlyList<CapturedValue> Read { get; private set; } = [];

    /// <summary>What the reader says of the sample besides values.</summary>
    public IReadOnlyList<string> Notices { get; private set; } = [];

    /// <summary>The reader tried on its samples, those with something wrong first when they are many.</summary>
    public SampleProof Tried { get; private set; } = new([], 0);

    public IReadOnlyList<ProofRow> Proof => Tried.Rows;

    /// <summary>The rows that are shown.</summary>
    public IEnumerable<ProofRow> Rows =>
        Proof.Count <= MostShown ? Proof : Proof.OrderBy(r => r.Cells.All(c => c.Outcome == Outcome.Right)).Take(MostShown);

    public string? ChosenZone { get; private set; }

    /// <summary>The source of codes whose form stays open.</summary>
    public string? OpenCodes { get; private set; }

    /// <summary>What each source of codes reads of the sample.</summary>
    public IReadOnlyList<(CodeSource Source, CodeReadingResult Result)> Codes { get; private set; } = [];

    /// <summary>What the samples propose; null when nobody asked.</summary>
    public ReaderProposal? Proposal { get; private set; }

    /// <summary>A finder that is begun and not yet kept, or was refused.</summary>
    public FinderView? NewFinder { get; private set; }

    /// <summary>What a crosswalk line read.</summary>
    public CapturedValue? ReadBy(CrosswalkLine line) => Read.FirstOrDefault(r => r.Field == line.Field && r.Source == line.Source);

    /// <summary>A finder with the blanks of its form.</summary>
    public FinderView FinderOf(Finder finder, string field) =>
        NewFinder is { } refused && refused.Form["finder"].Text == finder.Key && finder.Key.Length > 0
            ? refused
            : View(FinderForm.Write(finder), field);

    /// <summary>What a region is called: after the field it fills, and for a finder how it is found.</summary>
    public string LabelOf(string zone) =>
        Reader.Finders.FirstOrDefault(f => f.Key == zone) is { } finder
        && Reader.Crosswalk.FirstOrDefault(l => l.Source == zone) is { } line
            ? $"{Type.LabelOf(line.Field)}, {FinderKinds.Find(finder.Kind)?.Title}"
            : Type.LabelOf(zone);

    /// <param name="key">The reader.</param>
    /// <param name="sample">The sample that is shown.</param>
    /// <param name="also">Name of a reader whose samples a reader taught from one page claims too.</param>
    /// <param name="propose">Whether what the samples propose is shown at once.</param>
    public IActionResult OnGet(string key, long? sample, string? also, bool propose)
    {
        if (propose)
            Proposal = readers.Propose(key);
        if (also is not null)
            Problem =
                $"It would also claim pages of “{also}”: mark a word as a clue that only this design has, or one that must not be there.";
        return Load(key, sample);
    }

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
        Problem = clues.Set(key, at, Sent("was"), c => ClueForm.Read(Posted, c), Who).Problem;
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
        var set = Posted.Problem is { } wrong ? Result<string>.Not(wrong) : sources.SetFinder(key, finder, Sent("field"), Who);
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

    /// <summary>A needed trust in words.</summary>
    public static string TrustInWords(double share) =>
        share > 1 ? "any trust: at each"
        : share == Evidence.Sure ? $"{share:P0} trust (usual)"
        : $"{share:P0} trust";

    /// <summary>What a line reads, in its row: of a table how many rows.</summary>
    public string Shown(CrosswalkLine line, CapturedValue? read) =>
        read?.Text is not { Length: > 0 } text ? "—"
        : Type.Find(line.Field)?.Kind == FieldKind.Table && TableText.Rows(text) is { } rows ? Counted.Of(rows.Count, "row")
        : text;

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

    /// <summary>What a value fills that no field of the type holds yet.</summary>
    public const string NewField = "+";

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
            Note(sources.SetCodes(key, source, Who), "Kept, and tried on this sample.");
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

    private (Form Form, string Field)? _started;

    private FinderView View(Form form, string field) =>
        new(
            form,
            // A line may name a field that the type has no more.
            readers.FieldOf(Reader, field) ?? new TextField(field, field),
            Sample!.Id,
            [.. designs.Tables.Values.SelectMany(t => t.Columns.Select(c => $"{t.Key}/{c}"))],
            [.. Type.Fields.Where(f => f.Key != field && f.Kind != FieldKind.Table)]
        );

    private IActionResult Load(string key, long? sample)
    {
        if (readers.Find(key) is not { } reader || readers.TypeOf(reader) is not { } type)
            return NotFound();
        Reader = reader;
        Type = type;
        Samples = readers.SampleNames(key);
        var shown =
            Samples.Exists(s => s.Id == sample) ? sample
            : Samples.Count > 0 ? Samples[0].Id
            : null;
        Sample = shown is { } id ? readers.Sample(id) : null;
        State = readers.State(key);
        Watched = watch.Of(key);
        Tried = proofs.Of(key);
        if (_started is { } started && type.Find(started.Field) is not null)
            NewFinder = View(started.Form, started.Field);
        if (Sample is null)
            return Page();
        Claim = readers.Claim(reader, Sample);
        (Read, Notices) = readers.Read(reader, Claim, Sample);
        Codes = [.. reader.Codes.Select(s => (s, s.Read([(1, Sample.Page)])))];
        return Page();
    }
}

/// <summary>One finder with the blanks of its form.</summary>
/// <param name="Form">The blanks.</param>
/// <param name="Field">The field it fills.</param>
/// <param name="Sample">The sample that is shown.</param>
/// <param name="Lists">Columns of reference tables, as <c>table/column</c>.</param>
/// <param name="Others">Fields that it may be filled from.</param>
public sealed record FinderView(Form Form, Field Field, long Sample, IReadOnlyList<string> Lists, IReadOnlyList<Field> Others)
{
    /// <summary>What tells its blanks from those of others on the page.</summary>
    public string Id => Form["finder"].Text is { Length: > 0 } key ? key : "new-finder";
}
