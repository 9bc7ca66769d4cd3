using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>Questions to the repository as sentences: what is written is what is read, whatever the values are.</summary>
public class QuestionTests
{
    private static readonly TypeFields Fields = new(
        "call",
        [
            new TextField("vessel", "Vessel"),
            new TextField("vessel-from", "Vessel from"),
            new TermField("berth", "Berth and quay") { Vocabulary = "berths" },
            new DateField("arrived", "Arrived"),
            new DecimalField("tons", "Gross tons"),
            new TableField("dues", "Dues") { Columns = [new TextField("service", "Service"), new DecimalField("net", "Net")] },
        ]
    );

    private static Question Read(string text)
    {
        var question = QuestionText.Read(text, Fields, out var fault);
        Assert.True(fault is null, $"{text}: {fault}");
        return question;
    }

    [Fact]
    public void A_sentence_is_read_as_it_is_meant()
    {
        var asked = Read(
            "vessel from holds Oslo AND  \"Berth and quay\" is within North Basin and Arrived is from 30 days ago to today and tons "
                + "is above 5"
        );
        Assert.False(asked.Any);
        Assert.Equal(
            [
                new FieldCondition("vessel-from", FieldKind.Text, Look.Holds, "Oslo"),
                new FieldCondition("berth", FieldKind.Term, Look.Within, "North Basin"),
                new FieldCondition("arrived", FieldKind.Date, Look.Between, "30 days ago", "today"),
                new FieldCondition("tons", FieldKind.Decimal, Look.After, "5"),
            ],
            asked.Conditions.Select(c => c with { Values = [] }),
            (a, b) => a.ToString() == (b with { Values = a.Values }).ToString()
        );
        var any = Read("Dues: Service is one of Pilotage, \"Water, fresh\" or Vessel is empty");
        Assert.True(any.Any);
        Assert.Equal(("dues.service", "Pilotage|Water, fresh"), (any.Conditions[0].Field, string.Join('|', any.Conditions[0].Values)));
        Assert.Equal(Look.Empty, any.Conditions[1].How);
        // A label that holds a joining word is found without quotation marks, too.
        Assert.Equal("berth", Read("Berth and quay is Tar Berth and vessel is Tern").Conditions[0].Field);
    }

    [Theory]
    [InlineData("Ship is Tern", 0, "does not begin with a field")]
    [InlineData("Vessel was Tern", 7, "how it is compared")]
    [InlineData("Vessel is ", 10, "value is missing")]
    [InlineData("Vessel is \"Tern", 10, "not closed")]
    [InlineData("Arrived is from March", 16, "is not a day")]
    [InlineData("Gross tons is many", 14, "is not a number")]
    [InlineData("Arrived is within 2024", 8, "cannot be compared")]
    [InlineData("Vessel is A and Vessel is B or Vessel is C", 28, "all by or")]
    [InlineData("Vessel is A and ", 12, "condition is missing")]
    [InlineData("Dues is filled", 0, "does not begin with a field")]
    public void What_cannot_be_read_is_said_with_its_place(string text, int at, string says)
    {
        QuestionText.Read(text, Fields, out var fault);
        Assert.NotNull(fault);
        Assert.Equal(at, fault.At);
        Assert.Contains(says, fault.Says, StringComparison.Ordinal);
    }

