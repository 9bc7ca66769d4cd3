using System.Text.RegularExpressions;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

public class FieldKindTests
{
    private static readonly Dictionary<string, VocabularyIndex> Vocabularies = new()
    {
        ["berths"] = new(
            new Vocabulary(
                "berths",
                "Berths",
                [
                    new Term("North Basin", []) { Id = "basin" },
                    new Term("North Quays", []) { Id = "quays", Broader = ["basin"] },
                    new Term("North Quay 1", ["Old Coal Staith"], "NQ1") { Id = "nq1", Broader = ["quays"] },
                    new Term("South Basin", []) { Id = "south" },
                    new Term("Roads; outer", []) { Id = "roads", Broader = ["south"] },
                    new Term("Deal Wharf", [], null, TermStatus.Retired) { Id = "deal", ReplacedBy = "nq1" },
                ]
            )
        ),
        ["words"] = new(new Vocabulary("words", "Words", [new Term("Grain", [])]) { Growth = Growth.WithReview }),
    };

    private static (FieldValue Value, string[] Codes) Judge(Field field, string? text)
    {
        var judged = new CompiledType(DocumentType.Empty("t", "T") with { Fields = [field] }, Vocabularies).Judge([text], Harbour.Now);
        return (judged.Values[0], [.. judged.Problems.Select(p => p.Code)]);
    }

    [Theory]
    [InlineData("1250.50 EUR", "1250.50 EUR", null)]
    [InlineData("eur 1250.5", "1250.5 EUR", null)]
    [InlineData("12", "12 EUR", null)]
    [InlineData("12 NOK", "12 NOK", null)]
    [InlineData("12 GBP", "12 GBP", "currency-not-taken")]
    [InlineData("12.345 EUR", "12.345 EUR", "amount-places")]
    [InlineData("12.340 EUR", "12.340 EUR", null)]
    [InlineData("101 EUR", "101 EUR", "above-greatest")]
    [InlineData("twelve EUR", "twelve EUR", "not-an-amount")]
    public void An_amount_has_a_currency_of_its_own(string text, string kept, string? code)
    {
        var (value, codes) = Judge(
            new AmountField("fee", "Fee") { Currencies = ["EUR", "NOK"], Max = code == "above-greatest" ? "100" : null },
            text
        );
        Assert.Equal(kept, value.Text);
        Assert.Equal(code is null ? [] : [code], codes);
    }

    [Theory]
    [InlineData("14:30", "14:30", null)]
    [InlineData("6:05", "06:05", null)]
    [InlineData("23:59:00", "23:59", null)]
    [InlineData("05:59", "05:59", "below-least")]
    [InlineData("24:00", "24:00", "not-a-time")]
    [InlineData("14:60", "14:60", "not-a-time")]
    [InlineData("14.30", "14.30", "not-a-time")]
    [InlineData("1/:00", "1/:00", "not-a-time")]
    public void A_time_of_day_is_kept_to_the_minute_and_has_limits(string text, string kept, string? code)
    {
        var (value, codes) = Judge(new TimeField("at", "Berthed at") { Min = "6:00", Max = "23:59" }, text);
        Assert.Equal(kept, value.Text);
        Assert.Equal(code is null ? [] : [code], codes);
    }

