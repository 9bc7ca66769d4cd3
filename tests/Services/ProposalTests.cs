using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Demo;
using ClearLexicon.Formats;

namespace ClearLexicon.Services.Tests;

/// <summary>A reader proposed from five unlabelled pages of each design.</summary>
public sealed class ProposalTests(ITestOutputHelper output) : IDisposable
{
    private readonly House _house = new House().WithDesigns();

    [Fact]
    public async Task Five_pages_of_a_design_give_most_of_its_fields_and_little_nonsense()
    {
        var (right, of, nonsense, proposed) = (0, 0, 0, 0);
        foreach (var (reader, make) in DemoDesigns.All())
        {
            var documents = Enumerable.Range(20, 5).Select(make).ToList();
            var all = await PagesAsync(documents, reader.Key);
            var pages = all.ConvertAll(d => d[0]);
            var type = _house.Designs.Published[reader.TypeCode].Type.Type;
            var proposal = Proposing.From(pages, type, _house.Designs.Finders(null, new Arrival("")));
            Assert.InRange(proposal.Clues.Count, 3, 5);
            var claimed = reader with { Clues = proposal.Clues };
            Assert.All(pages, p => Assert.True(Recognition.Try(p, claimed).Holds, reader.Key));

            var missing = new List<string>();
            // What stands in boxes, tables, signatures and codes is found otherwise.
            foreach (var field in documents[0].Truth.Keys.Where(k => IsPrinted(reader, type.Find(k)!)))
            {
                of++;
                var value = proposal.Values.FirstOrDefault(v => v.Field == field);
                var truths = documents.ConvertAll(d => d.Truth.GetValueOrDefault(field, ""));
                if (value is not null && Agrees(type.Find(field)!, value, truths))
                    right++;
                else
                    missing.Add(field);
            }
            foreach (var table in type.Fields.OfType<TableField>().Where(t => HasRows(reader, t)))
            {
                var value = Assert.Single(proposal.Values, v => v.Field == table.Key);
                var taught = Proposing.Added(claimed with { Finders = [], Crosswalk = [] }, [], [(value, table)], FinderContext.None);
                var cells = documents.Zip(all).SelectMany(p => Cells(taught, p.Second, type, table, p.First.Truth[table.Key])).ToList();
                output.WriteLine($"{reader.Key, -22} rows under {value.Label}: {cells.Count(c => c)} of {cells.Count} cells");
                Assert.True(cells.Count(c => c) >= 0.95 * cells.Count, $"{reader.Key}: {cells.Count(c => c)} of {cells.Count}");
            }
            proposed += proposal.Values.Count(v => v.Field is not null && v.Columns.Count == 0);
            nonsense += proposal.Values.Count(v =>
                v is { Field: { } key, Columns.Count: 0 }
                && !Agrees(type.Find(key)!, v, documents.ConvertAll(d => d.Truth.GetValueOrDefault(key, "")))
            );
            if (Environment.GetEnvironmentVariable("SHOW") == reader.Key)
                foreach (var v in proposal.Values)
                    output.WriteLine(
                        $"   {v.Side} “{v.Label}” {v.Kind} -> {v.Field} {v.Fit:0.00}: {string.Join(" | ", v.Values)} "
                            + $"{string.Join(' ', v.Steps.Select(s => s.Kind + s.Argument))}"
                    );
            output.WriteLine(
                $"{reader.Key, -22} {proposal.Values.Count} values; not: {string.Join(", ", missing)}; clues "
                    + $"“{string.Join("”, “", proposal.Clues.Select(c => c.Text))}”"
            );
        }
        output.WriteLine($"{right} of {of} fields ({(double)right / of:P1}), {nonsense} of {proposed} proposed are nonsense");
        Assert.True((double)right / of >= 0.85, $"{right} of {of}");
        Assert.True((double)nonsense / proposed <= 0.1, $"{nonsense} of {proposed} are nonsense");
    }

    public void Dispose() => _house.Dispose();

    private static bool IsPrinted(Reader reader, Field field) =>
        !field.Kind.HasRows
        && !reader.Codes.Any(c => reader.Crosswalk.Any(l => l.Field == field.Key && c.Feeds(l.Source)))
        && !reader.Finders.Any(f => f.Kind is "mark" or "ink" && reader.Crosswalk.Any(l => l.Source == f.Key && l.Field == field.Key));

    private static bool HasRows(Reader reader, Field field) =>
        reader.Finders.Any(f => f.Kind == "rows" && reader.Crosswalk.Any(l => l.Source == f.Key && l.Field == field.Key));

    private static IEnumerable<bool> Cells(Reader reader, List<PageText> pages, TypeFields type, TableField table, string truth)
    {
        var read = DocumentReading
            .Read([.. pages.Select((p, i) => (i + 1, p))], 1, Recognition.Try(pages[0], reader), type)
            .Record.GetValueOrDefault(table.Key, "");
        var (found, wanted) = (TableText.Rows(read) ?? [], TableText.Rows(truth)!);
        for (var row = 0; row < wanted.Count; row++)
            foreach (var (column, text) in wanted[row])
                yield return row < found.Count && found[row].GetValueOrDefault(column) == text;
    }

    // On most of the pages, cleaned as proposed: one cell that is empty on the page it came from is no mistake.
    private static bool Agrees(Field field, ProposedValue value, List<string> truths)
    {
        var clean = CleaningSteps.Compile(value.Steps, field);
        return value
                .Values.Select(
                    (v, i) => clean(v) == truths[i] || clean(v).Contains(truths[i], StringComparison.Ordinal) && truths[i].Length > 0
                )
                .Count(same => same) >= 3;
    }

    private async Task<List<List<PageText>>> PagesAsync(List<FreeDocument> documents, string key)
    {
        var pages = new List<List<PageText>>();
        for (var i = 0; i < documents.Count; i++)
        {
            var pdf = Path.Combine(_house.Folder.Drafts, $"{key}-{i}.pdf");
            HarbourFreeForms.Pdf(pdf, documents[i]);
            var count = documents[i].Pages.Count;
            pages.Add(await Task.Run(() => Enumerable.Range(1, count).Select(n => PageReading.TextLayer(pdf, n)).ToList()));
        }
        return pages;
    }
}
