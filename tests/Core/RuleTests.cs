using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Tests;

public class RuleTests
{
    [Fact]
    public void A_sound_record_has_no_problems_and_takes_its_defaults()
    {
        var judged = Harbour.Compiled.Judge(Harbour.Record(), Harbour.Now);
        Assert.Empty(judged.All);
        Assert.True(judged.Ready(new HashSet<string>()));
        Assert.Equal("no", judged.Values[Harbour.Call.OrdinalOf("pilot")].Text);
    }

    [Theory]
    [InlineData("number", null, "required")]
    [InlineData("number", "VC-24-1", "pattern")]
    [InlineData("vessel", "X", "too-short")]
    [InlineData("vessel", "A very long name", "too-long")]
    [InlineData("berth", "West Basin", "unknown-term")]
    [InlineData("berth", "Timber Wharf", "retired-term")]
    [InlineData("arrived", "1985-12-31", "below-least")]
    [InlineData("arrived", "2031-01-01", "above-greatest")]
    [InlineData("arrived", "soon", "not-a-date")]
    [InlineData("net", "-1", "below-least")]
    [InlineData("net", "much", "not-a-number")]
    [InlineData("crew", "2.5", "not-a-whole-number")]
    [InlineData("pilot", "maybe", "not-yes-or-no")]
    public void A_field_says_what_it_demands(string field, string? text, string code)
    {
        var problem = Assert.Single(Harbour.Compiled.Judge(Harbour.Record((field, text)), Harbour.Now).Problems);
        Assert.Equal(code, problem.Code);
        Assert.Equal(field, problem.Field);
        Assert.Equal(Level.Must, problem.Level);
        Assert.DoesNotContain("{0}", problem.Message);
    }

    [Theory]
    [InlineData("2024-03-05", true)]
    [InlineData("2024-03-04", false)]
    [InlineData(null, true)]
    public void A_date_is_not_after_another(string? sailed, bool holds) =>
        Assert.Equal(holds ? [] : ["compare"], Harbour.Codes(("sailed", sailed)));

    [Theory]
    [InlineData("100", "20", "120", true)]
    [InlineData("100", "20", "120.01", true)]
    [InlineData("100", "20", "120.02", false)]
    [InlineData("100", null, "100", true)]
    [InlineData("100", "20", null, true)]
    public void Parts_add_up_within_the_tolerance(string? net, string? tax, string? total, bool holds) =>
        Assert.Equal(holds ? [] : ["adds-up"], Harbour.Codes(("net", net), ("tax", tax), ("total", total)));

    // Ship numbers as the resolution and the invented fleet print them: valid, last digit wrong, wrong length, letters.
    [Theory]
    [InlineData("9074729", null)]
    [InlineData("IMO 9074729", null)]
    [InlineData("9074728", "check-digit")]
    [InlineData("907472", "check-length")]
    [InlineData("90747Z9", "check-character")]
    public void A_ship_number_passes_its_check_digit(string number, string? code) =>
        Assert.Equal(code is null ? [] : [code], Harbour.Codes(("imo", number)));

    [Fact]
    public void A_wrong_check_digit_says_which_it_should_be() =>
        Assert.Contains("should be 9", Harbour.Compiled.Judge(Harbour.Record(("imo", "9074723")), Harbour.Now).Problems[0].Message);

    [Theory]
    [InlineData("yes", null, null, false)]
    [InlineData("YES", "PC-1", null, true)]
    [InlineData("yes", null, "4", true)]
    [InlineData("no", null, null, true)]
    public void One_is_filled_when_another_has_a_value(string pilot, string? certificate, string? crew, bool holds) =>
        Assert.Equal(holds ? [] : ["one-filled"], Harbour.Codes(("pilot", pilot), ("certificate", certificate), ("crew", crew)));

    [Fact]
    public void A_unique_combination_is_the_same_however_it_is_written_and_none_when_incomplete()
    {
        var unique = Harbour.Compiled.Uniques[0];
        string? Key(string? number) => unique.KeyOf(Harbour.Compiled.Judge(Harbour.Record(("number", number)), Harbour.Now).Values);
        Assert.Equal(Key("VC-2024-00001"), Key("vc 2024 00001"));
        Assert.NotEqual(Key("VC-2024-00001"), Key("VC-2024-00002"));
        Assert.Null(Key(null));
    }

