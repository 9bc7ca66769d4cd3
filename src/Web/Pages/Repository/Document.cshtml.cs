using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>A filed document: values, where they were read, what was changed.</summary>
public sealed class RepositoryDocumentModel(FiledDocuments filed, Designs designs, Moves moves, Withdrawals withdrawals) : PlacePage
{
    public JudgedDocument Judged { get; private set; } = null!;

    public StoredDocument Document => Judged.Document;

    public DocumentType Type => Judged.Published!.Type.Type;

    public List<StoredPage> Pages { get; private set; } = [];

    public List<ValueChange> Changes { get; private set; } = [];

    public IReadOnlyDictionary<string, Core.Vocabularies.VocabularyIndex> Vocabularies => designs.Vocabularies;

    public bool MayEdit => Rights.WorksTheDesk;

    public IEnumerable<Field> Fields => Type.Fields.Where(Rights.Sees);

    /// <summary>Where the convention would put it by its values now, when that is elsewhere.</summary>
    public string? PathByValues { get; private set; }

    /// <summary>What its path says otherwise than its record.</summary>
    public List<(string Label, string Field, string InPath, string InRecord)> PathSays { get; private set; } = [];

    /// <summary>Its moves, newest first.</summary>
    public List<Move> Moved { get; private set; } = [];

    /// <summary>Keys of restricted fields whose typed value has no place; while there is one, searchers see no page.</summary>
    public IReadOnlyList<string> Unplaced { get; private set; } = [];

    /// <summary>Whether a text tells something that this person may not see.</summary>
    public Func<string, bool> Hides { get; private set; } = _ => true;

    public IActionResult OnGet(long id) => Load(id);

    public IActionResult OnPostEdit(long id, string field)
    {
        if (!MayEdit)
            return Forbid();
        var result = filed.Edit(id, field, Sent("text"), Sent("reason"), Who, Posted.Has("seen") ? Sent("seen") : null);
        Note(result, "Kept; the history tells.");
        if (!result.Ok)
            Open = field;
        else if (Sent("move") == "on" && moves.PathByValues(id) is not null)
            Move(id);
        return Load(id);
    }

    /// <summary>Where a restricted value stands that was typed: a box on a page, or nowhere.</summary>
    public IActionResult OnPostPlace(long id)
    {
        if (!MayEdit)
            return Forbid();
        Note(
            filed.Place(
                id,
                Sent("field"),
                SentNumber("page"),
                new Core.Reading.Box(SentShare("x"), SentShare("y"), SentShare("w"), SentShare("h")),
                Who
            ),
            SentNumber("page") is null ? "Noted: no page shows it." : "Its place is marked; searchers see the page with it blacked out."
        );
        return Load(id);
    }

    public IActionResult OnPostMove(long id)
    {
        if (!MayEdit)
            return Forbid();
        Move(id);
        return Load(id);
    }

    /// <summary>Takes over what the path says, where it is right and the record is not.</summary>
    public IActionResult OnPostFollowPath(long id)
    {
        if (!MayEdit)
            return Forbid();
        foreach (var (_, field, text, _) in moves.PathSays(id))
            if (filed.Edit(id, field, text, "as its path says", Who) is { Ok: false } not)
            {
                Problem = not.Problem;
                break;
            }
        if (Problem is null)
            Done = "The record now says what the path says; the history tells.";
        return Load(id);
    }

    public IActionResult OnPostMoveBack(long id, long move)
    {
        if (!MayEdit)
            return Forbid();
        Note(moves.Back(move, id, Who), "Moved back.");
        return Load(id);
    }

    /// <summary>Takes the document back to the desk, or out of the repository.</summary>
    public IActionResult OnPostWithdraw(long id)
    {
        if (!MayEdit)
            return Forbid();
        var isOut = Sent("to") == "out";
        Problem = withdrawals.Withdraw(id, isOut, Sent("reason"), Who).Problem;
        return Problem is not null ? Load(id) : Redirect(isOut ? "/Repository/Withdrawn" : $"/Desk/Document/{id}");
    }

    private void Move(long id)
    {
        var before = filed.PathOf(id);
        var moved = moves.Follow(id, Who);
        if (moved.Ok)
            Done = $"Kept, and moved from {before} to {moved.Value}.";
        else
            Problem = $"The value is kept, but the document stays where it is. {moved.Problem}";
    }

    private IActionResult Load(long id)
    {
        if (filed.Find(id, Who) is not { Document.Filed: true, Published: not null } judged)
            return NotFound();
        Judged = judged;
        var redaction = FullText.Redaction(Document, judged.Published.Type);
        Unplaced = redaction.Unplaced;
        // A copy shall hide a value of which nobody has said where it stands.
        if (
            Queried["mark"].Text is { Length: > 0 } asked
            && Rights.WorksTheDesk
            && Document.Record.ContainsKey(asked)
            && !Document.Evidence.ContainsKey(asked)
        )
            Unplaced = [.. Unplaced.Append(asked).Distinct()];
        Hides = SeesRestricted ? _ => false : redaction.Hides;
        Pages = filed.Pages(id);
        PathByValues = moves.PathByValues(id);
        if (PathByValues is not null)
            PathSays = moves.PathSays(id);
        // An earlier path was made of earlier values, of which nobody knows what was restricted.
        Moved = SeesRestricted || !FullText.HasRestricted(Document, judged.Published.Type) ? moves.Of(id) : [];
        Changes = filed.Changes(Document, judged.Published.Type, Rights);
        return Page();
    }
}
