using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;
using ClearLexicon.Services;

namespace ClearLexicon.Web.Pages;

/// <summary>Carries a posted field form into a design.</summary>
internal static class FieldEditing
{
    /// <summary>Runs an edit on a type, or on the columns and row rules of one of its tables.</summary>
    public static Result<DocumentType> Within(DocumentType type, string? table, Func<DocumentType, Result<DocumentType>> edit)
    {
        if (string.IsNullOrEmpty(table)) return edit(type);
        if (type.Find(table) is not { Kind: FieldKind.Table } field) return Result<DocumentType>.Not($"There is not a table “{table}”.");
        var rows = edit(DocumentType.OfRows(field));
        if (!rows.Ok) return rows;
        var changed = field with { Columns = rows.Value!.Fields, RowRules = rows.Value.Rules };
        return type with { Fields = [.. type.Fields.Select(f => f.Key == table ? changed : f)] };
    }

    /// <summary>Adds a field (empty key) or changes one. Rules and convention follow a changed key.</summary>
    public static Result<DocumentType> Apply(DocumentType type, string key, IFormCollection form)
    {
        string? Text(string name) => form[name].ToString().Trim() is { Length: > 0 } text ? text : null;
        int? Number(string name) => int.TryParse(form[name], out var n) && n >= 0 ? n : null;
        if (Text("label") is not { } label || label.Length > DesignCheck.LongestName) return Result<DocumentType>.Not($"A field needs a label of at most {DesignCheck.LongestName} characters.");
        if (!Enum.TryParse<FieldKind>(form["kind"], out var kind)) return Result<DocumentType>.Not("Choose what the field holds.");
        var newKey = Text("new-key") ?? (key.Length > 0 ? key : ShortName.From(label));
        if (type.Fields.Any(f => f.Key == newKey && f.Key != key)) return Result<DocumentType>.Not($"There is a field with the key “{newKey}” already.");
        foreach (var name in new[] { "min-length", "max-length" })
            if (Text(name) is { } written && Number(name) is null) return Result<DocumentType>.Not($"“{written}” is not a number of characters.");
        var text = kind == FieldKind.Text;
        var terms = kind is FieldKind.Term or FieldKind.Terms;
        var ranged = kind is FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.Amount or FieldKind.Date;
        var was = type.Find(key);
        var scheme = kind != FieldKind.Identifier ? null : Text("scheme") == CheckSchemes.House ? $"{CheckSchemes.House} {Text("house")}" : Text("scheme");
        var from = Enum.TryParse<DefaultSource>(form["default-from"], out var source) ? source : DefaultSource.Constant;
        var field = new Field(newKey, label, kind)
        {
            Help = Text("help"),
            Required = form["required"] == "must",
            RequiredWhen = form["required"] == "when" ? ConditionEditing.Read(form) : null,
            Restricted = form["restricted"] == "on",
            NotSearched = form.ContainsKey("shows") && form["searched"] != "on",
            NotInResults = form.ContainsKey("shows") && form["in-results"] != "on",
            Default = from is DefaultSource.Constant or DefaultSource.Formula ? Text("default") : null,
            DefaultFrom = from,
            Cleaning = Steps(form) is { Count: > 0 } steps ? steps : null,
            Example = Text("example"),
            Standard = Text("standard"),
            MinLength = text ? Number("min-length") : null,
            MaxLength = text ? Number("max-length") : null,
            Pattern = text ? Text("pattern") : null,
            Min = ranged ? Text("min") : null,
            Max = ranged ? Text("max") : null,
            Vocabulary = terms ? Text("vocabulary") : null,
            Branch = terms ? Text("branch") : null,
            OnlyLevel = terms ? Number("level") : null,
            LeavesOnly = terms && form["leaves"] == "on",
            Currencies = kind == FieldKind.Amount ? [.. (Text("currencies") ?? "").ToUpperInvariant().Split([',', ' ', ';'], StringSplitOptions.RemoveEmptyEntries)] : null,
            Scheme = scheme,
            Columns = kind == FieldKind.Table ? was?.Columns ?? [] : null,
            RowRules = kind == FieldKind.Table ? was?.RowRules : null,
        };
        if (field.Pattern is { } pattern && !SafePattern.TryWhole(pattern, out _, out var problem)) return Result<DocumentType>.Not(problem!);
        foreach (var step in field.Cleaning ?? [])
            if (CleaningSteps.Finding(step) is { } finding) return Result<DocumentType>.Not(finding);
        var at = type.OrdinalOf(key);
        var changed = type with { Fields = at < 0 ? [.. type.Fields, field] : [.. type.Fields.Select((f, i) => i == at ? field : f)] };
        return at < 0 || newKey == key ? changed : Rename(changed, key, newKey);
    }