    [Fact]
    public void Any_question_that_is_written_is_read_again_and_no_text_makes_reading_fail()
    {
        var random = new Random(13);
        string[] pieces =
        [
            "Tern",
            " and ",
            " or ",
            ",",
            "\"",
            "“",
            "”",
            " to ",
            "to",
            "is",
            " ",
            "  ",
            "ö",
            "漢",
            "\t",
            "'",
            "and",
            "2024",
            "is one of",
            "Vessel",
        ];
        string Text() => string.Concat(Enumerable.Range(0, random.Next(1, 5)).Select(_ => pieces[random.Next(pieces.Length)]));
        for (var round = 0; round < 3_000; round++)
        {
            FieldCondition Asked()
            {
                var (key, kind) = new[]
                {
                    ("vessel", FieldKind.Text),
                    ("berth", FieldKind.Term),
                    ("arrived", FieldKind.Date),
                    ("dues.net", FieldKind.Decimal),
                }[random.Next(4)];
                var ways = kind.Looks;
                var how = ways[random.Next(ways.Count)];
                string Value() =>
                    kind == FieldKind.Date ? $"20{random.Next(10, 30)}-03-05"
                    : kind == FieldKind.Decimal ? $"{random.Next(900)}"
                    : Text() is var text && string.IsNullOrWhiteSpace(text) ? "x"
                    : text;
                return how switch
                {
                    Look.Empty or Look.Filled => new FieldCondition(key, kind, how),
                    Look.OneOf => new FieldCondition(key, kind, how)
                    {
                        Values = [.. Enumerable.Range(0, random.Next(1, 4)).Select(_ => Value())],
                    },
                    Look.Between => random.Next(3) switch
                    {
                        0 => new FieldCondition(key, kind, how, "", Value()),
                        1 => new FieldCondition(key, kind, how, Value()),
                        _ => new FieldCondition(key, kind, how, Value(), Value()),
                    },
                    _ => new FieldCondition(key, kind, how, Value()),
                };
            }
            var question = new Question(random.Next(2) == 0, [.. Enumerable.Range(0, random.Next(1, 4)).Select(_ => Asked())]);
            var text = QuestionText.Write(question, Fields);
            var read = Read(text);
            Assert.Equal(text, QuestionText.Write(read, Fields));
            string Told(FieldCondition c) => $"{c.Field} {c.How} [{c.Text}] [{c.To}] [{string.Join("][", c.Values)}]";
            Assert.Equal(question.Conditions.Select(Told), read.Conditions.Select(Told));
            // Torn anywhere, it is read or refused, and completed or not.
            var torn = text[..random.Next(text.Length)] + Text();
            QuestionText.Read(torn, Fields, out _);
            foreach (var whole in QuestionText.Complete(torn, Fields, (_, typed) => [typed + "x"]))
                Assert.True(whole.Length > 0);
        }
        QuestionText.Read(new string('x', 10_000), Fields, out var fault);
        Assert.Contains("10,000 characters", fault!.Says, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("", "Vessel |Vessel from |Berth and quay |Arrived |Gross tons |Dues: Service |Dues: Net ")]
    [InlineData("ves", "Vessel |Vessel from ")]
    [InlineData("Arrived is b", "Arrived is before |Arrived is b 1")]
    [InlineData("Vessel is filled and gro", "Vessel is filled and Gross tons ")]
    [InlineData("Berth and quay is tar", "Berth and quay is tar 1")]
    [InlineData("Berth and quay is one of A, tar", "Berth and quay is one of A, tar 1")]
    public void The_end_of_a_sentence_is_completed(string typed, string offered) =>
        Assert.Equal(offered, string.Join('|', QuestionText.Complete(typed, Fields, (_, value) => [value + " 1"])));

    [Fact]
    public void Days_and_branches_become_values()
    {
        var berths = new VocabularyIndex(
            new Vocabulary(
                "berths",
                "Berths",
                [
                    new Term("North Basin", [], "N"),
                    new Term("Tanker Quay", []) { Broader = ["North Basin"] },
                    new Term("Tanker 1", ["T1"]) { Broader = ["Tanker Quay"] },
                    new Term("South Basin", []),
                ]
            )
        );
        var today = new DateOnly(2024, 3, 31);
        var asked = Read(
                "Berth and quay is within N and Berth and quay is T1 and Arrived is from a month ago to in 2 days and Arrived is 2023"
            )
            .On(Fields, new Dictionary<string, VocabularyIndex> { ["berths"] = berths }, today);
        Assert.Equal(["North Basin", "Tanker Quay", "Tanker 1"], asked.Conditions[0].Values);
        Assert.Equal("Tanker 1", asked.Conditions[1].Text);
        Assert.Equal(("2024-02-29", "2024-04-02"), (asked.Conditions[2].Text, asked.Conditions[2].To));
        Assert.Equal((Look.Between, "2023", "2023"), (asked.Conditions[3].How, asked.Conditions[3].Text, asked.Conditions[3].To));
        Assert.Equal(DateOnly.MinValue, RelativeDate.On("99999 years ago", today));
        Assert.Null(RelativeDate.On("100001 days ago", today));
    }
}
