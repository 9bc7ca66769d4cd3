using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>From a pile of unlabelled pages to a published type with a reader that files the next stack.</summary>
public class PileWalk(HarbourFixture harbour)
{
    private readonly Screen _screen = new(harbour);

    private static readonly string[] Found = ["Boat hook", "Oilskin coat", "Brass lamp", "Sea chest", "Umbrella"];

    private static readonly PageDesign Design = new(
        "lost",
        "Lost",
        "",
        "Things Found on the Quays",
        "Harbour Watch House",
        "d MMM yyyy",
        Boxed: false,
        [
            new Cell("number", "Entry", 52, 140, 210, 140, 320),
            new Cell("day", "Found on", 52, 174, 210, 174, 320),
            new Cell("what", "What it is", 52, 208, 210, 208, 320),
            new Cell("where", "Kept in", 52, 242, 210, 242, 320),
        ]
    );

    private static readonly PageDesign Water = new(
        "water",
        "Water",
        "",
        "Fresh Water Delivered",
        "Harbour Board Water Office",
        "d MMM yyyy",
        Boxed: false,
        [
            new Cell("number", "Note number", 52, 140, 210, 140, 320),
            new Cell("day", "Delivered on", 52, 174, 210, 174, 320),
            new Cell("ship", "Ship", 52, 208, 210, 208, 320),
            new Cell("hydrant", "Hydrant", 52, 242, 210, 242, 320),
            new Cell("tons", "Tons", 52, 276, 210, 276, 320),
        ]
    );

    /// <summary>A note of the water office.</summary>
    internal static void DrawWaterNote(string path, int n) =>
        PageDrawing.Pdf(
            path,
            Water,
            new Dictionary<string, string>
            {
                ["number"] = $"FW-{2023 + n % 2}-{n * 37 + 11:00000}",
                ["day"] = $"{n * 3 % 27 + 1} {new[] { "Mar", "Apr", "May" }[n % 3]} 2024",
                ["ship"] = new[] { "Redshank", "Grey Heron", "Fulmar Sky", "Dunlin", "Marsh Harrier" }[n % 5],
                ["hydrant"] = new[] { "North Quay", "South Quay", "Coal Staith" }[n % 3],
                ["tons"] = $"{n * 7 + 12}",
            }
        );

    /// <summary>An entry of the watch house.</summary>
    internal static void DrawThing(string path, int n) =>
        PageDrawing.Pdf(
            path,
            Design,
            new Dictionary<string, string>
            {
                ["number"] = $"TF-{1000 + n * 37}",
                ["day"] = $"{n % 27 + 1} {new[] { "Mar", "Apr", "May" }[n % 3]} 2024",
                ["what"] = $"{Found[n % 5]} {n}",
                ["where"] = new[] { "Loft one", "Store four" }[n % 2],
            }
        );

