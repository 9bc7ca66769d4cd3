using System.Net;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Desk;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Tests;

/// <summary>Vocabularies, reference tables and closed days as their pages answer.</summary>
public sealed class VocabularyPageTests(HarbourApp app) : DesignPages(app)
{
    [Fact]
    public async Task A_term_is_changed_retired_merged_split_and_taken_back_on_its_page()
    {
        Assert.Null(App.Get<Vocabularies>().Create($"Ropes {Code}", "Hemp\tHempen|Old hemp\nManila\nSisal", "test").Problem);
        var key = ShortName.From($"Ropes {Code}");
        Term? Find(string spelling) => App.Get<Designs>().Vocabularies[key].Find(spelling);
        Task<string> Do(string handler, params (string, string)[] fields) =>
            At($"/Design/Vocabulary/{key}?term=hemp", $"/Design/Vocabulary/{key}?handler={handler}", fields);
        await Do(
            "Term&term=hemp",
            ("label", "Hemp rope"),
            ("variants", "Hempen\nOld hemp"),
            ("code", "H"),
            ("note", "Tarred."),
            ("related", "Sisal"),
            ("languages", ""),
            ("new-language", "de"),
            ("label-new", "Hanf")
        );
        Assert.Equal(
            ("Hemp rope", "H", "Tarred.", "Hanf"),
            (Find("H")!.Label, Find("H")!.Code, Find("H")!.Note, Find("Hanf")!.Words["de"].Label)
        );
        Assert.Contains("preferred label of two terms", await Do("Term&term=hemp", ("label", "SISAL"), ("variants", "")));
        await Do("Split&term=hemp", ("split-label", "Old hemp"), ("split-variant", "Old hemp"));
        Assert.Equal(["hemp"], Find("Old hemp")!.Related);
        Assert.Contains("There is no term “Nylon”", await Do("Status&term=hemp", ("status", "Retired"), ("replaced-by", "Nylon")));
        await Do("Status&term=hemp", ("status", "Retired"), ("replaced-by", "Sisal"));
        Assert.Equal((TermStatus.Retired, "sisal"), (Find("Hempen")!.Status, Find("Hempen")!.ReplacedBy));
        await Do("Merge&term=manila", ("into", "Sisal"));
        Assert.Equal("Sisal", Find("Manila")!.Label);
        Assert.Contains("Undone: merged “Manila” into “Sisal”", await Do("Undo"));
        Assert.Equal("Manila", Find("Manila")!.Label);
        await Do("Add", ("terms", "Wire\tSteel wire\tW"), ("below", "sisal"));
        Assert.Equal(["sisal"], Find("W")!.Broader);
        var found = await Page($"/Design/Vocabulary/{key}?filter=steel");
        Assert.Contains("Wire <span class=\"soft small\">Sisal</span>", found);
        foreach (
            var (form, says) in new[]
            {
                ("ttl", "skos:prefLabel \"Hemp rope\"@en"),
                ("jsonld", "\"skos:notation\""),
                ("csv", "hemp,Hemp rope,"),
            }
        )
            Assert.Contains(says, await Steward.GetStringAsync($"/Design/Vocabulary/{key}?handler=Export&form={form}"));
        await Do("Growth", ("growth", "WithReview"));
        Assert.Equal(Growth.WithReview, App.Get<Designs>().Vocabularies[key].Vocabulary.Growth);
    }

    [Fact]
    public async Task A_large_tree_is_sent_branch_by_branch()
    {
        var key = App.Get<Vocabularies>().Create($"Charts {Code}", "World", "test").Value!;
        Assert.Null(
            App.Get<Vocabularies>()
                .Import(
                    key,
                    new BroughtTerms(
                        [
                            .. Enumerable
                                .Range(0, 1_200)
                                .Select(i => new BroughtTerm(
                                    new Term($"Sheet {i}", []) { Id = $"s{i}", Broader = [i < 12 ? "world" : $"s{i % 12}"] },
                                    i
                                )),
                        ],
                        []
                    ),
                    "test"
                )
                .Problem
        );
        var page = await Page($"/Design/Vocabulary/{key}");
        Assert.Contains("12 below", page);
        Assert.DoesNotContain("data-term=\"s13\"", page);
        var branch = await Page($"/Design/Vocabulary/{key}?handler=Below&of=s1");
        Assert.Contains("data-term=\"s13\"", branch);
        Assert.DoesNotContain("data-term=\"s14\"", branch);
        Assert.Contains("data-term=\"s13\"", await Page($"/Design/Vocabulary/{key}?term=s25"));
        Assert.Contains("Sheet 777", await Page($"/Design/Vocabulary/{key}?filter=sheet 777"));
        Assert.Equal(HttpStatusCode.NotFound, (await Steward.GetAsync($"/Design/Vocabulary/{key}?handler=Below&of=gone")).StatusCode);
    }

