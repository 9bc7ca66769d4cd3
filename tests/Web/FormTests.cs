using System.Text.Json;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Demo;
using ClearLexicon.Storage;
using ClearLexicon.Web.Forms;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// Forms without a page: what is opened and sent unchanged is the same part of the design; what is wrong is told at its blank.
/// </summary>
public class FormTests
{
    public static TheoryData<string> Types => [.. HarbourDesign.All.Select(t => t.Code)];

    [Theory]
    [MemberData(nameof(Types))]
    public void A_field_or_rule_that_is_sent_as_it_was_opened_stays_the_same(string code)
    {
        var type = HarbourDesign.All.Single(t => t.Code == code);
        foreach (var field in type.Fields.SelectMany(f => f.Columns.Prepend(f)))
            Same(field, FieldForm.Of(field).Read(field));
        foreach (var rule in type.Rules)
            Same(Whole(rule), RuleForm.Of(rule).Read(rule.Id));
        foreach (var tightening in type.Tightened)
            Same(tightening, TighteningForm.Of(tightening).Read(tightening.Field));
    }

    [Fact]
    public void Every_option_of_every_kind_goes_there_and_back()
    {
        var common = new TextField("k", "Label")
        {
            Help = "Help",
            RequiredWhen = new Condition(Joined.Any, [new("a", Operator.Is, "1"), new("b", Operator.IsEmpty, "")]),
            Restricted = true,
            NotSearched = true,
            NotInResults = true,
            Default = "[a] + 1",
            DefaultFrom = DefaultSource.Formula,
            Example = "e",
            Standard = "dcterms:title",
            Cleaning = [new CleaningStep("squeeze-blanks"), new CleaningStep("read-date", "d.M.yyyy")],
            MinLength = 1,
            MaxLength = 9,
            Pattern = @"\d{4}",
        };
        Field[] fields =
        [
            common,
            new WholeNumberField("k", "L") { Required = true, Min = "1" },
            new DecimalField("k", "L") { Max = "2.5" },
            new DateField("k", "L") { Min = "2024-01-01" },
            new AmountField("k", "L") { Currencies = ["EUR", "NOK"], Max = "5" },
            new YesNoField("k", "L") { Default = "no" },
            new TimeField("k", "L") { Min = "06:00", Max = "22:00" },
            new DurationField("k", "L") { Min = "PT1H", Max = "P3DT4H" },
            new WebAddressField("k", "L"),
            new TermField("k", "L")
            {
                Vocabulary = "v",
                Branch = "b",
                OnlyLevel = 2,
                LeavesOnly = true,
            },
            new TermsField("k", "L") { Vocabulary = "v" },
            new IdentifierField("k", "L") { Scheme = "iban" },
            new IdentifierField("k", "L") { Scheme = "house 7 6 5 modulus 11" },
            new TableField("k", "L")
            {
                Columns = [new TextField("c", "C")],
                RowRules = [new Rule("r", "filled", Level.Must, new Dictionary<string, string>())],
            },
        ];
        Assert.Equal(FieldKind.All.ToHashSet(), fields.Select(f => f.Kind).ToHashSet());
        foreach (var field in fields)
            Same(field, FieldForm.Of(field).Read(field));
    }

    [Theory]
    [InlineData("label", "", "needs a label")]
    [InlineData("kind", "Poem", "Choose what the field holds")]
    [InlineData("kind", "99", "Choose what the field holds")]
    [InlineData("max-length", "ten", "“ten” is not a number of characters")]
    [InlineData("max-length", "-1", "“-1” is not a number of characters")]
    [InlineData("pattern", "(", "pattern")]
    [InlineData("step-kind", "replace", "")]
    public void What_cannot_be_taken_is_told_at_its_blank(string blank, string typed, string why)
    {
        var form = FieldForm.Of(new TextField("k", "Label"));
        form.Blanks.Put(blank, typed);
        Assert.Null(form.Read(null));
        Assert.Contains(why, form.Blanks[blank].Problem);
        Assert.Equal((typed, form.Blanks.Problem), (form.Blanks[blank].Text, form.Blanks[blank].Problem));
    }

    [Fact]
    public void Limits_that_contradict_themselves_or_are_no_numbers_are_refused_and_a_piece_keeps_its_options()
    {
        var convention = new Convention([], [Piece.Of("a") with { Digits = 4, Case = LetterCase.Upper }]);
        var form = new Form();
        form.Put("segment", "many");
        Assert.Null(ConventionForm.ReadLimits(convention, form));
        Assert.Contains("“many” is not a number", form["segment"].Problem);
        form = new Form();
        form.Put("digits", "4");
        form.Put("case", "Upper");
        Same(convention.Name[0], ConventionForm.Read(convention.Name[0], form));
    }

    // The form names all blanks of a kind, also those that nobody filled.
    private static Rule Whole(Rule rule) =>
        rule with
        {
            Parameters = RuleKinds.Find(rule.Kind)!.Parameters.ToDictionary(p => p.Name, p => rule[p.Name]),
        };

    private static void Same<T>(T was, T? now) =>
        Assert.Equal(JsonSerializer.Serialize(was, Sql.Json), JsonSerializer.Serialize(now, Sql.Json));
}
