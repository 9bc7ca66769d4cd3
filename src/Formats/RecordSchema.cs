using System.Text.Json.Nodes;
using System.Xml;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Formats;

/// <summary>
/// The schema (W3C XML Schema 1.0) of the XML in which records of a type leave: an element a field, of its kind. What a record holds that
/// is not of its kind stands in the attribute <c>as-written</c> of an element that is nil. And what a CSV of them says of its columns.
/// </summary>
public static class RecordSchema
{
    internal const string Instance = "http://www.w3.org/2001/XMLSchema-instance";
    private const string Xs = "http://www.w3.org/2001/XMLSchema";

    /// <summary>The namespace of a type's records.</summary>
    public static string Namespace(string type) => $"urn:clear-lexicon:records:{type}";

    /// <summary>Writes the schema.</summary>
    /// <param name="path">The file; it is made or replaced.</param>
    /// <param name="type">Code of the document type.</param>
    /// <param name="columns">The columns of the records.</param>
    public static void Write(string path, string type, IReadOnlyList<RecordColumn> columns)
    {
        using var writer = XmlWriter.Create(path, new XmlWriterSettings { Indent = true });
        writer.WriteStartElement("xs", "schema", Xs);
        writer.WriteAttributeString("targetNamespace", Namespace(type));
        writer.WriteAttributeString("xmlns", "r", null, Namespace(type));
        writer.WriteAttributeString("elementFormDefault", "qualified");
        foreach (var kind in FieldKind.All.Where(k => !k.HasRows))
            Value(writer, kind);
        Open(writer, "element", ("name", "documents"));
        Open(writer, "complexType");
        Open(writer, "sequence");
        Open(writer, "element", ("name", "document"), ("minOccurs", "0"), ("maxOccurs", "unbounded"));
        Open(writer, "complexType");
        Open(writer, "sequence");
        foreach (var column in columns.Where(c => !c.Key.StartsWith('@')))
            Element(writer, column);
        writer.WriteEndElement();
        Leaf(writer, "attribute", ("name", "id"), ("type", "xs:positiveInteger"), ("use", "required"));
        foreach (var column in columns.Where(c => c.Key.StartsWith('@') && c.Key != "@id"))
            Leaf(writer, "attribute", ("name", column.Key[1..]), ("type", "xs:string"));
        for (var open = 0; open < 6; open++)
            writer.WriteEndElement();
    }

    private static void Value(XmlWriter writer, FieldKind kind)
    {
        Open(writer, "complexType", ("name", kind.ToString()));
        Open(writer, "simpleContent");
        Open(writer, "extension", ("base", kind.XmlType));
        Leaf(writer, "attribute", ("name", "as-written"), ("type", "xs:string"));
        for (var open = 0; open < 3; open++)
            writer.WriteEndElement();
    }

    private static void Element(XmlWriter writer, RecordColumn column)
    {
        if (!column.Kind.HasRows)
        {
            Leaf(
                writer,
                "element",
                ("name", column.Key),
                ("type", $"r:{column.Kind}"),
                ("nillable", "true"),
                ("minOccurs", "0"),
                ("maxOccurs", column.Kind.IsMultiple ? "unbounded" : "1")
            );
            return;
        }
        Open(writer, "element", ("name", column.Key), ("minOccurs", "0"));
        Open(writer, "complexType");
        Open(writer, "sequence");
        Open(writer, "element", ("name", "row"), ("minOccurs", "0"), ("maxOccurs", "unbounded"));
        Open(writer, "complexType");
        Open(writer, "sequence");
        foreach (var cell in column.Cells ?? [])
            Element(writer, cell);
        for (var open = 0; open < 6; open++)
            writer.WriteEndElement();
    }

    private static void Open(XmlWriter writer, string name, params (string Name, string Value)[] attributes)
    {
        writer.WriteStartElement("xs", name, Xs);
        foreach (var (attribute, value) in attributes)
            writer.WriteAttributeString(attribute, value);
    }

    private static void Leaf(XmlWriter writer, string name, params (string Name, string Value)[] attributes)
    {
        Open(writer, name, attributes);
        writer.WriteEndElement();
    }

    /// <summary>What a CSV of records says of its columns (W3C Recommendation “Metadata Vocabulary for Tabular Data”).</summary>
    /// <param name="columns">Its columns, in order.</param>
    public static JsonObject CsvMetadata(IReadOnlyList<RecordColumn> columns) =>
        new()
        {
            ["@context"] = "http://www.w3.org/ns/csvw",
            ["url"] = "records.csv",
            ["tableSchema"] = new JsonObject
            {
                ["columns"] = new JsonArray([
                    .. columns.Select(c =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["name"] = c.Key.TrimStart('@').Replace('-', '_'),
                                ["titles"] = c.Heading,
                                ["datatype"] = Datatype(c.Kind),
                            }
                    ),
                ]),
            },
        };

    // A table stands in one cell as lines of text, and yes and no as the words that they are.
    private static JsonNode Datatype(FieldKind kind)
    {
        var (name, format) = kind.HasRows ? ("string", null) : kind.Csvw;
        return format is null ? JsonValue.Create(name) : new JsonObject { ["base"] = name, ["format"] = format };
    }
}
