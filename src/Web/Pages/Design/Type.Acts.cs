using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Repository;
using ClearLexicon.Web.Forms;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

// What is done on the page of a document type; what it shows is in Type.cshtml.cs.
public sealed partial class TypeModel
{
    public IActionResult OnPostField(string code, string? table)
    {
        var key = Sent("key");
        var label = Sent("label").Trim();
        Change(
            code,
            key.Length == 0 ? $"added the field {label}" : $"changed the field {label}",
            type =>
                FieldEditing.Within(
                    type,
                    table,
                    t =>
                    {
                        var was = t.Find(key);
                        if (key.Length > 0 && Seen.Changed(Sent("seen"), was, "field", () => designs.LastDone(code)) is { } why)
                            return Result<DocumentType>.Not(why);
                        return new FieldForm(Posted).Read(was) is { } field
                            ? FieldEditing.Put(t, key, field)
                            : Result<DocumentType>.Not(Posted.Problem!);
                    }
                )
        );
        // A field that somebody else has renamed or removed meanwhile: what was typed is offered as a new one.
        if (
            Problem is not null
            && key.Length > 0
            && designs.Find(code) is { } now
            && now.Draft.FindPart(table is null ? key : $"{table}.{key}") is null
        )
            key = "";
        var prefix = table is null ? "" : $"{table}--";
        if (Problem is not null)
            Open = prefix + (key.Length == 0 ? "new" : key);
        else if (key.Length == 0 && FieldKind.Find(Sent("kind"))?.HasRows != true)
        {
            // The next field can be typed at once.
            Open = prefix + "new";
            Focus = $"label-{prefix}new";
            Blank = true;
        }
        else if (key.Length == 0)
            Open = ShortName.From(label);
        if (table is not null && Open is not null)
            Open = $"{table}|{Open}";
        return Load(code);
    }

    public IActionResult OnPostRemoveField(string code, string key, string? table)
    {
        Change(
            code,
            $"removed the field {key}",
            type => FieldEditing.Within(type, table, t => t with { Fields = [.. t.Fields.Where(f => f.Key != key)] })
        );
        if (table is not null)
            Open = $"{table}|";
        return Load(code);
    }

    public IActionResult OnPostTighten(string code, string key)
    {
        Change(
            code,
            $"tightened the field {key}",
            type =>
                new TighteningForm(Posted).Read(key) is { } read
                    ? FieldEditing.Tighten(type, read)
                    : Result<DocumentType>.Not(Posted.Problem!)
        );
        if (Problem is not null)
            Open = key;
        return Load(code);
    }

    public IActionResult OnPostOrder(string code, string? table)
    {
        Change(
            code,
            "moved a field",
            type => FieldEditing.Within(type, table, t => FieldEditing.Move(t, Sent("key"), SentNumber("to") ?? 0))
        );
        if (table is not null)
            Open = $"{table}|";
        return Load(code);
    }

    public IActionResult OnPostGroup(string code)
    {
        var group = Sent("group");
        Change(
            code,
            $"placed the field group {group}",
            type =>
                type.Groups.Contains(group) || group.Length == 0
                    ? Result<DocumentType>.Not("Choose a field group that is not placed yet.")
                    : type with
                    {
                        Groups = [.. type.Groups, group],
                    }
        );
        return Load(code);
    }

    public IActionResult OnPostRemoveGroup(string code, string group)
    {
        Change(
            code,
            $"took out the field group {group}",
            type =>
                type with
                {
                    Groups = [.. type.Groups.Where(g => g != group)],
                    Tightened = [.. type.Tightened.Where(t => designs.Find(group)?.Draft.Find(t.Field) is null)],
                }
        );
        return Load(code);
    }

    public IActionResult OnPostPaste(string code)
    {
        Pasted = Sent("pasted");
        (Guesses, Problem) = PastedFields.Read(Pasted, designs.Vocabularies);
        Open = "paste";
        return Load(code);
    }

    public IActionResult OnPostAddPasted(string code)
    {
        Pasted = Sent("pasted");
        (Guesses, Problem) = PastedFields.Read(Pasted, designs.Vocabularies);
        var chosen = new PastedForm(Posted).Chosen(Guesses, designs.Vocabularies);
        Problem ??= newFields
            .Put(
                code,
                chosen,
                $"added {chosen.Count} pasted fields",
                Who,
                (type, added) =>
                    added.Find(f => type.Find(f.Key) is not null) is { } twice
                        ? Result<DocumentType>.Not($"There is a field with the key “{twice.Key}” already.")
                        : type with
                        {
                            Fields = [.. type.Fields, .. added],
                        }
            )
            .Problem;
        if (Problem is not null)
        {
            Open = "paste";
            return Load(code);
        }
        Guesses = [];
        Done = $"{chosen.Count} fields added.";
        return Load(code);
    }

