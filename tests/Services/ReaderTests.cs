using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Services.Readers;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

public sealed class ReaderTests : IDisposable
{
    private readonly House _house = new House().WithDesigns();
    private readonly string _folder = Directory.CreateTempSubdirectory("reader").FullName;

    private BroughtFile Drawn(HarbourPage page)
    {
        HarbourDocuments.Draw(page, _folder);
        return new BroughtFile(page.FileName, () => File.OpenRead(Path.Combine(_folder, page.FileName)));
    }

    [Fact]
    public async Task A_reader_taught_by_hand_claims_and_reads_other_pages_of_its_design()
    {
        var pages = HarbourDocuments.Samples(PageDesigns.DuesTreasurer, 3, 0);
        Assert.Equal("my-reader", _house.Readers.Create("My reader", "harbour-dues-statement", "me").Value);
        Assert.Contains("already", _house.Readers.Create("my reader", "harbour-dues-statement", "me").Problem);
        Assert.Contains("document type", _house.Readers.Create("Other", "nothing", "me").Problem);
        foreach (var page in pages)
            Assert.True((await _house.Readers.AddSampleAsync("my-reader", Drawn(page), page.Truth)).Ok);

        var sample = _house.Readers.Samples("my-reader")[0];
        var heading = sample.Page.Words.First(w => w.Text == "Payable");
        Assert.True(_house.Clues.Toggle("my-reader", heading.Text, heading.Box, "me").Ok);
        var cell = PageDesigns.DuesTreasurer.Cells.First(c => c.Field == "total");
        Assert.True(_house.Sources.SetZone("my-reader", "total", cell.Zone, "total", "me").Ok);
        double Right() => Proof.Share(_house.Proofs.Of("my-reader").Rows, "total")!.Value;
        var before = Right();
        Assert.True(_house.Sources.SetLine("my-reader", "total", "total", [new CleaningStep("read-number", ".")], "me").Ok);
        Assert.Equal(1, Right());
        Assert.True(before < 1, "printed with thousands, the amount must need its cleaning");

        // One place fills several fields, each line with cleaning of its own; a line goes without its place, the last one with it.
        Assert.NotNull(_house.Sources.AlsoFill("my-reader", "total", "total", "me").Problem);
        Assert.NotNull(_house.Sources.AlsoFill("my-reader", "nowhere", "vessel", "me").Problem);
        Assert.True(_house.Sources.AlsoFill("my-reader", "total", "vessel", "me").Ok);
        Assert.True(_house.Sources.SetLine("my-reader", "total", "vessel", [new CleaningStep("take-part", ". 1")], "me", "vessel").Ok);
        Assert.NotNull(_house.Sources.SetLine("my-reader", "total", "vessel", [], "me", "total").Problem);
        var reader = _house.Readers.Find("my-reader")!;
        var read = _house.Readers.Read(reader, _house.Readers.Claim(reader, sample), sample);
        Assert.Equal(read.Of("total")!.Evidence!.Raw.Split('.')[0], read.Of("vessel")!.Text);
        Assert.Equal(read.Of("total")!.Evidence!.Box, read.Of("vessel")!.Evidence!.Box);
        Assert.Equal(1, Right());
        // A field that needs more trust than any value has is looked at each time, and the usual trust is not written down.
        Assert.NotNull(_house.Sources.Need("my-reader", "total", 0.123, "me").Problem);
        Assert.NotNull(_house.Sources.Need("my-reader", "nowhere", 0.9, "me").Problem);
        Assert.True(_house.Sources.Need("my-reader", "total", NeededTrust.Always, "me").Ok);
        reader = _house.Readers.Find("my-reader")!;
        Assert.False(_house.Readers.Read(reader, _house.Readers.Claim(reader, sample), sample).Of("total")!.Evidence!.IsSure);
        Assert.True(_house.Sources.Need("my-reader", "total", Evidence.Sure, "me").Ok);
        Assert.Empty(_house.Readers.Find("my-reader")!.Trust);
        Assert.True(_house.Sources.RemoveLine("my-reader", "total", "vessel", "me").Ok);
        Assert.NotNull(_house.Sources.RemoveLine("my-reader", "total", "total", "me").Problem);

        // Clicked again the word is a clue no more, and without a clue nothing is claimed.
        Assert.True(_house.Clues.Toggle("my-reader", heading.Text, heading.Box, "me").Ok);
        Assert.All(_house.Proofs.Of("my-reader").Rows, row => Assert.False(row.Claimed));
        Assert.True(_house.Sources.RemoveZone("my-reader", "total", "me").Ok);
        Assert.Empty(_house.Readers.Find("my-reader")!.Crosswalk);
    }

