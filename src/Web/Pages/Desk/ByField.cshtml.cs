using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

/// <summary>Checking by field: one field of all documents of a type, the strips under one another.</summary>
public sealed class DeskByFieldModel(DeskDocuments desk, Designs designs) : PlacePage
{
    /// <summary>Values that one page shows.</summary>
    public const int Shown = 300;

    public List<DocumentType> Types { get; private set; } = [];

    public DocumentType? Type { get; private set; }

    public Field? Field { get; private set; }

    [BindProperty(SupportsGet = true)]
    public long? Batch { get; set; }

    public List<DeskValue> Values { get; private set; } = [];

    /// <summary>Documents of the type on the desk.</summary>
    public int Waiting { get; private set; }

    public int Doubtful => Values.Count(v => !v.IsSure);

    public void OnGet(string? type, string? field) => Load(type, field);

    /// <summary>Takes a value as it stands in the input; answers with its row.</summary>
    public IActionResult OnPostAccept(long id, string type, string field)
    {
        Problem = desk.Accept(id, field, Sent("seen"), Sent("text"), Who).Problem;
        if (Problem is not null)
            Response.Headers["X-Not-Kept"] = "yes";
        if (ByScript)
            return desk.ValueOf(id, field, Who) is { } value
                ? Partial("Desk/_FieldValue", new FieldValuePart(type, field, value, Problem, Problem is null ? null : Sent("text"), true))
                : Content("");
        Load(type, field);
        return Page();
    }

    /// <summary>Takes all values of one group as they stand.</summary>
    public IActionResult OnPostAcceptAll(string type, string field)
    {
        var seen = Sent("seen");
        var taken = 0;
        foreach (var value in desk.ByField(type, field, Who, Batch).Where(v => v.Text == seen))
            if (desk.Accept(value.Document.Id, field, seen, seen, Who) is { Ok: false } not)
                Problem = not.Problem;
            else
                taken++;
        Done = taken > 0 ? $"{Counted.Of(taken, "value")} “{seen}” taken." : null;
        Load(type, field);
        return Page();
    }

    private void Load(string? type, string? field)
    {
        var waiting = desk.Waiting(Who, Batch);
        Types = [.. designs.Published.Values.Select(p => p.Type.Type).Where(t => waiting.Any(d => d.Document.TypeCode == t.Code))];
        Type = Types.Find(t => t.Code == type) ?? Types.FirstOrDefault();
        if (Type is null)
            return;
        Waiting = waiting.Count(d => d.Document.TypeCode == Type.Code);
        Field = Type.Fields.FirstOrDefault(f => f.Key == field && !f.Kind.HasRows) ?? Type.Fields.First(f => !f.Kind.HasRows);
        Values = DeskDocuments.ByField(waiting, Type.Code, Field.Key);
    }
}
