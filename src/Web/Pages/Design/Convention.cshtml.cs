using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Composes folder and name of a type, with the tree they would make.</summary>
public sealed class ConventionModel(Designs designs, Drafts drafts, ConventionPreview preview, FiledSearch search) : PlacePage
{
    private const int MostListed = 60;

    public TypeState State { get; private set; } = null!;

    public DocumentType Type => State.Draft;

    /// <summary>With everything it inherits.</summary>
    public DocumentType Whole { get; private set; } = null!;

    public CompiledType Compiled { get; private set; } = null!;

    public PathLimits Limits => Whole.Convention.Limits ?? PathLimits.FileShare;

    public List<Finding> Findings { get; private set; } = [];

    public List<TypeState> All { get; private set; } = [];

    public List<(string Key, string Name)> Sources { get; private set; } = [];

    public string Source { get; private set; } = "";

    public PreviewedTree Preview { get; private set; } = null!;

    public PathTreeView Tree { get; private set; } = null!;

    /// <summary>The folder whose documents are listed.</summary>
    public PathFolder? Listed => Tree.Listed;

    public List<(PreviewedDocument Document, List<(string Piece, string Value, string Written)> Why)> ListedDocuments { get; } = [];

    public List<StoredDocument> ListedFiled { get; private set; } = [];

    /// <summary>A piece that opens for its options, such as <c>name-3</c>.</summary>
    public string? OpenPiece { get; private set; }

    /// <summary>The line that is typed in next, and where.</summary>
    public (string Line, int At)? Typing { get; private set; }

    /// <summary>Filed documents whose place the published convention would change; null while the draft is not published.</summary>
    public int FiledCount { get; private set; }

    public IActionResult OnGet(string code) => Load(code);

    public IActionResult OnPostPiece(string code, string line)
    {
        var at = SentNumber("at");
        var before = designs.Find(code)?.Draft.Convention;
        Change(code, type => ConventionEditing.Add(type, designs.Resolve(type), line, Sent("text"), at));
        var count = line == "folder" ? before?.Folder.Count : before?.Name.Count;
        Typing = (line, (at ?? count ?? 0) + (Problem is null ? 1 : 0));
        return Load(code);
    }

    public IActionResult OnPostPieceOptions(string code, string line, int at)
    {
        Change(
            code,
            type =>
            {
                if (ConventionEditing.At(type, line, at) is not { } piece)
                    return type;
                var read = ConventionForm.Read(piece, Posted);
                return Posted.Problem is { } wrong ? Result<DocumentType>.Not(wrong) : ConventionEditing.Put(type, line, at, read);
            }
        );
        Typing = (line, at + 1);
        return Load(code);
    }

    public IActionResult OnPostMovePiece(string code, string line, int at, int by)
    {
        Change(code, type => ConventionEditing.Move(type, line, at, by));
        OpenPiece = $"{line}-{at + by}";
        return Load(code);
    }

    public IActionResult OnPostRemovePiece(string code, string line, int at)
    {
        Change(code, type => ConventionEditing.Remove(type, line, at));
        Typing = (line, at);
        return Load(code);
    }

    public IActionResult OnPostLimits(string code)
    {
        Change(
            code,
            type =>
                ConventionForm.ReadLimits(type.Convention, Posted) is { } read
                    ? type with
                    {
                        Convention = read,
                    }
                    : Result<DocumentType>.Not(Posted.Problem!)
        );
        return Load(code);
    }

    public IActionResult OnPostUndo(string code)
    {
        Done = drafts.Undo(code, Who) is { } undone ? $"Undone: {undone}." : "There is nothing to undo.";
        return Load(code);
    }

    /// <summary>Name of a type.</summary>
    public string NameOf(string code) => All.FirstOrDefault(t => t.Draft.Code == code)?.Draft.Name ?? code;

    // Pieces are known by their places, so a change of somebody else in between would make this one hit another piece.
    private void Change(string code, Func<DocumentType, Result<DocumentType>> edit) =>
        Problem = drafts
            .Change(
                code,
                "changed the convention",
                Who,
                type =>
                    Seen.Changed(Sent("seen"), type.Convention, "convention", () => designs.LastDone(code)) is { } why
                        ? Result<DocumentType>.Not(why)
                        : edit(type)
            )
            .Problem;

    private IActionResult Load(string code)
    {
        if (designs.Find(code) is not { Draft.IsGroup: false } state)
            return NotFound();
        State = state;
        Whole = designs.Resolve(Type);
        All = designs.All();
        Compiled = new CompiledType(Whole, designs.Vocabularies, designs.Tables);
        Findings = [.. drafts.Findings(Type).Where(f => f.Place is "folder" or "name" or "limits")];
        FiledCount = search.CountByType().GetValueOrDefault(code);
        Sources = preview.Sources(code);
        Source = Sources.Any(s => s.Key == Request.Query["source"]) ? Request.Query["source"].ToString() : Sources[0].Key;
        Preview = preview.Of(Whole, Source, Who);
        Tree = PathTreeView.Of(Preview.Tree, Request, $"source={Uri.EscapeDataString(Source)}", Preview.Added);
        List();
        return Page();
    }

    private void List()
    {
        if (Listed is null)
            return;
        var now = designs.Now(EntryChannel.Desk, Who);
        foreach (
            var document in Preview
                .Documents.Where(d => string.Equals(d.Folder, Listed.Path, StringComparison.OrdinalIgnoreCase))
                .Take(MostListed)
        )
        {
            ListedDocuments.Add((document, [.. Compiled.Convention.Explain(Compiled.Read(document.Texts, now), now)]));
        }
        ListedFiled = search.In(Listed.Path, MostListed);
    }
}
