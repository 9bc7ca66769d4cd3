using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Tests;

public class MigrationTests
{
    private static readonly string[] Columns = ["Path", "Ref", "Vessel", "In", "Berth"];

    private static readonly MigrationPlan Plan = new(
        "call",
        [
            new CrosswalkLine("Ref", "number", []),
            new CrosswalkLine("Vessel", "vessel", [new CleaningStep("squeeze-blanks")]),
            new CrosswalkLine("In", "arrived", [new CleaningStep("read-date", "d-MMM-yy")]),
        ],
        [
            new TaggingPass("p1", "path-piece", "arrived", "Path", @"(\d{6})", OnlyEmpty: true, [new CleaningStep("read-date", "yyMMdd")]),
            new TaggingPass("p2", "words-to-term", "berth", "Path", "", OnlyEmpty: true, []),
            new TaggingPass("p3", "constant", "crew", "", "4", OnlyEmpty: false, []),
        ]
    );

    private static RowJudge Judge(MigrationPlan? plan = null, TakenNames? taken = null) =>
        new(new CompiledPlan(plan ?? Plan, Harbour.Compiled, Columns), taken ?? new TakenNames(), Harbour.Now);

    private static string[] Row(
        string path = @"R:\old\980403 Old Coal Staith.tif",
        string number = "VC-1998-00001",
        string vessel = "Corvina",
        string date = ""
    ) => [path, number, vessel, date, ""];

    private static string Text(RowJudge judge, string field) => judge.Values[Harbour.Call.OrdinalOf(field)].Text;

    [Fact]
    public void Columns_come_first_and_passes_fill_what_is_missing()
    {
        var judge = Judge();
        Assert.Equal(RowVerdict.Ready, judge.Judge(Row(date: "3-Apr-97"), 1));
        Assert.Equal("1997-04-03", Text(judge, "arrived"));
        Assert.Equal("column In", judge.SetBy[Harbour.Call.OrdinalOf("arrived")]);
        Assert.Equal(RowVerdict.Ready, judge.Judge(Row(number: "VC-1998-00002"), 2));
        Assert.Equal("1998-04-03", Text(judge, "arrived"));
        Assert.Equal("pass 1", judge.SetBy[Harbour.Call.OrdinalOf("arrived")]);
        Assert.Equal("North Quay 1", Text(judge, "berth"));
        Assert.Equal("4", Text(judge, "crew"));
        Assert.Equal("Calls/1998", judge.Placement.Folder);
    }

    /// <summary>
    /// A file that was named by the convention before tells its values by its path, wherever its folders lie now; what the path keeps only
    /// a part of is not taken.
    /// </summary>
    [Theory]
    [InlineData(@"R:\old\Calls\1998\VC-1998-00007 Skua.tif", "VC-1998-00007")]
    [InlineData("//server/share/Calls/1998/VC-1998-00007 Skua.pdf", "VC-1998-00007")]
    [InlineData("Calls/nineteen/VC-1998-00007 Skua.pdf", "")]
    [InlineData("../Calls/1998/VC-1998-00007 Skua.pdf", "")]
    public void A_path_is_read_by_the_convention(string path, string number)
    {
        TaggingPass By(string field) => new(field, PassKinds.ByConvention, field, "Path", "", OnlyEmpty: true, []);
        var type = new CompiledType(
            Harbour.Call with
            {
                Convention = Harbour.Call.Convention with
                {
                    Name = [Conventions.Piece.Of("number"), Conventions.Piece.Literal(" "), Conventions.Piece.Of("vessel")],
                },
            },
            Harbour.Vocabularies
        );
        var judge = new RowJudge(
            new CompiledPlan(Plan with { Crosswalk = [], Passes = [By("number"), By("vessel"), By("arrived")] }, type, Columns),
            new TakenNames(),
            Harbour.Now
        );
        judge.Judge([path, "", "", "", ""], 1);
        Assert.Equal((number, number.Length > 0 ? "Skua" : "", ""), (Text(judge, "number"), Text(judge, "vessel"), Text(judge, "arrived")));
        Assert.Contains("is not in the convention", PassKinds.Finding(By("berth"), type.Type, Columns));
    }

    [Fact]
    public void A_row_is_held_questionable_or_ready()
    {
        var judge = Judge();
        Assert.Equal(RowVerdict.Ready, judge.Judge(Row(), 1));
        Assert.Equal(RowVerdict.Questionable, judge.Judge(Row(vessel: "Quillon"), 2));
        Assert.Contains("row 1", Assert.Single(judge.Problems).Message);
        Assert.Equal(RowVerdict.Held, judge.Judge(Row(number: ""), 3));
        Assert.Contains(judge.Problems, p => p.Code == "required" && p.Level == Level.Must);
    }