    public IActionResult OnPostRule(string code, string? table)
    {
        var id = Sent("id");
        Change(
            code,
            id.Length == 0 ? "added a rule" : "changed a rule",
            type =>
                FieldEditing.Within(
                    type,
                    table,
                    t =>
                    {
                        var was = t.Rules.FirstOrDefault(r => r.Id == id);
                        if (id.Length > 0 && Seen.Changed(Sent("seen"), was, "rule", () => designs.LastDone(code)) is { } why)
                            return Result<DocumentType>.Not(why);
                        var rule = new RuleForm(Posted).Read(id.Length > 0 ? id : RuleForm.NextId(t));
                        return rule is null
                            ? Result<DocumentType>.Not(Posted.Problem!)
                            : FieldEditing.Put(t, table is null ? designs.Resolve(t) : t, id, rule);
                    }
                )
        );
        if (Problem is not null && id.Length > 0 && table is null && designs.Find(code)?.Draft.Rules.All(r => r.Id != id) == true)
            id = "";
        if (Problem is not null)
            Open = (table is null ? "" : $"{table}|") + (id.Length == 0 ? "new-rule" : id);
        else if (table is not null)
            Open = $"{table}|";
        return Load(code);
    }

    /// <summary>Suggests examples for a rule as its form describes it; nothing is kept until the rule is.</summary>
    public IActionResult OnPostSuggest(string code)
    {
        var id = Sent("id");
        Open = id.Length == 0 ? "new-rule" : id;
        if (designs.Find(code) is not { } state)
            return NotFound();
        var whole = designs.Resolve(state.Draft);
        var rule = new RuleForm(Posted).Read(id);
        Problem = rule is null ? Posted.Problem : RuleKinds.Finding(rule, whole);
        if (rule is null || Problem is not null)
            return Load(code);
        var compiled = new CompiledType(whole, designs.Vocabularies, designs.Tables);
        var filed = search.Some(code, 100).Select(d => d.Record);
        Suggested = RuleExamples.Suggest(rule, compiled, filed, designs.Now(EntryChannel.Desk, Who));
        if (Suggested.Count == 0)
            Done = "Neither its boundary values nor the filed documents give an example that is not there yet.";
        return Load(code);
    }

    public IActionResult OnPostRemoveRule(string code, string id, string? table)
    {
        Change(
            code,
            "removed a rule",
            type => FieldEditing.Within(type, table, t => t with { Rules = [.. t.Rules.Where(r => r.Id != id)] })
        );
        if (table is not null)
            Open = $"{table}|";
        return Load(code);
    }

    /// <summary>The pattern builder: pieces from an example, or the pattern of changed pieces.</summary>
    public IActionResult OnPostPattern(string code, string name, string row)
    {
        if (!Fetch(code))
            return NotFound();
        return Partial("_Pattern", PatternBuilding.Read(Posted, name, row, this));
    }

    public IActionResult OnPostFilling(string code)
    {
        var (filling, at) = (FillingForm.Read(Posted), SentNumber("at"));
        if (Posted.Problem is { } wrong)
        {
            (Problem, TypedFilling) = (wrong, ($"{at}" is { Length: > 0 } id ? id : "new", Posted));
            return Load(code);
        }
        Change(
            code,
            "changed a filling",
            type =>
                FillingChanged(type, at) is { } why
                    ? Result<DocumentType>.Not(why)
                    : type with
                    {
                        Fillings = at is { } i ? [.. type.Fillings.Select((f, n) => n == i ? filling : f)] : [.. type.Fillings, filling],
                    }
        );
        // One that is no longer there is offered as a new one.
        if (Problem is not null)
            TypedFilling = (at < designs.Find(code)?.Draft.Fillings.Count ? $"{at}" : "new", Posted);
        return Load(code);
    }

    /// <summary>The columns of the table that is chosen for a filling.</summary>
    public IActionResult OnGetFillingColumns(string code, string filling, string? table) =>
        Load(code) is NotFoundResult gone
            ? gone
            : Partial(
                "Design/_FillingColumns",
                FillingAs(
                    filling,
                    Type.Fillings.Where((f, i) => $"{i}" == filling && f.Table == table).FirstOrDefault()
                        ?? new Filling(table ?? "", new Dictionary<string, string>(), new Dictionary<string, string>(), false)
                )
            );

    public IActionResult OnPostRemoveFilling(string code, int at)
    {
        Change(
            code,
            "removed a filling",
            type =>
                FillingChanged(type, at) is { } why
                    ? Result<DocumentType>.Not(why)
                    : type with
                    {
                        Fillings = [.. type.Fillings.Where((_, i) => i != at)],
                    }
        );
        return Load(code);
    }

    public IActionResult OnPostUndo(string code)
    {
        Done = drafts.Undo(code, Who) is { } undone ? $"Undone: {undone}." : "There is nothing to undo.";
        return Load(code);
    }

    public IActionResult OnPostPublish(string code)
    {
        var result = drafts.Publish(code, Who);
        if (!result.Ok)
            Problem = result.Problem;
        else
            Done =
                $"Version {result.Value.Version} is published. Desk, edits, API and migration check against it from now on."
                + (result.Value.Followed.Count > 0 ? $" With it went new versions of {string.Join(", ", result.Value.Followed)}." : "");
        return Load(code);
    }

    // Fillings are known by their places: one that somebody else has removed in between would make this act hit another.
    private string? FillingChanged(DocumentType type, int? at) =>
        at is not { } i
            ? null
            : Seen.Changed(Sent("seen"), type.Fillings.ElementAtOrDefault(i), "filling", () => designs.LastDone(type.Code));

    private void Change(string code, string change, Func<DocumentType, Result<DocumentType>> edit) =>
        Problem = drafts.Change(code, change, Who, edit).Problem;
}
