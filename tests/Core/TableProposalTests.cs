using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;

namespace ClearLexicon.Core.Tests;

/// <summary>Tables proposed from unlabelled pages.</summary>
public sealed class TableProposalTests
{
    private static readonly string[] Goods = ["coal", "grain", "salt", "timber", "wool", "tar"];

    // Lines of words at columns of the page, from the top.
    private static PageText Page(IEnumerable<(double X, string Text)[]> lines)
    {
        var words = new List<Word>();
        foreach (var (line, i) in lines.Select((l, i) => (l, i)))
        foreach (var (x, text) in line)
        {
            var at = x;
            foreach (var word in text.Split(' '))
            {
                words.Add(new Word(word, new Box(at / 600, (40 + i * 18) / 850.0, word.Length * 6 / 600.0, 10 / 850.0), 1));
                at += word.Length * 6 + 4;
            }
        }
        return new PageText(600, 850, words, "text layer");
    }

    private static PageText Manifest(int number) =>
        Page([
            [(50, "Manifest of coastal goods")],
            [(50, $"Ship: {(number % 2 == 0 ? "Tern" : "Gull")}"), (300, $"Sheet: M{number + 100}")],
            [(50, "Lot"), (150, "Goods"), (300, "Tons")],
            .. Enumerable
                .Range(0, 3 + number)
                .Select(i =>
                    new (double, string)[]
                    {
                        (50, $"{number * 10 + i}"),
                        (150, Goods[(number + i) % 6]),
                        (300, $"{(number + 3) * (i + 2)}.50"),
                    }
                ),
            [(50, "Altogether"), (300, $"{number * 31}.00")],
            [(50, "Signed by the tallyman")],
        ]);

    // A form: labels in a row with values under them, again and again.
    private static PageText Form(int number) =>
        Page([
            [(50, "Chit of the harbour office")],
            [(50, "Vessel"), (300, "Berth")],
            [(50, $"Ship {number}"), (300, $"Quay {number + 3}")],
            [(50, "Agent"), (300, "Captain")],
            [(50, $"House {number * 7}"), (300, $"Name {number * 13}")],
            [(50, "Arrived"), (300, "Sailed")],
            [(50, $"2024-03-0{number + 1}"), (300, $"2024-04-0{number + 2}")],
        ]);

    [Fact]
    public void Rows_under_headings_are_a_table_with_columns_of_their_kinds_and_a_reader_that_reads_them()
    {
        var pages = Enumerable.Range(0, 5).Select(Manifest).ToList();
        var proposal = Proposing.From(pages, DocumentType.Empty("", ""), FinderContext.None);
        var table = Assert.Single(proposal.Values, v => v.Kind.HasRows);
        Assert.Equal(("Lot, Goods, Tons", "rows under"), (table.Label, table.Where));
        Assert.Equal(["3 rows", "4 rows", "5 rows", "6 rows", "7 rows"], table.Values);
        // What stands in its rows is no value by itself; what stands beside print is.
        Assert.Equal(
            ["Ship", "Sheet"],
            proposal.Values.Except([table]).Select(v => v.Label.TrimEnd(':')).Where(l => l is not "Altogether")
        );

        var fields = TypeFromPages.Fields(proposal);
        var field = Assert.IsType<TableField>(fields.Single(f => f.Field.Kind.HasRows).Field);
        Assert.Equal(
            [("lot", FieldKind.WholeNumber), ("goods", FieldKind.Text), ("tons", FieldKind.Decimal)],
            field.Columns.Select(c => (c.Key, c.Kind))
        );
        var type = TypeFromPages.Made("manifest", "Manifest", [.. fields.Select(f => f.Field)]);
        var reader = Proposing.Added(
            new Reader("r", "R", "manifest", [], [], []),
            proposal.Clues,
            [(table, field), (table, field)],
            FinderContext.None
        );
        Assert.Single(reader.Finders);
        var read = DocumentReading.Read([(1, Manifest(9))], 1, Recognition.Try(Manifest(9), reader), type);
        var rows = TableText.Rows(read.Record[field.Key])!;
        Assert.Equal(12, rows.Count);
        Assert.Equal(("90", "timber", "24.50"), (rows[0]["lot"], rows[0]["goods"], rows[0]["tons"]));
    }

    [Fact]
    public void Its_columns_are_those_of_a_field_by_name_or_by_their_order_and_a_form_is_no_table()
    {
        var pages = Enumerable.Range(0, 5).Select(Manifest).ToList();
        TableField Of(params (string Label, FieldKind Kind)[] columns) =>
            new("goods", "Goods") { Columns = [.. columns.Select(c => c.Kind.New(ShortName.From(c.Label), c.Label))] };
        string? Fills(TableField field)
        {
            var proposal = Proposing.From(pages, DocumentType.Empty("t", "T") with { Fields = [field] }, FinderContext.None);
            var value = proposal.Values.Single(v => v.Kind.HasRows);
            return value.Field is null
                ? null
                : string.Join(
                    ' ',
                    Proposing
                        .Added(new Reader("r", "R", "t", [], [], []), [], [(value, field)], FinderContext.None)
                        .Finders[0]
                        .Columns.OrderBy(c => c.Column, StringComparer.Ordinal)
                        .Select(c => $"{c.Column}={c.Headings[0]}")
                );
        }
        Assert.Equal(
            "goods=Goods lot=Lot tons=Tons",
            Fills(Of(("Tons", FieldKind.Decimal), ("Goods", FieldKind.Text), ("Lot", FieldKind.WholeNumber)))
        );
        Assert.Equal(
            "cargo=Goods number=Lot weight=Tons",
            Fills(Of(("Number", FieldKind.WholeNumber), ("Cargo", FieldKind.Text), ("Weight", FieldKind.Decimal)))
        );
        Assert.Null(Fills(Of(("Inspector", FieldKind.Text), ("Visited", FieldKind.Date))));

        var form = Proposing.From([.. Enumerable.Range(0, 5).Select(Form)], DocumentType.Empty("", ""), FinderContext.None);
        Assert.DoesNotContain(form.Values, v => v.Kind.HasRows);
        Assert.Equal(6, form.Values.Count);
    }
}