    [Fact]
    public void No_two_rows_get_one_path_and_none_takes_one_of_the_repository()
    {
        var taken = new TakenNames();
        taken.TakePath("calls/1998", "vc-1998-00001 corvin");
        var judge = Judge(taken: taken);
        var paths = new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "Calls/1998/VC-1998-00001 CORVIN" };
        for (var i = 1; i <= 200; i++)
        {
            judge.Judge(Row(), i);
            Assert.True(judge.Collided);
            Assert.True(paths.Add(judge.Placement.Path), judge.Placement.Path);
        }
        Assert.Contains("Calls/1998/VC-1998-00001 CORVIN (201)", paths);
    }

    [Fact]
    public void The_tally_adds_up()
    {
        var judge = Judge();
        var tally = new DryRunTally(Harbour.Compiled);
        for (var i = 1; i <= 30; i++)
        {
            var row = i % 3 == 0 ? Row(number: "", vessel: "X") : Row(number: $"VC-1998-{i:00000}");
            tally.Add(row, i, judge.Judge(row, i), judge);
        }
        var run = tally.Finish();
        Assert.Equal((30, 20, 0, 10), (run.Rows, run.Ready, run.Questionable, run.Held));
        Assert.Equal(20, run.Coverage.Single(c => c.Field == "number").Filled);
        var problem = run.Problems.Single(p => p.Code == "too-short");
        Assert.Equal((10, 3, "vessel"), (problem.Count, problem.ExampleRow, problem.Field));
        Assert.Equal(2 * DryRunTally.SamplesEach, run.Samples.Count);
        Assert.All(run.Samples, s => Assert.Equal(s.Verdict == RowVerdict.Held, s.Messages.Count > 0));
    }

    [Theory]
    [InlineData("path-piece", "Path", "(", "character 2")]
    [InlineData("path-piece", "Nowhere", "x", "no column")]
    [InlineData("constant", "", "", "Write the value")]
    [InlineData("guess", "", "x", "no tagging pass")]
    public void A_pass_that_cannot_run_says_why(string kind, string source, string argument, string reason) =>
        Assert.Contains(reason, PassKinds.Finding(new TaggingPass("p", kind, "vessel", source, argument, true, []), Harbour.Call, Columns));

    [Fact]
    public void Words_lead_to_terms_only_in_term_fields() =>
        Assert.Contains("holds no terms", PassKinds.Finding(Plan.Passes[1] with { Field = "vessel" }, Harbour.Call, Columns));

    [Fact]
    public void A_column_is_profiled_by_fill_values_and_shapes()
    {
        var profiler = new ColumnProfiler("Ref");
        foreach (var value in new[] { "VC-98", "VC-99", "vc 99", " ", "", "VC-98" })
            profiler.Add(value);
        var profile = profiler.Finish();
        Assert.Equal((6, 4, 3, 5), (profile.Rows, profile.Filled, profile.Distinct, profile.Longest));
        Assert.Equal(new ValueCount("VC-98", 2), profile.Commonest[0]);
        Assert.Equal(("AA-99", 3), (profile.Shapes[0].Shape, profile.Shapes[0].Count));
        Assert.Equal("aa 99", profile.Shapes[1].Shape);
    }

    [Fact]
    public void A_column_of_too_many_values_says_so()
    {
        var profiler = new ColumnProfiler("Id");
        for (var i = 0; i < ColumnProfiler.Cap + 10; i++)
            profiler.Add(i.ToString());
        Assert.True(profiler.Finish().Capped);
        Assert.Equal(ColumnProfiler.Cap, profiler.Finish().Distinct);
    }

    [Fact]
    public void Lines_are_suggested_by_name_and_by_what_the_columns_hold()
    {
        ColumnProfile Column(string name, params string[] values)
        {
            var profiler = new ColumnProfiler(name);
            foreach (var value in values)
                profiler.Add(value);
            return profiler.Finish();
        }
        var suggested = CrosswalkSuggestion
            .For(
                [
                    Column("Registry", "VC-1998-00001", "VC-1998-00002", "VC98/3"),
                    Column("Ship", "Corvina"),
                    Column("VESSEL", "Quillon", "Redshank"),
                    Column("Date arrived", "3-Apr-98", "980403"),
                    Column("Place", "old coal staith", "NQ1", "roads"),
                ],
                Harbour.Compiled
            )
            .ToDictionary(s => s.Line.Field);
        Assert.Equal("Registry", suggested["number"].Line.Source);
        Assert.Equal("VESSEL", suggested["vessel"].Line.Source);
        Assert.Equal("Place", suggested["berth"].Line.Source);
        Assert.Equal("d-MMM-yy|yyMMdd", suggested["arrived"].Line.Steps[0].Argument);
        Assert.DoesNotContain("sailed", suggested.Keys);
        Assert.All(suggested.Values, s => Assert.InRange(s.Strength, CrosswalkSuggestion.Least, 1));
    }
}
