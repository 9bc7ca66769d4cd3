using System.Collections.Concurrent;
using ClearLexicon.Core.Reading;
using ClearLexicon.Demo;
using ClearLexicon.Formats;

namespace ClearLexicon.Services.Tests;

public class ProofTests(ITestOutputHelper output)
{
    [Fact]
    public async Task Shipped_readers_read_the_incoming_pages()
    {
        using var house = new House().WithDesigns();
        var readers = house.Readers.All();
        var rows = new ConcurrentBag<(HarbourPage Page, ProofRow Row)>();
        await Parallel.ForEachAsync(
            HarbourDocuments.Incoming(),
            new ParallelOptions { MaxDegreeOfParallelism = 2 },
            async (page, cancel) =>
            {
                HarbourDocuments.Draw(page, house.Folder.Tray);
                var path = Path.Combine(house.Folder.Tray, page.FileName);
                var check = IntakeCheck.Check(path, page.FileName);
                Assert.Null(check.Problem);
                var text = (await PageReading.ReadAsync(path, check.Kind, 1, Path.Combine(house.Folder.Pages, page.FileName), cancel))[
                    0
                ].Text;
                var claim = Recognition.Recognise(text, readers);
                Assert.True(claim is null || claim.Reader.Key == page.Design.Key, $"{page.FileName} was claimed by {claim?.Reader.Key}");
                var reader = readers.Find(r => r.Key == page.Design.Key);
                if (reader is null)
                    Assert.Null(claim);
                else
                    rows.Add((page, Proof.Try(page.FileName, text, reader, house.Readers.TypeOf(reader)!, page.Truth)));
            }
        );

        var shares = new Dictionary<bool, double>();
        foreach (var scan in new[] { false, true })
        {
            var cells = rows.Where(r => r.Page.Scan == scan).SelectMany(r => r.Row.Cells.Select(c => (r.Page.FileName, Cell: c))).ToList();
            shares[scan] = (double)cells.Count(c => c.Cell.Outcome == Outcome.Right) / cells.Count;
            output.WriteLine($"{(scan ? "scans" : "text PDFs")}: {shares[scan]:P1} of {cells.Count} values right");
            foreach (var (file, cell) in cells.Where(c => c.Cell.Outcome != Outcome.Right))
                output.WriteLine($"  {file} {cell.Field}: {cell.Outcome} “{cell.Read}”, true “{cell.Truth}” (raw “{cell.Evidence?.Raw}”)");
        }
        Assert.True(shares[false] >= 0.95, $"text PDFs: {shares[false]:P1}");
        Assert.True(shares[true] >= 0.85, $"scans: {shares[true]:P1}");
        Assert.Equal(16, rows.Count(r => r.Page.Scan));
        Assert.Equal(23, rows.Count(r => !r.Page.Scan));
    }
}
