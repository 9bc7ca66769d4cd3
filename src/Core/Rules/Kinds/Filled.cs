using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>Fields are filled, or empty.</summary>
public sealed class Filled : IRuleKind
{
    private static readonly RuleParameter How = RuleParameter.Choice(
        "how",
        "are",
        ("all", "all filled"),
        ("one", "filled, at least one"),
        ("exactly-one", "filled, exactly one"),
        ("none", "all empty")
    );

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "filled";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Fields are filled, or empty";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [new("fields", "Fields", ParameterKind.Fields, []), How];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var names = type.LabelsOf(rule.Keys("fields"));
        return rule["how"] switch
        {
            "one" => $"one of {names} is filled",
            "exactly-one" => $"exactly one of {names} is filled",
            "none" => $"{names} stays empty",
            _ => $"{names} is filled",
        };
    }

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var keys = rule.Keys("fields");
        var fields = keys.Select(scope.Type.OrdinalOf).ToArray();
        var how = rule["how"];
        var names = scope.Type.LabelsOf(keys);
        var found = rule.Found(
            how switch
            {
                "one" => "one-filled",
                "exactly-one" => "exactly-one-filled",
                "none" => "stays-empty",
                _ => "filled",
            },
            keys[0],
            names
        );
        return how switch
        {
            "one" => (record, _) => Count(record, fields) > 0 ? null : found,
            "exactly-one" => (record, _) => Count(record, fields) == 1 ? null : found,
            "none" => (record, _) => First(record, fields, empty: false) is var i and >= 0 ? found with { Field = keys[i] } : null,
            // All that are empty are named; the first is where it is shown.
            _ => (record, _) =>
                First(record, fields, empty: true) is var i and >= 0
                    ? found with
                    {
                        Field = keys[i],
                        A = Empty(record, fields, keys, scope),
                    }
                    : null,
        };
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        var each = rule.Keys("fields").Select(k => (JsonNode)new JsonObject { ["required"] = new JsonArray(k) }).ToArray();
        return rule["how"] switch
        {
            "one" => new JsonObject { ["anyOf"] = new JsonArray(each) },
            "exactly-one" => new JsonObject { ["oneOf"] = new JsonArray(each) },
            "none" => new JsonObject { ["not"] = new JsonObject { ["anyOf"] = new JsonArray(each) } },
            _ => new JsonObject { ["required"] = new JsonArray([.. rule.Keys("fields").Select(k => (JsonNode)k)]) },
        };
    }

    private static int Count(ReadOnlySpan<FieldValue> record, int[] fields)
    {
        var n = 0;
        foreach (var field in fields)
            if (!record[field].IsEmpty)
                n++;
        return n;
    }

    private static string Empty(ReadOnlySpan<FieldValue> record, int[] fields, string[] keys, RuleScope scope)
    {
        var empty = new List<string>();
        for (var i = 0; i < fields.Length; i++)
            if (record[fields[i]].IsEmpty)
                empty.Add(keys[i]);
        return scope.Type.LabelsOf(empty);
    }

    private static int First(ReadOnlySpan<FieldValue> record, int[] fields, bool empty)
    {
        for (var i = 0; i < fields.Length; i++)
            if (record[fields[i]].IsEmpty == empty)
                return i;
        return -1;
    }
}
