using System.Globalization;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Schemas;

/// <summary>
/// Writes a document type as JSON Schema 2020-12: everything in the design which that standard can say. What it cannot
/// (check digits, sums, comparisons of fields, uniqueness) is named in <c>$comment</c>.
/// </summary>
public static class JsonSchemaExport
{
    /// <summary>The schema of one record as the API takes it.</summary>
    public static JsonObject Write(CompiledType compiled)
    {
        var type = compiled.Type;
        var properties = new JsonObject();
        var required = new JsonArray();
        for (var i = 0; i < type.Fields.Count; i++)
        {
            var field = type.Fields[i];
            properties[field.Key] = Property(field, compiled.TermsOf(i));
            if (field.Required && string.IsNullOrEmpty(field.Default)) required.Add(field.Key);
        }
        var schema = new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["title"] = type.Name,
            ["type"] = "object",
            ["properties"] = properties,
            ["required"] = required,
            ["additionalProperties"] = false,
        };
        var said = new JsonArray();
        var unsaid = new List<string>();
        foreach (var rule in type.Rules.Where(r => RuleKinds.Fault(r, type) is null))
        {
            var kind = RuleKinds.Find(rule.Kind)!;
            if (rule.Level == Level.Must && kind.ToJsonSchema(rule, type) is { } sub) said.Add(sub);
            else unsaid.Add(kind.Sentence(rule, type));
        }
        if (said.Count > 0) schema["allOf"] = said;
        if (unsaid.Count > 0) schema["$comment"] = "Not said here: " + string.Join("; ", unsaid) + ".";
        return schema;
    }

    private static JsonObject Property(Field field, VocabularyIndex? terms)
    {
        var property = new JsonObject { ["title"] = field.Label };
        if (!string.IsNullOrEmpty(field.Help)) property["description"] = field.Help;
        switch (field.Kind)
        {
            case FieldKind.Text:
                property["type"] = "string";
                if (field.Required || field.MinLength > 0) property["minLength"] = Math.Max(field.MinLength ?? 0, field.Required ? 1 : 0);
                if (field.MaxLength is { } most) property["maxLength"] = most;
                if (field.Pattern is { Length: > 0 } pattern) property["pattern"] = $"^(?:{pattern})$";
                break;
            case FieldKind.WholeNumber or FieldKind.Decimal:
                property["type"] = field.Kind == FieldKind.WholeNumber ? "integer" : "number";
                if (Number(field.Min) is { } least) property["minimum"] = least;
                if (Number(field.Max) is { } greatest) property["maximum"] = greatest;
                break;
            case FieldKind.Date:
                property["type"] = "string";
                property["format"] = "date";
                break;
            case FieldKind.YesNo:
                property["type"] = "boolean";
                break;
            default:
                property["type"] = "string";
                property["enum"] = new JsonArray([.. Spellings(terms).Select(s => (JsonNode)JsonValue.Create(s))]);
                break;
        }
        if (field.Default is { Length: > 0 } given) property["default"] = field.Kind switch
        {
            FieldKind.YesNo => JsonValue.Create(FieldParsing.Parse(field.Kind, given, null).Number == 1),
            FieldKind.WholeNumber or FieldKind.Decimal => Number(given) is { } n ? JsonValue.Create(n) : null,
            _ => JsonValue.Create(given),
        };
        return property;
    }

    private static IEnumerable<string> Spellings(VocabularyIndex? terms) =>
        (terms?.Vocabulary.Terms ?? []).Where(t => t.Status == TermStatus.Current)
            .SelectMany(t => t.Code is { Length: > 0 } code ? [t.Label, code, .. t.Variants] : (IEnumerable<string>)[t.Label, .. t.Variants])
            .Distinct(StringComparer.Ordinal);

    private static decimal? Number(string? text) =>
        decimal.TryParse(text, NumberStyles.Number, CultureInfo.InvariantCulture, out var n) ? n : null;
}
