using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Tests;

public class CsvwTests
{
    [Fact]
    public void Every_field_is_a_column_with_its_datatype_and_its_standard_term()
    {
        var type = Harbour.Call with
        {
            Fields =
            [
                .. Harbour.Call.Fields.Select(f =>
                    f.Key == "number" ? f with { Standard = "dcterms:identifier", Help = "At the top." } : f
                ),
                new TermsField("many", "Many"),
                new AmountField("fee", "Fee"),
                new TableField("lines", "Lines"),
            ],
        };
        var metadata = CsvwExport.Write(type, "call.csv");
        Assert.Equal(("http://www.w3.org/ns/csvw", "call.csv"), ((string?)metadata["@context"], (string?)metadata["url"]));
        var columns = metadata["tableSchema"]!["columns"]!.AsArray().ToDictionary(c => (string)c!["name"]!, c => c!);
        Assert.Equal(type.Fields.Count + 2, columns.Count);
        Assert.Equal(["folder", "name"], new[] { "document_folder", "document_name" }.Select(k => (string?)columns[k]["titles"]![0]));
        Assert.Equal(
            ("string", "http://purl.org/dc/terms/identifier", "At the top.", true),
            (
                (string?)columns["number"]["datatype"]!["base"],
                (string?)columns["number"]["propertyUrl"],
                (string?)columns["number"]["dc:description"],
                (bool)columns["number"]["required"]!
            )
        );
        Assert.Equal(
            ("date", "1986-01-01"),
            ((string?)columns["arrived"]["datatype"]!["base"], (string?)columns["arrived"]["datatype"]!["minimum"])
        );
        Assert.Equal(("boolean", "no"), ((string?)columns["pilot"]["datatype"]!["base"], (string?)columns["pilot"]["default"]));
        Assert.Equal(
            ["decimal", "integer", "json"],
            new[] { "net", "crew", "lines" }.Select(k => (string?)columns[k]["datatype"]!["base"])
        );
        Assert.Equal("; ", (string?)columns["many"]["separator"]);
        Assert.Null(columns["vessel"]["propertyUrl"]);
    }

    [Fact]
    public void Standard_terms_are_named_once_and_have_an_address()
    {
        Assert.Equal(StandardTerms.All.Count, StandardTerms.All.Select(t => t.Name).Distinct().Count());
        Assert.All(StandardTerms.All, t => Assert.StartsWith("http://purl.org/dc/terms/", t.Uri));
        Assert.Equal("name given to it", StandardTerms.Find("dcterms:title")!.Means);
        Assert.Null(StandardTerms.Find("title"));
    }
}
