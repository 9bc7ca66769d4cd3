using System.Collections.Concurrent;
using System.Text;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Demo;
using ClearLexicon.Formats;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>
/// Redacted copies of documents of every type, clean, scanned, faxed and photographed, read well or badly: no hidden value is in the bytes,
/// as they are or decompressed, in the text, or in what is recognised of the pictures.
/// </summary>
public sealed class RedactionTests(ITestOutputHelper output) : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    // Clean, and the three ways of AccuracyTests in which paper comes.
    private const int Ways = 4;

    /// <summary>How many documents; REDACTED=200 makes as many.</summary>
    private static int Documents => int.TryParse(Environment.GetEnvironmentVariable("REDACTED"), out var n) ? n : 14;

    private sealed record Copied(string Name, int Hidden, int Blocked, IReadOnlyList<string> Leaks);

    [Fact]
    public async Task No_trace_of_a_hidden_value_is_left_whatever_was_read_of_the_page()
    {
        var designs = DemoDesigns.All().ToList();
        var copies = new ConcurrentBag<Copied>();
        await Parallel.ForEachAsync(
            Enumerable.Range(0, Documents),
            new ParallelOptions { MaxDegreeOfParallelism = 2, CancellationToken = TestContext.Current.CancellationToken },
            async (n, cancel) =>
            {
                // The way goes on by one each time the designs are through, so that each design comes in each way; a new document
                // when it was each.
                var (design, way) = (designs[n % designs.Count], (n + n / designs.Count) % Ways - 1);
                copies.Add(await CopyAsync(design, n / (designs.Count * Ways) * (Ways - 1) + 10 + Math.Max(0, way), way, n, cancel));
            }
        );
        output.WriteLine(
            $"{copies.Count} documents, {copies.Sum(c => c.Hidden)} values hidden, {copies.Sum(c => c.Blocked)} held back until a "
                + "person marks them"
        );
        foreach (var way in copies.GroupBy(c => c.Name.Split(' ')[^1]).OrderBy(g => g.Key))
            output.WriteLine($"{way.Key}: {way.Count()} documents, {way.Sum(c => c.Hidden)} hidden, {way.Sum(c => c.Blocked)} held back");
        Assert.Equal(Documents, copies.Count);
        Assert.True(copies.Sum(c => c.Hidden) > 2 * Documents, "hardly anything was hidden");
        Assert.Empty(copies.SelectMany(c => c.Leaks.Select(l => $"{c.Name}: {l}")));
    }

    private async Task<Copied> CopyAsync(
        (Reader Reader, Func<int, FreeDocument> Make) design,
        int number,
        int way,
        int n,
        CancellationToken cancel
    )
    {
        var (reader, document) = (design.Reader, design.Make(number));
        var name = $"{reader.Key} {n} {(way < 0 ? "clean" : new[] { "scan", "fax", "photo" }[way])}";
        var place = Path.Combine(_house.Folder.Drafts, name.Replace(' ', '-'));
        Directory.CreateDirectory(place);
        var read = await ReadDesigns.PagesAsync(design, way, number).WaitAsync(cancel);
        List<StoredPage> pages = [.. read.Select(p => new StoredPage(p.Number, p.ImagePath, p.Text, null))];
        // Of some, nothing at all was recognised.
        var failed = n % 9 == 8;
        if (failed)
            pages = pages.ConvertAll(p => p with { Text = p.Text with { Words = [], Codes = [], Method = "recognised" } });
        var type = _house.Designs.Published[reader.TypeCode].Type;
        using var ink = new PagePictures(p => read.FirstOrDefault(r => r.Number == p).ImagePath);
        var claim = Recognition.Try(pages[0].Text, reader, ink);
        var found = claim.Holds
            ? DocumentReading.Read(
                [.. pages.Select(r => (r.Number, r.Text))],
                1,
                claim,
                type.Type,
                _house.Designs.Finders(ink, new Arrival(""))
            )
            : null;
        var evidence = found is null ? new Dictionary<string, Evidence>() : ZoneReading.Places(found.Values, 1).ToDictionary();
        // What is hidden: what is restricted, and the longest texts. A clerk has put right what was misread, without showing its place.
        var hidden = document
            .Truth.Where(t => type.Type.Find(t.Key) is TextField or IdentifierField or TermField && Folding.Fold(t.Value).Length > 4)
            .OrderByDescending(t => type.Type.Find(t.Key)!.Restricted)
            .ThenByDescending(t => t.Value.Length)
            .Take(4)
            .Select(t => t.Key)
            .ToHashSet();
        var record = document.Truth.ToDictionary();
        var blocked = new List<string>();
        Redaction redaction;
        while (true)
        {
            var hiding = RedactedCopy.Hiding(type, hidden, _house.Designs);
            redaction = hiding.Restricted(Shown(record, hiding), Shown(evidence, hiding));
            if (RedactedCopy.WhyNot(redaction, pages, hiding.Type) is null)
                break;
            var unknown = redaction.Unplaced.Concat(redaction.Unread).ToList();
            Assert.NotEmpty(unknown);
            blocked.AddRange(unknown);
            foreach (var key in unknown)
            {
                hidden.Remove(key);
                record.Remove(key);
            }
        }
        // Then nobody knows where anything stands: the document is held back whole.
        if (failed)
        {
            Assert.Empty(hidden);
            Assert.NotEmpty(blocked);
            return new Copied(name, 0, blocked.Count, []);
        }
        var target = Path.Combine(place, "copy.pdf");
        RedactedCopy.Write(target, RedactedCopy.Pages(pages, redaction, _house.Folder), redaction, document.Truth.Values.First());
        var texts = new List<string> { Encoding.Latin1.GetString(await File.ReadAllBytesAsync(target, cancel)) };
        await ExternalProgram.RunAsync(
            "qpdf",
            ["--qdf", "--object-streams=disable", target, target + ".raw"],
            TimeSpan.FromMinutes(1),
            cancel
        );
        texts.Add(Encoding.Latin1.GetString(await File.ReadAllBytesAsync(target + ".raw", cancel)));
        texts.Add(await OutAsync("pdftotext", [target, "-"], cancel));
        await ExternalProgram.RunAsync("pdftoppm", ["-r", "200", "-gray", target, target + ".page"], TimeSpan.FromMinutes(2), cancel);
        foreach (var picture in Directory.GetFiles(place, "copy.pdf.page*.pgm"))
            texts.Add(await OutAsync("tesseract", [picture, "-"], cancel));
        var glued = texts.ConvertAll(t => Folding.Fold(t).Replace(" ", "", StringComparison.Ordinal));
        Assert.True(glued[^1].Length > 40, $"{name}: the copy shows nothing at all");
        var leaks = hidden
            .Select(key => (Key: key, Text: Folding.Fold(document.Truth[key]).Replace(" ", "", StringComparison.Ordinal)))
            .SelectMany(v => glued.Select((t, i) => (v.Key, v.Text, At: i, Found: t.Contains(v.Text, StringComparison.Ordinal))))
            .Where(f => f.Found)
            .Select(f => $"{f.Key} “{f.Text}” in text {f.At}, read as “{evidence.GetValueOrDefault(f.Key)?.Raw}”")
            .ToList();
        Directory.Delete(place, recursive: true);
        return new Copied(name, hidden.Count, blocked.Count, leaks);
    }

    // What is no field of the type is none of this document.
    private static Dictionary<string, T> Shown<T>(IReadOnlyDictionary<string, T> all, Core.Designs.CompiledType type) =>
        all.Where(a => type.Type.Find(a.Key) is not null).ToDictionary(StringComparer.Ordinal);

    private static async Task<string> OutAsync(string program, string[] arguments, CancellationToken cancel) =>
        (await ExternalProgram.RunAsync(program, arguments, TimeSpan.FromMinutes(2), cancel)).Output;

    public void Dispose() => _house.Dispose();
}
