using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>A reader that names the languages of its pages: what comes in, what is read again, and its samples are recognised in
/// them.</summary>
public sealed class LanguageTests : IDisposable
{
    private readonly House _house = new();

    public LanguageTests() => Assert.Null(_house.Files.Import(HarbourSeed.Design with { Readers = [] }, "test").Problem);

    private async Task<List<(StoredDocument Document, PageText Page)>> Bring(params HarbourPage[] pages)
    {
        foreach (var page in pages)
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
        return
        [
            .. pages.Select(p =>
            {
                var document = _house.Get(_house.Desk.Queue("me").First(id => _house.Get(id).SourceName == p.FileName));
                return (document, _house.Database.Read(c => DocumentStore.Pages(c, document.Id))[0].Text);
            }),
        ];
    }

    [Fact]
    public async Task What_comes_in_is_recognised_in_the_languages_of_the_reader_that_claims_it_and_of_no_other()
    {
        var office = HarbourReaders.Teach(PageDesigns.CallOffice);
        _house.Teach(office with { Languages = "eng" });
        _house.Teach(HarbourReaders.Teach(PageDesigns.DuesTreasurer));
        var call = HarbourDocuments.Samples(PageDesigns.CallOffice, 1, 1);
        var (scan, pdf) = (call.First(p => p.Scan), call.First(p => !p.Scan));
        var dues = HarbourDocuments.Samples(PageDesigns.DuesTreasurer, 0, 1)[0];
        var came = await Bring(scan, pdf, dues);
        Assert.Equal(
            [("recognised", "eng"), ("text layer", null), ("recognised", null)],
            came.Select(d => (d.Page.Method, d.Page.Languages))
        );
        Assert.Equal(office.Key, came[0].Document.ReaderKey);
        foreach (var field in new[] { "vessel", "imo", "arrived" })
            Assert.Equal(scan.Truth[field], came[0].Document.Record[field]);
        Assert.NotNull(came[0].Page.Ink);
        Assert.Empty(Directory.GetDirectories(_house.Folder.Pages, "*.again", SearchOption.AllDirectories));

        // A page that a person turns is recognised in them too.
        var id = came[0].Document.Id;
        Assert.Null((await _house.Pages.Turn(id, _house.Pages.Look(id, "me")!.Mark, [1], 180, "me").Ended()).Problem);
        Assert.Equal("eng", _house.Database.Read(c => DocumentStore.Pages(c, id))[0].Text.Languages);
        Assert.Null(_house.Pages.Undo(id, "me").Problem);

        // Read again by a version that names others, its values are read from the page as those read it; the kept page stays.
        var emptied = _house.Get(came[0].Document.Id);
        _house.Database.Write(c =>
            DocumentStore.Save(c, emptied with { Record = new Dictionary<string, string>(), Evidence = new Dictionary<string, Evidence>() })
        );
        Assert.Null(_house.Readers.SetLanguages(office.Key, ["deu", "eng"], "me").Problem);
        Assert.Null(_house.Readers.Publish(office.Key, "me").Problem);
        await _house.Rereadings.Look(office.Key, "desk", true, "me").Ended();
        var planned = _house
            .Rereadings.Values(_house.Rereadings.Runs(office.Key)[0], StepState.Planned, 100)
            .Where(v => v.Document == emptied.Id)
            .ToList();
        Assert.Equal(scan.Truth["vessel"], planned.First(v => v.What.Field == "vessel").What.After);
        Assert.Equal("eng", _house.Database.Read(c => DocumentStore.Pages(c, emptied.Id))[0].Text.Languages);
    }

    /// <summary>A design from elsewhere may name what is not here, or no language at all: pages are read in those that are.</summary>
    [Theory]
    [InlineData("zzz")]
    [InlineData("../../etc/passwd+-l")]
    [InlineData("+++")]
    public async Task Languages_that_are_not_here_keep_no_page_from_being_read(string languages)
    {
        var office = HarbourReaders.Teach(PageDesigns.CallOffice);
        _house.Teach(office with { Languages = languages });
        var scan = HarbourDocuments.Samples(PageDesigns.CallOffice, 0, 1)[0];
        var came = (await Bring(scan))[0];
        Assert.Equal(scan.Truth["vessel"], came.Document.Record["vessel"]);
        Assert.Empty(_house.Failures);
        // It is not read over and over.
        Assert.Equal(languages, came.Page.Languages);
    }

    [Fact]
    public async Task Samples_follow_when_the_reader_is_tried_and_what_is_not_installed_is_refused()
    {
        const string key = "my-reader";
        Assert.Equal(key, _house.Readers.Create("My reader", "vessel-call-record", "me").Value);
        var pages = HarbourDocuments.Samples(PageDesigns.CallOffice, 0, 2);
        var first = await Add(pages[0]);
        Assert.Null(Page(first).Languages);
        Assert.Contains("“xyz” is not installed", _house.Readers.SetLanguages(key, ["eng", "xyz"], "me").Problem);
        Assert.Null(_house.Readers.SetLanguages(key, ["eng"], "me").Problem);
        var before = Page(first);
        await _house.Proofs.Start(key, "me").Ended();
        var after = Page(first);
        Assert.Equal("eng", after.Languages);
        // The same page, read once more: what is no word is as it was, and most words are where they were.
        Assert.Equal((before.Size, before.Ink, before.Lay), (after.Size, after.Ink, after.Lay));
        var same = after.Words.Count(w => before.Words.Any(b => b.Text == w.Text && b.Box.Overlaps(w.Box)));
        Assert.InRange(same, before.Words.Count / 2, before.Words.Count);
        // One that is added from now on is read in them at once.
        Assert.Equal("eng", Page(await Add(pages[1])).Languages);
        Assert.NotNull(_house.Readers.Undo(key, "me"));
        await _house.Proofs.Start(key, "me").Ended();
        Assert.Equal(before.Words, Page(first).Words);

        PageText Page(long id) => _house.Readers.Sample(id)!.Page;
        async Task<long> Add(HarbourPage page)
        {
            HarbourDocuments.Draw(page, _house.Folder.Drafts);
            var path = Path.Combine(_house.Folder.Drafts, page.FileName);
            return (await _house.Readers.AddSampleAsync(key, new BroughtFile(page.FileName, () => File.OpenRead(path)), page.Truth)).Value;
        }
    }

    public void Dispose() => _house.Dispose();
}
