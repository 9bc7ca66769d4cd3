using System.Text.Json;

namespace ClearLexicon.Core.Fields;

/// <summary>Texts of tables, which records hold as JSON (RFC 8259).</summary>
public static class TableText
{
    /// <summary>Rows of a table's text as texts by column key; null when it is not a JSON array of flat objects.</summary>
    public static List<Dictionary<string, string>>? Rows(string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return [];
        try
        {
            using var document = JsonDocument.Parse(text);
            if (document.RootElement.ValueKind != JsonValueKind.Array)
                return null;
            var rows = new List<Dictionary<string, string>>();
            foreach (var element in document.RootElement.EnumerateArray())
            {
                if (element.ValueKind != JsonValueKind.Object)
                    return null;
                var row = new Dictionary<string, string>(StringComparer.Ordinal);
                foreach (var cell in element.EnumerateObject())
                    row[cell.Name] = Of(cell.Value) ?? "";
                rows.Add(row);
            }
            return rows;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>
    /// A JSON value as a field's text: numbers without exponent, booleans as yes and no, lists of terms joined, tables as they are.
    /// </summary>
    public static string? Of(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.Null => null,
            JsonValueKind.True => "yes",
            JsonValueKind.False => "no",
            // 12.0 and 1.2e1 are the whole number 12 in JSON; a number that has more digits than can be kept exactly stays as it was
            // written.
            JsonValueKind.Number => JsonNumber.Plain(value.GetRawText()) ?? value.GetRawText(),
            JsonValueKind.Array when value.EnumerateArray().All(e => e.ValueKind == JsonValueKind.String) => string.Join(
                "; ",
                value.EnumerateArray().Select(e => e.GetString())
            ),
            JsonValueKind.Array or JsonValueKind.Object => value.GetRawText(),
            _ => value.GetString(),
        };
}
