using System.Diagnostics;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

public class SchemaTests
{
    [Theory]
    [InlineData(nameof(FieldKind.WholeNumber), " 42 ", ValueState.Good, "42")]
    [InlineData(nameof(FieldKind.WholeNumber), "4.2", ValueState.Unreadable, "4.2")]
    [InlineData(nameof(FieldKind.WholeNumber), "1,000", ValueState.Unreadable, "1,000")]
    [InlineData(nameof(FieldKind.Decimal), "-4.20", ValueState.Good, "-4.20")]
    [InlineData(nameof(FieldKind.Decimal), "4,2", ValueState.Unreadable, "4,2")]
    [InlineData(nameof(FieldKind.Date), "2024-02-29", ValueState.Good, "2024-02-29")]
    [InlineData(nameof(FieldKind.Date), "2023-02-29", ValueState.Unreadable, "2023-02-29")]
    [InlineData(nameof(FieldKind.Date), "0000-01-01", ValueState.Unreadable, "0000-01-01")]
    [InlineData(nameof(FieldKind.Date), "3 March 2024", ValueState.Good, "2024-03-03")]
    [InlineData(nameof(FieldKind.Date), "03/04/2024", ValueState.Unreadable, "03/04/2024")]
    [InlineData(nameof(FieldKind.YesNo), "Y", ValueState.Good, "yes")]
    [InlineData(nameof(FieldKind.YesNo), "perhaps", ValueState.Unreadable, "perhaps")]
    [InlineData(nameof(FieldKind.Text), "  ", ValueState.Empty, "")]
    public void A_text_is_read_as_its_kind(string kind, string text, ValueState state, string shown)
    {
        var value = FieldKind.Find(kind)!.Parse(text);
        Assert.Equal(state, value.State);
        Assert.Equal(shown, value.Text);
    }

    [Theory]
    [InlineData(@"(a+)+$")]
    [InlineData(@"(a|aa)*b")]
    [InlineData(@"([a-zA-Z]+)*[0-9]")]
    public void A_pattern_that_could_run_away_takes_linear_time(string pattern)
    {
        Assert.True(SafePattern.TryWhole(pattern, out var regex, out _));
        // Backtracking would need 2^n steps; ten times the length must cost nowhere near a thousand times the work.
        double Cost(int length)
        {
            var text = new string('a', length) + "!";
            var least = double.MaxValue;
            for (var i = 0; i < 5; i++)
            {
                var watch = Stopwatch.StartNew();
                Assert.False(regex!.IsMatch(text));
                least = Math.Min(least, watch.Elapsed.TotalMicroseconds);
            }
            return least + 5;
        }
        var small = Cost(2_000);
        Assert.True(Cost(20_000) / small < 200, pattern);
    }

    [Theory]
    [InlineData("[0-9", "character")]
    [InlineData(@"(a)\1", "back-references")]
    [InlineData("(?=a)", "uses look-around")]
    [InlineData("a)(b", "character")]
    public void A_pattern_that_cannot_be_used_says_why(string pattern, string reason)
    {
        Assert.False(SafePattern.TryWhole(pattern, out _, out var problem));
        Assert.Contains(reason, problem);
    }

    [Fact]
    public void Findings_name_what_blocks_publishing()
    {
        var terms = new Dictionary<string, VocabularyIndex> { ["flags"] = new(new Vocabulary("flags", "Flags", [new Term("Merrow", [])])) };
        var type = Harbour.Call with
        {
            Fields =
            [
                new TextField("Bad Key", "A"),
                new WholeNumberField("b", "B") { Min = "9", Max = "3" },
                new TextField("c", "C") { MinLength = 5, MaxLength = 2 },
                new TermField("d", "D"),
                new DateField("e", "E") { Default = "yesterday" },
                new TermField("f", "F") { Vocabulary = "flags", Default = "Nowhere" },
                new TextField("g", "G") { Pattern = "[" },
            ],
            Rules = [Harbour.Rule("r1", "compare", ("first", "e"), ("how", "at-most"), ("second", "gone"))],
        };
        var codes = DesignCheck.Findings(type, DesignSurroundings.Alone(terms)).Select(f => f.Code).ToList();
        foreach (
            var code in new[]
            {
                "field-key",
                "field-range",
                "field-lengths",
                "field-vocabulary",
                "field-default",
                "field-pattern",
                "rule-fault",
            }
        )
            Assert.Contains(code, codes);
        Assert.Equal(2, codes.Count(c => c == "field-default"));
        string[] Of(string pattern) =>
            [
                .. Beyond(
                        Harbour.Call with
                        {
                            Fields = [.. Harbour.Call.Fields, new TextField("x", "X") { Pattern = pattern }],
                        },
                        DesignSurroundings.Alone(Harbour.Vocabularies)
                    )
                    .Select(f => f.Code),
            ];
        // The rules of these tests have no examples.
        static IEnumerable<Finding> Beyond(DocumentType type, DesignSurroundings around) =>
            DesignCheck.Findings(type, around).Where(f => f.Code != "rule-no-failing-example");
        Assert.Equal(["field-pattern-nested"], Of("(a+)+$"));
        Assert.Empty(Of("(ab)+c+"));
        Assert.Empty(Beyond(Harbour.Call, DesignSurroundings.Alone(Harbour.Vocabularies)));
    }

    [Theory]
    [InlineData("Gross tonnage (GT)", "gross-tonnage-gt")]
    [InlineData("2nd mate", "n-2nd-mate")]
    [InlineData("Größe", "grosse")]
    public void A_key_comes_from_the_label(string label, string key) => Assert.Equal(key, ShortName.From(label));

    [Fact]
    public void Made_up_records_pass_their_own_fields()
    {
        var compiled = new Designs.CompiledType(Harbour.Call, Harbour.Vocabularies);
        var record = SampleRecords.For(Harbour.Call, Harbour.Vocabularies)[0];
        Assert.DoesNotContain(compiled.Judge(record, Harbour.Now).Problems, p => p.Rule is null);
    }
}
