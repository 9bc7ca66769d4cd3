using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using ClearLexicon.TestSupport;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace ClearLexicon.Browser.Tests;

/// <summary>
/// Every page that links reach, and on each every button, row that opens, choice and completion, of each kind one: used by pointer, and by
/// keyboard. Afterwards there is one main part, no error of a script, and the focus is on something. And in each blank and cell something is
/// typed: when a link has led away and one comes back, it is stored, or stands there as not saved.
/// </summary>
[Collection("With a browser of its own")]
public sealed class PressWalk(ITestOutputHelper output) : IDisposable
{
    // Pages and controls of one kind are used once; EACH=3 uses more of them.
    private static int Each => int.TryParse(Environment.GetEnvironmentVariable("EACH"), out var n) ? n : 1;

    private static readonly string Script = System.IO.File.ReadAllText(Path.Combine(SourceTree.Root, "tests/Browser/press.js"));
    private readonly HashSet<string> _wrong = [];
    private readonly Dictionary<string, int> _used = new(StringComparer.Ordinal);
    private readonly HashSet<(string Page, string Kind)> _met = [];
    private readonly List<Control> _later = [];
    private int _pages;
    private int _presses;
    private readonly ChromeDriver _driver = HarbourFixture.Browser();
    private Screen _screen = null!;
    private int _typed;

    // The page that is open and has sent nothing yet; null when it may be another by now.
    private string? _standing;

    // A control, on the page where it is, behind those that have to be pressed before it is there.
    private sealed record Control(string Page, string[] Behind, string Kind, bool IsPressed, bool IsTyped)
    {
        public override string ToString() => $"{Page}: {string.Join(" → ", [.. Behind, Kind])}";
    }

    [Fact]
    public async Task Everything_is_used_by_pointer_and_by_keyboard()
    {
        await using var app = new App();
        _screen = new Screen(_driver, app.Serve());
        await app.SeedAsync(new DemoSize(InventoryRows: 60, SamplePdfs: 1, SampleScans: 0, Waiting: false));
        await FillAsync(app);
        _driver.ExecuteCdpCommand("Browser.setDownloadBehavior", new() { ["behavior"] = "deny" });
        _screen.SignIn(Roles.Steward);
        _screen.Complaints();
        var desk = app
            .Services.GetRequiredService<DeskDocuments>()
            .Waiting("Maren Holt")
            .Select(d => $"/Desk/Document/{d.Document.Id}")
            .ToList();
        foreach (var page in desk)
            if (Open(page) && Asked<bool>("isDeskWithoutFocus()"))
                Tell($"{page}: it comes up without a field that is ready for keys");
        // A document of each type: one of them has a table.
        Walk(["/", .. desk, .. Filed(app)]);
        // What takes something away comes when everything else has been used.
        foreach (var control in _later)
        {
            Use(control, ByPointer, "by pointer");
            Use(control, ByKeyboard, "by keyboard");
        }
        output.WriteLine($"{_pages} pages, {_used.Count} kinds of controls, {_presses} presses, typed in {_typed} blanks");
        Assert.Empty(_wrong);
        Assert.True(_used.Count > 250, $"only {_used.Count} kinds of controls were used");
    }

    public void Dispose() => _driver.Quit();

    private static IEnumerable<string> Filed(App app) =>
        app
            .Services.GetRequiredService<Database>()
            .Read(c => RepositorySearch.All(c, new RepositoryQuery()).ToList())
            .DistinctBy(d => d.TypeCode)
            .Select(d => $"/Repository/Document/{d.Id}");

    private void Walk(IEnumerable<string> from)
    {
        var met = new Dictionary<string, int>(StringComparer.Ordinal) { ["/?"] = 1 };
        var waiting = new Queue<string>(from);
        while (waiting.TryDequeue(out var page))
        {
            if (!Open(page))
                continue;
            _pages++;
            output.WriteLine($"-- {DateTime.Now:HH:mm:ss} {page} {_used.Count} {_presses}");
            foreach (var link in Asked<IEnumerable<object>>("links()").Cast<IEnumerable<object>>().Select(l => l.Cast<string>().ToArray()))
                if (met.GetValueOrDefault(link[0]) < Each && !link[1].Contains("/api/", StringComparison.Ordinal))
                {
                    met[link[0]] = met.GetValueOrDefault(link[0]) + 1;
                    waiting.Enqueue(link[1]);
                }
            var found = New(page, []);
            Type(found.Where(c => c.IsTyped));
            var controls = new Queue<Control>(found.Where(c => c.IsPressed));
            while (controls.TryDequeue(out var control))
            {
                Use(control, ByPointer, "by pointer");
                if (control.Behind.Length < 2 && Same(page))
                {
                    found = New(page, [.. control.Behind, control.Kind]);
                    Type(found.Where(c => c.IsTyped));
                    foreach (var behind in found.Where(c => c.IsPressed))
                        controls.Enqueue(behind);
                }
                Use(control, ByKeyboard, "by keyboard");
            }
        }
    }

