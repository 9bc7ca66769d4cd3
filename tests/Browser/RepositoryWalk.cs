using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;
using OpenQA.Selenium;

namespace ClearLexicon.Browser.Tests;

/// <summary>
/// A batch checked by field, one document parked and completed; then asked for, saved as a view, edited in bulk and taken back, and sent
/// out as redacted copies.
/// </summary>
public class RepositoryWalk(HarbourFixture harbour)
{
    private const string Code = "vessel-call-record";

    private readonly Screen _screen = new(harbour);

    private StoredDocument Get(long id) => harbour.Get<Database>().Read(c => DocumentStore.Find(c, id))!;

    private async Task<(long Batch, List<long> Ids)> BringAsync(int count)
    {
        var folder = Directory.CreateTempSubdirectory("walk").FullName;
        var files = new List<BroughtFile>();
        foreach (var page in HarbourDocuments.Samples(PageDesigns.CallOffice, count + 4, 0).Skip(4))
        {
            HarbourDocuments.Draw(page, folder);
            var path = Path.Combine(folder, page.FileName);
            files.Add(new BroughtFile("walk " + page.FileName, () => File.OpenRead(path)));
        }
        var (batch, job, _) = await harbour.Get<Intake>().BringAsync("Walk", files, "Maren Holt");
        await job!.Completion;
        Directory.Delete(folder, recursive: true);
        return (batch, harbour.Get<DeskDocuments>().Waiting("Maren Holt", batch).ConvertAll(d => d.Document.Id));
    }

