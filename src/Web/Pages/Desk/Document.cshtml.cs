using ClearLexicon.Core.Crosswalks;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Checking by document: every field's input under the strip of page it was read from.</summary>
public sealed class DeskDocumentModel(Desk desk, Filer filer, Readers readers, Designs designs) : PlacePage
{
    public JudgedDocument Judged { get; private set; } = null!;

    public StoredDocument Document => Judged.Document;

    public DocumentType? Type => Judged.Published?.Type.Type;

    public List<StoredPage> Pages { get; private set; } = [];

    public List<long> Queue { get; private set; } = [];

    public int At => Queue.IndexOf(Document.Id);

    public long? Previous => At > 0 ? Queue[At - 1] : null;

    public long? Next => At >= 0 && At + 1 < Queue.Count ? Queue[At + 1] : null;

    public IEnumerable<DocumentType> Types => designs.Published.Values.Select(p => p.Type.Type);

    /// <summary>The field that keeps the focus.</summary>
    public string? Focus { get; private set; }

    public bool Ready => Judged.State == "ready";

    public IActionResult OnGet(long id) => Load(id);

    /// <summary>The page as it would be with a text not yet kept; only problems and path are shown of it.</summary>
    public IActionResult OnGetWhatIf(long id, string field, string? text)
    {
        if (desk.WhatIf(id, field, text ?? "") is not { } judged) return NotFound();
        Judged = judged;
        return Rest();
    }

    public IActionResult OnPostValue(long id, string field)
    {
        Problem = desk.SetValue(id, field, Sent("text"), null, Who).Problem;
        return Load(id);
    }

    public IActionResult OnPostPick(long id)
    {
        Focus = Sent("field");
        var number = SentNumber("page") ?? 1;
        var page = desk.Pages(id).FirstOrDefault(p => p.Number == number);
        var evidence = page is null ? null : ZoneReading.ReadRegion(page.Text, number, new Box(SentShare("x"), SentShare("y"), SentShare("w"), SentShare("h")));
        if (evidence is null) Problem = "No word was recognised in that region; type the value.";
        else Problem = desk.SetValue(id, Focus, Clean(id, Focus, evidence.Raw), evidence, Who).Problem;
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
        if (result.Ok) return Go(next);
        Problem = result.Problem;
        return Load(id);
    }

    public IActionResult OnPostFile(long id)
    {
        var next = NextOf(id);
        var result = filer.File(id, Who);
        if (result.Ok) return Go(next);
        Problem = result.Problem;
        return Load(id);
    }

    /// <summary>Problems shown at a field.</summary>
    public IEnumerable<Problem> ProblemsAt(string field) => Judged.Judged?.All.Where(p => p.Field == field) ?? [];

    private string Clean(long id, string field, string raw)
    {
        var document = desk.Find(id)?.Document;
        var reader = document?.ReaderKey is { } key ? readers.Find(key) : null;
        var line = reader?.Crosswalk.FirstOrDefault(l => l.Field == field);
        var asked = document?.TypeCode is { } code && designs.Published.TryGetValue(code, out var published) ? published.Type.Type.Find(field) : null;
        return Cleaning.Compile(line?.Steps ?? [], asked)(raw);
    }

    private long? NextOf(long id)
    {
        var queue = desk.Queue();
        var at = queue.IndexOf(id);
        return at + 1 < queue.Count ? queue[at + 1] : at > 0 ? queue[at - 1] : null;
    }

    private IActionResult Go(long? next)
    {
        var address = next is { } n ? $"/Desk/Document/{n}" : "/Desk";
        if (!Request.Headers.ContainsKey("HX-Request")) return Redirect(address);
        Response.Headers["HX-Location"] = $$"""{"path":"{{address}}","target":"#sheet","select":"#sheet","swap":"outerHTML"}""";
        return new EmptyResult();
    }

    private IActionResult Load(long id)
    {
        if (desk.Find(id) is not { } judged) return NotFound();
        if (judged.Document.Filed) return Redirect($"/Repository/Document/{id}");
        Judged = judged;
        return Rest();
    }

    private IActionResult Rest()
    {
        Pages = desk.Pages(Document.Id);
        Queue = desk.Queue();
        return Page();
    }
}
