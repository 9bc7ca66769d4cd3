using System.Net;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using ClearLexicon.Services.Readers;
using ClearLexicon.TestSupport;
using ClearLexicon.Web.Pages;

namespace ClearLexicon.Web.Tests;

/// <summary>A reader's page as it answers, without a browser.</summary>
public sealed class ReaderPageTests(HarbourApp app)
{
    private const string Key = "dues-note-older-form";
    private const string Page = $"/Readers/Reader/{Key}";

    private Reader Reader => app.Get<TaughtReaders>().Find(Key)!;

    [Fact]
    public async Task Trust_is_set_by_field_and_clues_are_asked_of_other_pages_and_both_are_taken_back()
    {
        var client = await app.SignedIn(Roles.Steward);
        async Task<string> Send(string handler, params (string, string)[] fields) =>
            WebUtility.HtmlDecode(
                await (await PageForms.Post(client, Page, $"{Page}?handler={handler}", fields)).Content.ReadAsStringAsync()
            );
        var field = Reader.Crosswalk[0].Field;
        Assert.Contains("value=\"0.9\" selected", await Send("Trust", ("field", field), ("least", "0.9")), StringComparison.Ordinal);
        Assert.Equal(new NeededTrust(field, 0.9), Assert.Single(Reader.Trust));
        foreach (var (name, least) in new[] { (field, "0.42"), (field, "most"), (field, ""), ("nothing", "0.9") })
            Assert.Contains("class=\"notice problem\"", await Send("Trust", ("field", name), ("least", least)), StringComparison.Ordinal);
        Assert.Equal(0.9, Assert.Single(Reader.Trust).Least);

        var clue = Reader.Clues[^1];
        var asked = await Send($"SetClue&at={Reader.Clues.Count - 1}", ("was", clue.Text), ("text", clue.Text), ("on", "Last"));
        Assert.Contains($"on last pages: “{clue.Text}”", asked, StringComparison.Ordinal);
        Assert.Equal(PageRole.Last, Reader.Clues[^1].On);
        // What is no page stays as it was.
        await Send($"SetClue&at={Reader.Clues.Count - 1}", ("was", clue.Text), ("text", clue.Text), ("on", "17"));
        Assert.Equal(PageRole.Last, Reader.Clues[^1].On);

        while (Reader.Trust.Count > 0 || Reader.Clues[^1].On != PageRole.First)
            Assert.Contains("Undone", await Send("Undo"), StringComparison.Ordinal);
        Assert.Equal(clue with { Or = [] }, Reader.Clues[^1] with { Or = [] });
    }

    [Fact]
    public async Task A_proposed_value_that_no_field_holds_becomes_a_field_of_the_draft()
    {
        const string key = "dangerous-goods-note-signed";
        const string page = $"/Readers/Reader/{key}";
        var (readers, designs) = (app.Get<TaughtReaders>(), app.Get<Designs>());
        var reader = readers.Find(key)!;
        var before = designs.Find(reader.TypeCode)!.Draft;
        var client = await app.SignedIn(Roles.Steward);
        async Task<string> Take(string value, string fills) =>
            WebUtility.HtmlDecode(
                await (
                    await PageForms.Post(client, page, $"{page}?handler=Take", ("take", value), ($"fills.{value}", fills))
                ).Content.ReadAsStringAsync()
            );
        var value = readers.Propose(key)!.Values.First(v => v.Label.StartsWith("Total mass", StringComparison.Ordinal));
        Assert.Contains("Nothing can be called after “no such”", await Take("Right|no such", ReaderModel.NewField));
        Assert.Equal(before.Fields.Count, designs.Find(reader.TypeCode)!.Draft.Fields.Count);

        Assert.Contains("The new fields are in the draft", await Take($"{value.Side}|{value.Label}", ReaderModel.NewField));
        var field = Assert.Single(designs.Find(reader.TypeCode)!.Draft.Fields.ExceptBy(before.Fields.Select(f => f.Key), f => f.Key));
        Assert.Equal(("total-mass", "Total mass", FieldKind.Decimal, false), (field.Key, field.Label, field.Kind, field.Required));
        var line = Assert.Single(readers.Find(key)!.Crosswalk, l => l.Field == field.Key);
        Assert.Contains(readers.Find(key)!.Finders, f => f.Key == line.Source && f.Words.Contains("Total mass"));
        // Taken once more, it is another field: nothing is lost under a name that is taken.
        await Take($"{value.Side}|{value.Label}", ReaderModel.NewField);
        Assert.NotNull(designs.Find(reader.TypeCode)!.Draft.Find("total-mass-2"));

        // The page of a reader whose line names a field that the type has no more says so, and shows all the same.
        while (designs.Find(reader.TypeCode)!.Draft.Fields.Count > before.Fields.Count)
            app.Get<Drafts>().Undo(reader.TypeCode, "Maren Holt");
        Assert.Contains("total-mass", await client.GetStringAsync(page));

        while (readers.Find(key)!.Crosswalk.Count > reader.Crosswalk.Count)
            readers.Undo(key, "Maren Holt");
    }

    [Fact]
    public async Task Only_stewards_try_a_reader_on_its_samples_and_there_must_be_one()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var answer = await PageForms.Post(steward, Page, $"{Page}?handler=Prove");
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        Assert.True(app.Get<SampleProofs>().Of(Key).IsWhole);
        Assert.NotNull(app.Get<SampleProofs>().Start("no-such-reader", "me").Problem);
        Assert.Equal(new SampleProof([], 0).Right, app.Get<SampleProofs>().Of("no-such-reader").Right);
    }
}
