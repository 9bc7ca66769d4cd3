using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Demo;
using ClearLexicon.Services.Readers;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Readers that learn at the desk.</summary>
public sealed class CorrectionTests : IDisposable
{
    private readonly House _house = new();
    private readonly Corrections _corrections;
    private readonly IReadOnlyList<HarbourPage> _pages = HarbourDocuments.Samples(PageDesigns.CallOffice, 9, 0);

    public CorrectionTests()
    {
        Assert.Null(_house.Files.Import(HarbourSeed.Design with { Readers = [] }, "test").Problem);
        _corrections = new Corrections(_house.Database, _house.Folder, _house.Designs, _house.Readers, _house.Clock);
    }

    private async Task<List<StoredDocument>> BringAsync(IEnumerable<HarbourPage> pages)
    {
        var before = _house.Desk.Queue("me").ToHashSet();
        foreach (var page in pages)
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
        return [.. _house.Desk.Waiting("me").Select(d => d.Document).Where(d => !before.Contains(d.Id))];
    }

    private HarbourPage PageOf(StoredDocument document) => _pages.First(p => p.FileName == document.SourceName);

    private void Show(StoredDocument document, string field, string truth)
    {
        var cell = PageDesigns.CallOffice.Cells.First(c => c.Field == field);
        var evidence = ZoneReading.ReadRegion(_house.Desk.Pages(document.Id)[0].Text, 1, cell.Zone)!;
        Assert.Null(_house.Desk.SetValue(document.Id, field, truth, evidence, "me").Problem);
    }

    [Fact]
    public async Task A_value_shown_elsewhere_is_found_there_from_now_on_and_what_that_changes_is_known_before()
    {
        // Taught wrongly: the vessel is read where the master stands.
        var right = HarbourReaders.Teach(PageDesigns.CallOffice);
        var wrong = right with
        {
            Crosswalk = [.. right.Crosswalk.Where(l => l.Field != "vessel"), new CrosswalkLine("vessel-wrong", "vessel", [])],
            Zones = [.. right.Zones.Where(z => z.Key != "vessel"), new Zone("vessel-wrong", right.Zones.First(z => z.Key == "master").Box)],
        };
        _house.Teach(wrong);
        var documents = await BringAsync(_pages.Take(6));
        Assert.All(documents, d => Assert.Equal((wrong.Key, 1), (d.ReaderKey, d.ReaderVersion)));
        Assert.All(documents, d => Assert.Equal(PageOf(d).Truth["master"], d.Record["vessel"]));
        Assert.NotNull(_corrections.Try(-1, "vessel").Problem);
        Assert.Contains("has no field", _corrections.Try(documents[0].Id, "nothing").Problem);
        foreach (var document in documents.Skip(1).Take(4))
            Assert.Null(_house.Desk.SetValue(document.Id, "vessel", PageOf(document).Truth["vessel"], null, "me").Problem);
        Show(documents[0], "vessel", PageOf(documents[0]).Truth["vessel"]);

        var trial = _corrections.Try(documents[0].Id, "vessel").Value!;
        Assert.Equal("right of “Name of vessel”", trial.Way.Says);
        // This one and the four that a person has set; the sixth nobody has looked at.
        Assert.Equal((5, 0, 5), (trial.Better, trial.Worse, trial.Pages.Count));
        Assert.Equal(1, _house.Readers.PublishedOf(wrong.Key)!.Version);

        Assert.Contains("changed in the meantime", _corrections.Keep(documents[0].Id, "vessel", "left of it", "me").Problem);
        Assert.Equal(2, _corrections.Keep(documents[0].Id, "vessel", trial.Way.Says, "me").Value);
        var sample = Assert.Single(_house.Readers.Samples(wrong.Key));
        Assert.Equal(PageOf(documents[0]).Truth["vessel"], sample.Truth["vessel"]);
        Assert.True(File.Exists(_house.Folder.Absolute(sample.Image)));
        var next = Assert.Single(await BringAsync(_pages.Skip(6).Take(1)));
        Assert.Equal((2, PageOf(next).Truth["vessel"]), (next.ReaderVersion, next.Record["vessel"]));
        // What was read by the first version says so still, and the change can be taken back.
        Assert.Equal(1, _house.Desk.Find(documents[1].Id, "me")!.Document.ReaderVersion);
        Assert.StartsWith($"learned from {documents[0].SourceName}", _house.Readers.Undo(wrong.Key, "me"));
        Assert.Equal(Sql.ToJson(wrong), Sql.ToJson(_house.Readers.Find(wrong.Key)));
    }

    [Fact]
    public async Task What_would_spoil_other_pages_is_said()
    {
        _house.Teach(HarbourReaders.Teach(PageDesigns.CallOffice));
        var documents = await BringAsync(_pages.Take(4));
        // A person takes the agent for the master on one page; on the others the master was looked at and is right.
        var agent = PageDesigns.CallOffice.Cells.First(c => c.Field == "agent").Zone;
        var evidence = ZoneReading.ReadRegion(_house.Desk.Pages(documents[0].Id)[0].Text, 1, agent)!;
        Assert.Null(_house.Desk.SetValue(documents[0].Id, "master", PageOf(documents[0]).Truth["agent"], evidence, "me").Problem);
        foreach (var document in documents.Skip(1))
            Assert.Null(_house.Desk.SetValue(document.Id, "master", document.Record["master"], document.Evidence["master"], "me").Problem);
        var trial = _corrections.Try(documents[0].Id, "master").Value!;
        Assert.Equal((1, 3), (trial.Better, trial.Worse));
    }

