using ClearLexicon.Services;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>Step 2: from nothing to a published document type.</summary>
public class DesignWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    [Fact]
    public void A_steward_designs_a_type_composes_its_convention_and_publishes_it()
    {
        _screen.SignIn(Roles.Steward);
        _screen.Go("/Design");
        _screen.Fill("#vocabulary-name", "Slip kinds");
        _screen.Script("document.getElementById('terms').value = 'Spring tide\\tSpring|Springs\\tS\\nNeap tide\\tNeap\\tN\\nNEAP'");
        _screen.Click("form[hx-post*=Vocabulary] button");
        _screen.Reads(".notice.problem", "Line 3: “NEAP” already leads to “Neap tide”");
        _screen.Script("document.getElementById('terms').value = 'Spring tide\\tSpring|Springs\\tS\\nNeap tide\\tNeap\\tN'");
        _screen.Fill("#vocabulary-name", "Slip kinds");
        _screen.Click("form[hx-post*=Vocabulary] button");
        _screen.Reads("h1", "Slip kinds");
        _screen.Script("document.getElementById('terms').value = 'Storm surge'");
        _screen.Click("form[hx-post*=Add] button");
        _screen.Reads("#tree", "Storm surge");
        _screen.Click("[data-term='storm-surge']");
        _screen.Reads("#card", "level 1");
        _screen.Click("form[hx-post*='handler=Status'] button");
        _screen.Reads(".notice", "Retired.");

        _screen.Go("/Design");
        _screen.Fill("#type-name", "Tide Slip");
        _screen.Keys(Keys.Enter);
        _screen.Reads("h1", "Tide Slip");
        _screen.Reads("#findings", "no fields yet");
        AddField("Slip number", "text", ("pattern", @"TS-\d{4}", ""), must: true);
        AddField("Read on", "date", null, must: true);
        AddField("Checked on", "date", null, must: false);
        AddField("Kind", "term", ("vocabulary", "", "Slip kinds"), must: false);
        AddField("Height", "decimal", ("max", "20", ""), must: false);
        AddField("Copies", "whole number", ("min", "0", ""), must: false);
        AddField("Confirmed", "yes/no", null, must: false);
        Assert.Equal(7, harbour.Get<Designs>().Find("tide-slip")!.Draft.Fields.Count);

        // In place: open with the keyboard, change, keep; then move it up by keyboard and take that back.
        _screen.Press("#row-height", Keys.Enter);
        _screen.Fill("#label-height", "Height in metres");
        _screen.Press("#label-height", Keys.Enter);
        _screen.Reads("#row-height", "Height in metres");
        _screen.Press("#row-height", Keys.Alt + Keys.ArrowUp);
        _screen.Until(() => harbour.Get<Designs>().Find("tide-slip")!.Draft.OrdinalOf("height") == 3, "the field did not move");
        _screen.Click("form[hx-post*=Undo] button");
        _screen.Reads(".notice", "Undone: moved a field");
        Assert.Equal(4, harbour.Get<Designs>().Find("tide-slip")!.Draft.OrdinalOf("height"));
        _screen.Click("#row-copies");
        _screen.Click("[hx-post*='RemoveField&key=copies']");
        _screen.Until(() => !_screen.Has("#row-copies"), "the field was not removed");

        // A rule as a sentence.
        _screen.Click("#row-new-rule");
        _screen.Choose("#kind-new-rule", "Two fields are compared");
        _screen.Choose("#compare-first-new-rule", "Read on");
        _screen.Choose("#compare-second-new-rule", "Checked on");
        _screen.Click("form[hx-post*='handler=Rule'] button.plain");
        _screen.Reads("#row-rule-r1", "Read on ≤ Checked on");

        // The convention, piece by piece, with its preview and its warnings.
        _screen.Click(".empty .do[href*=Convention]");
        _screen.Reads("h1", "Convention");
        Piece("folder", "Tide slips");
        Piece("folder", "/");
        Piece("folder", "Read on");
        _screen.Click("#piece-folder-2");
        _screen.Choose("#date-folder-2", "2024");
        _screen.Click("#line-folder details[open] button.plain");
        _screen.Reads("#preview", "Tide slips / 2024 /");
        _screen.Reads("#findings", "no pieces yet");
        Piece("name", "Kind");
        _screen.Reads("#findings", "Kind may be empty, which would leave a gap");
        _screen.Click("#piece-name-0");
        _screen.Choose("#empty-name-0", "write …");
        _screen.Fill("#if-empty-name-0", "unsorted");
        _screen.Click("#line-name details[open] button.plain");
        _screen.Until(() => !_screen.Text("#findings").Contains("hole"), "the hole is still there");
        Piece("name", " a:b ");
        _screen.Reads("#findings", "which a Windows share refuses");
        Piece("name", "Slip number");
        _screen.Reads("#preview", "unsorted a-b TS-");

        // In an empty box the arrows move along the line and Backspace removes what is before it.
        _screen.Press("#add-name", Keys.ArrowLeft);
        _screen.Press("#add-name", Keys.ArrowLeft);
        _screen.Press("#add-name", "no." + Keys.Enter);
        _screen.Reads("#preview", "unsortedno. a-b TS-");
        _screen.Until(() => (bool)_screen.Script("return document.activeElement.id === 'add-name'")!, "the box has lost the focus");
        _screen.Keys(Keys.Backspace);
        _screen.Reads("#preview", "unsorted a-b TS-");

        _screen.Go("/Design/Type/tide-slip");
        _screen.Click("form[hx-post*=Publish] button");
        _screen.Reads("#version", "version 1, published");
        _screen.Click("#row-read-on");
        _screen.Fill("#help-read-on", "The day on the gauge.");
        _screen.Click("#fields details[open] button.plain");
        _screen.Reads("#version", "draft after version 1");
        Assert.Null(harbour.Get<Designs>().Published["tide-slip"].Type.Type.Find("read-on")!.Help);
        Assert.Empty(_screen.Complaints());
    }

    private void AddField(string label, string kind, (string Name, string Text, string Choice)? extra, bool must)
    {
        // The first is opened; from then on the next field can be typed at once.
        if (!_screen.Has("details[open] > #row-new"))
            _screen.Press("#row-new", Keys.Enter);
        _screen.Fill("#label-new", label);
        _screen.Choose("#kind-new", kind);
        if (extra is { } e)
        {
            if (e.Choice.Length > 0)
                _screen.Choose($"#{e.Name}-new", e.Choice);
            else
                _screen.Fill($"#{e.Name}-new", e.Text);
        }
        if (must)
            _screen.Choose("#required-new", "must be filled");
        _screen.Press("#label-new", Keys.Enter);
        _screen.Reads("#fields", label);
    }

    private void Piece(string line, string text)
    {
        _screen.Fill($"#add-{line}", text);
        _screen.Press($"#add-{line}", Keys.Enter);
        _screen.Quiet();
        _screen.Reads($"#line-{line}", text.Trim());
    }
}