    [Fact]
    public void Problems_are_values()
    {
        Problem Found() => Harbour.Compiled.Judge(Harbour.Record(("vessel", "X")), Harbour.Now).Problems[0];
        Assert.Equal(Found(), Found());
        Assert.Single(
            Harbour
                .Compiled.Problems(
                    Harbour.Compiled.Judge(Harbour.Record(("vessel", "X"), ("number", null)), Harbour.Now).Values,
                    Harbour.Now
                )
                .Take(1)
        );
    }

    [Fact]
    public void A_should_problem_can_be_overridden_and_a_must_problem_cannot()
    {
        var softened = Harbour.Call with
        {
            Rules =
            [
                Harbour.Rule("r1", "compare", ("first", "arrived"), ("how", "at-most"), ("second", "sailed")) with
                {
                    Level = Level.Should,
                    Message = "Look at the dates.",
                },
            ],
        };
        var judged = new CompiledType(softened, Harbour.Vocabularies).Judge(Harbour.Record(("sailed", "2024-03-01")), Harbour.Now);
        var problem = Assert.Single(judged.All);
        Assert.Equal("Look at the dates.", problem.Message);
        Assert.False(judged.Ready(new HashSet<string>()));
        Assert.True(judged.Ready(new HashSet<string> { problem.Id }));
        var must = Harbour.Compiled.Judge(Harbour.Record(("sailed", "2024-03-01")), Harbour.Now);
        Assert.False(must.Ready(must.All.Select(p => p.Id).ToHashSet()));
    }

    [Theory]
    [InlineData("compare", "first", "vessel", "cannot be compared")]
    [InlineData("compare", "second", "gone", "no longer")]
    [InlineData("compare", "second", "", "choose a field")]
    [InlineData("adds-up", "parts", "", "choose a field")]
    [InlineData("adds-up", "parts", "net,vessel", "needs whole number or decimal or amount")]
    [InlineData("adds-up", "tolerance", "a little", "not a number")]
    [InlineData("no-such-kind", "x", "y", "no rule kind")]
    public void A_rule_that_cannot_be_compiled_says_why_and_is_left_out(string kind, string parameter, string value, string reason)
    {
        var good = Harbour.Call.Rules.FirstOrDefault(r => r.Kind == kind) ?? Harbour.Rule("r9", kind);
        var rule = good with
        {
            Parameters = good
                .Parameters.Where(p => p.Key != parameter)
                .Append(new(parameter, value))
                .ToDictionary(p => p.Key, p => p.Value),
        };
        Assert.Contains(reason, RuleKinds.Finding(rule, Harbour.Call));
        Assert.Empty(
            new CompiledType(Harbour.Call with { Rules = [rule] }, Harbour.Vocabularies)
                .Judge(Harbour.Record(("sailed", "2024-03-01")), Harbour.Now)
                .Problems
        );
    }

    [Theory]
    [InlineData(@"VC-\d{4}-[A-Z]", "VC-2024-A", true)]
    [InlineData(@"VC-\d{4}-[A-Z]", "VC-2O24-A", false)]
    [InlineData(@"\d{7}", "1234567", true)]
    public void A_fixed_shape_matches_as_the_pattern_does(string pattern, string value, bool matches)
    {
        var shape = PatternShape.Parse(pattern)!;
        Assert.Equal(matches, shape.Matches(value));
        Assert.True(SafePattern.TryWhole(pattern, out var regex, out _));
        Assert.Equal(matches, regex!.IsMatch(value));
        Assert.True(regex.IsMatch(shape.Example()));
    }

    [Theory]
    [InlineData(@"\d+")]
    [InlineData("a|b")]
    [InlineData(@"\w{3}")]
    [InlineData("[A-Z]?")]
    public void A_pattern_of_open_length_has_no_fixed_shape(string pattern) => Assert.Null(PatternShape.Parse(pattern));
}