    [Fact]
    public async Task A_field_that_is_corrected_more_than_before_is_said_with_the_documents_behind_it()
    {
        _house.Teach(HarbourReaders.Teach(PageDesigns.CallOffice));
        var documents = await BringAsync(_pages);
        // Six were filed four weeks ago as they were read; six this week, of which a person corrected the master of five.
        var filed = documents.Concat(await BringAsync(_pages.Take(3))).ToList();
        var today = _house.Clock.GetUtcNow();
        _house.Database.Write(c =>
        {
            for (var i = 0; i < filed.Count; i++)
            {
                if (i < 5)
                    ValueHistoryStore.Add(
                        c,
                        filed[i].Id,
                        new ValueChange("master", filed[i].Record["master"], "Somebody Else", "typed", new Instant(today), "me")
                    );
                c.Execute(
                    "UPDATE documents SET state = 'filed', folder = 'f', name = $name, place_key = $name, filed_at = $at WHERE id = $id",
                    ("$id", filed[i].Id),
                    ("$name", $"{i}.pdf"),
                    ("$at", Sql.Stamp(i < 6 ? today : today.AddDays(-28)))
                );
            }
        });
        var watch = new ReaderWatch(_house.Database, _house.Clock);
        var master = watch.Of(PageDesigns.CallOffice.Key)[0];
        Assert.Equal(("master", 5), (master.Field, master.Documents));
        Assert.Equal(5 / 6.0, master.Fall!.Value, 3);
        Assert.Equal(
            [null, null, null, 1, null, null, null, 1 / 6.0],
            master.Shares.Select(s => s is { } x ? Math.Round(x, 4) : (double?)null).Select(s => s == 0.1667 ? 1 / 6.0 : s)
        );
        Assert.All(watch.Of(PageDesigns.CallOffice.Key).Skip(1), f => Assert.Null(f.Fall));
        Assert.All(watch.Behind(PageDesigns.CallOffice.Key, "master", 9), d => Assert.Equal("Somebody Else", d.After));
        var sheet = new Today.TodayWork(_house.Database, _house.Designs, watch, _house.Clock).For("me", new Rights([Roles.Steward]));
        Assert.Contains(
            sheet.Waits,
            w =>
                w.What == "Call record, harbour office reads Master worse"
                && w.Next.EndsWith("5 documents corrected", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task A_page_that_nobody_claims_and_a_person_filled_teaches_a_reader_that_reads_the_next()
    {
        var document = Assert.Single(await BringAsync(_pages.Take(1)));
        Assert.Null(document.ReaderKey);
        Assert.NotNull(_corrections.Teach(document.Id, "Call record", "me").Problem);
        Assert.Null(_house.Desk.SetType(document.Id, PageDesigns.CallOffice.TypeCode, "me").Problem);
        Assert.Contains("None of the values is", _corrections.Teach(document.Id, "Call record", "me").Problem);
        var truth = PageOf(document).Truth;
        Assert.Null(_house.Desk.SetValues(document.Id, truth.ToDictionary(), "me").Problem);
        var taught = _corrections.Teach(document.Id, "Call record", "me").Value;
        Assert.Empty(taught.AlsoClaims);
        // On its own page everything that was typed and stands there is read.
        var row = Assert.Single(_house.Proofs.Of(taught.Key).Rows);
        Assert.True(row.Claimed);
        Assert.All(row.Cells, c => Assert.Equal(Outcome.Right, c.Outcome));
        // What stands on no page comes from around it: when it came, by whom, by which way, and from another field.
        foreach (
            var (kind, field, text) in new[] { ("day", "entered-on", ""), ("person", "entered-by", ""), ("field", "handling", "berth") }
        )
            Assert.True(_house.Sources.SetFinder(taught.Key, new Finder("", kind) { Text = text }, field, "me").Ok, kind);
        Assert.Contains(
            "from itself",
            _house.Sources.SetFinder(taught.Key, new Finder("", "field") { Text = "berth" }, "berth", "me").Problem
        );
        Assert.Equal(1, _house.Readers.Publish(taught.Key, "me").Value);

        // And on pages it has never seen: vessels, dates and numbers of other lengths in the same places.
        var others = await BringAsync(_pages.Skip(1).Take(5));
        Assert.All(others, d => Assert.Equal(taught.Key, d.ReaderKey));
        Assert.All(
            others,
            d =>
                Assert.Equal(
                    ($"{_house.Clock.Today():yyyy-MM-dd}", "me", d.Record["berth"]),
                    (d.Record["entered-on"], d.Record["entered-by"], d.Record["handling"])
                )
        );
        var (of, read) = (0, 0);
        foreach (var (field, text) in others.SelectMany(d => PageOf(d).Truth.Select(t => (d.Record.GetValueOrDefault(t.Key), t.Value))))
            (of, read) = (of + 1, read + (field == text ? 1 : 0));
        Assert.True(read >= 0.9 * of, $"{read} of {of}");
    }

    public void Dispose() => _house.Dispose();
}
