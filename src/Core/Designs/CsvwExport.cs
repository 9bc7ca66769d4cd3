using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Designs;

/// <summary>
/// Writes CSVW metadata (W3C Recommendation “Metadata Vocabulary for Tabular Data”) for the CSV in which a type's records are
/// exported: a column a field, with its datatype and what that standard can say of its values.
/// </summary>
public static class CsvwExport
{
    /// <summary>The metadata of one type.</summary>
    /// <param name="type">The type, resolved.</param>
    /// <param name="url">Name of the CSV file that it describes.</param>
    public static JsonObject Write(DocumentType type, string url)
    {
        // The export begins with where the document stands.
        var columns = new JsonArray
        {
            new JsonObject
            {
                ["name"] = "document_folder",
                ["titles"] = new JsonArray("folder"),
                ["datatype"] = new JsonObject { ["base"] = "string" },
                ["required"] = true,
                ["dc:description"] = "Folder in the repository",
            },
            new JsonObject
            {
                ["name"] = "document_name",
                ["titles"] = new JsonArray("name"),
                ["datatype"] = new JsonObject { ["base"] = "string" },
                ["required"] = true,
                ["dc:description"] = "Name of the file",
            },
        };
        foreach (var field in type.Fields)
        {
            var column = new JsonObject
            {
                ["name"] = field.Key.Replace('-', '_'),
                ["titles"] = new JsonArray(field.Label, field.Key),
                ["datatype"] = Datatype(field),
            };
            if (!string.IsNullOrEmpty(field.Help))
                column["dc:description"] = field.Help;
            if (field.Required)
                column["required"] = true;
            if (field.DefaultFrom == DefaultSource.Constant && field.Default is { Length: > 0 } given)
                column["default"] = given;
            if (field.Kind.IsMultiple)
                column["separator"] = "; ";
            if (StandardTerms.Find(field.Standard) is { } standard)
                column["propertyUrl"] = standard.Uri;
            columns.Add(column);
        }
        return new JsonObject
        {
            ["@context"] = "http://www.w3.org/ns/csvw",
            ["url"] = url,
            ["dc:title"] = type.Name,
            ["tableSchema"] = new JsonObject { ["columns"] = columns },
        };
    }

    private static JsonObject Datatype(Field field)
    {
        var (name, format) = field.Kind.Csvw;
        var datatype = new JsonObject { ["base"] = name };
        if (format is not null)
            datatype["format"] = format;
        foreach (var (limit, value) in field.Kind.CsvwLimits(field))
            if (value is not null)
                datatype[limit] = value;
        return datatype;
    }
}
