using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Readers;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>Step 3: a reader taught on one page, with the classic mistakes made and repaired.</summary>
public class TeachWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    // A page of nobody's design yet; the letter O stands where a nought should.
    private static readonly PageDesign Design = new(
        "trial",
        "Trial",
        "",
        "Signal Station Call Note",
        "Signal Station",
        "d MMM yyyy",
        Boxed: false,
        [
            new Cell("call-number", "Note number", 52, 140, 210, 140, 320),
            new Cell("arrived", "Sighted", 52, 174, 210, 174, 320),
            new Cell("vessel", "Ship", 52, 208, 90, 208, 320),
            new Cell("berth", "Sent to", 52, 242, 210, 242, 320),
        ]
    );

    private static readonly Dictionary<string, string> Printed = new()
    {
        ["call-number"] = "VC-2O24-OOO77",
        ["vessel"] = "Redshank",
        ["arrived"] = "3 Apr 2024",
        ["berth"] = "Old Coal Staith",
    };

    [Fact]
    public void A_reader_is_taught_and_its_mistakes_are_repaired()
    {
        _screen.SignIn(Roles.Steward);
        var page = Path.Combine(harbour.Data, "note.pdf");
        PageDrawing.Pdf(page, Design, Printed);
        _screen.Go("/Readers");
        _screen.Fill("#name", "Signal station note");
        _screen.Choose("#type", "Vessel Call Record");
        _screen.Press("#file", Screen.File("letter.pdf", "Dear harbour master"));
        _screen.Click("main form button.primary");
        _screen.Reads(".notice.problem", "“letter.pdf” is called a PDF but its content is not one.");
        _screen.Go("/Readers/Reader/signal-station-note");
        _screen.Press("#sample-file", page);
        _screen.Click("aside form[action*=Sample] button");
        _screen.Sees("svg[data-marks]");

        // Clues: one word clicked, two words dragged over.
        _screen.Click("input[value=clue]");
        _screen.Click(".word[data-text=Sighted]");
        _screen.Reads("aside", "“Sighted”");
        _screen.Click("input[value=clue]");
        Drag(48, 62, 190, 26);
        _screen.Reads("aside", "“Signal Station Call");

        // The label caught together with the value, a zone one line too high, O read for 0.
        Zone("Call number", Design.Cells[0].Zone);
        Zone("Vessel", new Box(48 / 595.0, 194 / 842.0, 360 / 595.0, 20 / 842.0));
        var high = Design.Cells[1].Zone;
        Zone("Arrived", high with { Y = high.Y - 34 / 842.0 });
        Zone("Berth", Design.Cells[3].Zone);
        Truth("call-number", "VC-2024-00077");
        Truth("vessel", "Redshank");
        Truth("arrived", "2024-04-03");
        Truth("berth", "Old Coal Staith");
        foreach (
            var other in new[] { "imo", "gross-tonnage", "agent", "master", "sailed", "pilot-used", "pilot-certificate", "vessel-type" }
        )
            Truth(other, "");
        _screen.Click("aside form[hx-post*=Truth] button");
        Assert.Equal([Outcome.Wrong, Outcome.Wrong, Outcome.Right, Outcome.Wrong], Outcomes());
        _screen.Reads("table.proof", "Ship Redshank");

        Step("call-number", "Swap look-alikes (O 0, I 1, S 5 …)", "");
        _screen.Reads("#cross-call-number", "VC-2024-00077");
        Step("vessel", "Drop these words", "Ship");
        _screen.Reads("#cross-vessel", "Redshank");
        Step("arrived", "Read a date", "no such form");
        _screen.Reads(".notice.problem", "needs a day");
        Step("arrived", "Read a date", "d MMM yyyy");
        // Nudged down by keyboard until it meets its line.
        for (var i = 0; i < 40 && !_screen.Text("#cross-arrived").Contains("2024-04-03"); i += 10)
        {
            _screen.Script("document.getElementById('zone-arrived').focus()");
            for (var n = 0; n < 10; n++)
                new OpenQA.Selenium.Interactions.Actions(harbour.Driver).SendKeys(Keys.ArrowDown).Perform();
            Thread.Sleep(600);
            _screen.Quiet();
        }
        _screen.Reads("#cross-arrived", "2024-04-03");
        Assert.All(Outcomes(), o => Assert.Equal(Outcome.Right, o));
        _screen.Click(".heading button[hx-swap*=proof]");
        _screen.Until(() => _screen.Text("table.proof thead tr:nth-child(2)").Split("100%").Length == 5, "not every field is at 100 %");

        // It reads nothing before it is published; what is changed later waits for the next version and can be taken back.
        Assert.Null(harbour.Get<TaughtReaders>().PublishedOf("signal-station-note"));
        _screen.Click("#publish");
        _screen.Reads(".notice", "Published as version 1");
        _screen.Click("input[value=landmark]");
        _screen.Click(".word[data-text=Sighted]");
        _screen.Reads("#landmarks", "“Sighted”");
        _screen.Reads(".heading", "version 1 reads, this draft differs");
        _screen.Click(".heading form[hx-post*=Undo] button");
        _screen.Reads(".notice", "Undone: marked a landmark");
        Assert.Empty(harbour.Get<TaughtReaders>().Find("signal-station-note")!.Landmarks);

        // By keyboard: words are chosen with the arrows, more of them with Shift, taken with Enter; then the page has the focus again.
        _screen.Click("input[value=landmark]");
        _screen.Script("document.querySelector('svg[data-marks]').focus()");
        _screen.Keys(Keys.Home);
        var first = _screen.Text("[data-chosen-words]");
        _screen.Keys(Keys.ArrowRight, Keys.ArrowLeft);
        Assert.Equal(first, _screen.Text("[data-chosen-words]"));
        _screen.Chord(Keys.Shift, Keys.ArrowRight);
        var two = _screen.Text("[data-chosen-words]");
        Assert.StartsWith(first + " ", two, StringComparison.Ordinal);
        _screen.Keys(Keys.Enter);
        _screen.Reads("#landmarks", $"“{two}”");
        Assert.Equal(two, Assert.Single(harbour.Get<TaughtReaders>().Find("signal-station-note")!.Landmarks).Text);
        _screen.Until(() => _screen.Script("return document.activeElement.matches('svg[data-marks]')") is true, "the page lost the focus");
        Assert.Empty(_screen.Complaints());
    }

    private List<Outcome> Outcomes() => [.. harbour.Get<SampleProofs>().Of("signal-station-note").Rows[0].Cells.Select(c => c.Outcome)];

    /// <summary>In points of the page.</summary>
    private void Drag(double x, double y, double w, double h) => _screen.Drag("svg[data-marks]", x / 595, y / 842, w / 595, h / 842);

    private void Zone(string field, Box box)
    {
        _screen.Click("input[value=zone]");
        _screen.Choose("#zone-field", field);
        _screen.Drag("svg[data-marks]", box.X, box.Y, box.W, box.H);
        _screen.Reads(".teach section", field);
    }

    private void Truth(string field, string text) => _screen.Fill($"#truth-{field}", text);

    private void Step(string zone, string kind, string argument)
    {
        _screen.Script("document.getElementById(arguments[0]).parentElement.open = true", $"cross-{zone}");
        _screen.Choose($"#step-{zone}-0", kind);
        _screen.Fill($"#argument-{zone}-0", argument);
        _screen.Click($"form[hx-post*='zone={zone}&'] button.plain");
    }
}
