using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Tests;

/// <summary>The blanks of rules: what a rule has in each, typed, and what each says of what cannot stand in it.</summary>
public class BlankTests
{
    private enum Way
    {
        North,
        South,
    }

    private static readonly DocumentType Type = DocumentType.Empty("t", "T") with
    {
        Fields =
        [
            new TextField("name", "Name"),
            new DateField("day", "Day"),
            new DecimalField("tons", "Tons"),
            new TableField("lines", "Lines") { Columns = [new DecimalField("sum", "Sum"), new TextField("what", "What")] },
        ],
    };

    private static Rule With(string value) => new("r", "any", Level.Must, new Dictionary<string, string> { ["x"] = value });

    private static string? Said(RuleParameter blank, string value) => blank.Finding(With(value), Type);

    [Fact]
    public void One_field_of_the_right_kind()
    {
        var blank = new FieldBlank("x", "Date", FieldKinds.Days);
        Assert.Null(Said(blank, "day"));
        Assert.Equal("Date: choose a field.", Said(blank, ""));
        Assert.Equal("Date: choose one field.", Said(blank, "day, name"));
        Assert.Contains("no longer in this document type", Said(blank, "gone"), StringComparison.Ordinal);
        Assert.Contains("Name is text, but this rule needs date", Said(blank, "name"), StringComparison.Ordinal);
        Assert.Null(Said(new FieldBlank("x", "Other") { Least = 0 }, ""));
        Assert.Equal(("day", 1, "Day"), (blank.Of(With("day")), blank.At(With("day"), Type), blank.LabelIn(With("day"), Type)));
        Assert.Equal((null, -1), (blank.In(With("gone"), Type), blank.At(With("gone"), Type)));
    }

    [Fact]
    public void Several_fields_and_columns_that_stand_for_their_sums()
    {
        var parts = new FieldsBlank("x", "Parts", ParameterKind.Parts) { FieldKinds = [FieldKind.Decimal] };
        Assert.Null(Said(parts, "tons, lines.sum"));
        Assert.NotNull(Said(parts, "tons, lines.what"));
        Assert.NotNull(Said(parts, "lines.none"));
        Assert.Equal(["tons", "lines"], parts.FieldsOf(With("tons, lines.sum"), Type));
        Assert.Equal("Factors: choose at least 2 fields.", Said(new FieldsBlank("x", "Factors") { Least = 2 }, "tons"));
        Assert.Equal(["tons", "name"], new FieldsBlank("x", "Fields").Of(With(" tons ,, name")));
    }

    [Theory]
    [InlineData("", null, null, true)]
    [InlineData("12", 12.0, 12, true)]
    [InlineData("12.5", 12.5, null, true)]
    [InlineData("-3", -3.0, -3, true)]
    [InlineData("99999999999", 99999999999.0, null, true)]
    [InlineData("twelve", null, null, false)]
    [InlineData("1e400", null, null, false)]
    public void A_number_and_a_count(string text, double? number, int? count, bool sound)
    {
        var blank = new NumberBlank("x", "from");
        Assert.Equal((decimal?)number, blank.Of(With(text)));
        Assert.Equal(count, blank.Count(With(text)));
        Assert.Equal(sound ? null : $"from: “{text}” is not a number.", Said(blank, text));
    }

    [Fact]
    public void A_date_a_choice_a_text_and_pairs()
    {
        var date = new DateBlank("x", "from");
        Assert.Equal(new DateOnly(2024, 2, 29), date.Of(With("2024-02-29")));
        Assert.Equal("from: “2023-02-29” is not a date.", Said(date, "2023-02-29"));
        Assert.Null(Said(date, ""));

        var way = new ChoiceBlank<Way>("x", "to", (Way.North, "n", "the north"), (Way.South, "s", "the south"));
        Assert.Equal((Way.South, "the south"), (way.Of(With("s")), way.Words(With("s"))));
        // Nothing chosen, or what an earlier release knew, is the first; the editor asks to choose.
        Assert.Equal(Way.North, way.Of(With("west")));
        Assert.Equal("to: choose one.", Said(way, "west"));
        Assert.Equal([("n", "the north"), ("s", "the south")], way.Options);

        Assert.Equal("pattern is missing.", Said(new TextBlank("x", "pattern", ParameterKind.Pattern), ""));
        Assert.Null(Said(new TextBlank("x", "also"), ""));
        Assert.Equal(["tons"], new TextBlank("x", "formula", ParameterKind.Formula).FieldsOf(With("[tons] > 3"), Type));
        Assert.Empty(new TextBlank("x", "formula", ParameterKind.Formula).FieldsOf(With("[tons"), Type));

        var pairs = new PairsBlank("x", "found by");
        Assert.Equal([("name", "Ship = flag"), ("day", "On")], pairs.Of(With("name=Ship = flag, day = On")));
        Assert.Equal(["name"], pairs.FieldsOf(With("name=Ship"), Type));
        Assert.Equal("found by is missing.", Said(pairs, ""));
        Assert.Null(Said(pairs with { Least = 0 }, ""));
        Assert.Contains("“name” is not that", Said(pairs, "name"), StringComparison.Ordinal);
        Assert.Contains("“gone” is no longer", Said(pairs, "gone=Ship"), StringComparison.Ordinal);
    }
}
