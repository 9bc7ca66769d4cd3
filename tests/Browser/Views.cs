using ClearLexicon.Demo;
using ClearLexicon.Services;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>Every main view: no serious or critical violation, no complaint of the browser, no sideways scrolling; pictures on request.</summary>
public class Views(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    [Fact]
    public async Task Every_main_view_is_accessible_and_fits()
    {
        await Bring();
        _screen.SignIn(Roles.Steward);
        var inventory = harbour.Get<Migrations>().All()[^1].Id;
        var desk = harbour.Get<Desk>().Waiting("Maren Holt");
        var filed = harbour.Get<Storage.Database>().Read(c => Storage.RepositoryStore.Find(c, new Storage.RepositoryQuery(), 1, 0))[0].Id;
        (string Name, string Address, string? At)[] views =
        [
            ("today", "/", null),
            ("design", "/Design/Type/vessel-call-record", null),
            ("design-types", "/Design", null),
            ("convention-preview", "/Design/Type/harbour-dues-statement", ".composer"),
            ("vocabulary", "/Design/Vocabulary/berths", null),
            ("readers", "/Readers", null),
            ("reader", "/Readers/Reader/call-record-agents-form", null),
            ("proof-table", "/Readers/Reader/dues-note-older-form", "#proof"),
            ("desk", "/Desk", null),
            ("desk-by-document", $"/Desk/Document/{desk.First(d => d.State == "must" && d.Judged is not null).Document.Id}", null),
            ("repository", "/Repository?type=vessel-call-record&field=berth&text=tanker", null),
            ("repository-document", $"/Repository/Document/{filed}", null),
            ("migration-profile", $"/Migration/Inventory/{inventory}", null),
            ("dry-run", $"/Migration/Inventory/{inventory}", "#dry-run"),
            ("ledger", "/Ledger", null),
        ];
        var wrong = new List<string>();
        foreach (var (name, address, at) in views)
        {
            _screen.Go(address);
            if (name == "convention-preview") _screen.Click("#piece-name-0");
            if (at is not null) _screen.Script("window.scrollTo(0, document.querySelector(arguments[0]).getBoundingClientRect().top + window.scrollY - 60)", at);
            Picture(name);
            wrong.AddRange(_screen.Violations().Select(v => $"{name}: {v}"));
            wrong.AddRange(_screen.Complaints().Select(c => $"{name}: {c}"));
            if ((bool)_screen.Script("return document.documentElement.scrollWidth > document.documentElement.clientWidth")!) wrong.Add($"{name}: scrolls sideways");
        }
        Assert.True(wrong.Count == 0, string.Join("\n", wrong));
    }

    /// <summary>With the keyboard alone a person gets from the address bar to every field of a desk document.</summary>
    [Fact]
    public async Task A_desk_document_is_reached_by_keyboard()
    {
        await Bring();
        _screen.SignIn(Roles.Indexer);
        _screen.Go($"/Desk/Document/{harbour.Get<Desk>().Waiting("Maren Holt").First(d => d.Judged is not null).Document.Id}");
        var seen = new HashSet<string>();
        _screen.Script("document.body.focus(); document.querySelector('.skip').focus()");
        for (var i = 0; i < 60; i++)
        {
            seen.Add((string)_screen.Script("return document.activeElement.id || ''")!);
            _screen.Keys(Keys.Tab);
        }
        Assert.Contains("top-search", seen);
        Assert.True(seen.Count(id => id.StartsWith("f-", StringComparison.Ordinal)) >= 11, string.Join(' ', seen));
    }

    private async Task Bring()
    {
        if (harbour.Get<Desk>().Waiting("Maren Holt").Any(d => d.Judged is not null && d.State == "must")) return;
        var folder = Path.Combine(harbour.Data, "some");
        Directory.CreateDirectory(folder);
        var pages = HarbourDocuments.Incoming().Where(p => Screens.Folder is not null || !p.Scan).Take(10).ToList();
        foreach (var page in pages) HarbourDocuments.Draw(page, folder);
        var (_, job) = await harbour.Get<Intake>().BringAsync("Some pages", [.. pages.Select(p => new BroughtFile(p.FileName, () => File.OpenRead(Path.Combine(folder, p.FileName))))], "Tobias Finch");
        await job.Completion;
    }

    private void Picture(string name)
    {
        if (Screens.Folder is { } folder) harbour.Driver.GetScreenshot().SaveAsFile(Path.Combine(folder, name + ".png"));
    }
}
