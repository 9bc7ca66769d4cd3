using System.Text.Json.Nodes;
using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Rules;

/// <summary>At least one of some fields is filled when another field has a given value (compared without regard to case).</summary>
public sealed class OneFilledWhen : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "one-filled-when";

    /// <inheritdoc/>
    public string Title => "One of the fields is filled when another has a value";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        new("when", "When", ParameterKind.Field, []),
        new("is", "is", ParameterKind.Text, []),
        new("fields", "one of these is filled", ParameterKind.Fields, []),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, DocumentType type) =>
        $"When {type.LabelOf(rule["when"])} is “{rule["is"]}”, {Named(rule, type)} is filled";

    /// <inheritdoc/>
    public Check Compile(Rule rule, DocumentType type)
    {
        var when = type.OrdinalOf(rule["when"]);
        var value = rule["is"];
        var fields = rule.Keys("fields").Select(type.OrdinalOf).ToArray();
        var problem = new Problem(Code, rule.Level, rule.Keys("fields")[0], Named(rule, type), type.LabelOf(rule["when"]), value, rule.Id, rule.Message);
        return record =>
        {
            if (!string.Equals(record[when].Text, value, StringComparison.OrdinalIgnoreCase)) return null;
            foreach (var field in fields)
                if (!record[field].IsEmpty) return null;
            return problem;
        };
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, DocumentType type)
    {
        // JSON Schema compares exactly: a yes/no is a boolean there, and a text in another case would slip through.
        var when = type.Find(rule["when"])!;
        JsonNode equal = when.Kind switch
        {
            FieldKind.YesNo => JsonValue.Create(rule["is"].Equals("yes", StringComparison.OrdinalIgnoreCase)),
            FieldKind.Term or FieldKind.Text or FieldKind.Date => JsonValue.Create(rule["is"]),
            _ => JsonNode.Parse(rule["is"])!,
        };
        var anyOf = new JsonArray();
        foreach (var key in rule.Keys("fields")) anyOf.Add(new JsonObject { ["required"] = new JsonArray(key) });
        return new JsonObject
        {
            ["if"] = new JsonObject
            {
                ["properties"] = new JsonObject { [when.Key] = new JsonObject { ["const"] = equal } },
                ["required"] = new JsonArray(when.Key),
            },
            ["then"] = new JsonObject { ["anyOf"] = anyOf },
        };
    }

    private static string Named(Rule rule, DocumentType type) => string.Join(" or ", rule.Keys("fields").Select(type.LabelOf));
}
