using System.Text.Json.Nodes;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Designs;

/// <summary>
/// Writes a document type as JSON Schema 2020-12: everything in the design which that standard can say. What it cannot
/// (check digits, sums, comparisons of fields, uniqueness) is named in <c>$comment</c>.
/// </summary>
public static class JsonSchemaExport
{
    /// <summary>The schema of one record: as the API takes it, or as it gives a sound one back.</summary>
    /// <param name="compiled">The type.</param>
    /// <param name="given">
    /// For what is given back: defaults are filled in, values are cleaned and in the one form they are kept in. Otherwise for what may be
    /// sent, where defaults may be missing and terms may stand in any of their spellings.
    /// </param>
    public static JsonObject Write(CompiledType compiled, bool given = false)
    {
        var schema = Object(
            compiled.Type.Fields,
            [.. Enumerable.Range(0, compiled.Width).Select(compiled.ReaderOf)],
            compiled.Type.Rules,
            compiled.Scope,
            given
        );
        schema.Insert(0, "$schema", "https://json-schema.org/draft/2020-12/schema");
        schema.Insert(1, "title", $"{compiled.Type.Name}, {(given ? "as it is given back" : "as it may be sent")}");
        return schema;
    }

    private static JsonObject Object(
        IReadOnlyList<Field> fields,
        IReadOnlyList<FieldReader> readers,
        IReadOnlyList<Rule> rules,
        RuleScope scope,
        bool given
    )
    {
        var properties = new JsonObject();
        var required = new JsonArray();
        var said = new JsonArray();
        var unsaid = new List<string>();
        for (var i = 0; i < fields.Count; i++)
        {
            var field = fields[i];
            properties[field.Key] = Property(field, readers[i], scope, given, unsaid);
            // A default may fill what a record lacks.
            var filled = field.DefaultFrom != DefaultSource.Constant || !string.IsNullOrEmpty(field.Default);
            if (field.Required && (given || !filled))
                required.Add(field.Key);
            if (
                !field.Required
                && field.RequiredWhen is { Comparisons.Count: > 0 } when
                && !filled
                && when.Finding(scope.Type) is null
                && If(when, new JsonObject { ["required"] = new JsonArray(field.Key) }, scope) is { } conditional
            )
                said.Add(conditional);
            else if (field.RequiredWhen is not null)
                unsaid.Add($"{field.Label} is required when {field.RequiredWhen.InWords(scope.Type)}");
        }
        foreach (var rule in rules.Where(r => RuleKinds.Finding(r, scope.Type) is null))
        {
            var sub = rule.Level == Level.Must ? RuleKinds.Find(rule.Kind)!.ToJsonSchema(rule, scope) : null;
            if (sub is not null && rule.When is { Comparisons.Count: > 0 } when)
                sub = If(when, sub, scope);
            if (sub is not null)
                said.Add(sub);
            else
                unsaid.Add(RuleKinds.Sentence(rule, scope.Type));
        }
        var schema = new JsonObject
        {
            ["type"] = "object",
            ["properties"] = properties,
            ["required"] = required,
            ["additionalProperties"] = false,
        };
        if (said.Count > 0)
            schema["allOf"] = said;
        if (unsaid.Count > 0)
            schema["$comment"] = "Not said here: " + string.Join("; ", unsaid) + ".";
        return schema;
    }

    /// <summary>A subschema that applies under a condition; null when the condition cannot be said.</summary>
    private static JsonObject? If(Condition when, JsonObject then, RuleScope scope)
    {
        var parts = new List<JsonNode>();
        foreach (var comparison in when.Comparisons)
            if (Said(comparison, scope) is { } part)
                parts.Add(part);
            else
                return null;
        var joined = new JsonArray([.. parts]);
        return new JsonObject
        {
            ["if"] = when.Match switch
            {
                Joined.All => new JsonObject { ["allOf"] = joined },
                Joined.Any => new JsonObject { ["anyOf"] = joined },
                _ => new JsonObject { ["not"] = new JsonObject { ["anyOf"] = joined } },
            },
            ["then"] = then,
        };
    }

    private static JsonObject? Said(Comparison c, RuleScope scope)
    {
        if (scope.Type.Find(c.Subject) is not { } field || field.DefaultFrom != DefaultSource.Constant || field.Cleaning is { Count: > 0 })
            return null;
        // A field with a default has a value that the record need not show.
        var given = string.IsNullOrEmpty(field.Default) ? null : field.Default;
        if (given is not null && c.Operator is not (Operator.Is or Operator.OneOf))
            return null;
        var filled = new JsonObject { ["required"] = new JsonArray(field.Key) };
        if (c.Operator == Operator.IsFilled)
            return filled;
        if (c.Operator == Operator.IsEmpty)
            return new JsonObject { ["not"] = filled };
        var limit = c.Operator switch
        {
            Operator.Is or Operator.OneOf => field.Kind.OneOfInJsonSchema(
                c.Operator == Operator.OneOf ? c.Value.Split('|', StringSplitOptions.TrimEntries) : [c.Value.Trim()],
                scope.Vocabularies.GetValueOrDefault(field.Vocabulary ?? "")
            ),
            // Only numbers have limits there.
            _ when !field.Kind.IsNumeric => null,
            Operator.Below => new JsonObject { ["exclusiveMaximum"] = field.Kind.Order(c.Value) },
            Operator.AtMost => new JsonObject { ["maximum"] = field.Kind.Order(c.Value) },
            Operator.Above => new JsonObject { ["exclusiveMinimum"] = field.Kind.Order(c.Value) },
            Operator.AtLeast => new JsonObject { ["minimum"] = field.Kind.Order(c.Value) },
            _ => null,
        };
        if (limit is null)
            return null;
        filled["properties"] = new JsonObject { [field.Key] = limit };
        return given is not null && c.Value.Split('|', StringSplitOptions.TrimEntries).Contains(given, StringComparer.OrdinalIgnoreCase)
            ? new JsonObject
            {
                ["anyOf"] = new JsonArray(filled, new JsonObject { ["not"] = new JsonObject { ["required"] = new JsonArray(field.Key) } }),
            }
            : filled;
    }

    private static JsonObject Property(Field field, FieldReader reader, RuleScope scope, bool given, List<string> unsaid)
    {
        var property = new JsonObject { ["title"] = field.Label };
        if (!string.IsNullOrEmpty(field.Help))
            property["description"] = field.Help;
        JsonObject Rows(TableField table) =>
            Object(table.Columns, reader.Columns, table.RowRules, scope with { Type = DocumentType.OfRows(table) }, given);
        var cleaned = !given && field.Cleaning is { Count: > 0 };
        field.Kind.ToJsonSchema(field, new JsonSchemaPart(property, given, cleaned, reader.Terms, Rows, unsaid));
        if (field.Standard is { } standard)
            property["x-standard"] = StandardTerms.Find(standard)?.Uri;
        if (field.Example is { Length: > 0 } example && field.Kind.Json(example) is { } shown)
            property["examples"] = new JsonArray(shown);
        if (field.DefaultFrom == DefaultSource.Constant && field.Default is { Length: > 0 } usual && field.Kind.Json(usual) is { } json)
            property["default"] = json;
        return property;
    }
}