    private bool Same(string page) => new Uri(_driver.Url).AbsolutePath == page.Split('?')[0];

    private List<Control> New(string page, string[] behind)
    {
        var found = new List<Control>();
        foreach (var control in Asked<IEnumerable<object>>("kinds()").Cast<IDictionary<string, object>>())
        {
            var kind = (string)control["kind"];
            if ((bool)control["leaves"] || _used.GetValueOrDefault(kind) >= Each || !_met.Add((page, kind)))
                continue;
            _used[kind] = _used.GetValueOrDefault(kind) + 1;
            ((bool)control["takesAway"] ? _later : found).Add(new(page, behind, kind, (bool)control["pressed"], (bool)control["typed"]));
        }
        return found;
    }

    // False for what is no page, such as a picture, and for what was taken away meanwhile.
    private bool Open(string page)
    {
        _screen.Go(page);
        _standing = page;
        if (Asked<bool>("isPage()"))
            return true;
        _screen.Complaints();
        return false;
    }

    // In one go: between two the page may have gone.
    private T Asked<T>(string what, params object[] arguments) => (T)_screen.Script($"{Script}\nreturn presses.{what}", arguments)!;

    private void Tell(string wrong)
    {
        if (_wrong.Add(wrong))
            output.WriteLine(wrong);
    }

    // A control on its page, when what it stands behind has been pressed; null when it is not there.
    private IWebElement? Reach(Control control)
    {
        if (Asked<object?>("find(arguments[0])", control.Kind) is IWebElement there)
            return there;
        foreach (var behind in control.Behind)
        {
            if (Asked<object?>("find(arguments[0])", behind) is not IWebElement opens)
                return null;
            if (Asked<bool>("isOpen(arguments[0])", opens))
                continue;
            _standing = null;
            ByPointer(opens);
            _screen.Quiet();
        }
        return Asked<object?>("find(arguments[0])", control.Kind) as IWebElement;
    }

    // Something is typed in each and not sent; then a link leads away, and the page is opened once more.
    private void Type(IEnumerable<Control> blanks)
    {
        var typed = new List<(Control Control, string Text)>();
        try
        {
            foreach (var control in blanks)
                if ((typed.Count > 0 || Open(control.Page)) && Reach(control) is { } blank)
                    typed.Add((control, Asked<string>("type(arguments[0])", blank)));
            if (typed.Count == 0)
                return;
            _standing = null;
            _typed += typed.Count;
            var page = typed[0].Control.Page;
            // Who leaves what cannot be stored leaves twice.
            for (var tries = 0; tries < 2 && Same(page); tries++)
            {
                Asked<object?>("leave()");
                for (var waits = 0; waits < 40 && Same(page); waits++)
                    Thread.Sleep(50);
            }
            _screen.Quiet();
            Open(page);
            foreach (var (control, text) in typed)
                Stands(control, text);
        }
        catch (WebDriverException failed)
        {
            Tell($"{typed.LastOrDefault().Control} typed in: {failed.Message.Split('\n')[0]}");
        }
        foreach (var complaint in _screen.Complaints())
            Tell($"{typed.LastOrDefault().Control} typed in: {complaint}");
        _screen.Script("sessionStorage.clear()");
    }

    private void Stands(Control control, string typed)
    {
        if (Reach(control) is not { } blank)
        {
            Tell($"{control} when one comes back: the blank is gone");
            return;
        }
        var read = Asked<IDictionary<string, object?>>("read(arguments[0])", blank);
        if (!Equals(read["value"], typed))
            Tell($"{control} when one comes back: “{typed}” is lost, “{read["value"]}” stands there");
        else if (!(bool)read["told"]!)
            Tell($"{control} when one comes back: “{typed}” is not stored and not said to be");
    }