    [Fact]
    public void A_pile_becomes_a_type_and_its_reader_files_the_next_stack()
    {
        _screen.SignIn(Roles.Steward);
        var folder = Directory.CreateDirectory(Path.Combine(harbour.Data, "..", $"pile-{Guid.NewGuid():N}")).FullName;
        for (var n = 0; n < 7; n++)
            DrawThing(Path.Combine(folder, $"found {n}.pdf"), n);
        foreach (var page in HarbourDocuments.Samples(PageDesigns.CallAgent, 2, 0))
            HarbourDocuments.Draw(page, folder);
        _screen.Go("/Readers");
        _screen.Press("#pile-files", string.Join('\n', Directory.GetFiles(folder).Order()));
        _screen.Fill("#pile-name", "Cellar shelf 4");
        _screen.Click("#piles button.plain");
        _screen.Sees("h1");
        _screen.Until(() => _screen.Text("main").Contains("Things Found on the Quays", StringComparison.Ordinal), "the pile is not sorted");
        _screen.Reads("main", "7 pages");
        _screen.Reads("aside", "Call record, agents’ form");
        _screen.Click("a[href*='group=1']");

        // One page of decisions: what is proposed, corrected and kept.
        _screen.Sees("#new-type");
        _screen.Reads("#new-type", "TF-1000");
        _screen.Fill("#type-name", "Thing found");
        _screen.Fill("input[name='label.0']", "Entry number");
        _screen.Click("#new-type button.primary");
        _screen.Reads("h1", "Thing found");
        _screen.Reads("main", "Entry number");
        _screen.Click("form[hx-post*=Publish] button");
        _screen.Until(() => harbour.Get<Designs>().Published.ContainsKey("thing-found"), "the type is not published");
        _screen.Go("/Readers/Reader/thing-found");
        _screen.Reads("aside", "Claims this page");
        _screen.Click("#publish");
        _screen.Reads(".notice", "Published as version 1");

        // The next stack is known, read and filed.
        var next = Path.Combine(folder, "next");
        Directory.CreateDirectory(next);
        for (var n = 30; n < 33; n++)
            DrawThing(Path.Combine(next, $"later {n}.pdf"), n);
        _screen.Go("/Desk");
        _screen.Press("#files", string.Join('\n', Directory.GetFiles(next).Order()));
        _screen.Click("form[data-drop] button[type=submit]");
        for (var n = 30; n < 33; n++)
        {
            var name = $"later {n}.pdf";
            _screen.Until(
                () =>
                {
                    if (harbour.Get<DeskDocuments>().Waiting("Maren Holt").Exists(d => d.Document.SourceName == name))
                        return true;
                    Thread.Sleep(300);
                    return false;
                },
                "the page was not read"
            );
            var document = harbour.Get<DeskDocuments>().Waiting("Maren Holt").First(d => d.Document.SourceName == name).Document;
            _screen.Go($"/Desk/Document/{document.Id}");
            _screen.Reads("#leads", $"TF-{1000 + n * 37}");
            _screen.Click("#file-this button:not(:disabled)");
            _screen.Until(() => harbour.Get<DeskDocuments>().Find(document.Id, "Maren Holt")!.Document.Filed, "it is not filed");
        }
        Directory.Delete(folder, recursive: true);
        Assert.Empty(_screen.Complaints());
    }

    [Fact]
    public void A_value_shown_elsewhere_is_read_there_from_now_on_for_the_design()
    {
        _screen.SignIn(Roles.Steward);
        // A form of the office on which the master stands lower than the reader was taught.
        var page = Path.Combine(harbour.Data, "moved.pdf");
        var known = PageDesigns.CallOffice;
        var moved = known with
        {
            Cells = [.. known.Cells.Select(c => c.Field == "master" ? c with { Y = 700, ValueY = 700, Label = "Captain of the ship" } : c)],
        };
        var truth = HarbourDocuments.Samples(known, 1, 0)[0];
        PageDrawing.Pdf(page, moved, truth.Printed);
        _screen.Go("/Desk");
        _screen.Press("#files", page);
        _screen.Click("form[data-drop] button[type=submit]");
        long id = 0;
        _screen.Until(
            () =>
                (id = harbour.Get<DeskDocuments>().Waiting("Maren Holt").Find(d => d.Document.SourceName == "moved.pdf")?.Document.Id ?? 0)
                > 0,
            "the page was not read"
        );
        _screen.Go($"/Desk/Document/{id}");
        _screen.Click("#f-master");
        var cell = moved.Cells.First(c => c.Field == "master");
        _screen.Drag("svg[data-pick]", cell.Zone.X, cell.Zone.Y, cell.Zone.W, cell.Zone.H);
        _screen.Reads("#learn-master", "Shown for this document only.");
        _screen.Click("#learn-master a.do");
        _screen.Reads("#learn-master", "From now on right of “Captain of the ship”");
        _screen.Reads("#learn-master", "1 better, 0 worse");
        _screen.Click("#learn-master button.plain");
        _screen.Reads(".notice", "Kept: version 2");
        Assert.Empty(_screen.Complaints());
    }
}