    [Fact]
    public async Task Terms_are_brought_after_their_plan_and_broken_lines_stop_all_of_them()
    {
        Assert.Null(App.Get<Vocabularies>().Create($"Buoys {Code}", "Spar", "test").Problem);
        var key = ShortName.From($"Buoys {Code}");
        var broken = await Upload($"/Design/Import/{key}", "b.csv", "label,status\nCan,\n,current\nCone,lost\n");
        Assert.Contains("Nothing is imported while a line is broken", broken);
        Assert.Contains("“lost” is not a status", broken);
        Assert.Equal("", Ticket(broken));
        var plan = await Upload($"/Design/Import/{key}", "b.csv", "label,broader\nCan,Spar\nCone,Spar\nSpar,\n");
        Assert.Contains("<strong>2</strong>new", plan);
        Assert.Single(App.Get<Designs>().Vocabularies[key].Vocabulary.Terms);
        await At($"/Design/Import/{key}", $"/Design/Import/{key}?handler=Apply", ("ticket", Ticket(plan)));
        Assert.Equal(2, App.Get<Designs>().Vocabularies[key].Level(App.Get<Designs>().Vocabularies[key].IndexOf("Cone")));
        Assert.Contains("has expired", await At($"/Design/Import/{key}", $"/Design/Import/{key}?handler=Apply", ("ticket", Ticket(plan))));
        Assert.Contains("neither CSV", await Upload($"/Design/Import/{key}", "b.pdf", "x"));
    }

    [Fact]
    public async Task Closed_days_are_pasted_line_by_line_and_a_removed_one_can_be_saved_again()
    {
        const string page = "/Design/ClosedDays";
        Task<string> Add(string days) => At(page, $"{page}?handler=Add", ("days", days));
        Assert.Contains("Saved 2 days.", await Add("2031-05-01 Spring tide\n\n2031-12-25\tMidwinter, feast\n"));
        var refused = await Add("2031-06-01 Kept in the form\n2031-02-29 No such day");
        Assert.Contains("Line 2: “2031-02-29” is not a date", refused);
        Assert.Contains("2031-06-01 Kept in the form", refused);
        Assert.Contains("at most 80 characters", await Add("2031-06-01 " + new string('x', 81)));
        Assert.Contains("at least one date", await Add(" \n "));
        Assert.Contains(
            "At most 2,000",
            await Add(string.Join('\n', Enumerable.Range(0, 2_001).Select(i => $"{new DateOnly(2032, 1, 1).AddDays(i):yyyy-MM-dd}")))
        );
        Assert.Equal(["Spring tide", "Midwinter, feast"], App.Get<ClosedDays>().All().Where(d => d.Day.Year == 2031).Select(d => d.Name));
        Assert.Contains(new DateOnly(2031, 5, 1), App.Get<Designs>().Now(EntryChannel.Desk, "").Closed);
        var removed = await At(page, $"{page}?handler=Remove", ("day", "2031-05-01"));
        Assert.Matches("<textarea[^>]*>\\s*2031-05-01 Spring tide</textarea>", removed);
        Assert.Contains("no longer in the list", await At(page, $"{page}?handler=Remove", ("day", "2031-05-01")));
        Assert.Contains("Choose a day of the list", await At(page, $"{page}?handler=Remove", ("day", "never")));
        Assert.Contains("2031-12-25", await At(page, $"{page}?handler=Remove", ("day", "2031-12-25")));
    }

    [Fact]
    public async Task A_reference_table_shows_what_a_newer_file_changes_and_the_design_travels_as_a_file()
    {
        var page = await Upload("/Design/Table/payers", "payers.csv", "Payer,Place,Account\nEbbwell Lines,Elsewhere,\n");
        Assert.Contains("Place Merrowmouth → Elsewhere", page);
        Assert.Contains("<strong>5</strong>gone", page);
        Assert.Contains("not an address", await At("/Design/Table/payers", "/Design/Table/payers?handler=Address", ("address", "nowhere")));
        Assert.Contains("Harbour Dues Statement", page);

        var export = await Steward.GetStringAsync("/Design/File?handler=Export");
        Assert.Contains("\"clear-lexicon-design\"", export);
        var plan = await Upload("/Design/File", "design.json", export);
        Assert.Contains("Import everything", plan);
        Assert.Contains("at line 1", await Upload("/Design/File", "design.json", "{"));
        Assert.Contains("Imported: ", await At("/Design/File", "/Design/File?handler=Apply", ("ticket", Ticket(plan))));
    }
}
