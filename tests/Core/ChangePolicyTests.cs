using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Tests;

/// <summary>What a change may do about old and new problems.</summary>
public sealed class ChangePolicyTests
{
    private static Problem Problem(string rule, Level level, string field = "total") =>
        new Rule(rule, "formula", level, new Dictionary<string, string>()).Found(new FormulaFalse("[net] > 0"), field);

    /// <summary>By policy: a must-problem, a should-problem; each new and old. (p)asses, (a)sks, (r)efuses.</summary>
    [Theory]
    [InlineData("Edit", "rpap")]
    [InlineData("Rereading", "rprp")]
    [InlineData("Carrying", "rrpp")]
    [InlineData("Retyping", "rraa")]
    [InlineData("Filing", "rrrr")]
    public void Each_act_treats_each_problem_as_its_line_says(string name, string line)
    {
        var policy = (ChangePolicy)typeof(ChangePolicy).GetProperty(name)!.GetValue(null)!;
        var cases = new[] { (Level.Must, false), (Level.Must, true), (Level.Should, false), (Level.Should, true) };
        foreach (var ((level, isOld), expected) in cases.Zip(line))
        {
            var problem = Problem("r1", level);
            var before = isOld ? new HashSet<string> { problem.Id } : [];
            var (plain, reasoned) = (policy.Of([problem], before, []), policy.Of([problem], before, [], reason: "as agreed"));
            Assert.Equal(expected == 'p', plain.Against is null);
            Assert.Equal(expected == 'a', plain.NeedsReason);
            Assert.Equal(expected == 'r', reasoned.Against is not null);
            Assert.Equal(expected == 'a' ? [problem.Id] : [], reasoned.Overridden);
            // What a person has overridden is no problem any more, unless it must hold.
            Assert.Equal(expected == 'r' && level == Level.Must, policy.Of([problem], before, [problem.Id]).Against is not null);
        }
    }

    [Fact]
    public void What_must_hold_of_the_field_itself_is_never_old_and_comes_before_what_should()
    {
        var (must, should) = (Problem("r1", Level.Must), Problem("r2", Level.Should));
        var before = new HashSet<string> { must.Id, should.Id };
        Assert.Null(ChangePolicy.Edit.Of([must], before, [], "net").Against);
        Assert.Equal(must, ChangePolicy.Edit.Of([must], before, [], "total").Against);
        Assert.Equal(must, ChangePolicy.Edit.Of([should, must], new HashSet<string>(), [], "total").Against);
        Assert.EndsWith("Write a reason to keep it all the same.", ChangePolicy.Edit.Of([should], new HashSet<string>(), []).In("en"));
        Assert.Null(ChangePolicy.Edit.Of([], before, []).In("en"));
    }
}
