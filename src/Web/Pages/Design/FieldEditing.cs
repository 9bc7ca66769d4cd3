using ClearLexicon.Core.Schemas;
using ClearLexicon.Services;

namespace ClearLexicon.Web.Pages;

/// <summary>Carries a posted field form into a design.</summary>
internal static class FieldEditing
{
    /// <summary>Adds a field (empty key) or changes one. Rules and convention follow a changed key.</summary>
    public static Result<DocumentType> Apply(DocumentType type, string key, IFormCollection form)
    {
        string? Text(string name) => form[name].ToString().Trim() is { Length: > 0 } text ? text : null;
        int? Number(string name) => int.TryParse(form[name], out var n) && n >= 0 ? n : null;
        if (Text("label") is not { } label || label.Length > DesignCheck.LongestName) return Result<DocumentType>.Not($"A field needs a label of at most {DesignCheck.LongestName} characters.");
        if (!Enum.TryParse<FieldKind>(form["kind"], out var kind)) return Result<DocumentType>.Not("Choose what the field holds.");
        var newKey = Text("new-key") ?? (key.Length > 0 ? key : DesignCheck.KeyFrom(label));
        if (type.Fields.Any(f => f.Key == newKey && f.Key != key)) return Result<DocumentType>.Not($"There is a field with the key “{newKey}” already.");
        foreach (var name in new[] { "min-length", "max-length" })
            if (Text(name) is { } written && Number(name) is null) return Result<DocumentType>.Not($"“{written}” is not a number of characters.");
        var text = kind == FieldKind.Text;
        var ranged = kind is FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.Date;
        var field = new Field(newKey, label, kind)
        {
            Help = Text("help"),
            Required = form["required"] == "on",
            Restricted = form["restricted"] == "on",
            Default = Text("default"),
            MinLength = text ? Number("min-length") : null,
            MaxLength = text ? Number("max-length") : null,
            Pattern = text ? Text("pattern") : null,
            Min = ranged ? Text("min") : null,
            Max = ranged ? Text("max") : null,
            Vocabulary = kind == FieldKind.Term ? Text("vocabulary") : null,
        };
        if (field.Pattern is { } pattern && !SafePattern.TryWhole(pattern, out _, out var problem)) return Result<DocumentType>.Not(problem!);
        var at = type.OrdinalOf(key);
        var changed = type with { Fields = at < 0 ? [.. type.Fields, field] : [.. type.Fields.Select((f, i) => i == at ? field : f)] };
        return at < 0 || newKey == key ? changed : Rename(changed, key, newKey);
    }

    /// <summary>Moves a field to a position.</summary>
    public static Result<DocumentType> Move(DocumentType type, string key, int to)
    {
        var fields = type.Fields.ToList();
        var at = type.OrdinalOf(key);
        if (at < 0) return Result<DocumentType>.Not($"There is no field “{key}”.");
        var field = fields[at];
        fields.RemoveAt(at);
        fields.Insert(Math.Clamp(to, 0, fields.Count), field);
        return type with { Fields = fields };
    }

    private static DocumentType Rename(DocumentType type, string from, string to) => type with
    {
        Rules = [.. type.Rules.Select(r => r with { Parameters = r.Parameters.ToDictionary(p => p.Key, p => p.Key == "is" ? p.Value : string.Join(',', p.Value.Split(',').Select(k => k == from ? to : k))) })],
        Convention = new([.. type.Convention.Folder.Select(p => p.Field == from ? p with { Field = to } : p)], [.. type.Convention.Name.Select(p => p.Field == from ? p with { Field = to } : p)]),
    };
}
