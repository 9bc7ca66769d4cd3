using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Services.Design;

/// <summary>Edits of the fields and rules of a draft.</summary>
public static class FieldEditing
{
    /// <summary>Runs an edit on a type, or on the columns and row rules of one of its tables.</summary>
    public static Result<DocumentType> Within(DocumentType type, string? table, Func<DocumentType, Result<DocumentType>> edit)
    {
        if (string.IsNullOrEmpty(table))
            return edit(type);
        if (type.Find(table) is not TableField field)
            return Result<DocumentType>.Not($"There is no table “{table}”.");
        var rows = edit(DocumentType.OfRows(field));
        if (!rows.Ok)
            return rows;
        var changed = field with { Columns = rows.Value!.Fields, RowRules = rows.Value.Rules };
        return type with { Fields = [.. type.Fields.Select(f => f.Key == table ? changed : f)] };
    }

    /// <summary>Adds a field (empty key) or puts one in place of another. Rules and convention follow a changed key.</summary>
    public static Result<DocumentType> Put(DocumentType type, string key, Field field)
    {
        if (field.Key.Length == 0)
            return Result<DocumentType>.Not("Write a label with letters or digits.");
        if (type.Fields.Any(f => f.Key == field.Key && f.Key != key))
            return Result<DocumentType>.Not($"There is a field with the key “{field.Key}” already.");
        field = Canonical(type, field);
        var at = key.Length == 0 ? -1 : type.OrdinalOf(key);
        var changed = type with { Fields = at < 0 ? [.. type.Fields, field] : [.. type.Fields.Select((f, i) => i == at ? field : f)] };
        return at < 0 || field.Key == key ? changed : Rename(changed, key, field.Key);
    }

    /// <summary>Narrows an inherited field; one that narrows nothing is taken back.</summary>
    public static DocumentType Tighten(DocumentType type, Tightening tightening)
    {
        if (tightening is { Min: { } least })
            tightening = tightening with { Min = Numbers.Canonical(least) };
        if (tightening is { Max: { } most })
            tightening = tightening with { Max = Numbers.Canonical(most) };
        var others = type.Tightened.Where(t => t.Field != tightening.Field);
        return type with { Tightened = tightening == new Tightening(tightening.Field) ? [.. others] : [.. others, tightening] };
    }

    /// <summary>Adds a rule (empty id) or puts one in place of another.</summary>
    /// <param name="type">The type as its steward wrote it.</param>
    /// <param name="whole">The type with its inherited fields, which rules may name.</param>
    /// <param name="id">Id of the rule that goes; empty for none.</param>
    /// <param name="rule">The rule.</param>
    public static Result<DocumentType> Put(DocumentType type, DocumentType whole, string id, Rule rule)
    {
        if (RuleKinds.Finding(rule, whole) is { } finding)
            return Result<DocumentType>.Not(finding);
        rule = Canonical(whole, rule);
        if (type.Rules.FirstOrDefault(r => r.Id == id) is { } was)
        {
            // A list of choices is sent in the order of the page: the same ones stay in the order in which they were written.
            rule = rule with
            {
                Parameters = rule.Parameters.ToDictionary(
                    p => p.Key,
                    p =>
                        was.Parameters.GetValueOrDefault(p.Key) is { } old && old.Split(',').ToHashSet().SetEquals(p.Value.Split(','))
                            ? old
                            : p.Value
                ),
            };
            // Saved as it is, it stays as it was written.
            if (Said(was) == Said(rule))
                return type;
        }
        return type with { Rules = id.Length == 0 ? [.. type.Rules, rule] : [.. type.Rules.Select(r => r.Id == id ? rule : r)] };
    }

    /// <summary>Moves a field to a position.</summary>
    public static Result<DocumentType> Move(DocumentType type, string key, int to)
    {
        var fields = type.Fields.ToList();
        var at = type.OrdinalOf(key);
        if (at < 0)
            return Result<DocumentType>.Not($"There is no field “{key}”.");
        var field = fields[at];
        fields.RemoveAt(at);
        fields.Insert(Math.Clamp(to, 0, fields.Count), field);
        return type with { Fields = fields };
    }

    // Numbers are kept in one form, however the steward types them.
    private static Field Canonical(DocumentType type, Field field)
    {
        if (field.RequiredWhen is { } when)
            field = field with { RequiredWhen = when.Canonical(type) };
        return field is RangedField ranged
            ? ranged with
            {
                Min = ranged.Min is { } least ? field.Kind.Canonical(least) : null,
                Max = ranged.Max is { } most ? field.Kind.Canonical(most) : null,
            }
            : field;
    }

