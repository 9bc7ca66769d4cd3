using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>Steps 4, 5 and 6: scanned, checked, filed, found, edited.</summary>
public class DeskWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    private string Came(string name) =>
        $"#waiting a[href='/Desk/Document/{harbour.Get<DeskDocuments>().Waiting("Maren Holt").First(d => d.Document.SourceName == name).Document.Id}']";

    [Fact]
    public void An_indexer_scans_checks_files_finds_and_edits()
    {
        // Only the text pages, which need no recognition; the scans have tests of their own.
        foreach (
            var scan in Directory.GetFiles(Path.Combine(harbour.Data, "tray")).Where(f => !f.EndsWith(".pdf", StringComparison.Ordinal))
        )
            File.Delete(scan);
        var pages = HarbourDocuments.Incoming().ToDictionary(p => p.FileName);
        _screen.SignIn(Roles.Indexer);
        _screen.Go("/Desk");
        _screen.Click("#scan");
        _screen.Until(() => !_screen.Has("#progress") && _screen.Has("#waiting"), "the pages were not read");

        // A bad file is refused by name, and what was there stays.
        _screen.Press("#files", Screen.File("letter.pdf", "Dear harbour master"));
        _screen.Click("form[data-drop] button[type=submit]");
        _screen.Reads("#refused", "“letter.pdf” is called a PDF but its content is not one.");
        _screen.Reads("#left-count", $"{harbour.Get<DeskDocuments>().Waiting("Maren Holt").Count} left");

        // Sailed before arrived: live as one types, kept on leaving the field.
        var early = pages.Values.First(p => p.Truth.TryGetValue("sailed", out var s) && string.CompareOrdinal(s, p.Truth["arrived"]) < 0);
        // Another test may have brought a copy of the page: it is this one that is followed.
        var id = harbour.Get<DeskDocuments>().Waiting("Maren Holt").First(d => d.Document.SourceName == early.FileName).Document.Id;
        _screen.Follow(Came(early.FileName), "/Desk/Document/");
        _screen.Reads("#margin", "A vessel cannot sail before it has arrived.");
        Assert.True(_screen.Has("#file-this button:disabled"));
        Assert.Equal("f-arrived", _screen.Script("return document.activeElement.id"));
        _screen.Fill("#f-sailed", "2024-12-31");
        _screen.Reads("#margin", "Ready to file");
        _screen.Fill("#f-sailed", "soon");
        _screen.Reads("#said-sailed", "“soon” is not a date");
        _screen.Fill("#f-sailed", "2024-12-31");
        _screen.Keys(Keys.Enter);
        _screen.Until(() => harbour.Get<DeskDocuments>().Find(id, "Maren Holt")!.State == Readiness.Ready, "the value was not kept");

        // Path and name follow the fields; a variant of a term is accepted; a word clicked on the page goes into the field.
        _screen.Fill("#f-vessel", "Other Name");
        _screen.Reads("#leads", "Other Name.pdf");
        _screen.Fill("#f-berth", "old coal staith");
        _screen.Until(
            () => _screen.Text("#terms-berth option").Length >= 0 && _screen.Has("#terms-berth option[value='North Quay 1']"),
            "the variant does not complete"
        );
        _screen.Keys(Keys.Enter);
        _screen.Script("document.getElementById('f-vessel').focus()");
        _screen.Click($".word[data-text='{early.Truth["vessel"].Split(' ')[0]}']");
        _screen.Reads("#leads", $"{early.Truth["vessel"].Split(' ')[0]}.pdf");
        var zone = early.Design.Cells.First(c => c.Field == "vessel").Zone;
        _screen.Script("document.getElementById('f-vessel').focus()");
        _screen.Drag("svg[data-pick]", zone.X, zone.Y, zone.W - 0.1, zone.H);
        _screen.Reads("#leads", $"{early.Truth["vessel"]}.pdf");
        Assert.Equal("f-vessel", _screen.Script("return document.activeElement.id"));

        // By keys alone: to the words of the page, where the value stands; one of them is taken, or one goes back.
        _screen.Chord(Keys.Alt, "w");
        _screen.Until(() => early.Truth["vessel"].Split(' ').Contains(_screen.Text("[data-chosen-words]")), "no word of it is chosen");
        var chosen = _screen.Text("[data-chosen-words]");
        _screen.Keys(Keys.Enter);
        _screen.Reads("#leads", $" {chosen}.pdf");
        Assert.Equal("f-vessel", _screen.Script("return document.activeElement.id"));
        _screen.Chord(Keys.Alt, "w");
        _screen.Keys(Keys.Escape);
        Assert.Equal("f-vessel", _screen.Script("return document.activeElement.id"));
        _screen.Drag("svg[data-pick]", zone.X, zone.Y, zone.W - 0.1, zone.H);
        _screen.Reads("#leads", $"{early.Truth["vessel"]}.pdf");

        // Filed with the keyboard; the next document comes up.
        _screen.Chord(Keys.Control, Keys.Enter);
        _screen.Until(() => harbour.Get<DeskDocuments>().Find(id, "Maren Holt")!.Document.Filed, "it was not filed");
        var place = harbour
            .Get<Database>()
            .Read(c => RepositorySearch.Find(c, new RepositoryQuery().Holding("call-number", early.Truth["call-number"]), 1).Documents)[0];
        Assert.Equal("North Quay 1", place.Record["berth"]);
        Assert.True(File.Exists(Path.Combine(harbour.Data, "repository", place.Folder!, place.Name!)));
        _screen.Sees("[data-desk]");
        var shown = _screen.Text("h1");
        _screen.Chord(Keys.Alt, "n");
        _screen.Until(() => _screen.Text("h1") != shown, "the next document did not come up");

        // All that is ready at once.
        _screen.Go("/Desk");
        _screen.Click("#file-all");
        _screen.Sees(".path-tree");
        _screen.Click("#file-these");
        _screen.Until(
            () => harbour.Get<DeskDocuments>().Waiting("Maren Holt").All(d => d.State != Readiness.Ready) && !_screen.Has("#progress"),
            "what is ready was not filed"
        );

        // In a field or anywhere: the field search is sharper.
        _screen.Go("/Repository?type=vessel-call-record");
        var vessel = early.Truth["vessel"];
        _screen.Click(".conditions details summary");
        _screen.Choose("#field", "Vessel");
        _screen.Fill("#text", vessel);
        _screen.Press("#text", Keys.Enter);
        _screen.Reads("#compared", $"with “{vessel}” in Vessel");
        _screen.Click("table.list th:nth-child(7) a");
        Assert.True(_screen.Has("th[aria-sort=ascending]"));
        _screen.Go($"/Repository/Document/{place.Id}");
        _screen.Reads("#history", "picked on the page");
        Assert.True(_screen.Has($".evidence[data-evidence=berth]"));

        // Editing a filed value runs the same rules.
        _screen.Click("#row-imo");
        _screen.Fill("#text-imo", "1234560");
        _screen.Click("details[open] button.plain");
        _screen.Reads(".notice.problem", "fails its check");
        _screen.Script("document.getElementById('row-agent').click()");
        _screen.Fill("#text-agent", "Holm Brokers & Sons");
        _screen.Click("details[data-field=agent] button.plain");
        _screen.Reads("#history", "Holm Brokers & Sons");
        Assert.Equal("Holm Brokers & Sons", harbour.Get<DeskDocuments>().Find(place.Id, "Maren Holt")!.Document.Record["agent"]);
        Assert.Empty(_screen.Complaints());
    }

    [Fact]
    public void A_page_nobody_claims_is_filled_by_hand_and_a_should_problem_takes_a_reason()
    {
        _screen.SignIn(Roles.Steward);
        var twin = HarbourDocuments.AlreadyFiled()[0];
        HarbourDocuments.Draw(twin, harbour.Data);
        PageDrawing.Pdf(
            Path.Combine(harbour.Data, "bulletin.pdf"),
            PageDesigns.Unknown,
            new Dictionary<string, string> { ["wind"] = "Gale" }
        );
        _screen.Go("/Desk");
        _screen.Press("#files", Path.Combine(harbour.Data, twin.FileName) + "\n" + Path.Combine(harbour.Data, "bulletin.pdf"));
        _screen.Click("form[data-drop] button[type=submit]");
        _screen.Until(
            () =>
                !_screen.Has("#progress")
                && _screen.Text("#waiting").Contains("bulletin.pdf")
                && _screen.Text("#waiting").Contains(twin.FileName),
            "the files were not read"
        );

        _screen.Follow(Came(twin.FileName), "/Desk/Document/");
        _screen.Reads("#margin", "Another document already has this Call number");
        _screen.Reads("#leads", "(2).pdf");
        _screen.Fill("[id^='reason-unique']", "second copy");
        _screen.Click("form[hx-post*=Override] button");
        _screen.Reads("#margin", "Ready to file");
        _screen.Click("#file-this button");
        _screen.Until(
            () => harbour.Get<DeskDocuments>().Waiting("Maren Holt").All(d => d.Document.SourceName != twin.FileName),
            "the copy was not filed"
        );

        _screen.Go("/Desk");
        _screen.Follow(Came("bulletin.pdf"), "/Desk/Document/");
        _screen.Reads(".empty", "No reader claims this page");
        _screen.Choose("#type", "Vessel Call Record");
        _screen.Click(".empty button");
        _screen.Script("document.getElementById('f-vessel').focus()");
        _screen.Click(".word[data-text=Gale]");
        _screen.Until(() => _screen.Find("#f-vessel").GetDomProperty("value") == "Gale", "the word did not go into the field");
        _screen.Reads("#margin", "Call number must be filled.");
    }
}
