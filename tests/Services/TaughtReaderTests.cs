using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Demo;

namespace ClearLexicon.Services.Tests;

/// <summary>A reader is taught by what its samples propose, and by finders.</summary>
public sealed class TaughtReaderTests : IDisposable
{
    private const string Steward = "Maren Holt";
    private readonly House _house = new House().WithDesigns();

    [Fact]
    public async Task Three_samples_and_a_few_ticks_make_a_reader_that_reads_the_next_page()
    {
        var form = HarbourFreeForms.All.First(f => f.Key == "certificate-letter");
        var key = _house.Readers.Create("Certificates by letter", form.TypeCode, Steward).Value!;
        for (var i = 0; i < 4; i++)
        {
            Assert.Equal(i < 2, _house.Readers.Propose(key) is null);
            var pdf = Path.Combine(_house.Folder.Drafts, $"{i}.pdf");
            HarbourFreeForms.Pdf(pdf, form.Make(i + 30));
            Assert.True(
                (
                    await _house.Readers.AddSampleAsync(key, new BroughtFile($"{i}.pdf", () => File.OpenRead(pdf)), form.Make(i + 30).Truth)
                ).Ok
            );
        }
        var proposal = _house.Readers.Propose(key)!;
        var values = proposal.Values.Where(v => v.Field is not null).Select(v => (v.Side, v.Label, v.Field!)).ToList();
        Assert.False(_house.Readers.Take(key, [], [(Side.Right, "no such words", "holder")], Steward).Ok);
        Assert.True(_house.Readers.Take(key, [.. proposal.Clues.Select(c => c.Text)], values, Steward).Ok);
        // Taking it twice changes nothing.
        var taught = _house.Readers.Find(key)!;
        Assert.True(_house.Readers.Take(key, [.. proposal.Clues.Select(c => c.Text)], values, Steward).Ok);
        Assert.Equal(
            (taught.Clues.Count, taught.Finders.Count),
            (_house.Readers.Find(key)!.Clues.Count, _house.Readers.Find(key)!.Finders.Count)
        );
        var cells = _house.Proofs.Of(key).Rows.SelectMany(r => r.Cells).ToList();
        Assert.True(
            cells.Count(c => c.Outcome == Outcome.Right) >= 0.85 * cells.Count,
            string.Join(", ", cells.Where(c => c.Outcome != Outcome.Right))
        );
    }

    [Fact]
    public void Finders_are_added_changed_asked_in_another_order_and_removed_with_their_lines()
    {
        var readers = _house.Readers;
        var key = readers.Create("Slips", "vessel-call-record", Steward).Value!;
        Result<string> Set(Finder finder, string field) => _house.Sources.SetFinder(key, finder, field, Steward);
        Assert.Contains("label", Set(new Finder("", "beside"), "vessel").Problem);
        Assert.Contains(
            "cannot be found that way",
            Set(new Finder("", "rows") { Columns = [new RowColumn("x", ["X"])] }, "vessel").Problem
        );
        Assert.Contains("no longer", Set(new Finder("gone", "beside") { Words = ["Ship"] }, "vessel").Problem);
        var first = Set(new Finder("", "beside") { Words = ["Ship"] }, "vessel").Value!;
        var second = Set(new Finder("", "beside") { Words = ["Vessel"] }, "vessel").Value!;
        Assert.NotEqual(first, second);
        Assert.True(_house.Sources.AskEarlier(key, second, Steward).Ok);
        Assert.Equal([second, first], readers.Find(key)!.Crosswalk.Select(l => l.Source));
        Assert.True(_house.Sources.SetZone(key, first, new Box(0.1, 0.1, 0.5, 0.1), null, Steward).Ok);
        // Two places of one field are one value, or again the first that fits.
        Assert.Contains("one place only", _house.Sources.Join(key, "berth", " ", Steward).Problem);
        Assert.Contains("at most 10", _house.Sources.Join(key, "vessel", new string('-', 11), Steward).Problem);
        Assert.True(_house.Sources.Join(key, "vessel", " ", Steward).Ok && _house.Sources.Join(key, "vessel", ", ", Steward).Ok);
        Assert.Equal([new JoinedPlaces("vessel", ", ")], readers.Find(key)!.Joined);
        Assert.True(_house.Sources.Join(key, "vessel", null, Steward).Ok);
        Assert.Empty(readers.Find(key)!.Joined);
        // The region of a finder goes by itself; the finder takes its region along.
        Assert.True(_house.Sources.RemoveZone(key, first, Steward).Ok);
        Assert.Equal(2, readers.Find(key)!.Crosswalk.Count);
        Assert.True(_house.Sources.SetZone(key, first, new Box(0.1, 0.1, 0.5, 0.1), null, Steward).Ok);
        Assert.True(_house.Sources.RemoveFinder(key, first, Steward).Ok);
        var left = readers.Find(key)!;
        Assert.Equal((second, 0), (Assert.Single(left.Crosswalk).Source, left.Zones.Count));
    }

    public void Dispose() => _house.Dispose();
}
