using System.Xml;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>How long something lasts, against what .NET reads of the same texts.</summary>
public sealed class DurationTests
{
    private static readonly FieldKind Kind = FieldKind.Duration;

    [Fact]
    public void Whatever_is_read_is_kept_in_one_form_that_other_readers_of_the_standard_take_for_the_same()
    {
        var random = new Random(2611);
        for (var i = 0; i < 5_000; i++)
        {
            var (days, hours, minutes, seconds) = (random.Next(40), random.Next(60), random.Next(150), random.Next(200));
            var truth = new TimeSpan(days, hours, minutes, seconds);
            string[] texts =
            [
                $"P{days}DT{hours}H{minutes}M{seconds}S",
                $"p{days}dt{hours}h{minutes}m{seconds}s",
                $"{days} days {hours} h {minutes} min {seconds} s",
                $"{days} Tage, {hours} Std. {minutes} Minuten und {seconds} Sek",
                $"{days}j {hours}heures {minutes}min et {seconds}s",
            ];
            foreach (var text in texts)
            {
                var value = Kind.Parse(text);
                Assert.True(value.IsGood, text);
                Assert.Equal((decimal)truth.TotalSeconds, value.Number);
                Assert.Equal(truth, XmlConvert.ToTimeSpan(value.Text));
                Assert.Equal(XmlConvert.ToString(truth), value.Text);
                Assert.Equal((value.Text, value.Number), (Kind.Parse(value.Text).Text, Kind.Order(value.Text)));
                Assert.Equal((long)truth.TotalSeconds, SearchKey.Of(Kind, text));
            }
        }
    }

    [Theory]
    [InlineData("P2W", "P14D")]
    [InlineData("36 h", "P1DT12H")]
    [InlineData("1.5 h", "PT1H30M")]
    [InlineData("2 Tage 1,5 Std", "P2DT1H30M")]
    [InlineData("90 minutes", "PT1H30M")]
    [InlineData("P0D", "PT0S")]
    [InlineData(" 1 Woche ", "P7D")]
    public void Units_are_carried_and_what_is_said_of_it_reads_back(string text, string kept)
    {
        Assert.Equal(kept, Kind.Parse(text).Text);
        Assert.Equal(kept, Kind.Parse(Kind.InWords(text)).Text);
    }

    [Theory]
    [InlineData("P1Y")]
    [InlineData("P3M")]
    [InlineData("3 months")]
    [InlineData("7 years")]
    [InlineData("P")]
    [InlineData("PT")]
    [InlineData("P1DT")]
    [InlineData("-P1D")]
    [InlineData("P1.5D")]
    [InlineData("12")]
    [InlineData("12:30")]
    [InlineData("1.5 d 2 h")]
    [InlineData("1.234 h")]
    [InlineData("0.01 min")]
    [InlineData("2 h 1 d")]
    [InlineData("2 h 3 h")]
    [InlineData("2 h,")]
    [InlineData("2 h and")]
    [InlineData("3 knots")]
    [InlineData("P9999999D")]
    [InlineData("999999999 weeks")]
    [InlineData("٣ h")]
    [InlineData("PT5M\0")]
    public void What_has_no_fixed_length_or_two_readings_is_refused(string text)
    {
        Assert.Equal((ValueState.Unreadable, text), (Kind.Parse(text).State, Kind.Parse(text).Text));
        Assert.Null(Kind.Order(text));
        Assert.NotNull(Kind.WhyNotAsked(Look.Is, text));
    }

    [Fact]
    public void A_field_of_them_has_limits_rules_conditions_and_formulas_that_count_minutes()
    {
        var type = new DocumentType(
            "lay",
            "Lay time",
            [
                new DurationField("allowed", "Allowed") { Min = "1 h", Max = "P10D" },
                new DurationField("used", "Used"),
                new DecimalField("fee", "Fee") { DefaultFrom = DefaultSource.Formula, Default = "[used] * 2" },
                new TimeField("from", "From"),
                new TimeField("to", "To"),
                new DurationField("stay", "Stay") { DefaultFrom = DefaultSource.Formula, Default = "[to] - [from]" },
                new DecimalField("third", "Third") { DefaultFrom = DefaultSource.Formula, Default = "[fee] / 900" },
                new TextField("why", "Why") { RequiredWhen = Condition.When("used", Operator.Above, "2 days") },
            ],
            [
                new Rule(
                    "r1",
                    "compare",
                    Level.Must,
                    new Dictionary<string, string>
                    {
                        ["first"] = "used",
                        ["how"] = "at-most",
                        ["second"] = "allowed",
                        ["shift"] = "plus",
                        ["by"] = "30",
                    }
                ),
            ],
            new Convention([], [])
        );
        Assert.Null(RuleKinds.Finding(type.Rules[0], type));
        Assert.Equal("Used ≤ Allowed + 30 min", RuleKinds.Sentence(type.Rules[0], type));
        var compiled = new CompiledType(type, new Dictionary<string, VocabularyIndex>());
        var judged = compiled.Judge(["2 h", "2 h 30 min", null, "08:15", "10:00", null, null, null], Harbour.Now);
        Assert.Empty(judged.Problems);
        Assert.Equal(["PT2H", "PT2H30M", "300", "08:15", "10:00", "PT1H45M", "0.333333333333", ""], judged.Values.Select(v => v.Text));
        string[] Codes(params string?[] texts) => [.. compiled.Judge(texts, Harbour.Now).Problems.Select(p => $"{p.Code}:{p.Field}")];
        Assert.Equal(["compare:used"], Codes("PT2H", "PT2H30M1S", null, null, null, null, null, null));
        Assert.Equal(["below-least:allowed"], Codes("59 min", "1 min", null, null, null, null, null, null));
        Assert.Equal(["required-when:why"], Codes("P5D", "P2DT1S", null, null, null, null, null, null));
        Assert.Equal(["not-a-duration:used"], Codes("P5D", "two days", null, null, null, null, null, null));
        // Neither a time of day nor a number is ever a duration.
        var other = type.Rules[0] with
        {
            Parameters = new Dictionary<string, string>(type.Rules[0].Parameters) { ["second"] = "from" },
        };
        Assert.Contains("cannot be compared", RuleKinds.Finding(other, type), StringComparison.Ordinal);
        var given = JsonSchemaExport.Write(compiled, given: true).ToJsonString();
        Assert.Contains("\"format\":\"duration\"", given, StringComparison.Ordinal);
        Assert.Contains("Allowed lies from 1 h to P10D", given, StringComparison.Ordinal);
    }
}