    [Fact]
    public async Task Checked_by_field_parked_and_completed_then_asked_edited_in_bulk_and_sent_out()
    {
        var (batch, ids) = await BringAsync(4);
        Assert.Equal(4, ids.Count);
        // As if recognition had misread a vessel, and was not sure of it.
        harbour
            .Get<Database>()
            .Write(c =>
            {
                var one = Get(ids[2]);
                DocumentStore.Save(
                    c,
                    one with
                    {
                        Record = new Dictionary<string, string>(one.Record) { ["vessel"] = "Grev Heron" },
                        Evidence = new Dictionary<string, Core.Reading.Evidence>(one.Evidence)
                        {
                            ["vessel"] = one.Evidence["vessel"] with { Confidence = 0.5 },
                        },
                    }
                );
            });
        _screen.SignIn(Roles.Steward);
        _screen.Go($"/Desk/ByField?type={Code}&field=vessel&batch={batch}");
        // What needs a look stands first and has the focus: typing corrects it, Enter takes it and goes on.
        _screen.Until(
            () => (string)_screen.Script("return document.activeElement.value ?? ''")! == "Grev Heron",
            "the doubtful value has not the focus"
        );
        _screen.Chord(Keys.Control, "a");
        _screen.Keys("Grey Heron", Keys.Enter);
        _screen.Until(() => Get(ids[2]).Record["vessel"] == "Grey Heron", "the correction was not kept");
        _screen.Until(
            () => (string)_screen.Script("return document.activeElement.value ?? ''")! is { Length: > 0 } next && next != "Grey Heron",
            "the next value has not the focus"
        );
        _screen.Keys(Keys.Enter, Keys.Enter, Keys.Enter);
        foreach (var id in ids)
            _screen.Until(
                () => harbour.Get<DeskDocuments>().ValueOf(id, "vessel", "Maren Holt")!.Place is null or { Confidence: 1 } || id == ids[2],
                $"{id} was not taken"
            );
        Assert.Empty(_screen.Violations());

        // One is parked, and completed later.
        _screen.Go($"/Desk/Document/{ids[0]}");
        _screen.Click("#park");
        _screen.Fill("#park-reason", "The agent has to confirm the berth");
        _screen.Fill("#park-for", "indexer");
        _screen.Press("#park-due", "tomorrow" + Keys.Enter);
        _screen.Until(() => harbour.Get<ParkedDocuments>().Find(ids[0]) is { ForWhom: "indexer" }, "it was not parked");
        _screen.Go("/Desk");
        _screen.Reads("#parked", "The agent has to confirm the berth");
        _screen.Click($"#parked a[href='/Desk/Document/{ids[0]}']");
        _screen.Reads("#parking", "for indexer");
        // The value is held for those that follow, and released again.
        _screen.Press("#f-agent", Keys.Alt + "h");
        _screen.Reads("#held", "Release");
        _screen.Press("#f-agent", Keys.Alt + "h");
        _screen.Until(() => !_screen.Has("#held"), "it is still held");
        foreach (var id in ids)
        {
            if (Get(id).Filed)
                continue;
            _screen.Go($"/Desk/Document/{id}");
            _screen.Chord(Keys.Control, Keys.Enter);
            _screen.Until(() => Get(id).Filed, $"{Get(id).SourceName} was not filed");
        }
        Assert.DoesNotContain(harbour.Get<ParkedDocuments>().All("Maren Holt"), p => ids.Contains(p.Document.Id));

        // Asked for in one sentence, which is completed; narrowed; saved.
        _screen.Go($"/Repository?type={Code}");
        _screen.Fill("#ask", "Arrived is from 1990 and ves");
        _screen.Sees("#asks option[value='Arrived is from 1990 and Vessel ']");
        _screen.Fill("#ask", "Vessel is Grey Heron or Vessel is one of Nobody, Nothing");
        _screen.Press("#ask", Keys.Enter);
        _screen.Reads(".one-condition", "Vessel is Grey Heron");
        _screen.Sees("#facets .facet a");
        var found = _screen.Text("#found-count");
        _screen.Click(".conditions details.save summary");
        _screen.Fill("#view-name", "Grey Herons");
        _screen.Press("#view-name", Keys.Enter);
        _screen.Reads(".notice", "Saved as “Grey Herons”");
        _screen.Reads("#views", "Grey Herons");
        _screen.Go($"/Repository?type={Code}");
        _screen.Click("#views a");
        _screen.Reads("#found-count", found);
        Assert.Empty(_screen.Violations());

        // One wrong agent is one edit, and one undo.
        var asked = harbour
            .Get<SearchRequests>()
            .For(new ViewDefinition { Type = Code, Ask = "Vessel is Grey Heron" }, new Rights([Roles.Steward]));
        var before = harbour
            .Get<FiledSearch>()
            .First(asked.Query, 50)
            .ToDictionary(d => d.Id, d => d.Record.GetValueOrDefault("agent", ""));
        _screen.Click("a[href^='/Repository/BulkEdit']");
        _screen.Choose("#field", "Agent");
        _screen.Fill("#text", "Walkers and Sons");
        _screen.Click("#look");
        _screen.Reads("#would-change", $"{before.Count}");
        _screen.Click("#apply");
        _screen.Reads("#changed", $"{before.Count}");
        Assert.All(before.Keys, id => Assert.Equal("Walkers and Sons", Get(id).Record["agent"]));
        _screen.Click("#undo");
        _screen.Until(() => before.All(b => Get(b.Key).Record.GetValueOrDefault("agent", "") == b.Value), "it was not taken back");

        // Sent out as redacted copies: of what the plan hides nothing is on them.
        _screen.Go($"/Repository/Export?type={Code}&ask=Vessel+is+Grey+Heron");
        _screen.Fill("#plan-name", "Herons for the board");
        _screen.Choose("#files", "redacted copies");
        _screen.Click("#hide-imo");
        _screen.Script("const c = document.querySelector('#plan-columns'); c.value = c.value.replace('IMO number\\n', '')");
        _screen.Fill("#folder", "Herons");
        _screen.Click("#save");
        _screen.Reads(".notice", "Kept.");
        Assert.Empty(_screen.Violations());
        _screen.Click("#run");
        _screen.Reads("#runs", "Download as ZIP");
        var plan = harbour.Get<ExportPlans>().All().Single(p => p.Name == "Herons for the board");
        var run = harbour.Get<Exports>().Of(plan.Id)[0];
        var folder = harbour.Get<Exports>().FolderOf(run)!;
        var copies = Directory.GetFiles(folder, "*.pdf", SearchOption.AllDirectories);
        Assert.NotEmpty(copies);
        var numbers = before.Keys.Select(id => Get(id).Record["imo"]).ToList();
        foreach (var copy in copies)
            using (var pdf = UglyToad.PdfPig.PdfDocument.Open(copy))
                Assert.All(
                    pdf.GetPages(),
                    page => Assert.DoesNotContain(numbers, number => page.Text.Contains(number, StringComparison.Ordinal))
                );
        Assert.Empty(_screen.Complaints());
    }
}
