using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>One page a document type: its fields, its rules, its convention, and in the margin what they lead to.</summary>
public sealed class TypeModel(Designs designs, Readers readers, Database database) : PlacePage
{
    public TypeState State { get; private set; } = null!;

    public DocumentType Type => State.Draft;

    public List<Finding> Findings { get; private set; } = [];

    public IReadOnlyDictionary<string, VocabularyIndex> Vocabularies { get; private set; } = new Dictionary<string, VocabularyIndex>();

    public List<TypeVersion> Versions { get; private set; } = [];

    /// <summary>Where sample documents would go: real ones first, made-up ones when there are none.</summary>
    public List<Placement> Preview { get; private set; } = [];

    public bool PreviewIsReal { get; private set; }

    public string?[] Example { get; private set; } = [];

    public Dictionary<string, List<string>> ReadBy { get; private set; } = [];

    /// <summary>A piece that was just added and opens for its options, such as <c>name-3</c>.</summary>
    public string? OpenPiece { get; private set; }

    public IActionResult OnGet(string code) => Load(code);

    public IActionResult OnPostField(string code)
    {
        var key = Sent("key");
        var label = Sent("label").Trim();
        Change(code, key.Length == 0 ? $"added the field {label}" : $"changed the field {label}", type => FieldEditing.Apply(type, key, Request.Form));
        if (Problem is not null) Open = key.Length == 0 ? "new" : key;
        return Load(code);
    }

    public IActionResult OnPostRemoveField(string code, string key)
    {
        Change(code, $"removed the field {key}", type => type with { Fields = [.. type.Fields.Where(f => f.Key != key)] });
        return Load(code);
    }

    public IActionResult OnPostOrder(string code)
    {
        Change(code, "moved a field", type => FieldEditing.Move(type, Sent("key"), SentNumber("to") ?? 0));
        return Load(code);
    }

    public IActionResult OnPostRule(string code)
    {
        var id = Sent("id");
        Change(code, id.Length == 0 ? "added a rule" : "changed a rule", type => RuleEditing.Apply(type, id, Request.Form));
        if (Problem is not null) Open = id.Length == 0 ? "new-rule" : id;
        return Load(code);
    }

    public IActionResult OnPostRemoveRule(string code, string id)
    {
        Change(code, "removed a rule", type => type with { Rules = [.. type.Rules.Where(r => r.Id != id)] });
        return Load(code);
    }

    public IActionResult OnPostPiece(string code, string line)
    {
        Change(code, "changed the convention", type => ConventionEditing.Add(type, line, Sent("text")));
        return Load(code);
    }

    public IActionResult OnPostPieceOptions(string code, string line, int at)
    {
        Change(code, "changed the convention", type => ConventionEditing.SetOptions(type, line, at, Request.Form));
        return Load(code);
    }

    public IActionResult OnPostMovePiece(string code, string line, int at, int by)
    {
        Change(code, "changed the convention", type => ConventionEditing.Move(type, line, at, by));
        OpenPiece = $"{line}-{at + by}";
        return Load(code);
    }

    public IActionResult OnPostRemovePiece(string code, string line, int at)
    {
        Change(code, "changed the convention", type => ConventionEditing.Remove(type, line, at));
        return Load(code);
    }

    public IActionResult OnPostUndo(string code)
    {
        Done = designs.Undo(code, Who) is { } undone ? $"Taken back: {undone}." : "There is nothing to take back.";
        return Load(code);
    }

    public IActionResult OnPostPublish(string code)
    {
        var result = designs.Publish(code, Who);
        if (result.Ok) Done = $"Version {result.Value} is published. Desk, edits, API and migration check against it from now on.";
        else Problem = result.Problem;
        return Load(code);
    }

    /// <summary>A convention in one line, for lists.</summary>
    public static string Outline(DocumentType type)
    {
        string Of(IEnumerable<Piece> pieces) => string.Concat(pieces.Select(p => p.Kind switch
        {
            PieceKind.Text => p.Text,
            PieceKind.Inside => " / ",
            PieceKind.Counter => "‹counter›",
            _ => $"‹{type.LabelOf(p.Field)}{(p.DateForm is { } form ? $": {DateForms.All.First(f => f.Form == form).Example}" : "")}›",
        }));
        return type.Convention.Name.Count == 0 ? "" : (type.Convention.Folder.Count > 0 ? Of(type.Convention.Folder) + " / " : "") + Of(type.Convention.Name);
    }

    private void Change(string code, string change, Func<DocumentType, Result<DocumentType>> edit) =>
        Problem = designs.Change(code, change, Who, edit).Problem;

    private IActionResult Load(string code)
    {
        if (designs.Find(code) is not { } state) return NotFound();
        State = state;
        Vocabularies = designs.Vocabularies;
        Findings = designs.Findings(Type);
        Versions = designs.Versions(code);
        ReadBy = readers.All().Where(r => r.TypeCode == code)
            .SelectMany(r => r.Crosswalk.Select(l => (l.Field, r.Name))).GroupBy(l => l.Field).ToDictionary(g => g.Key, g => g.Select(l => l.Name).ToList());
        var compiled = new CompiledType(Type, Vocabularies);
        var real = database.Read(c => RepositoryStore.Find(c, new RepositoryQuery { TypeCode = code }, 4, 0));
        PreviewIsReal = real.Count > 0;
        var samples = PreviewIsReal ? [.. real.Select(d => RecordJudge.Texts(compiled, d.Record))] : SampleRecords.For(Type, Vocabularies);
        Example = samples[0];
        Preview = [.. samples.Select(s => compiled.Judge(s).Placement)];
        return Page();
    }
}
