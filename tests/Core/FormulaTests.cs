using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules.Formulas;

namespace ClearLexicon.Core.Tests;

public class FormulaTests
{
    private static readonly string?[] Record = Harbour.Record(("net", "100"), ("tax", "20"), ("sailed", "2024-03-08"), ("pilot", "yes"));

    private static FormulaValue Of(string formula)
    {
        Assert.True(CompiledFormula.TryCompile(formula, Harbour.Call, out var compiled, out var problem), problem);
        return compiled!.Evaluate(Harbour.Compiled.Judge(Record, Harbour.Now).Values, Harbour.Now);
    }

    [Theory]
    [InlineData("[net] + [tax]", "120")]
    [InlineData("[Net] * 1.5", "150")]
    [InlineData("Round([net] / 3, 2)", "33.33")]
    [InlineData("-[tax] + Abs(-5)", "-15")]
    [InlineData("[net] % 30", "10")]
    [InlineData("Max([net], [tax], 500)", "500")]
    [InlineData("Min([arrived], [sailed])", "2024-03-05")]
    [InlineData("DaysBetween([arrived], [sailed])", "3")]
    [InlineData("[sailed] - [arrived]", "3")]
    [InlineData("[arrived] + 30", "2024-04-04")]
    [InlineData("AddMonths([arrived], -1)", "2024-02-05")]
    [InlineData("Year(Today()) * 100 + Month(Today())", "202406")]
    [InlineData("Upper(Left([vessel], 4)) + '-' + Day([arrived])", "GREY-5")]
    [InlineData("If([pilot], 'with', 'without')", "with")]
    [InlineData("IsEmpty([imo]) and IsFilled([vessel])", "yes")]
    [InlineData("not [pilot]", "no")]
    [InlineData("[vessel] = 'GREY HERON'", "yes")]
    [InlineData("[arrived] < '2024-03-06'", "yes")]
    [InlineData("Contains([vessel], 'her') or BeginsWith([vessel], 'x')", "yes")]
    [InlineData("Length([number])", "13")]
    [InlineData("[crew] > 3", "")]
    [InlineData("[crew] > 3 and false", "no")]
    [InlineData("[crew] > 3 or true", "yes")]
    public void A_formula_computes(string formula, string result) => Assert.Equal(result, Of(formula).AsText);

    [Theory]
    [InlineData("[net] / ([tax] - 20)", "divides by zero")]
    [InlineData("[net] % 0", "divides by zero")]
    [InlineData("[vessel] * 2", "cannot be computed")]
    [InlineData("[arrived] > [net]", "cannot be compared")]
    [InlineData("AddMonths([arrived], 99999)", "outside the calendar")]
    [InlineData("[arrived] + 9999999", "outside the calendar")]
    [InlineData("79228162514264337593543950335 * [net]", "too large")]
    [InlineData("Year([net])", "no date")]
    public void What_cannot_be_computed_says_why_and_never_throws(string formula, string why)
    {
        var value = Of(formula);
        Assert.Equal(FormulaKind.Failed, value.Kind);
        Assert.Contains(why, value.Text);
    }

    [Theory]
    [InlineData("[net] + (2 * ", "character 14")]
    [InlineData("[net] + [gone]", "character 10: there is no field “gone”")]
    [InlineData("Nett([net])", "character 1: there is no function “Nett”")]
    [InlineData("Round()", "Round takes 1 to 2 values, not 0")]
    [InlineData("[net] +* 2", "character 8")]
    [InlineData("'open", "character 1: the text")]
    [InlineData("", "")]
    public void A_wrong_formula_is_explained_at_its_position(string formula, string where)
    {
        Assert.False(CompiledFormula.TryCompile(formula, Harbour.Call, out _, out var problem));
        Assert.Contains(where, problem);
    }

    [Fact]
    public void Tables_are_summed_and_counted()
    {
        var type = DocumentType.Empty("t", "T") with
        {
            Fields = [new TableField("lines", "Lines") { Columns = [new DecimalField("a", "A")] }],
        };
        Assert.True(CompiledFormula.TryCompile("Sum([lines.a]) * 10 + Count([lines])", type, out var formula, out var problem), problem);
        var values = new Designs.CompiledType(type, Harbour.Vocabularies).Judge(["""[{"a":"1.5"},{"a":"2"}]"""], Harbour.Now).Values;
        Assert.Equal("37", formula!.Evaluate(values, Harbour.Now).AsText);
        foreach (
            var (wrong, why) in new[]
            {
                ("[lines]", "write Sum"),
                ("Sum([lines])", "[table.column]"),
                ("Sum([lines.b])", "names no column"),
            }
        )
        {
            Assert.False(CompiledFormula.TryCompile(wrong, type, out _, out problem));
            Assert.Contains(why, problem);
        }
    }
}
