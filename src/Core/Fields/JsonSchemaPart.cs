using System.Text.Json.Nodes;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>One field in a JSON Schema (2020-12) that is being written.</summary>
/// <param name="Property">What the schema says of the field.</param>
/// <param name="Given">Whether the schema is of what is given back, and not of what may be sent.</param>
/// <param name="IsCleaned">Whether values are cleaned before they are checked, so that little can be said of what is sent.</param>
/// <param name="Terms">Vocabulary of the field.</param>
/// <param name="Rows">Schema of a table's rows.</param>
/// <param name="Unsaid">What the standard cannot say, in words.</param>
internal sealed record JsonSchemaPart(
    JsonObject Property,
    bool Given,
    bool IsCleaned,
    VocabularyIndex? Terms,
    Func<TableField, JsonObject> Rows,
    List<string> Unsaid
)
{
    /// <summary>Blanks alone are nothing.</summary>
    public void NotBlank() =>
        Property[Property.ContainsKey("pattern") ? "allOf" : "pattern"] = Property.ContainsKey("pattern")
            ? new JsonArray(new JsonObject { ["pattern"] = @"\S" })
            : JsonValue.Create(@"\S");

    /// <summary>Least and greatest value, where the standard has none for texts.</summary>
    public void LimitsUnsaid(RangedField field)
    {
        if (field.Min is not null || field.Max is not null)
            Unsaid.Add($"{field.Label} lies {RangedField.InWords(field.Min ?? "", field.Max ?? "")}");
    }

    /// <summary>Different texts as an array.</summary>
    public static JsonArray Strings(IEnumerable<string> texts) =>
        new([.. texts.Distinct(StringComparer.Ordinal).Select(s => (JsonNode)JsonValue.Create(s))]);
}
