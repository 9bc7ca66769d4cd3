using System.Text.Json;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Storage;

namespace ClearLexicon.Browser.Tests;

/// <summary>Half-fixed pages on the desk: a table over two pages, boxes filled with a pen, places that are signed or not.</summary>
public class FormsWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    private static FreeDocument One(string key, Func<FreeDocument, bool> wanted)
    {
        var form = HarbourFreeForms.All.First(f => f.Key == key);
        return Enumerable.Range(30, 300).Select(form.Make).First(wanted);
    }

    private StoredDocument Brought(string name, FreeDocument document)
    {
        var path = Path.Combine(harbour.Data, name);
        HarbourFreeForms.Pdf(path, document);
        _screen.Go("/Desk");
        _screen.Press("#files", path);
        _screen.Click("form[data-drop] button[type=submit]");
        StoredDocument? found = null;
        _screen.Until(
            () =>
                (found = harbour.Get<DeskDocuments>().Waiting("Maren Holt").Find(d => d.Document.SourceName == name)?.Document) is not null,
            $"{name} was not read"
        );
        // The page of the desk may still be answering the upload.
        _screen.Until(
            () =>
            {
                if (!_screen.Has("[data-desk]"))
                    _screen.Go($"/Desk/Document/{found!.Id}");
                return _screen.Has("[data-desk]");
            },
            $"{name} was not opened"
        );
        return found!;
    }

    private string Value(string field)
    {
        _screen.Sees($"#f-{field}");
        return (string)_screen.Script("return document.getElementById(arguments[0]).value", $"f-{field}")!;
    }

    [Fact]
    public void A_table_over_two_pages_filled_boxes_and_signatures_are_read_onto_the_desk()
    {
        _screen.SignIn(Roles.Steward);
        static List<Dictionary<string, string>> Rows(FreeDocument d) =>
            JsonSerializer.Deserialize<List<Dictionary<string, string>>>(d.Truth["soundings"])!;
        var table = One("sounding-leadsman", d => d.Pages.Count == 2 && Rows(d).Count >= 17);
        var document = Brought("soundings.pdf", table);
        var rows = Rows(table);
        var read = JsonSerializer.Deserialize<List<Dictionary<string, string>>>(document.Record["soundings"])!;
        Assert.Equal(rows.Select(r => r["depth"]), read.Select(r => r["depth"]));
        Assert.Equal([1, 2], document.Evidence["soundings"].Cells.Select(c => c.Page).Distinct().Order());
        // The rows stand in the grid of the desk, one after another.
        foreach (var (row, i) in rows.Select((r, i) => (r, i)))
            Assert.Equal(
                row["depth"],
                _screen.Script(
                    "return document.querySelectorAll('[data-field=soundings] "
                        + "tr[data-row]')[arguments[0]].querySelector('[data-column=depth]').value",
                    i
                )
            );

        foreach (var wanted in new[] { "yes", "no" })
        {
            var permit = One("permit-boxes", d => d.Truth["gas-free"] == wanted && d.Truth["fire-watch"] != wanted);
            Brought($"permit {wanted}.pdf", permit);
            Assert.Equal((wanted, permit.Truth["fire-watch"]), (Value("gas-free"), Value("fire-watch")));
        }
        var note = One("goods-signed", d => d.Truth["shipper-signed"] == "yes" && d.Truth["master-signed"] == "no");
        Brought("goods.pdf", note);
        Assert.Equal(("yes", "no"), (Value("shipper-signed"), Value("master-signed")));
        Assert.Empty(_screen.Complaints());
    }
}
