using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Designs;

/// <summary>
/// Carries design files of version 1, in which each field had the options of all kinds, into today's, in which it has its own kind's.
/// What is stored needs no such care: options of other kinds are passed over when it is read.
/// </summary>
public static class EarlierFields
{
    private static readonly (string Option, FieldKind[] Kinds)[] Options =
    [
        ("minLength", [FieldKind.Text]),
        ("maxLength", [FieldKind.Text]),
        ("pattern", [FieldKind.Text]),
        ("min", [FieldKind.WholeNumber, FieldKind.Decimal, FieldKind.Date, FieldKind.Amount, FieldKind.Time]),
        ("max", [FieldKind.WholeNumber, FieldKind.Decimal, FieldKind.Date, FieldKind.Amount, FieldKind.Time]),
        ("vocabulary", [FieldKind.Term, FieldKind.Terms]),
        ("branch", [FieldKind.Term, FieldKind.Terms]),
        ("onlyLevel", [FieldKind.Term, FieldKind.Terms]),
        ("leavesOnly", [FieldKind.Term, FieldKind.Terms]),
        ("currencies", [FieldKind.Amount]),
        ("scheme", [FieldKind.Identifier]),
        ("columns", [FieldKind.Table]),
        ("rowRules", [FieldKind.Table]),
    ];

    /// <summary>The same file as version 2. What is not as version 1 was is left for the schema to refuse.</summary>
    public static JsonObject Upgrade(JsonObject file)
    {
        file["version"] = 2;
        foreach (var type in file["types"] as JsonArray ?? [])
            if (type is JsonObject { } part && part["design"] is JsonObject design)
                Upgrade(design["fields"]);
        return file;
    }

    private static void Upgrade(JsonNode? fields)
    {
        foreach (var field in (fields as JsonArray ?? []).OfType<JsonObject>())
        {
            if (field["kind"] is not JsonValue word || !Enum.TryParse<FieldKind>(word.ToString(), out var kind))
                continue;
            foreach (var (option, kinds) in Options)
                if (!kinds.Contains(kind))
                    field.Remove(option);
            Upgrade(field["columns"]);
        }
    }
}
