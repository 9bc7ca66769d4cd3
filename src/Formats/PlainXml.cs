using System.Xml;

namespace ClearLexicon.Formats;

/// <summary>Writes XML anew without a document type: entities are put in, a bounded number of times, and nothing is fetched.</summary>
internal static class PlainXml
{
    private const long MostFromEntities = 2_000_000;

    /// <summary>Reads one file and writes another.</summary>
    /// <returns>Why it cannot be read, with the line; null when it could.</returns>
    public static string? Write(string from, string to)
    {
        var settings = new XmlReaderSettings
        {
            DtdProcessing = DtdProcessing.Parse,
            XmlResolver = null,
            MaxCharactersFromEntities = MostFromEntities,
            MaxCharactersInDocument = TermFiles.Largest,
            CloseInput = true,
        };
        try
        {
            using var reader = XmlReader.Create(from, settings);
            using var writer = XmlWriter.Create(to, new XmlWriterSettings { CheckCharacters = true });
            while (reader.Read())
                if (reader.NodeType == XmlNodeType.Element || reader.Depth > 0)
                    Copy(reader, writer);
            return null;
        }
        catch (XmlException e)
        {
            return $"line {Math.Max(1, e.LineNumber)}: this is no XML that can be "
                + $"read{(e.Message.Contains("MaxCharacters", StringComparison.Ordinal) ? "; its entities come to too much" : "")}.";
        }
    }

    private static void Copy(XmlReader reader, XmlWriter writer)
    {
        switch (reader.NodeType)
        {
            case XmlNodeType.Element:
                writer.WriteStartElement(reader.Prefix, reader.LocalName, reader.NamespaceURI);
                writer.WriteAttributes(reader, defattr: true);
                if (reader.IsEmptyElement)
                    writer.WriteEndElement();
                break;
            case XmlNodeType.EndElement:
                writer.WriteFullEndElement();
                break;
            case XmlNodeType.Text or XmlNodeType.CDATA:
                writer.WriteString(reader.Value);
                break;
            case XmlNodeType.Whitespace or XmlNodeType.SignificantWhitespace:
                writer.WriteWhitespace(reader.Value);
                break;
        }
    }
}