    [Fact]
    public void Zones_stay_on_the_page_and_are_never_too_small()
    {
        var key = _house.Readers.All()[0].Key;
        Assert.Contains("too small", _house.Sources.SetZone(key, "vessel", new Box(0.5, 0.5, 0.001, 0.2), null, "me").Problem);
        Assert.Contains("Choose the field", _house.Sources.SetZone(key, "", new Box(0.5, 0.5, 0.1, 0.2), null, "me").Problem);
        Assert.True(_house.Sources.SetZone(key, "vessel", new Box(-0.2, 0.9, 3, 0.5), null, "me").Ok);
        var box = _house.Readers.Find(key)!.Zones.First(z => z.Key == "vessel").Box;
        Assert.Equal((0, 0.9, 1), (box.X, box.Y, box.W));
        Assert.Equal(0.1, box.H, 6);
        Assert.Contains("missing", _house.Sources.SetLine(key, "vessel", "vessel", [new CleaningStep("drop-words")], "me").Problem);
    }

    [Fact]
    public async Task A_bad_sample_is_named_and_leaves_nothing_behind()
    {
        var key = _house.Readers.All()[0].Key;
        var bad = await _house.Readers.AddSampleAsync(
            key,
            new BroughtFile("torn.pdf", () => new MemoryStream("%PDF-1.4 torn"u8.ToArray())),
            new Dictionary<string, string>()
        );
        Assert.Contains("“torn.pdf” is cut off", bad.Problem);
        Assert.Empty(_house.Readers.Samples(key));
        Assert.Empty(Directory.GetFiles(_house.Folder.Drafts));
    }

    [Fact]
    public async Task What_a_person_checked_becomes_the_truth_of_a_sample()
    {
        var reader = _house.Readers.All().First(r => r.Key == PageDesigns.CallOffice.Key);
        var page = HarbourDocuments.Samples(PageDesigns.CallOffice, 1, 0)[0];
        var id = (await _house.Readers.AddSampleAsync(reader.Key, Drawn(page), new Dictionary<string, string>())).Value;
        Assert.Empty(_house.Proofs.Of(reader.Key).Rows[0].Cells);
        _house.Readers.SetTruth(id, page.Truth);
        Assert.All(_house.Proofs.Of(reader.Key).Rows[0].Cells, c => Assert.Equal(Outcome.Right, c.Outcome));
        Assert.Equal(page.Truth.Count, _house.Proofs.Of(reader.Key).Rows[0].Cells.Count);
    }

    /// <summary>Many samples are tried in the background; what was tried is kept until something changes that it rests on.</summary>
    [Fact]
    public async Task Many_samples_are_tried_in_the_background_and_a_few_at_once()
    {
        var reader = _house.Readers.All().First(r => r.Key == PageDesigns.CallOffice.Key);
        var page = HarbourDocuments.Samples(PageDesigns.CallOffice, 1, 0)[0];
        var id = (await _house.Readers.AddSampleAsync(reader.Key, Drawn(page), page.Truth)).Value;
        var sample = _house.Readers.Sample(id)!;
        var wrong = new Dictionary<string, string>(page.Truth) { ["vessel"] = "Another" };
        const int Many = SampleProofs.AtOnce + 16;
        _house.Database.Write(c =>
        {
            for (var i = 1; i < Many; i++)
                ReaderStore.AddSample(c, reader.Key, $"{i}.pdf", sample.Image, sample.Page, i == Many - 1 ? wrong : page.Truth);
        });
        var few = _house.Proofs.Of(reader.Key);
        Assert.Equal((SampleProofs.AtOnce, Many, false, 1.0), (few.Rows.Count, few.Samples, few.IsWhole, few.Right!.Value));
        Assert.NotNull(_house.Proofs.Start("no-such-reader", "me").Problem);
        var job = _house.Proofs.Start(reader.Key, "me").Value!;
        await job.Completion;
        Assert.Equal((Many, Many), (job.Done, job.Total));
        var all = _house.Proofs.Of(reader.Key);
        Assert.True(all.IsWhole);
        // The one that is wrong is among those behind the first.
        Assert.Equal(Many - 1, Enumerable.Range(0, Many).Single(i => all.Rows[i].Cells.Any(c => c.Outcome == Outcome.Wrong)));
        Assert.InRange(all.Right!.Value, 0.9, 0.999);
        Assert.Same(all, _house.Proofs.Of(reader.Key));
        _house.Readers.SetTruth(id, wrong);
        Assert.False(_house.Proofs.Of(reader.Key).IsWhole);
    }

    public void Dispose()
    {
        _house.Dispose();
        Directory.Delete(_folder, recursive: true);
    }
}