    [Fact]
    public void Times_are_compared_computed_asked_for_and_exported()
    {
        var type = DocumentType.Empty("t", "T") with
        {
            Fields =
            [
                new TimeField("on", "On berth") { Max = "22:00" },
                new TimeField("off", "Off berth"),
                new WholeNumberField("minutes", "Minutes") { DefaultFrom = DefaultSource.Formula, Default = "[off] - [on]" },
                new YesNoField("night", "Night work") { RequiredWhen = Condition.When("off", Operator.AtLeast, "20:00") },
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
                        ["by"] = "30",
                    }
                ),
            ],
        };
        var compiled = new CompiledType(type, Vocabularies);
        (string Minutes, string Codes) Of(string on, string off) =>
            compiled.Judge([on, off, null, null], Harbour.Now) is var j
                ? (j.Values[2].Text, string.Join(',', j.Problems.Select(p => p.Code)))
                : default;
        Assert.Equal(("30", ""), Of("9:30", "10:00"));
        Assert.Equal(("29", "compare"), Of("9:30", "9:59"));
        Assert.Equal(("660", "required-when"), Of("09:00", "20:00"));
        Assert.Equal("Off berth ≥ On berth + 30 min", RuleKinds.Sentence(type.Rules[0], type));

        QuestionText.Read("On berth holds 14", type, out var fault);
        Assert.Contains("cannot be compared", fault!.Says);
        QuestionText.Read("On berth is before noon", type, out fault);
        Assert.Equal("“noon” is not a time. Write 14:30.", fault!.Says);
        var asked = QuestionText.Read("On berth is from 6:00 to 9:30", type, out fault).On(type, Vocabularies, new DateOnly(2024, 3, 5));
        Assert.Equal(("06:00", "09:30"), (asked.Conditions[0].Text, asked.Conditions[0].To));
        Assert.Equal("18:45", SearchKey.Of(FieldKind.Time, " 18:45 "));

        var schema = JsonSchemaExport.Write(compiled)["properties"]!["on"]!;
        Assert.True(Regex.IsMatch("09:30", (string)schema["pattern"]!) && !Regex.IsMatch("24:30", (string)schema["pattern"]!));
        var columns = CsvwExport.Write(type, "t.csv")["tableSchema"]!["columns"]!.AsArray();
        var datatype = columns.Single(c => (string?)c!["name"] == "on")!["datatype"]!;
        Assert.Equal(("time", "HH:mm", "22:00"), ((string?)datatype["base"], (string?)datatype["format"], (string?)datatype["maximum"]));
    }

    [Fact]
    public void Currencies_are_those_of_the_standard_with_their_minor_units()
    {
        Assert.Equal(
            (2, 0, 3, null),
            (Currencies.PlacesOf("EUR"), Currencies.PlacesOf("JPY"), Currencies.PlacesOf("KWD"), Currencies.PlacesOf("XXZ"))
        );
        Assert.Equal(["unknown-currency"], Judge(new AmountField("fee", "Fee"), "5 QQQ").Codes);
        Assert.InRange(Currencies.All.Count, 150, 200);
    }

    [Theory]
    [InlineData("nq1; South Basin", "North Quay 1; South Basin", null)]
    [InlineData("NQ1;nq1 ; ", "North Quay 1", null)]
    [InlineData("Roads; outer; NQ1", "Roads; outer; North Quay 1", null)]
    [InlineData("NQ1; Nowhere", "NQ1; Nowhere", "unknown-term")]
    [InlineData("NQ1; Deal Wharf", "North Quay 1; Deal Wharf", "replaced-term")]
    public void Several_terms_are_read_each_by_any_spelling(string text, string kept, string? code)
    {
        var (value, codes) = Judge(new TermsField("b", "B") { Vocabulary = "berths" }, text);
        Assert.Equal(kept, value.Text);
        Assert.Equal(code is null ? [] : [code], codes);
    }

    [Theory]
    [InlineData("basin", null, false, "North Quay 1", null)]
    [InlineData("basin", null, false, "South Basin", "not-in-branch")]
    [InlineData("basin", null, false, "North Basin", "not-in-branch")]
    [InlineData(null, 2, false, "North Quays", null)]
    [InlineData(null, 2, false, "North Quay 1", "not-on-level")]
    [InlineData(null, null, true, "North Quay 1", null)]
    [InlineData(null, null, true, "North Quays", "not-a-leaf")]
    public void A_term_field_can_take_one_branch_one_level_or_leaves(string? branch, int? level, bool leaves, string text, string? code) =>
        Assert.Equal(
            code is null ? [] : [code],
            Judge(
                new TermField("b", "B")
                {
                    Vocabulary = "berths",
                    Branch = branch,
                    OnlyLevel = level,
                    LeavesOnly = leaves,
                },
                text
            ).Codes
        );

    [Fact]
    public void A_growing_vocabulary_takes_a_new_word_and_names_it()
    {
        var type = new CompiledType(
            DocumentType.Empty("t", "T") with
            {
                Fields = [new TermsField("w", "W") { Vocabulary = "words" }, new TermField("v", "V") { Vocabulary = "words" }],
            },
            Vocabularies
        );
        var judged = type.Judge(["Grain; Peat", "grain"], Harbour.Now);
        Assert.Empty(judged.Problems);
        Assert.Equal([("words", "Peat")], type.NewTerms(judged.Values));
    }

    [Fact]
    public void A_word_that_is_there_is_not_new_because_the_separator_stands_in_it()
    {
        var words = new Vocabulary("words", "Words", [new Term("Timber; sawn", [], null, TermStatus.Current)])
        {
            Growth = Growth.WithReview,
        };
        var type = new CompiledType(
            DocumentType.Empty("t", "T") with
            {
                Fields = [new TermsField("w", "W") { Vocabulary = "words" }],
            },
            new Dictionary<string, VocabularyIndex> { ["words"] = new(words) }
        );
        Assert.Empty(type.NewTerms(type.Judge(["Timber; sawn"], Harbour.Now).Values));
    }

    private static readonly Field Lines = new TableField("lines", "Lines")
    {
        Columns =
        [
            new TermField("what", "What") { Vocabulary = "berths", Required = true },
            new WholeNumberField("n", "Number") { Min = "1" },
            new DecimalField("rate", "Rate") { Cleaning = [new CleaningStep("read-number", ",")] },
            new DecimalField("sum", "Sum"),
            new TextField("unit", "Unit") { Default = "day" },
        ],
        RowRules = [RuleKindTests.Make("multiplies", "factors=n,rate;product=sum;tolerance=0.01")],
    };

    [Fact]
    public void A_table_is_cleaned_read_and_judged_row_by_row()
    {
        var judged = new CompiledType(DocumentType.Empty("t", "T") with { Fields = [Lines] }, Vocabularies).Judge(
            [
                """[{"what":"NQ1","n":2,"rate":"1,50","sum":"3.00"},{"what":"","n":"0"},{},{"what":"Nowhere","n":"2","rate":"2","sum":"5"}]""",
            ],
            Harbour.Now
        );
        Assert.Equal(3, judged.Values[0].Rows.Length);
        Assert.Contains("""{"what":"North Quay 1","n":"2","rate":"1.50","sum":"3.00","unit":"day"}""", judged.Values[0].Text);
        Assert.Equal(
            ["below-least 2", "multiplies 3", "required 2", "unknown-term 3"],
            judged.Problems.Select(p => $"{p.Code} {p.Row}").Order()
        );
        Assert.Equal("Row 3: The factors give 4, but Sum is 5.", judged.Problems.Single(p => p.Code == "multiplies").Message);
        Assert.StartsWith("Zeile 2: ", judged.Problems.First(p => p.Row == 2).In("de"));
        Assert.Equal(4, judged.Problems.Select(p => p.Id).Distinct().Count());
        Assert.All(judged.Problems, p => Assert.Equal("lines", p.Field));
    }

    [Theory]
    [InlineData("no rows at all")]
    [InlineData("""{"a":1}""")]
    [InlineData("[1,2]")]
    public void What_is_no_table_is_said_and_kept(string text)
    {
        var (value, codes) = Judge(Lines, text);
        Assert.Equal(["not-a-table"], codes);
        Assert.Equal(text, value.Text);
    }

    [Fact]
    public void A_table_of_ten_thousand_rows_is_refused_and_kept_as_it_was()
    {
        var text = "[" + string.Join(',', Enumerable.Repeat("""{"what":"NQ1"}""", 10_000)) + "]";
        var (value, codes) = Judge(Lines, text);
        Assert.Equal(["not-a-table"], codes);
        Assert.Equal(text, value.Text);
        Assert.Empty(Judge(Lines, "[" + string.Join(',', Enumerable.Repeat("""{"what":"NQ1"}""", FieldReader.MostRows)) + "]").Codes);
    }

    [Fact]
    public void Defaults_come_from_the_day_the_person_the_batch_the_document_before_or_a_formula()
    {
        var type = new CompiledType(
            DocumentType.Empty("t", "T") with
            {
                Fields =
                [
                    new DateField("on", "On") { DefaultFrom = DefaultSource.Today },
                    new TextField("by", "By") { DefaultFrom = DefaultSource.Person },
                    new TextField("in", "In") { DefaultFrom = DefaultSource.Batch },
                    new TextField("as", "As") { DefaultFrom = DefaultSource.Previous },
                    new DateField("due", "Due") { DefaultFrom = DefaultSource.Formula, Default = "AddMonths([on], 1)" },
                    new DecimalField("net", "Net") { Default = "10" },
                    new DecimalField("gross", "Gross") { DefaultFrom = DefaultSource.Formula, Default = "Round([net] * 1.25, 1)" },
                ],
            },
            Vocabularies
        );
        var now = Harbour.Now with
        {
            Batch = "Monday",
            Previous = new Dictionary<string, string> { ["as"] = "before" },
        };
        Assert.Equal(
            ["2024-06-01", "Tobias Finch", "Monday", "before", "2024-07-01", "10", "12.5"],
            type.Judge(new string?[7], now).Values.Select(v => v.Text)
        );
        Assert.Equal("99", type.Judge([null, null, null, null, null, "8", "99"], now).Values[6].Text);
    }

    [Fact]
    public void An_ambiguous_date_is_flagged_with_both_readings_and_a_clear_one_is_read()
    {
        var field = new DateField("d", "D") { Cleaning = [new CleaningStep("read-date", "d/M/yyyy|M/d/yyyy")] };
        var problem = Assert.Single(
            new CompiledType(DocumentType.Empty("t", "T") with { Fields = [field] }, Vocabularies).Judge(["3/4/2024"], Harbour.Now).Problems
        );
        Assert.Equal("“3/4/2024” could be 3 April 2024 or 4 March 2024; write which.", problem.Message);
        Assert.Equal("2024-12-25", Judge(field, "25/12/2024").Value.Text);
    }

    [Theory]
    [InlineData("Master", null, "required-when")]
    [InlineData("MASTER", "x", null)]
    [InlineData("Mate", null, null)]
    [InlineData(null, null, null)]
    public void A_field_is_required_under_a_condition(string? kind, string? examiner, string? code)
    {
        var type = DocumentType.Empty("t", "T") with
        {
            Fields =
            [
                new TextField("class", "Class"),
                new TextField("examiner", "Examiner") { RequiredWhen = Condition.When("class", Operator.Is, "Master") },
            ],
        };
        var judged = new CompiledType(type, Vocabularies).Judge([kind, examiner], Harbour.Now);
        Assert.Equal(code is null ? [] : [code], judged.Problems.Select(p => p.Code));
        if (code is not null)
            Assert.Equal("Examiner must be filled when Class is Master.", judged.Problems[0].Message);
    }

    [Fact]
    public void Conditions_look_at_fields_terms_the_sub_type_the_role_and_the_door()
    {
        var type = DocumentType.Empty("deep", "Deep") with
        {
            Fields = [new TermField("b", "B") { Vocabulary = "berths" }, new WholeNumberField("n", "N"), new DateField("d", "D")],
            Lineage = ["deep", "plain"],
        };
        bool Holds(Condition when, params string?[] texts)
        {
            Assert.Null(when.Finding(type));
            Assert.NotEmpty(when.InWords(type));
            var compiled = new CompiledType(type, Vocabularies);
            return when.Compile(type, Vocabularies)(
                compiled.Judge([texts.ElementAtOrDefault(0), texts.ElementAtOrDefault(1), texts.ElementAtOrDefault(2)], Harbour.Now).Values,
                Harbour.Now
            );
        }
        Assert.True(Holds(Condition.When("b", Operator.Within, "basin"), "NQ1"));
        Assert.False(Holds(Condition.When("b", Operator.Within, "south"), "NQ1"));
        Assert.True(Holds(Condition.When("b", Operator.Is, "Old Coal Staith"), "NQ1"));
        Assert.True(Holds(Condition.When("b", Operator.IsNot, "South Basin"), "NQ1"));
        Assert.True(Holds(Condition.When("b", Operator.OneOf, "South Basin|NQ1"), "NQ1"));
        Assert.True(Holds(Condition.When("n", Operator.AtLeast, "5"), null, "5"));
        Assert.False(Holds(Condition.When("n", Operator.Above, "5"), null, "5"));
        Assert.False(Holds(Condition.When("n", Operator.Below, "5")));
        Assert.True(Holds(Condition.When("d", Operator.AtMost, "2024-03-05"), null, null, "2024-03-05"));
        Assert.True(Holds(Condition.When("d", Operator.BeginsWith, "2024-03"), null, null, "2024-03-05"));
        Assert.True(Holds(Condition.When(Condition.SubType, Operator.Is, "plain")));
        Assert.False(Holds(Condition.When(Condition.SubType, Operator.IsNot, "deep")));
        Assert.True(Holds(Condition.When(Condition.Role, Operator.OneOf, "steward|indexer")));
        Assert.False(Holds(Condition.When(Condition.Channel, Operator.Is, "Migration")));
        Comparison yes = new("n", Operator.IsFilled),
            no = new("d", Operator.IsFilled);
        Assert.False(Holds(new Condition(Joined.All, [yes, no]), null, "1"));
        Assert.True(Holds(new Condition(Joined.Any, [yes, no]), null, "1"));
        Assert.False(Holds(new Condition(Joined.None, [yes, no]), null, "1"));
        Assert.True(Holds(new Condition(Joined.None, [no]), null, "1"));
        Assert.Contains("no longer", Condition.When("gone", Operator.IsFilled).Finding(type));
        Assert.Contains("not a number", Condition.When("n", Operator.Below, "soon").Finding(type));
        Assert.Contains("only numbers", Condition.When("b", Operator.Above, "1").Finding(type));
        Assert.Contains("only be compared with", Condition.When(Condition.Channel, Operator.Above, "1").Finding(type));
    }

    [Fact]
    public void Values_are_filled_from_a_table_when_it_can_decide_and_offered_when_it_cannot()
    {
        var register = new ReferenceTable(
            "r",
            "Register",
            ["IMO", "Name", "Tonnage", "Flag"],
            [
                ["1", "Grey Heron", "1200", "NO"],
                ["2", "Corvina", "300", "SE"],
                ["3", "CORVINA", "900", "SE"],
            ]
        );
        DocumentType Type(bool always) =>
            DocumentType.Empty("t", "T") with
            {
                Fields = [new TextField("name", "Name"), new WholeNumberField("tons", "Tons"), new TextField("flag", "Flag")],
                Fillings =
                [
                    new Filling(
                        "r",
                        new Dictionary<string, string> { ["Name"] = "name" },
                        new Dictionary<string, string> { ["Tonnage"] = "tons", ["Flag"] = "flag" },
                        always
                    ),
                ],
            };
        string[] Filled(bool always, params string?[] texts) =>
            [
                .. new CompiledType(Type(always), Vocabularies, new Dictionary<string, ReferenceTable> { ["r"] = register })
                    .Judge(texts, Harbour.Now)
                    .Values.Select(v => v.Text),
            ];
        Assert.Equal(["grey heron", "1200", "NO"], Filled(false, "grey heron", null, null));
        Assert.Equal(["grey heron", "5", "NO"], Filled(false, "grey heron", "5", null));
        Assert.Equal(["grey heron", "1200", "NO"], Filled(true, "grey heron", "5", "X"));
        Assert.Equal(["Corvina", "", "SE"], Filled(false, "Corvina", null, null));
        Assert.Equal(["Nobody", "", ""], Filled(false, "Nobody", null, null));
        var compiled = new CompiledType(Type(false), Vocabularies, new Dictionary<string, ReferenceTable> { ["r"] = register });
        var choice = Assert.Single(compiled.Fillings.Choices(compiled.Judge(["Corvina", null, null], Harbour.Now).Values, compiled.Type));
        Assert.Equal(("tons", "300,900"), (choice.Field, string.Join(',', choice.Values)));
    }

    [Fact]
    public void The_design_check_refuses_what_contradicts_itself()
    {
        string[] Of(Field field) =>
            [
                .. DesignCheck
                    .FieldFindings(field, DocumentType.Empty("t", "T") with { Fields = [field] }, DesignSurroundings.Alone(Vocabularies))
                    .Select(f => f.Code),
            ];
        Assert.Equal(["field-columns"], Of(new TableField("t", "T")));
        Assert.Equal(
            ["field-columns"],
            Of(new TableField("t", "T") { Columns = [new TableField("u", "U") { Columns = [new TextField("x", "X")] }] })
        );
        Assert.Equal(["field-range"], Of(new TableField("t", "T") { Columns = [new DecimalField("x", "X") { Min = "2", Max = "1" }] }));
        Assert.Equal(["field-scheme"], Of(new IdentifierField("i", "I")));
        Assert.Equal(["field-currency"], Of(new AmountField("a", "A") { Currencies = ["EURO"] }));
        Assert.Equal(["field-branch"], Of(new TermField("b", "B") { Vocabulary = "berths", Branch = "gone" }));
        Assert.Equal(["field-cleaning"], Of(new TextField("c", "C") { Cleaning = [new CleaningStep("read-date", "")] }));
        Assert.Equal(["field-standard"], Of(new TextField("s", "S") { Standard = "dcterms:nothing" }));
        Assert.Equal(["field-condition"], Of(new TextField("r", "R") { RequiredWhen = Condition.When("gone", Operator.IsFilled) }));
        var unknown = DocumentType.Empty("t", "T") with
        {
            Fields =
            [
                new TermField("b", "B") { Vocabulary = "berths" },
                new TextField("w", "W")
                {
                    RequiredWhen = new Condition(
                        Joined.Any,
                        [new Comparison("b", Operator.OneOf, "NQ1|Nowhere"), new Comparison("b", Operator.Within, "North Basin")]
                    ),
                },
            ],
        };
        Assert.Contains(
            DesignCheck.Findings(unknown, DesignSurroundings.Alone(Vocabularies)),
            f => f is { Code: "condition-term", Level: Level.Must } && f.Text.Contains("“Nowhere”")
        );
        Assert.DoesNotContain(DesignCheck.Findings(unknown, DesignSurroundings.Alone(Vocabularies)), f => f.Text.Contains("“North Basin”"));
        var flawed = DocumentType.Empty("t", "T") with
        {
            Fields =
            [
                new WholeNumberField("e", "E") { Example = "many" },
                new TextField("f", "F") { DefaultFrom = DefaultSource.Formula, Default = "[gone]" },
                new TextField("d", "D") { DefaultFrom = DefaultSource.Today },
            ],
        };
        var codes = DesignCheck.Findings(flawed, DesignSurroundings.Alone(Vocabularies)).Select(f => f.Code).ToList();
        Assert.Contains("field-example", codes);
        Assert.Equal(2, codes.Count(c => c == "field-default"));
    }
}
