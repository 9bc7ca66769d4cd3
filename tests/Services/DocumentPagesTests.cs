using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Pages of documents on the desk: moved, turned, taken out, cut, joined, added, and taken back.</summary>
public sealed class DocumentPagesTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    private async Task<List<long>> Brought(int pdfs, int scans)
    {
        foreach (var page in HarbourDocuments.Samples(PageDesigns.CallOffice, pdfs, scans))
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("ann"))!.Value.Job!.Completion;
        return _house.Desk.Queue("ann");
    }

    private string Mark(long id) => _house.Pages.Look(id, "ann")!.Mark;

    private List<StoredPage> PagesOf(long id) => _house.Desk.Pages(id);

    // What a person would see: pages in order, values, and where they stand.
    private Dictionary<long, string> State() =>
        _house
            .Desk.Queue("ann")
            .ToDictionary(
                id => id,
                id =>
                {
                    var d = _house.Get(id);
                    return string.Join(
                        '\n',
                        PagesOf(id)
                            .Select(p => p.Image)
                            .Concat(d.Record.OrderBy(r => r.Key, StringComparer.Ordinal).Select(r => $"{r.Key}={r.Value}"))
                            .Concat(
                                d.Evidence.OrderBy(e => e.Key, StringComparer.Ordinal).Select(e => $"{e.Key}@{e.Value.Page} {e.Value.Box}")
                            )
                            .Append($"{d.TypeCode} {d.ReaderKey} {d.SourceName} {_house.Pages.Look(id, "ann")!.Last?.Id}")
                    );
                }
            );

    // What holds whatever was done: pages are numbered through, none is lost or twice, and each value stands where its evidence says.
    private void Whole(List<string> all)
    {
        var seen = new List<string>();
        foreach (var id in _house.Desk.Queue("ann"))
        {
            var set = _house.Pages.Look(id, "ann")!;
            var pages = PagesOf(id);
            Assert.NotEmpty(pages);
            Assert.Equal(Enumerable.Range(1, pages.Count), pages.Select(p => p.Number));
            seen.AddRange(set.Pages.Concat(set.Aside).Select(p => p.From));
            foreach (var (field, place) in _house.Get(id).Evidence.Where(e => e.Value is { Raw.Length: > 0, Page: > 0 }))
            {
                Assert.InRange(place.Page, 1, pages.Count);
                if (pages[place.Page - 1].Text.Method == "text layer")
                    // On a page that lies on its side words come in another order.
                    Assert.Superset(
                        place.Raw.Split(' ').ToHashSet(),
                        ZoneReading.ReadRegion(pages[place.Page - 1].Text, place.Page, Wider(place.Box))!.Raw.Split(' ').ToHashSet()
                    );
                Assert.True(_house.Get(id).Record.ContainsKey(field) || place.Method is "empty" or "text layer" or "recognised");
            }
        }
        Assert.Equal(all, seen.Order(StringComparer.Ordinal));
    }

    private async Task<string?> Turned(long id, List<int> pages, int degrees)
    {
        var started = _house.Pages.Turn(id, Mark(id), pages, degrees, "ann");
        if (started.Value is not { } job)
            return started.Problem;
        await job.Completion;
        return job.Problem;
    }

    private static Box Wider(Box box) => new(box.X - 0.001, box.Y - 0.001, box.W + 0.002, box.H + 0.002);

    [Fact]
    public async Task Whatever_is_done_no_page_is_lost_evidence_follows_and_undo_leads_back_to_the_start()
    {
        await Brought(6, 0);
        var all = _house
            .Desk.Queue("ann")
            .SelectMany(id => _house.Pages.Look(id, "ann")!.Pages)
            .Select(p => p.From)
            .Order(StringComparer.Ordinal)
            .ToList();
        Assert.Equal(6, all.Distinct().Count());
        var ids = _house.Desk.Queue("ann");
        foreach (var (to, from) in new[] { (0, 1), (0, 2), (3, 4) })
            Assert.Null(_house.Pages.Join(ids[to], Mark(ids[to]), ids[from], "ann").Problem);
        for (var seed = 1; seed <= 4; seed++)
        {
            var random = new Random(seed);
            var before = State();
            var done = new Stack<long>();
            for (var step = 0; step < 14; step++)
            {
                var queue = _house.Desk.Queue("ann");
                var id = queue[random.Next(queue.Count)];
                var other = queue[random.Next(queue.Count)];
                var count = PagesOf(id).Count;
                List<int> some = [.. Enumerable.Range(1, count).Where(_ => random.Next(2) == 0)];
                var result = random.Next(7) switch
                {
                    0 => _house.Pages.Move(id, Mark(id), some, random.Next(1, count + 2), "ann"),
                    1 => _house.Pages.TakeOut(id, Mark(id), some, "ann"),
                    2 => _house.Pages.Look(id, "ann")!.Aside is [var aside, ..]
                        ? _house.Pages.PutBack(id, Mark(id), aside.Id, "ann")
                        : "nothing",
                    3 => _house.Pages.Send(id, Mark(id), some, other, "ann"),
                    4 => new Result(_house.Pages.Cut(id, Mark(id), random.Next(2, count + 2), "ann").Problem),
                    5 => new Result((await Turned(id, some, 90 * random.Next(1, 4)))),
                    _ => _house.Pages.Join(id, Mark(id), other, "ann"),
                };
                if (result.Ok)
                    done.Push(_house.Pages.Look(id, "ann") is null ? other : id);
                Whole(all);
            }
            Assert.True(done.Count > 4, "hardly anything was done");
            foreach (var id in done)
                Assert.Null(_house.Pages.Undo(id, "ann").Problem);
            Whole(all);
            Assert.Equal(before, State());
        }
    }

    [Fact]
    public async Task What_a_person_has_set_stays_or_goes_with_its_page_and_is_never_written_over_by_undo()
    {
        var ids = await Brought(2, 0);
        var (first, second) = (ids[0], ids[1]);
        Assert.Null(_house.Desk.SetValue(second, "agent", "Fathom & Sons", null, "ann").Problem);
        var vessel = _house.Get(second).Record["vessel"];
        Assert.Null(_house.Desk.SetValue(first, "vessel", "", null, "ann").Problem);
        Assert.Null(_house.Pages.Join(first, Mark(first), second, "ann").Problem);
        Assert.Null(_house.Desk.Find(second, "ann"));
        // What the first holds nothing of comes from the second, with its place on page 2 by now.
        Assert.Equal(vessel, _house.Get(first).Record["vessel"]);
        Assert.Equal(2, _house.Get(first).Evidence["vessel"].Page);
        Assert.Null(_house.Desk.SetValue(first, "vessel", "Tern", null, "ann").Problem);
        Assert.Null(_house.Pages.Undo(first, "ann").Problem);
        Assert.Equal("Tern", _house.Get(first).Record["vessel"]);
        Assert.Equal("Fathom & Sons", _house.Get(second).Record["agent"]);
        Assert.Contains(_house.Database.Read(c => ValueHistoryStore.Of(c, second)), h => h is { Field: "agent", Who: "ann" });

        // Cut off again, a page is read as if it had come by itself; what somebody set in it since keeps the act from being undone.
        Assert.Null(_house.Pages.Join(first, Mark(first), second, "ann").Problem);
        var cut = _house.Pages.Cut(first, Mark(first), 2, "ann");
        Assert.Equal(vessel, _house.Get(cut.Value).Record["vessel"]);
        Assert.Equal(1, _house.Get(cut.Value).Evidence["vessel"].Page);
        Assert.Null(_house.Desk.SetValue(cut.Value, "vessel", "Gull", null, "ann").Problem);
        Assert.Contains("worked on", _house.Pages.Undo(first, "ann").Problem);
        // Who saw the pages otherwise does nothing to them; nor does who does not choose, or leaves none.
        Assert.Contains("in the meantime", _house.Pages.TakeOut(first, "other", [1], "bob").Problem);
        Assert.Contains("has to stay", _house.Pages.TakeOut(first, Mark(first), [1], "ann").Problem);
        Assert.Contains("Choose", _house.Pages.Move(first, Mark(first), [7], 1, "ann").Problem);
        Assert.Contains("first page", _house.Pages.Cut(first, Mark(first), 1, "ann").Problem);
    }

    [Fact]
    public async Task What_is_filed_has_the_pages_in_their_new_order_turned_and_the_files_as_they_came_are_untouched()
    {
        var ids = await Brought(2, 1);
        var brought = Directory.GetFiles(_house.Folder.Brought, "*", SearchOption.AllDirectories).ToDictionary(f => f, DataFolder.HashOf);
        var scan = ids.First(id => PagesOf(id)[0].Text.Method == "recognised");
        var texts = ids.Where(id => id != scan).ToList();
        Assert.Null(_house.Pages.Join(texts[0], Mark(texts[0]), texts[1], "ann").Problem);
        Assert.Null(_house.Pages.Join(texts[0], Mark(texts[0]), scan, "ann").Problem);
        Assert.Null(_house.Pages.Move(texts[0], Mark(texts[0]), [3], 1, "ann").Problem);
        var words = PagesOf(texts[0])[0].Text.Words.Count;
        // Upside down it is recognised anew; back again it is what it was, and a page of its own text keeps its words.
        Assert.Null((await _house.Pages.Turn(texts[0], Mark(texts[0]), [1, 2], 180, "ann").Ended()).Problem);
        Assert.Null((await _house.Pages.Turn(texts[0], Mark(texts[0]), [1], 180, "ann").Ended()).Problem);
        Assert.InRange(PagesOf(texts[0])[0].Text.Words.Count, words * 0.8, words * 1.2);
        Assert.Equal(180, PagesOf(texts[0])[1].Text.Lay.Turned);
        var filed = _house.Filer.File(texts[0], "ann");
        Assert.Null(filed.Problem);
        var path = Path.Combine(_house.Folder.Repository, filed.Value!);
        var shown = await ExternalProgram.RunAsync("qpdf", ["--json", "--json-key=pages", path], TimeSpan.FromSeconds(30), default);
        Assert.Equal(0, shown.ExitCode);
        using var pdf = UglyToad.PdfPig.PdfDocument.Open(path);
        Assert.Equal(3, pdf.NumberOfPages);
        Assert.Equal(180, pdf.GetPage(2).Rotation.Value);
        Assert.Equal(0, pdf.GetPage(3).Rotation.Value);
        Assert.NotEqual(pdf.GetPage(2).Text, pdf.GetPage(3).Text);
        Assert.All(brought, b => Assert.Equal(b.Value, DataFolder.HashOf(b.Key)));
        Assert.Contains("no longer on the desk", _house.Pages.Undo(texts[0], "ann").Problem);
        // Taken back to the desk its pages may be changed, and then it is not put back as it was; what is out for good has its pages.
        Assert.Null(_house.Withdrawals.Withdraw(texts[0], false, "wrong order", "ann").Problem);
        Assert.Null(_house.Pages.TakeOut(texts[0], Mark(texts[0]), [1], "ann").Problem);
        Assert.Contains("pages were changed", _house.Withdrawals.PutBack(texts[0], "ann").Problem);
        Assert.Null(_house.Pages.Undo(texts[0], "ann").Problem);
        Assert.Null(_house.Withdrawals.PutBack(texts[0], "ann").Problem);
        Assert.Null(_house.Withdrawals.Withdraw(texts[0], true, "not ours", "ann").Problem);
        Assert.Null(_house.Pages.Look(texts[0], "ann"));
    }

    [Fact]
    public async Task Pages_that_are_brought_for_a_document_stand_at_its_end_and_a_filed_one_takes_none()
    {
        var ids = await Brought(1, 0);
        var page = HarbourDocuments.Samples(PageDesigns.CallOffice, 2, 0)[1];
        var place = Directory.CreateTempSubdirectory("more").FullName;
        HarbourDocuments.Draw(page, place);
        var file = Directory.GetFiles(place)[0];
        List<BroughtFile> More() => [new("more.pdf", () => File.OpenRead(file))];
        await (await _house.Intake.AddPagesAsync(_house.Get(ids[0]), More(), "ann")).Job!.Completion;
        Assert.Equal(2, PagesOf(ids[0]).Count);
        Assert.Equal("a page was added", _house.Pages.Look(ids[0], "ann")!.Last!.Says);
        Assert.Equal(ids, _house.Desk.Queue("ann"));
        Assert.Null(_house.Pages.Undo(ids[0], "ann").Problem);
        Assert.Single(PagesOf(ids[0]));
        // It is gone before its pages were read: they are a document of their own.
        var gone = _house.Get(ids[0]);
        Assert.Null(_house.Desk.Discard(ids[0], "ann").Problem);
        await (await _house.Intake.AddPagesAsync(gone, More(), "ann") is var brought ? brought : default).Job!.Completion;
        Assert.Single(_house.Desk.Queue("ann"));
        Directory.Delete(place, true);
    }

    public void Dispose() => _house.Dispose();
}
