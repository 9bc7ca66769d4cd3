using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Checking by document: every field's input under the strip of page it was read from.</summary>
public sealed class DeskDocumentModel(
    DeskDocuments desk,
    ParkedDocuments parked,
    Filer filer,
    TaughtReaders readers,
    Corrections corrections,
    Rereadings again,
    Designs designs,
    Withdrawals withdrawals,
    DeskPresence presence,
    DeskLookUps lookUps
) : PlacePage
{
    /// <summary>What the reader would learn from a value shown on the page; null when nobody asked.</summary>
    public CorrectionTrial? Trial { get; private set; }

    /// <summary>The field for which somebody asked that, and why there is nothing to learn.</summary>
    public (string Field, string Problem)? NotLearned { get; private set; }

    public JudgedDocument Judged { get; private set; } = null!;

    public StoredDocument Document => Judged.Document;

    public DocumentType? Type => Judged.Published?.Type.Type;

    public List<StoredPage> Pages { get; private set; } = [];

    public List<long> Queue { get; private set; } = [];

    public int At => Queue.IndexOf(Document.Id);

    public long? Previous => At > 0 ? Queue[At - 1] : null;

    public long? Next => At >= 0 && At + 1 < Queue.Count ? Queue[At + 1] : null;

    public IEnumerable<DocumentType> Types => designs.Published.Values.Select(p => p.Type.Type);

    /// <summary>Name of the reader that read it; its key when it is gone.</summary>
    public string ReaderName => Document.ReaderKey is { } key ? readers.Find(key)?.Name ?? key : "";

    // Of a document of hundreds of pages the first ones say which reader knows it.
    private const int MostLookedAt = 10;

    /// <summary>Readers that did not read it, with whether they claim one of its pages; those that do stand first.</summary>
    public List<(Reader Reader, bool Claims)> Others { get; private set; } = [];

    /// <summary>Who else has the document open; null when nobody has.</summary>
    public AtWork? Other { get; private set; }

    /// <summary>The field whose value was not kept, and why.</summary>
    public (string Field, string Why)? NotKept { get; private set; }

    /// <summary>How the document was withdrawn from the repository; null when it was not.</summary>
    public Withdrawal? Withdrawal { get; private set; }

    /// <summary>How the document is set aside; null when it is not.</summary>
    public Parking? Parking { get; private set; }

    /// <summary>What the person holds for this type.</summary>
    public List<HeldValue> Held { get; private set; } = [];

    /// <summary>The field that keeps the focus.</summary>
    public string? Focus { get; private set; }

    public IReadOnlyDictionary<string, VocabularyIndex> Vocabularies => designs.Vocabularies;

    /// <summary>Values that a reference table cannot decide between.</summary>
    public List<Choice> Choices { get; private set; } = [];

    /// <summary>Whether a service answers look-ups for this type.</summary>
    public bool AsksServices => Type?.Fillings.Any(f => designs.Tables.GetValueOrDefault(f.Table)?.Address is not null) == true;

    /// <summary>The document that stands against this one.</summary>
    public StoredDocument? Beside(long id) => desk.Find(id, Who)?.Document;

    /// <summary>One value as JSON for a request.</summary>
    public string Vals(string name, string value) =>
        System.Text.Json.JsonSerializer.Serialize(new Dictionary<string, string> { [name] = value });

    public bool Ready => Judged.State == Readiness.Ready;

    public IActionResult OnGet(long id) => Load(id);

    /// <summary>The page as it would be with a text not yet kept; only problems and path are shown of it.</summary>
    public IActionResult OnGetWhatIf(long id, string field, string? text)
    {
        if (desk.WhatIf(id, field, text ?? "", Who) is not { } judged)
            return NotFound();
        Judged = judged;
        return Rest();
    }

    public IActionResult OnPostValue(long id, string field)
    {
        Problem = desk.SetValue(id, field, Sent("text"), null, Who, Posted.Has("seen") ? Sent("seen") : null).Problem;
        if (Problem is not null)
        {
            NotKept = (field, Problem);
            Response.Headers["X-Not-Kept"] = "yes";
        }
        return Load(id);
    }

    /// <summary>Takes the document over from whoever has it open.</summary>
    public IActionResult OnPostTakeOver(long id)
    {
        presence.Open(id, Who, takeOver: true);
        return Load(id);
    }

    /// <summary>Keeps a value for the next documents, or lets it go.</summary>
    public IActionResult OnPostHold(long id, string field)
    {
        Problem = desk.Hold(id, field, Sent("text"), Who).Problem;
        Focus = field;
        return Load(id);
    }

    /// <summary>Sets the document aside and goes to the next.</summary>
    public IActionResult OnPostPark(long id)
    {
        var next = NextOf(id);
        var setAside = parked.Park(id, Sent("reason"), Sent("for"), Sent("due"), Who);
        if (setAside.Ok)
            return Go(next);
        Problem = setAside.Problem;
        return Load(id);
    }

    /// <summary>Puts a withdrawn document back where it stood.</summary>
    public IActionResult OnPostPutBack(long id)
    {
        var back = withdrawals.PutBack(id, Who);
        if (back.Ok)
            return Redirect($"/Repository/Document/{id}");
        Problem = back.Problem;
        return Load(id);
    }

    public IActionResult OnPostUnpark(long id)
    {
        Note(parked.Release(id, Who), "It is back among the others.");
        return Load(id);
    }

    /// <summary>Takes a value over from the document before.</summary>
    public IActionResult OnPostAsBefore(long id, string field)
    {
        Problem = desk.AsBefore(id, field, Who).Problem;
        Focus = field;
        return Load(id);
    }

    /// <summary>Asks the services; what they know is filled in where nothing stands, what they could not tell is said.</summary>
    public async Task<IActionResult> OnPostLookUpAsync(long id)
    {
        if (await lookUps.AskAsync(id, Who, Language, HttpContext.RequestAborted) is not var (filled, said))
            return NotFound();
        if (filled)
        {
            Response.Headers["HX-Location"] =
                $$"""{"path":"/Desk/Document/{{id}}","target":"#sheet","select":"#sheet","swap":"outerHTML"}""";
            return new EmptyResult();
        }
        return Partial("_LookUps", said);
    }

    /// <summary>Rows of a reference table that what is typed could mean.</summary>
    public IActionResult OnGetRows(long id, string field, string? text) =>
        lookUps.Rows(id, field, text ?? "", Who) is { } hits ? Partial("Desk/_Rows", new RowsPart(id, field, hits)) : new EmptyResult();

    /// <summary>Takes a row: this field and the others that it fills.</summary>
    public IActionResult OnPostRow(long id, string field)
    {
        Problem = lookUps.TakeRow(id, field, Sent("row"), Who).Problem;
        Focus = field;
        return Load(id);
    }

    /// <summary>Filed documents with the same value.</summary>
    public IActionResult OnGetSame(long id, string field, string? text) =>
        Loaded(id)
            ? Partial("Desk/_Beside", new BesidePart(this, field, text ?? "", lookUps.Same(id, field, text ?? "", Who, Rights), null))
            : NotFound();

    /// <summary>One of them beside this one.</summary>
    public IActionResult OnGetBeside(long id, string field, string? text, long other) =>
        Loaded(id) && lookUps.Beside(other, Rights) is { } beside
            ? Partial("Desk/_Beside", new BesidePart(this, field, text ?? "", new List<FiledBeside>(), beside))
            : NotFound();

    /// <summary>Takes over what it holds for fields that are empty here.</summary>
    public IActionResult OnPostFetch(long id, string field, long other)
    {
        var fetched = lookUps.Fetch(id, other, Who, Rights);
        Note(new Result(fetched.Problem), $"{Counted.Of(fetched.Value, "value")} taken over.");
        Focus = field;
        return Load(id);
    }

    /// <summary>Whether rows of a table are offered for a field.</summary>
    public bool HasRows(string field) =>
        Type!.Fillings.Any(f =>
            (f.Keys.Values.Contains(field) || f.Targets.Values.Contains(field))
            && designs.Tables.GetValueOrDefault(f.Table) is { Address: null }
        );

    /// <summary>Whether a document has page pictures.</summary>
    public bool HasPages(long id) => desk.Pages(id).Count > 0;

    private bool Loaded(long id)
    {
        if (desk.FindWithHeld(id, Who) is not { Document.Filed: false } judged)
            return false;
        Judged = judged;
        return true;
    }

    public IActionResult OnPostPick(long id)
    {
        Focus = Sent("field");
        var number = SentNumber("page") ?? 1;
        var page = desk.PagesAndSheet(id).FirstOrDefault(p => p.Number == number);
        var evidence = page is null
            ? null
            : ZoneReading.ReadRegion(page.Text, number, new Box(SentShare("x"), SentShare("y"), SentShare("w"), SentShare("h")));
        if (evidence is null)
            Problem = "No word was recognised in that region; type the value.";
        else
            Problem = desk.SetValue(id, Focus, Clean(id, Focus, evidence.Raw), evidence, Who).Problem;
        return Load(id);
    }

    /// <summary>What would change if this value were looked for, from now on, where it was shown; nothing is kept.</summary>
    public IActionResult OnGetLearn(long id, string field)
    {
        if (!Rights.Designs)
            return Forbid();
        if (desk.Find(id, Who) is null)
            return NotFound();
        var tried = corrections.Try(id, field);
        (Trial, NotLearned) = (tried.Value, tried.Problem is { } problem ? (field, problem) : null);
        return Load(id);
    }

    public IActionResult OnPostLearn(long id, string field)
    {
        if (!Rights.Designs)
            return Forbid();
        if (desk.Find(id, Who) is null)
            return NotFound();
        var kept = corrections.Keep(id, field, Sent("says"), Who);
        if (kept.Ok)
            Done = $"Kept: version {kept.Value} of the reader finds it there, and this document is one of its samples.";
        Problem = kept.Problem;
        Focus = field;
        return Load(id);
    }

    /// <summary>Reads the document with a reader that a person names.</summary>
    public IActionResult OnPostReadWith(long id)
    {
        if (desk.Find(id, Who) is null)
            return NotFound();
        Note(again.ReadWith(id, Sent("reader"), Who), "Read again. What a person had set stays as it was.");
        return Load(id);
    }

    public IActionResult OnPostTeach(long id)
    {
        if (!Rights.Designs)
            return Forbid();
        if (desk.Find(id, Who) is null)
            return NotFound();
        var taught = corrections.Teach(id, Sent("name"), Who);
        if (taught.Ok)
            return Redirect(
                $"/Readers/Reader/{taught.Value.Key}"
                    + (taught.Value.AlsoClaims is [var also, ..] ? $"?also={Uri.EscapeDataString(also)}" : "")
            );
        Problem = taught.Problem;
        return Load(id);
    }

    public IActionResult OnPostType(long id)
    {
        Problem = desk.SetType(id, Sent("type"), Who).Problem;
        return Load(id);
    }

    public IActionResult OnPostOverride(long id)
    {
        Note(desk.Override(id, Sent("problem"), Sent("reason"), Who), "Overridden with your reason.");
        return Load(id);
    }

    public IActionResult OnPostDiscard(long id)
    {
        var next = NextOf(id);
        var result = desk.Discard(id, Who);
        if (result.Ok)
            return Go(next);
        Problem = result.Problem;
        return Load(id);
    }

    public IActionResult OnPostFile(long id)
    {
        var next = NextOf(id);
        var result = filer.File(id, Who, withHeld: true);
        if (result.Ok)
            return Go(next, $"?filed={id}");
        Problem = result.Problem;
        return Load(id);
    }

    /// <summary>What was filed just before.</summary>
    [BindProperty(SupportsGet = true, Name = "filed")]
    public long? FiledBefore { get; set; }

    /// <summary>The document that was filed just before; null when none was.</summary>
    public StoredDocument? JustFiled => FiledBefore is { } id ? desk.Find(id, Who)?.Document : null;

    /// <summary>Problems shown at a field.</summary>
    public IEnumerable<Problem> ProblemsAt(string field) => Judged.Judged?.All.Where(p => p.Field == field) ?? [];

    private string Clean(long id, string field, string raw)
    {
        var document = desk.Find(id, Who)?.Document;
        var reader = document?.ReaderKey is { } key ? readers.Find(key) : null;
        var line = reader?.Crosswalk.FirstOrDefault(l => l.Field == field);
        var asked =
            document?.TypeCode is { } code && designs.Published.TryGetValue(code, out var published)
                ? published.Type.Type.Find(field)
                : null;
        return CleaningSteps.Compile(line?.Steps ?? [], asked)(raw);
    }

    private long? NextOf(long id)
    {
        var queue = desk.Queue(Who);
        var at = queue.IndexOf(id);
        return at + 1 < queue.Count ? queue[at + 1]
            : at > 0 ? queue[at - 1]
            : null;
    }

    private IActionResult Go(long? next, string asks = "")
    {
        var address = (next is { } n ? $"/Desk/Document/{n}" : "/Desk") + asks;
        if (!ByScript)
            return Redirect(address);
        Response.Headers["HX-Location"] = $$"""{"path":"{{address}}","target":"#sheet","select":"#sheet","swap":"outerHTML"}""";
        return new EmptyResult();
    }

    private IActionResult Load(long id)
    {
        if (desk.FindWithHeld(id, Who) is not { } judged)
            return NotFound();
        if (judged.Document.Filed)
            return Redirect($"/Repository/Document/{id}");
        Judged = judged;
        Other = presence.Open(id, Who);
        var page = Rest();
        Others =
        [
            .. readers
                .Published()
                .Where(r => r.Key != Document.ReaderKey && designs.Published.ContainsKey(r.TypeCode))
                .Select(r => (Reader: r, Claims: Pages.Take(MostLookedAt).Any(p => p.Number > 0 && Recognition.Try(p.Text, r).Holds)))
                .OrderByDescending(r => r.Claims),
        ];
        return page;
    }

    private IActionResult Rest()
    {
        if (Judged is { Judged: { } judged, Published: { } published })
            Choices = [.. published.Type.Fillings.Choices(judged.Values, published.Type.Type)];
        Parking = parked.Find(Document.Id);
        Withdrawal = withdrawals.Of(Document.Id);
        Held = Type is null ? [] : desk.Held(Type.Code, Who);
        Pages = desk.PagesAndSheet(Document.Id);
        Queue = desk.Queue(Who);
        return Page();
    }
}
