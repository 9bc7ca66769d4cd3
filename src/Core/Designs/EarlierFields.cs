using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Designs;

/// <summary>
/// Carries design files of version 1, in which each field had the options of all kinds, into today's, in which it has its own kind's.
/// What is stored needs no such care: options of other kinds are passed over when it is read.
/// </summary>
public static class EarlierFields
{
    private static readonly (string Option, Func<Field, bool> Has)[] Options =
    [
        ("minLength", static f => f is TextField),
        ("maxLength", static f => f is TextField),
        ("pattern", static f => f is TextField),
        ("min", static f => f is RangedField),
        ("max", static f => f is RangedField),
        ("vocabulary", static f => f is VocabularyField),
        ("branch", static f => f is VocabularyField),
        ("onlyLevel", static f => f is VocabularyField),
        ("leavesOnly", static f => f is VocabularyField),
        ("currencies", static f => f is AmountField),
        ("scheme", static f => f is IdentifierField),
        ("columns", static f => f is TableField),
        ("rowRules", static f => f is TableField),
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
            if (field["kind"] is not JsonValue word || FieldKind.Find(word.ToString()) is not { } kind)
                continue;
            var bare = kind.New("", "");
            foreach (var (option, has) in Options)
                if (!has(bare))
                    field.Remove(option);
            Upgrade(field["columns"]);
        }
    }
}
