using AngleSharp.Html.Dom;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Readers;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Tests;

/// <summary>
/// Two people have one page open, and press the same on it, one after the other: what the first did stays, and the second is told.
/// </summary>
public sealed class TwoPeopleTests(HarbourApp app) : DesignPages(app)
{
    // What was pressed by the first, what both would have made of it, and what the second is told.
    private async Task<string> Both(string page, Func<Act, bool> presses, Func<Control, string?> types1, Func<Control, string?> types2)
    {
        var visitor = new Visitor(Steward);
        var (first, second) = ((await visitor.Open(page)).Page!, (await visitor.Open(page)).Page!);
        async Task<Answer> Press(IHtmlDocument on, Func<Control, string?> types)
        {
            var act = Act.On(on).First(presses);
            var sent = act.Blanks()
                .SelectMany(b => (types(b) is { } typed ? [typed] : b.Standing(act.Element)).Select(v => KeyValuePair.Create(b.Name, v)));
            return await visitor.Press(on, page, act, [.. sent], []);
        }
        await Press(first, types1);
        return (await Press(second, types2)).Page!.QuerySelector(".notice.problem")?.TextContent ?? "nothing";
    }

    private static Func<Control, string?> Typing(string name, string text) => c => c.Name == name ? text : null;

    private static readonly Func<Control, string?> Nothing = _ => null;

    private static Func<Act, bool> Of(string handler) => act => act.Address.Contains($"handler={handler}", StringComparison.Ordinal);

    private void Make(Func<DocumentType, DocumentType> change) =>
        Assert.Null(App.Get<Drafts>().Change(Code, "made it", "test", t => change(t)).Problem);

    [Fact]
    public async Task Pieces_and_fillings_are_removed_and_moved_once()
    {
        Make(t =>
            t with
            {
                Fields = [new TextField("vessel", "Vessel"), new TextField("agent", "Agent")],
                Convention = t.Convention with { Name = [Piece.Of("vessel"), Piece.Literal(" "), Piece.Of("agent"), Piece.Literal(" x")] },
                Fillings =
                [
                    .. new[] { "agent", "vessel" }.Select(f => new Filling(
                        "vessel-register",
                        new Dictionary<string, string> { ["IMO"] = f },
                        new Dictionary<string, string> { ["Name"] = f },
                        false
                    )),
                ],
            }
        );
        var convention = $"/Design/Convention/{Code}";
        bool InName(Act act, string handler) => Of(handler)(act) && act.Address.Contains("line=name&at=1", StringComparison.Ordinal);
        Assert.Contains("is not as you opened it", await Both(convention, a => InName(a, "RemovePiece"), Nothing, Nothing));
        Assert.Equal(3, Draft.Convention.Name.Count);
        Assert.Contains("is not as you opened it", await Both(convention, a => InName(a, "MovePiece"), Nothing, Nothing));
        Assert.Equal("agent", Draft.Convention.Name[0].Field);
        Assert.Contains("is not as you opened it", await Both($"/Design/Type/{Code}", Of("RemoveFilling"), Nothing, Nothing));
        Assert.Equal(["vessel"], Draft.Fillings.Select(f => f.Targets.Values.Single()));
    }

    [Fact]
    public async Task A_term_that_somebody_else_has_changed_is_not_written_over_unasked()
    {
        Assert.Null(App.Get<Vocabularies>().Create($"Knots {Code}", "Bowline\nReef", "test").Problem);
        var key = ShortName.From($"Knots {Code}");
        var page = $"/Design/Vocabulary/{key}?term=bowline";
        Term Term() => App.Get<Designs>().Vocabularies[key].TermOfId("bowline")!;
        var told = await Both(page, Of("Term&term="), Typing("note", "For mooring."), Typing("code", "B1"));
        Assert.Contains("This term is not as you opened it: ", told);
        Assert.Equal(("For mooring.", null), (Term().Note, Term().Code));
        // Another term of the vocabulary is nobody's business.
        Assert.Equal("nothing", await Both(page.Replace("bowline", "reef"), Of("Term&term="), Nothing, Typing("code", "R")));
    }

    [Fact]
    public async Task A_way_in_a_plan_and_a_notice_are_not_written_over_unasked()
    {
        var all = new Rights([Roles.Steward]);
        var way = App.Get<WaysIn>().Save(new WayIn("", $"Way {Code}"), "test").Value!;
        async Task Told(string what, string page, string blank)
        {
            Assert.Contains(
                $"This {what} is not as you opened it: ",
                await Both(page, Of("Save"), Typing(blank, $"{Code} one"), Typing(blank, $"{Code} two"))
            );
        }
        await Told("way in", $"/Desk/WayIn?key={way}", "name");
        Assert.Equal($"{Code} one", App.Get<WaysIn>().Find(way)!.Name);

        var asks = new ViewDefinition { Type = HarbourDesign.VesselCall.Code };
        var plan = App.Get<ExportPlans>().Save(0, $"Plan {Code}", App.Get<ExportPlans>().For(asks, all), "test", all).Value;
        await Told("plan", $"/Repository/Export/{plan}", "folder");
        Assert.Equal($"{Code} one", App.Get<ExportPlans>().Find(plan)!.What.Folder);

        Assert.Null(
            App.Get<Notices>().Save(new NoticeRule(0, $"Notice {Code}", asks, true, false, "Maren Holt", false, ""), "test", all).Problem
        );
        var rule = App.Get<Notices>().Rules().Single(r => r.Name == $"Notice {Code}").Id;
        await Told("notice", $"/Repository/Notices?rule={rule}", "name");
        Assert.Equal($"{Code} one", App.Get<Notices>().Rules().Single(r => r.Id == rule).Name);
        Assert.Null(App.Get<Notices>().Remove(rule, "test").Problem);
    }

    [Fact]
    public async Task What_a_reader_asks_and_reads_is_not_written_over_unasked()
    {
        var readers = App.Get<TaughtReaders>();
        var reader = readers.All().First(r => r.Clues.Any(c => c.Kind == ClueKind.Words) && readers.Samples(r.Key).Count > 0);
        var sources = App.Get<ReaderSources>();
        Assert.Null(sources.SetCodes(reader.Key, new CodeSource("label", new CodeFilter(), CodeDivision.Whole), "test").Problem);
        var field = readers.TypeOf(reader)!.Fields.First(f => f is TextField).Key;
        Assert.Null(sources.SetFinder(reader.Key, new Finder("", "beside") { Words = ["Called"] }, field, "test").Problem);
        foreach (
            var (what, handler, blank) in new[]
            {
                ("clue", "SetClue", "or"),
                ("source of codes", "Codes&", "between"),
                ("finder", "Finder&", "words"),
            }
        )
        {
            var told = await Both($"/Readers/Reader/{reader.Key}", Of(handler), Typing(blank, "Harbour one"), Typing(blank, "Harbour two"));
            Assert.Contains($"This {what} is not as you opened it: ", told);
        }
        Assert.Contains("Harbour one", Sql.ToJson(readers.Find(reader.Key)));
        Assert.DoesNotContain("Harbour two", Sql.ToJson(readers.Find(reader.Key)));
        while (!Sql.AreSame(readers.Find(reader.Key), reader))
            Assert.NotNull(readers.Undo(reader.Key, "test"));
    }
}
