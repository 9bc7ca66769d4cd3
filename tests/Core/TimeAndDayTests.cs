using System.Globalization;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>Every minute of a day and every day of twenty years, against what a calendar and a clock say.</summary>
public sealed class TimeAndDayTests
{
    private static readonly Dictionary<string, VocabularyIndex> None = [];

    [Fact]
    public void Every_minute_is_read_in_all_its_spellings_kept_in_one_and_ordered_as_the_clock_goes()
    {
        var keys = new List<string>();
        for (var minute = 0; minute < 24 * 60; minute++)
        {
            var (hour, rest) = (minute / 60, minute % 60);
            var kept = new TimeOnly(hour, rest).ToString("HH:mm", CultureInfo.InvariantCulture);
            foreach (var text in new[] { kept, $"{hour}:{rest:00}", $"{hour:00}:{rest:00}:00", $"{hour}:{rest:00}:00" })
            {
                Assert.True(FieldParsing.TryTime(text, out var read), text);
                Assert.Equal(minute, read);
                var value = FieldKind.Time.Parse(text);
                Assert.Equal((kept, true), (value.Text, value.IsGood));
                Assert.Equal(minute, FieldKind.Time.Order(text));
            }
            keys.Add((string)SearchKey.Of(FieldKind.Time, kept)!);
        }
        Assert.Equal(keys, keys.Order(StringComparer.Ordinal));
        Assert.Equal(keys.Count, keys.Distinct().Count());
    }

    [Theory]
    [InlineData("24:00")]
    [InlineData("7:5")]
    [InlineData("07:60")]
    [InlineData("-1:00")]
    [InlineData("+7:30")]
    [InlineData(" 7:30")]
    [InlineData("١٢:٣٠")]
    [InlineData("12:30:01")]
    [InlineData("12:30:00:00")]
    [InlineData("12.30")]
    [InlineData(":30")]
    [InlineData("12:")]
    [InlineData("0012:30")]
    [InlineData("12:3\0")]
    [InlineData("１２:30")]
    [InlineData("noon")]
    [InlineData("")]
    [InlineData(":00")]
    [InlineData(":00:00")]
    public void What_is_no_minute_of_a_day_is_none(string text)
    {
        Assert.False(FieldParsing.TryTime(text, out _));
        Assert.Null(FieldKind.Time.Order(text));
        // What surrounds a value is not part of it.
        Assert.Equal(text.StartsWith(' '), FieldKind.Time.Parse(text).IsGood);
    }

    /// <summary>However clocks are written on paper, the cleaning step gives the minute or leaves the text.</summary>
    [Fact]
    public void A_time_as_people_write_it_is_cleaned_to_the_minute_and_cleaning_it_twice_changes_nothing()
    {
        var clean = CleaningSteps.Compile([new CleaningStep("read-time")], new TimeField("at", "At"));
        for (var minute = 0; minute < 24 * 60; minute += 7)
        {
            var time = new TimeOnly(minute / 60, minute % 60);
            var kept = time.ToString("HH:mm", CultureInfo.InvariantCulture);
            foreach (var form in new[] { "HH:mm", "H.mm", "HHmm", "h:mm tt", "HH'h'mm" })
            {
                var written = time.ToString(form, CultureInfo.InvariantCulture);
                var read = clean(written);
                Assert.True(read == kept || read == written, $"{written} became {read}, not {kept}");
                Assert.Equal(read, clean(read));
            }
            Assert.Equal(kept, clean(time.ToString("H.mm", CultureInfo.InvariantCulture)));
            Assert.Equal(kept, clean(time.ToString("h:mm tt", CultureInfo.InvariantCulture)));
        }
        foreach (var other in new[] { "", "99", "7.5 m", "12.345", "at noon", "2024-03-05", "\ud800" })
            Assert.Equal(other, clean(other));
    }

    [Fact]
    public void A_date_falls_on_the_days_that_the_calendar_says_and_the_office_is_open_when_it_is_not_closed()
    {
        var random = new Random(7);
        var days = Enumerable.Range(0, 20 * 366).Select(new DateOnly(2016, 1, 1).AddDays).ToList();
        var closed = days.Where(_ => random.Next(30) == 0).ToHashSet();
        var now = Harbour.Now with { Closed = closed };
        (string On, Func<DateOnly, bool> Falls)[] kinds =
        [
            ("working-day", d => (int)d.DayOfWeek is >= 1 and <= 5),
            ("open-day", d => (int)d.DayOfWeek is >= 1 and <= 5 && !closed.Contains(d)),
            ("not-sunday", d => d.DayOfWeek != DayOfWeek.Sunday),
            ("month-begins", d => d.AddDays(-1).Month != d.Month),
            ("month-ends", d => d.AddDays(1).Month != d.Month),
            ("quarter-begins", d => (d.AddDays(-1).Month - 1) / 3 != (d.Month - 1) / 3),
            ("quarter-ends", d => (d.AddDays(1).Month - 1) / 3 != (d.Month - 1) / 3),
        ];
        foreach (var (on, falls) in kinds)
        {
            var rule = new Rule("r", DateOn.Kind, Level.Must, new Dictionary<string, string> { ["field"] = "day", ["on"] = on });
            var type = new CompiledType(DocumentType.Empty("t", "T") with { Fields = [new DateField("day", "Day")], Rules = [rule] }, None);
            foreach (var day in days)
                Assert.Equal(falls(day), type.Judge([day.ToString("yyyy-MM-dd")], now).Problems.Count == 0);
        }
    }

    /// <summary>A difference of times is what the clock says, also where it is below nothing; nothing throws at the ends of the
    /// day.</summary>
    [Fact]
    public void Times_are_subtracted_and_shifted_as_minutes()
    {
        var type = new CompiledType(
            DocumentType.Empty("t", "T") with
            {
                Fields =
                [
                    new TimeField("on", "On"),
                    new TimeField("off", "Off"),
                    new WholeNumberField("stay", "Stay") { DefaultFrom = DefaultSource.Formula, Default = "[off] - [on]" },
                ],
                Rules =
                [
                    new Rule(
                        "r",
                        "compare",
                        Level.Must,
                        new Dictionary<string, string>
                        {
                            ["first"] = "off",
                            ["how"] = "at-least",
                            ["second"] = "on",
                            ["shift"] = "plus",
                            ["by"] = "45",
                        }
                    ),
                ],
            },
            None
        );
        var random = new Random(11);
        for (var round = 0; round < 4_000; round++)
        {
            var (on, off) = (random.Next(24 * 60), random.Next(24 * 60));
            var judged = type.Judge([Text(on), Text(off), null], Harbour.Now);
            Assert.Equal($"{off - on}", judged.Values[2].Text);
            Assert.Equal(off >= on + 45, judged.Problems.Count == 0);
        }

        static string Text(int minute) => $"{minute / 60:00}:{minute % 60:00}";
    }
}
