using System.Net;
using ClearLexicon.Core.Reading;
using ClearLexicon.Services;
using ClearLexicon.Services.Readers;

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
                await (await HarbourApp.Post(client, Page, $"{Page}?handler={handler}", fields)).Content.ReadAsStringAsync()
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
    public async Task Only_stewards_try_a_reader_on_its_samples_and_there_must_be_one()
    {
        var steward = await app.SignedIn(Roles.Steward);
        var answer = await HarbourApp.Post(steward, Page, $"{Page}?handler=Prove");
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        Assert.True(app.Get<SampleProofs>().Of(Key).IsWhole);
        Assert.NotNull(app.Get<SampleProofs>().Start("no-such-reader", "me").Problem);
        Assert.Equal(new SampleProof([], 0).Right, app.Get<SampleProofs>().Of("no-such-reader").Right);
    }
}
