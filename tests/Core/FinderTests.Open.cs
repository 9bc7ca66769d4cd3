using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Core.Tests;

/// <summary>Faults of reading that are known and open, each with the case that shows it.</summary>
public sealed partial class FinderTests
{
    private static readonly Finder Sounding = new("f", "rows")
    {
        Columns = [new RowColumn("point", ["No"]), new RowColumn("depth", ["Depth"]), new RowColumn("bottom", ["Bottom"])],
    };

    /// <summary>The line of the sum is no row, whatever stands in it.</summary>
    [Fact]
    public void F70_a_line_of_totals_is_no_row()
    {
        var use = new TableField("use", "Use") { Columns = [new TextField("service", "Service"), new DecimalField("hours", "Hours")] };
        var type = new TypeFields("note", [use]);
        var finder = new Finder("f", "rows") { Columns = [new RowColumn("service", ["Service"]), new RowColumn("hours", ["Hours"])] };
        var reader = new Reader("r", "R", "note", [], [], [new CrosswalkLine("f", "use", [])]) { Finders = [finder] };
        var page = Page((100, "Service Hours@210"), (116, "Crane 2@210"), (132, "Tug 3@210"), (148, "Total 5@210"));
        OpenFault.Shows(
            70,
            () =>
            {
                var read = DocumentReading.Read([(1, page)], 1, Recognition.Try(page, reader), type, Context);
                Assert.Equal(["Crane", "Tug"], TableText.Rows(read.Record["use"])!.Select(r => r["service"]));
            }
        );
    }

    /// <summary>A signature far below the rows of the first page does not end the table for the pages behind it.</summary>
    [Fact]
    public void F87_a_table_goes_on_behind_a_page_that_is_signed()
    {
        (double, string)[] Rows(int from) =>
            [.. Enumerable.Range(from, 8).Select(i => (116.0 + (i - from) * 16, $"{i} 4.{i}@210 mud@380"))];
        var first = Page([(100, "No Depth@210 Bottom@380"), .. Rows(1), (560, "Signed@50 Harbour Master@210")]);
        var second = Page([(100, "No Depth@210 Bottom@380"), .. Rows(9)]);
        OpenFault.Shows(
            87,
            () => Assert.Equal(16, TableText.Rows(Read([first, second], Context, [], ("depths", Sounding)).Record["depths"])!.Count)
        );
    }

    /// <summary>Where something that was taken for a word stands in the place for a signature, nobody is sure that it is not signed.</summary>
    [Fact]
    public void F89_a_signature_that_was_taken_for_a_word_is_not_surely_missing() =>
        OpenFault.Shows(
            89,
            () =>
            {
                var read = Read(
                    [Page((105, "MHolt@200"))],
                    Context with
                    {
                        Pictures = new Drawn([]),
                    },
                    [new Zone("f", new Box(0.2, 0.1, 0.6, 0.05))],
                    ("pilot", new Finder("f", "ink"))
                );
                Assert.True(read.Of("pilot")!.Evidence!.Confidence < Evidence.Sure);
            }
        );

    /// <summary>What is the same day, sum or table is right, however it was written down.</summary>
    [Theory]
    [InlineData("642.72 GBP", "GBP 642.72")]
    [InlineData("""[{"point":"1","depth":"4.10"}]""", """[{"depth":"4.1","point":"1"}]""")]
    public void F93_values_are_compared_as_what_they_are(string read, string truth) =>
        OpenFault.Shows(
            93,
            () =>
            {
                Field field = read.StartsWith('[') ? Depths : new AmountField("sum", "Sum");
                Assert.Equal(Outcome.Right, Proof.Compare(field, new CapturedValue(field.Key, read, null), truth).Outcome);
            }
        );
}