    // What a rule says, however its parts are ordered and whether what is empty is written.
    private static string Said(Rule rule)
    {
        static string Texts(IEnumerable<KeyValuePair<string, string>>? texts) =>
            string.Join('\n', (texts ?? []).Where(t => t.Value.Length > 0).OrderBy(t => t.Key, StringComparer.Ordinal));
        return Storage.Sql.ToJson(
            new[]
            {
                rule.Kind,
                rule.Level.ToString(),
                rule.Message ?? "",
                Texts(rule.Parameters),
                Texts(rule.Translations),
                Storage.Sql.ToJson(rule.When),
                string.Join('\r', rule.Examples.Select(e => $"{e.Passes} {Texts(e.Record)}")),
            }
        );
    }

    private static Rule Canonical(DocumentType type, Rule rule)
    {
        var numbers = RuleKinds.Find(rule.Kind)!.Parameters.Where(p => p.Kind == ParameterKind.Number).Select(p => p.Name).ToHashSet();
        return rule with
        {
            Parameters = rule.Parameters.ToDictionary(p => p.Key, p => numbers.Contains(p.Key) ? Numbers.Canonical(p.Value) : p.Value),
            When = rule.When?.Canonical(type),
        };
    }

    private static DocumentType Rename(DocumentType type, string from, string to) =>
        type with
        {
            Fields = [.. type.Fields.Select(f => f.RequiredWhen is { } when ? f with { RequiredWhen = Renamed(when, from, to) } : f)],
            Rules = [.. type.Rules.Select(r => Renamed(r, from, to))],
            Convention = type.Convention with
            {
                Folder = [.. type.Convention.Folder.Select(p => Renamed(p, from, to))],
                Name = [.. type.Convention.Name.Select(p => Renamed(p, from, to))],
            },
            Fillings =
            [
                .. type.Fillings.Select(f =>
                    f with
                    {
                        Keys = f.Keys.ToDictionary(k => k.Key, k => k.Value == from ? to : k.Value),
                        Targets = f.Targets.ToDictionary(t => t.Key, t => t.Value == from ? to : t.Value),
                    }
                ),
            ],
        };

    private static Piece Renamed(Piece piece, string from, string to) =>
        piece with
        {
            Field = piece.Field == from ? to : piece.Field,
            OnlyWhenFilled = piece.OnlyWhenFilled == from ? to : piece.OnlyWhenFilled,
        };

    private static Condition Renamed(Condition when, string from, string to) =>
        when with
        {
            Comparisons = [.. when.Comparisons.Select(c => c.Subject == from ? c with { Subject = to } : c)],
        };

    private static Rule Renamed(Rule rule, string from, string to)
    {
        var kinds = RuleKinds.Find(rule.Kind)?.Parameters.ToDictionary(p => p.Name, p => p.Kind) ?? [];
        string Value(string name, string value) =>
            kinds.GetValueOrDefault(name) switch
            {
                ParameterKind.Field or ParameterKind.Fields => string.Join(',', value.Split(',').Select(k => k == from ? to : k)),
                ParameterKind.Parts => string.Join(
                    ',',
                    value
                        .Split(',')
                        .Select(k =>
                            k == from ? to
                            : k.StartsWith(from + ".", StringComparison.Ordinal) ? to + k[from.Length..]
                            : k
                        )
                ),
                ParameterKind.Pairs => string.Join(
                    ',',
                    value.Split(',').Select(p => p.StartsWith(from + "=", StringComparison.Ordinal) ? to + p[from.Length..] : p)
                ),
                ParameterKind.Formula => value
                    .Replace($"[{from}]", $"[{to}]", StringComparison.Ordinal)
                    .Replace($"[{from}.", $"[{to}.", StringComparison.Ordinal),
                _ => value,
            };
        return rule with
        {
            Parameters = rule.Parameters.ToDictionary(p => p.Key, p => Value(p.Key, p.Value)),
            When = rule.When is { } when ? Renamed(when, from, to) : null,
            Examples =
            [
                .. rule.Examples.Select(e => e with { Record = e.Record.ToDictionary(r => r.Key == from ? to : r.Key, r => r.Value) }),
            ],
        };
    }
}
