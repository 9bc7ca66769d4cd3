using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Migration;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>
/// Every main view: no serious or critical violation, no complaint of the browser, no sideways scrolling; pictures on request.
/// </summary>
public class Views(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    [Fact]
    public async Task Every_main_view_is_accessible_and_fits()
    {
        await Bring();
        TwoVersions();
        _screen.SignIn(Roles.Steward);
        var letters = await BringStack("mail-room");
        await BringStack("goods");
        var pile = await BringPile();
        var inventory = harbour.Get<Migrations>().All()[^1].Id;
        var desk = harbour.Get<DeskDocuments>().Waiting("Maren Holt");
        var filed = harbour
            .Get<Storage.Database>()
            .Read(c => Storage.RepositorySearch.Find(c, new Storage.RepositoryQuery(), 1).Documents)[0]
            .Id;
        var joined = Joined([.. desk.Where(d => d.State == Readiness.Ready).TakeLast(4).Select(d => d.Document.Id)]);
        (string Name, string Address, string? At)[] views =
        [
            ("today", "/", null),
            ("design", "/Design/Type/vessel-call-record", null),
            ("", "/Design", null),
            ("threads", "/Design/Threads/vessel-call-record?follow=field-arrived", null),
            (
                "convention",
                $"/Design/Convention/vessel-call-record?source=inventory-{inventory}&open=Vessel calls/1986&list=Vessel calls/1986/01 "
                    + "January",
                null
            ),
            ("", "/Design/Check/harbour-dues-statement", null),
            ("", "/Design/Type/harbour-dues-statement", "#row-services"),
            ("rule-editor", "/Design/Type/dangerous-goods-note", "#row-rule-r1"),
            ("vocabulary", "/Design/Vocabulary/berths?term=north-quay-1", null),
            ("", "/Design/Review/cargo", null),
            ("", "/Design/Compare/hot-work-permit", null),
            ("", "/Readers", null),
            ("", "/Design/Paths/hot-work-permit", null),
            ("", "/Design/Refile/vessel-call-record", null),
            ("reader", "/Readers/Reader/call-record-agents-form", null),
            ("proof-table", "/Readers/Reader/dues-note-older-form", "#proof"),
            ("pile", $"/Readers/Pile/{pile}", null),
            ("", $"/Readers/Pile/{pile}?group=1", null),
            ("proposal", "/Readers/Reader/sounding-sheet-survey-office?propose=true", null),
            ("", "/Readers/Again/call-record-agents-form", null),
            ("", "/Desk", null),
            ("", "/Desk/Filing", null),
            ("", $"/Desk/Pages/{joined}", null),
            ("desk-by-document", $"/Desk/Document/{desk.First(d => d.State == Readiness.Must && d.Judged is not null).Document.Id}", null),
            ("desk-by-field", "/Desk/ByField?type=vessel-call-record&field=imo", null),
            ("stack", $"/Desk/Stack/{letters}", null),
            ("ways-in", "/Desk/WaysIn", null),
            ("", "/Desk/WayIn?key=mail-room", null),
            ("", "/Desk/Sheets?type=pilotage-certificate", null),
            ("repository", "/Repository?type=vessel-call-record&ask=Berth+is+filled", null),
            ("", "/Repository/Export?type=vessel-call-record&ask=Vessel+type+is+Tanker", null),
            ("", "/Repository/Exports", null),
            ("", "/Repository/BulkEdit?type=vessel-call-record", null),
            ("", $"/Repository/Retype?document={filed}", null),
            ("", "/Repository/Notices?type=vessel-call-record", null),
            ("repository-document", $"/Repository/Document/{filed}", null),
            ("migration-profile", $"/Migration/Inventory/{inventory}", null),
            ("dry-run", $"/Migration/Inventory/{inventory}", "#dry-run"),
            ("", "/Repository/IntegrityCheck", null),
            ("", "/Design/Import/cargo", null),
            ("", "/Design/Table/vessel-register", null),
            ("", "/Design/ClosedDays", null),
            ("", "/Design/File", null),
            ("", "/Design/Version/hot-work-permit/1", null),
            ("", "/Person", null),
            ("", "/Ledger", null),
            ("consequences", "/Design/Publish/harbour-dues-statement", null),
        ];
        var wrong = new List<string>();
        foreach (var (name, address, at) in views)
        {
            if (name == "consequences")
                await LookAtConsequences();
            _screen.Go(address);
            if (at == "#row-services")
                _screen.Click(at);
            if (name == "rule-editor")
                OpenRuleEditor();
            if (at is not null)
                _screen.Script(
                    "window.scrollTo(0, document.querySelector(arguments[0]).getBoundingClientRect().top + window.scrollY - 60)",
                    at
                );
            Picture(name);
            wrong.AddRange(_screen.Violations().Select(v => $"{name}: {v}"));
            wrong.AddRange(_screen.Complaints().Select(c => $"{name}: {c}"));
            wrong.AddRange(_screen.SidewaysScrolling().Select(s => $"{name} {address}: {s}"));
        }
        harbour.Get<Drafts>().Undo("harbour-dues-statement", "Maren Holt");
        Assert.True(wrong.Count == 0, string.Join("\n", wrong));
    }

    // Several pages in one document, one of them taken out.
    private long Joined(List<long> ids)
    {
        var pages = harbour.Get<DocumentPages>();
        string Mark() => pages.Look(ids[0], "Maren Holt")!.Mark;
        foreach (var other in ids.Skip(1))
            Assert.Null(pages.Join(ids[0], Mark(), other, "Maren Holt").Problem);
        if (ids.Count > 2)
            Assert.Null(pages.TakeOut(ids[0], Mark(), [ids.Count], "Maren Holt").Problem);
        return ids[0];
    }

    // What lay on a shelf: pages of designs that nobody has taught, and some of one that is known.
    private async Task<long> BringPile()
    {
        var shelf = Directory.CreateTempSubdirectory("shelf").FullName;
        for (var n = 0; n < 8; n++)
        {
            PileWalk.DrawWaterNote(Path.Combine(shelf, $"water {n}.pdf"), n);
            if (n < 5)
                PileWalk.DrawThing(Path.Combine(shelf, $"found {n}.pdf"), n);
        }
        foreach (var page in HarbourDocuments.Samples(PageDesigns.CallAgent, 3, 0))
            HarbourDocuments.Draw(page, shelf);
        var files = Directory.GetFiles(shelf).Order().Select(f => new BroughtFile(Path.GetFileName(f), () => File.OpenRead(f))).ToList();
        var piles = harbour.Get<PileSorting>();
        var pile = (await piles.BringAsync("Cellar, shelf 4", files, "Maren Holt")).Value;
        await (harbour.Get<Jobs>().Running(PileSorting.Subject(pile))?.Completion ?? Task.CompletedTask);
        Directory.Delete(shelf, recursive: true);
        return pile;
    }

    // What the copier holds for a way in, as its watched folder would bring it.
    private async Task<long> BringStack(string way)
    {
        var stack = Directory.GetFiles(Path.Combine(harbour.Copier, way)).Order().First();
        var (batch, job, _) = await harbour
            .Get<Intake>()
            .BringAsync(
                Path.GetFileName(stack),
                [new BroughtFile(Path.GetFileName(stack), () => File.OpenRead(stack))],
                harbour.Get<WaysIn>().Find(way)!.Name,
                way
            );
        await job!.Completion;
        return batch;
    }

    // A narrower range and another folder, not published.
    private async Task LookAtConsequences()
    {
        Assert.Null(
            harbour
                .Get<Drafts>()
                .Change(
                    "harbour-dues-statement",
                    "narrowed the total",
                    "Maren Holt",
                    t =>
                        t with
                        {
                            Fields = [.. t.Fields.Select(f => f.Key == "total" ? (RangedField)f with { Max = "900" } : f)],
                            Convention = t.Convention with { Folder = [.. t.Convention.Folder.SkipLast(2)] },
                        }
                )
                .Problem
        );
        await harbour.Get<Publishing>().StartLook("harbour-dues-statement").Value!.Completion;
    }

    /// <summary>With the keyboard alone a person gets from the address bar to every field of a desk document.</summary>
    [Fact]
    public async Task A_desk_document_is_reached_by_keyboard()
    {
        await Bring();
        _screen.SignIn(Roles.Indexer);
        _screen.Go(
            $"/Desk/Document/{harbour.Get<DeskDocuments>().Waiting("Maren Holt").First(d => d.Document.TypeCode == "vessel-call-record").Document.Id}"
        );
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

    // A second version of one type, so that there is something to compare.
    private void TwoVersions()
    {
        var (designs, drafts) = (harbour.Get<Designs>(), harbour.Get<Drafts>());
        if (designs.Find("hot-work-permit")!.Version > 1)
            return;
        Assert.Null(
            drafts
                .Change(
                    "hot-work-permit",
                    "wrote what the day book asked for",
                    "Maren Holt",
                    type =>
                        type with
                        {
                            Fields =
                            [
                                .. type.Fields.Select(f =>
                                    f.Key switch
                                    {
                                        "gas-free" => f with { RequiredWhen = Condition.When("berth", Operator.Within, "Tanker Jetties") },
                                        "fee" => (RangedField)f with { Max = "500", Help = "Waived for the authority’s own yard." },
                                        "responsible" => f with { Label = "Responsible person", DefaultFrom = DefaultSource.Person },
                                        _ => f,
                                    }
                                ),
                                new DateField("watch-until", "Fire watch until")
                                {
                                    RequiredWhen = Condition.When("fire-watch", Operator.Is, "yes"),
                                },
                            ],
                            Rules =
                            [
                                .. type.Rules.Where(r => r.Id != "r4"),
                                new Rule(
                                    "r6",
                                    "compare",
                                    Level.Should,
                                    new Dictionary<string, string>
                                    {
                                        ["first"] = "watch-until",
                                        ["how"] = "at-least",
                                        ["second"] = "valid-to",
                                        ["shift"] = "",
                                        ["by"] = "",
                                    }
                                ),
                            ],
                        }
                )
                .Problem
        );
        Assert.Null(drafts.Publish("hot-work-permit", "Maren Holt").Problem);
    }

    private void OpenRuleEditor()
    {
        _screen.Click("#row-new-rule");
        _screen.Choose("#kind-new-rule", "A text matches a pattern");
        _screen.Choose("#matches-field-new-rule", "Note number");
        _screen.Script("document.querySelector('#pattern-example-matches-pattern-new-rule').closest('details').open = true");
        _screen.Press("#pattern-example-matches-pattern-new-rule", "DG-2024-0107" + Keys.Tab);
        _screen.Reads("#pattern-of-matches-pattern-new-rule", "two capital letters, dash, year, dash, four digits");
        _screen.Quiet();
    }

    private async Task Bring()
    {
        if (
            harbour
                .Get<DeskDocuments>()
                .Waiting("Maren Holt")
                .Any(d => d.Document.TypeCode == "vessel-call-record" && d.State == Readiness.Must)
        )
            return;
        var folder = Path.Combine(harbour.Data, "some");
        Directory.CreateDirectory(folder);
        var pages = HarbourDocuments.Incoming().Where(p => Screens.Folder is not null || !p.Scan).Take(10).ToList();
        foreach (var page in pages)
            HarbourDocuments.Draw(page, folder);
        var (_, job, _) = await harbour
            .Get<Intake>()
            .BringAsync(
                "Some pages",
                [.. pages.Select(p => new BroughtFile(p.FileName, () => File.OpenRead(Path.Combine(folder, p.FileName))))],
                "Tobias Finch"
            );
        await job!.Completion;
    }

    private void Picture(string name)
    {
        if (name.Length > 0 && Screens.Folder is { } folder)
            harbour.Driver.GetScreenshot().SaveAsFile(Path.Combine(folder, name + ".png"));
    }
}