    /// <summary>Cleaning steps of a posted form; rows without a kind are left out.</summary>
    public static List<CleaningStep> Steps(IFormCollection form)
    {
        var (kinds, arguments) = (form["step-kind"], form["step-argument"]);
        return [.. kinds.Select((kind, i) => (kind, argument: i < arguments.Count ? arguments[i] ?? "" : "")).Where(s => !string.IsNullOrEmpty(s.kind)).Select(s => new CleaningStep(s.kind!, s.argument.Trim()))];
    }

    /// <summary>Narrows an inherited field.</summary>
    public static Result<DocumentType> Tighten(DocumentType type, string key, IFormCollection form)
    {
        string? Text(string name) => form[name].ToString().Trim() is { Length: > 0 } text ? text : null;
        int? Number(string name) => int.TryParse(form[name], out var n) && n >= 0 ? n : null;
        var tightening = new Tightening(key)
        {
            Required = form["required"] == "on",
            Restricted = form["restricted"] == "on",
            LeavesOnly = form["leaves"] == "on",
            Min = Text("min"),
            Max = Text("max"),
            MinLength = Number("min-length"),
            MaxLength = Number("max-length"),
            Branch = Text("branch"),
            Default = Text("default"),
            Help = Text("help"),
        };
        return type with { Tightened = tightening == new Tightening(key) ? [.. type.Tightened.Where(t => t.Field != key)] : [.. type.Tightened.Where(t => t.Field != key), tightening] };
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
        Fields = [.. type.Fields.Select(f => f.RequiredWhen is { } when ? f with { RequiredWhen = Renamed(when, from, to) } : f)],
        Rules = [.. type.Rules.Select(r => Renamed(r, from, to))],
        Convention = type.Convention with { Folder = [.. type.Convention.Folder.Select(p => Renamed(p, from, to))], Name = [.. type.Convention.Name.Select(p => Renamed(p, from, to))] },
        Fillings = [.. type.Fillings.Select(f => f with { Keys = f.Keys.ToDictionary(k => k.Key, k => k.Value == from ? to : k.Value), Targets = f.Targets.ToDictionary(t => t.Key, t => t.Value == from ? to : t.Value) })],
    };

    private static Piece Renamed(Piece piece, string from, string to) => piece with { Field = piece.Field == from ? to : piece.Field, OnlyWhenFilled = piece.OnlyWhenFilled == from ? to : piece.OnlyWhenFilled };

    private static Condition Renamed(Condition when, string from, string to) => when with { Comparisons = [.. when.Comparisons.Select(c => c.Subject == from ? c with { Subject = to } : c)] };

    private static Rule Renamed(Rule rule, string from, string to)
    {
        var kinds = RuleKinds.Find(rule.Kind)?.Parameters.ToDictionary(p => p.Name, p => p.Kind) ?? [];
        string Value(string name, string value) => kinds.GetValueOrDefault(name) switch
        {
            ParameterKind.Field or ParameterKind.Fields => string.Join(',', value.Split(',').Select(k => k == from ? to : k)),
            ParameterKind.Parts => string.Join(',', value.Split(',').Select(k => k == from ? to : k.StartsWith(from + ".", StringComparison.Ordinal) ? to + k[from.Length..] : k)),
            ParameterKind.Pairs => string.Join(',', value.Split(',').Select(p => p.StartsWith(from + "=", StringComparison.Ordinal) ? to + p[from.Length..] : p)),
            _ when name == "formula" => value.Replace($"[{from}]", $"[{to}]", StringComparison.Ordinal).Replace($"[{from}.", $"[{to}.", StringComparison.Ordinal),
            _ => value,
        };
        return rule with
        {
            Parameters = rule.Parameters.ToDictionary(p => p.Key, p => Value(p.Key, p.Value)),
            When = rule.When is { } when ? Renamed(when, from, to) : null,
            Examples = [.. rule.Examples.Select(e => e with { Record = e.Record.ToDictionary(r => r.Key == from ? to : r.Key, r => r.Value) })],
        };
    }
}
