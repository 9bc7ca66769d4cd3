using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Tests;

public class InheritanceTests
{
    private static readonly DocumentType Group = DocumentType.Empty("facts", "Facts") with
    {
        IsGroup = true,
        Fields = [new TextField("by", "By") { MaxLength = 40 }, new DateField("on", "On") { Min = "2000-01-01" }],
        Rules = [RuleKindTests.Make("filled", "fields=by;how=all")],
    };

    private static readonly DocumentType Parent = Harbour.Call with
    {
        Code = "parent",
        Name = "Parent",
        Fields = [new TextField("number", "Number") { Required = true }, new WholeNumberField("limit", "Limit") { Min = "0", Max = "100" }],
        Rules = [RuleKindTests.Make("length", "field=number;least=2;most=9")],
        Groups = ["facts"],
    };

    private static readonly DocumentType Child = DocumentType.Empty("child", "Child") with
    {
        Refines = "parent",
        Fields = [new TextField("area", "Area")],
        Tightened = [new Tightening("limit") { Required = true, Min = "10" }, new Tightening("by") { MaxLength = 20 }],
    };

    private static DocumentType? Find(string code) =>
        code switch
        {
            "facts" => Group,
            "parent" => Parent,
            "child" => Child,
            _ => null,
        };

    [Fact]
    public void A_sub_type_has_the_fields_rules_and_convention_of_what_it_refines_and_of_the_groups()
    {
        var whole = Inheritance.Resolve(Child, Find);
        Assert.Equal(["number parent", "limit parent", "by facts", "on facts", "area "], whole.Fields.Select(f => $"{f.Key} {f.From}"));
        Assert.Equal(["facts.r1 facts", "parent.r1 parent"], whole.Rules.Select(r => $"{r.Id} {r.From}").Order());
        Assert.Equal(Parent.Convention, whole.Convention);
        Assert.Equal(["child", "parent"], whole.Lineage);
        Assert.True(whole.Find("limit")!.Required);
        Assert.Equal(
            ("10", "100", 20),
            (((RangedField)whole.Find("limit")!).Min, ((RangedField)whole.Find("limit")!).Max, ((TextField)whole.Find("by")!).MaxLength)
        );
        Assert.Empty(Inheritance.Findings(Child, Find));
        Assert.Equal(
            ["required", "filled", "length"],
            new CompiledType(whole, Harbour.Vocabularies)
                .Judge(["x", null, null, null, null], Harbour.Now)
                .Problems.Select(p => p.Code)
                .OrderBy(c =>
                    c == "required" ? 0
                    : c == "filled" ? 1
                    : 2
                )
        );
    }

    [Fact]
    public void A_change_of_a_group_reaches_every_type_that_places_it()
    {
        var changed = Group with { Fields = [.. Group.Fields, new TextField("why", "Why")] };
        DocumentType? Now(string code) => code == "facts" ? changed : Find(code);
        foreach (var type in new[] { Parent, Child })
            Assert.Equal("facts", Inheritance.Resolve(type, Now).Find("why")!.From);
    }

    [Theory]
    [InlineData("limit", "-1", null, null, "would loosen")]
    [InlineData("limit", null, "101", null, "would loosen")]
    [InlineData("on", "1999-12-31", null, null, "would loosen")]
    [InlineData("by", null, null, 41, "would loosen")]
    [InlineData("gone", "1", null, null, "no longer inherited")]
    [InlineData("area", "1", null, null, "no longer inherited")]
    public void Nothing_inherited_can_be_loosened(string field, string? min, string? max, int? maxLength, string why)
    {
        var type = Child with
        {
            Tightened =
            [
                new Tightening(field)
                {
                    Min = min,
                    Max = max,
                    MaxLength = maxLength,
                },
            ],
        };
        Assert.Contains(why, Assert.Single(Inheritance.Findings(type, Find)).Text);
    }

    [Fact]
    public void Circles_depth_and_what_is_gone_are_named()
    {
        DocumentType Refining(string code, string? other) => DocumentType.Empty(code, code) with { Refines = other };
        var cycle = new Dictionary<string, DocumentType> { ["a"] = Refining("a", "b"), ["b"] = Refining("b", "a") };
        Assert.Contains("refines itself", Inheritance.Findings(cycle["a"], cycle.GetValueOrDefault).First().Text);
        Assert.NotNull(Inheritance.Resolve(cycle["a"], cycle.GetValueOrDefault));
        var deep = Enumerable.Range(0, 9).ToDictionary(i => $"t{i}", i => Refining($"t{i}", i == 8 ? null : $"t{i + 1}"));
        Assert.Contains("limit", Inheritance.Findings(deep["t0"], deep.GetValueOrDefault).First().Text);
        Assert.Empty(Inheritance.Findings(deep["t4"], deep.GetValueOrDefault));
        Assert.Contains("no longer exists", Inheritance.Findings(Child with { Refines = "gone", Tightened = [] }, Find).First().Text);
        Assert.Contains("no longer exists", Inheritance.Findings(Child with { Groups = ["gone"] }, Find).First().Text);
    }

    [Fact]
    public void Versions_are_compared_in_words()
    {
        var before = Inheritance.Resolve(Parent, Find);
        var after = before with
        {
            Fields =
            [
                .. before
                    .Fields.Where(f => f.Key != "on")
                    .Select(f =>
                        f.Key == "limit"
                            ? (RangedField)f with
                            {
                                RequiredWhen = Condition.When("number", Operator.BeginsWith, "A"),
                                Max = "50",
                                Label = "Ceiling",
                            }
                            : f
                    ),
                new AmountField("fee", "Fee") { Required = true },
            ],
            Rules = [before.Rules[0] with { Level = Level.Should }, RuleKindTests.Make("filled", "fields=fee;how=all") with { Id = "new" }],
            Convention = before.Convention with { Name = [] },
            Fillings =
            [
                new Filling(
                    "register",
                    new Dictionary<string, string> { ["IMO"] = "number" },
                    new Dictionary<string, string> { ["Fee"] = "fee" },
                    false
                ),
            ],
        };
        var words = DesignDifference.InWords(before, after).Select(c => c.Text).ToList();
        Assert.Contains("Fee is new: amount, required.", words);
        Assert.Contains("On is gone.", words);
        Assert.Contains("Ceiling was called Limit.", words);
        Assert.Contains("Ceiling is now required when Number begins with A.", words);
        Assert.Contains("Ceiling: the greatest value is now 50, before 100.", words);
        Assert.Contains("“By is filled” is now a should, before a must.", words);
        Assert.Contains("New rule: Fee is filled (must).", words);
        Assert.Contains("Gone: Number has 2 – 9 characters.", words);
        Assert.Contains(words, w => w.StartsWith("The name is now empty, before ‹Number›", StringComparison.Ordinal));
        Assert.Contains("Fee is now filled from register by Number.", words);
        Assert.Empty(DesignDifference.InWords(before, before));
    }
}
