using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.TestSupport;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>Nothing typed is lost: whatever leads away, it is stored, or stands there as not saved.</summary>
public class TypedWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    private DeskDocuments Desk => harbour.Get<DeskDocuments>();

    private string Kept(long id) => Desk.Find(id, "Maren Holt")!.Document.Record.GetValueOrDefault("agent", "");

    // Two vessel calls on the desk, brought by this walk.
    private async Task<long[]> TwoAsync()
    {
        var pages = HarbourDocuments
            .Incoming()
            .Where(p => p.Design?.TypeCode == HarbourDesign.VesselCall.Code && p.FileName.EndsWith(".pdf", StringComparison.Ordinal))
            .Take(2)
            .ToList();
        var drawn = Directory.CreateTempSubdirectory("typed").FullName;
        foreach (var page in pages)
            HarbourDocuments.Draw(page, drawn);
        var (batch, job, _) = await harbour
            .Get<Intake>()
            .BringAsync(
                "Typed",
                [.. pages.Select(p => new BroughtFile(p.FileName, () => File.OpenRead(Path.Combine(drawn, p.FileName))))],
                "Tobias Finch"
            );
        await job!.Completion;
        Directory.Delete(drawn, recursive: true);
        return [.. Desk.Waiting("Maren Holt", batch).Select(d => d.Document.Id)];
    }

    // Typed as by a person, without leaving the blank.
    private void Type(string text)
    {
        _screen.Script("document.getElementById('f-agent').focus(); document.getElementById('f-agent').select()");
        _screen.Keys(text);
    }

    [Fact]
    public async Task What_is_typed_is_stored_or_stands_there_as_not_saved()
    {
        var ids = await TwoAsync();
        var (id, page) = (ids[0], $"/Desk/Document/{ids[0]}");
        _screen.SignIn(Roles.Indexer);

        // Keys and links that lead away store it first.
        foreach (
            var (words, leave) in new (string, Action)[]
            {
                ("by Next", () => _screen.Click("#next, #previous")),
                ("by a key", () => _screen.Chord(Keys.Alt, _screen.Has("#next") ? "n" : "p")),
                ("by its pages", () => _screen.Chord(Keys.Alt, "g")),
                ("by a place", () => _screen.Click("nav a[href='/Repository']")),
                ("by Tab", () => _screen.Keys(Keys.Tab)),
            }
        )
        {
            _screen.Go(page);
            Type($"Agent {words}");
            Assert.Contains("not saved", _screen.Text(".field[data-field='agent'] .unsaved"));
            leave();
            _screen.Until(() => Kept(id) == $"Agent {words}", $"{words}: {Kept(id)}");
        }

        // Alt+K straight after typing: stored, and its form stays open.
        _screen.Go(page);
        Type("Agent by parking");
        _screen.Chord(Keys.Alt, "k");
        _screen.Until(() => Kept(id) == "Agent by parking", "not stored before parking");
        _screen.Until(() => Equals(_screen.Script("return document.activeElement.id"), "park-reason"), "the form has shut");

        // A reload and a way back: it stands there, marked, with the way to store it.
        _screen.Go(page);
        Type("Agent before a reload");
        _screen.Script("location.reload()");
        _screen.Until(() => Equals(_screen.Script("return document.getElementById('f-agent')?.value"), "Agent before a reload"), "lost");
        Assert.Equal("Agent by parking", Kept(id));
        _screen.Click(".field[data-field='agent'] .unsaved button");
        _screen.Until(() => Kept(id) == "Agent before a reload", "not stored");
        _screen.Until(() => !_screen.Has(".unsaved"), "still marked");

        // Signed out meanwhile: said, and after signing in it is there again.
        Type("Agent after signing in");
        var session = harbour.Driver.Manage().Cookies.GetCookieNamed("clear-lexicon");
        harbour.Driver.Manage().Cookies.DeleteCookieNamed("clear-lexicon");
        _screen.Keys(Keys.Tab);
        _screen.Reads("#signed-out", "You are signed out, so nothing was saved.");
        Assert.False(_screen.Has(".field form[action^='/SignIn']"));
        harbour.Driver.Manage().Cookies.AddCookie(session!);
        _screen.Go(page);
        _screen.Until(() => Equals(_screen.Script("return document.getElementById('f-agent').value"), "Agent after signing in"), "lost");

        // The line is cut: said, marked, and sent when it is back.
        harbour.Driver.NetworkConditions = new OpenQA.Selenium.Chromium.ChromiumNetworkConditions { IsOffline = true };
        Type("Agent over a cut line");
        _screen.Keys(Keys.Tab);
        _screen.Reads("#no-line", "The server cannot be reached.");
        Assert.Contains("not saved", _screen.Text(".field[data-field='agent'] .unsaved"));
        harbour.Driver.ClearNetworkConditions();
        _screen.Until(() => Kept(id) == "Agent over a cut line", "not sent when the line was back");

        // Somebody else was faster: said, and it stays said; mine stands there as not saved.
        _screen.Go(page);
        Type("Mine");
        Assert.Null(Desk.SetValue(id, "agent", "Theirs", null, "Maren Holt").Problem);
        _screen.Keys(Keys.Tab);
        _screen.Reads("#said-agent", "has set it to “Theirs” in the meantime");
        await Task.Delay(600, TestContext.Current.CancellationToken);
        Assert.Contains("in the meantime", _screen.Text("#said-agent"));
        Assert.Contains("not saved", _screen.Text(".field[data-field='agent'] .unsaved"));
        Assert.Equal("Theirs", Kept(id));

        // By field, leaving a value stores it, too.
        _screen.Script("sessionStorage.clear()");
        _screen.Go("/Desk/ByField?type=vessel-call-record&field=agent");
        var input = $"#value-{id} input[name=text]";
        _screen.Script("document.querySelector(arguments[0]).focus(); document.querySelector(arguments[0]).select()", input);
        _screen.Keys("Agent by field");
        _screen.Keys(Keys.Tab);
        _screen.Until(() => Kept(id) == "Agent by field", "not stored by field");
        foreach (var one in ids)
            Desk.Discard(one, "Maren Holt");
        // What the browser complained about was meant here; later walks look at what it says of theirs.
        _screen.Complaints();
    }
}