    // Uses a control, and looks at the page.
    private void Use(Control control, Action<IWebElement> use, string how)
    {
        var at = $"{control} {how}";
        try
        {
            if (_standing != control.Page && !Open(control.Page) || Reach(control) is not { } element)
                return;
            if (Asked<bool>(use == ByPointer ? "keysOnly(arguments[0])" : "pointerOnly(arguments[0])", element))
                return;
            _screen.Script("window.pressed = 'here'");
            // A choice that is a question by itself is answered by a page of its own.
            var asks = (bool)_screen.Script("return arguments[0].matches('form[method=get]:not([hx-get]) [data-send]')", element)!;
            use(element);
            Confirm();
            if (asks)
                _screen.Until(() => !(bool)_screen.Script("return 'pressed' in window")!, "nothing was asked");
            _screen.Quiet();
            _presses++;
            var state = Asked<IDictionary<string, object?>>("state()");
            _standing = (bool)state["still"]! ? control.Page : null;
            foreach (var wrong in (IEnumerable<object>)state["wrong"]!)
                Tell($"{at}: {wrong}");
            // A page that comes whole begins at its top; one that stays keeps its place.
            if ((asks || state["page"] is not null) && (bool)state["lost"]!)
                Tell($"{at}: the focus is on nothing");
        }
        catch (StaleElementReferenceException)
        {
            // Work that shows how far it is puts its panel in place of itself; what was found in the old one cannot be pressed.
            _standing = null;
        }
        catch (WebDriverException failed)
        {
            _standing = null;
            Tell($"{at}: {failed.Message.Split('\n')[0]}");
        }
        foreach (var complaint in _screen.Complaints())
            Tell($"{at}: {complaint}");
    }

    private void Confirm()
    {
        try
        {
            _driver.SwitchTo().Alert().Accept();
        }
        catch (NoAlertPresentException) { }
    }

    private void ByPointer(IWebElement element)
    {
        var (tag, type) = (element.TagName, element.GetDomProperty("type"));
        if (tag == "select")
            _screen.Script(
                "const s = arguments[0], to = [...s.options].find(o => !o.selected && !o.disabled); if (!to) return; s.focus();"
                    + "to.selected = true; for (const e of ['input', 'change']) s.dispatchEvent(new Event(e, {bubbles: true}))",
                element
            );
        else
            element.Click();
        if (tag == "input" && type is "text" or "search")
            Complete(o => o.Click());
    }

    private void ByKeyboard(IWebElement element)
    {
        _screen.Script("arguments[0].scrollIntoView({block: 'center'}); arguments[0].focus()", element);
        var focused = (bool)_screen.Script("return document.activeElement === arguments[0]", element)!;
        if (!focused)
            throw new WebDriverException("cannot be focused");
        switch (element.TagName)
        {
            case "select":
                var isLast = (bool)_screen.Script("return arguments[0].selectedIndex === arguments[0].options.length - 1", element)!;
                _screen.Keys(isLast ? Keys.ArrowUp : Keys.ArrowDown);
                if (!(bool)_screen.Script("return arguments[0].isConnected", element)!)
                    throw new WebDriverException("one arrow key has sent it away");
                _screen.Keys(Keys.Enter);
                break;
            case "input" when element.GetDomProperty("type") is "checkbox" or "radio":
                _screen.Keys(Keys.Space);
                break;
            case "input":
                Complete(_ => _screen.Keys(Keys.ArrowDown, Keys.Enter));
                break;
            default:
                new OpenQA.Selenium.Interactions.Actions(_driver).SendKeys(Keys.Enter).Perform();
                break;
        }
    }

    // A letter, and the first of what is offered for it.
    private void Complete(Action<IWebElement> choose)
    {
        _screen.Keys("a");
        for (var n = 0; n < 8; n++)
        {
            if (
                _screen.Script("return [...document.querySelectorAll('[role=option]')].find(e => e.checkVisibility()) ?? null")
                is IWebElement first
            )
            {
                choose(first);
                return;
            }
            Thread.Sleep(40);
        }
    }

    // A page of each type on the desk, a pile, and what a robot would otherwise not meet.
    private static async Task FillAsync(App app)
    {
        var drawn = Directory.CreateTempSubdirectory("press").FullName;
        var pages = HarbourDocuments
            .Incoming()
            .Where(p => p.Design is not null && p.FileName.EndsWith(".pdf", StringComparison.Ordinal))
            .DistinctBy(p => p.Design.TypeCode)
            .ToList();
        foreach (var page in pages)
            HarbourDocuments.Draw(page, drawn);
        var (_, job, _) = await app
            .Services.GetRequiredService<Intake>()
            .BringAsync(
                "Pressed",
                [.. pages.Select(p => new BroughtFile(p.FileName, () => System.IO.File.OpenRead(Path.Combine(drawn, p.FileName))))],
                "Tobias Finch"
            );
        await job!.Completion;
        for (var n = 0; n < 4; n++)
            PileWalk.DrawThing(Path.Combine(drawn, $"found {n}.pdf"), n);
        var piles = app.Services.GetRequiredService<PileSorting>();
        var files = Directory.GetFiles(drawn, "found*").Order().ToList();
        var pile = await piles.BringAsync(
            "Press shelf",
            [.. files.Select(f => new BroughtFile(Path.GetFileName(f), () => System.IO.File.OpenRead(f)))],
            "Maren Holt"
        );
        await (app.Services.GetRequiredService<Jobs>().Running(PileSorting.Subject(pile.Value))?.Completion ?? Task.CompletedTask);
        Directory.Delete(drawn, recursive: true);
    }
}
