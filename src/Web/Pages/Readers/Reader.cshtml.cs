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
public sealed partial class ReaderModel(
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

    /// <summary>A needed trust in words.</summary>
    public static string TrustInWords(double share) =>
        share > 1 ? "any trust: at each"
        : share == Evidence.Sure ? $"{share:P0} trust (usual)"
        : $"{share:P0} trust";

    /// <summary>What a line reads, in its row: of a table how many rows.</summary>
    public string Shown(CrosswalkLine line, CapturedValue? read) =>
        read?.Text is not { Length: > 0 } text ? "—"
        : Type.Find(line.Field)?.Kind.HasRows == true && TableText.Rows(text) is { } rows ? Counted.Of(rows.Count, "row")
        : text;

    /// <summary>What a value fills that no field of the type holds yet.</summary>
    public const string NewField = "+";

    private (Form Form, string Field)? _started;

    private FinderView View(Form form, string field) =>
        new(
            form,
            // A line may name a field that the type has no more.
            readers.FieldOf(Reader, field) ?? new TextField(field, field),
            Sample!.Id,
            [.. designs.Tables.Values.SelectMany(t => t.Columns.Select(c => $"{t.Key}/{c}"))],
            [.. Type.Fields.Where(f => f.Key != field && !f.Kind.HasRows)],
            Seen.Of(Reader.Finders.FirstOrDefault(f => f.Key == form["finder"].Text))
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
