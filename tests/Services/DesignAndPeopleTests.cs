using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Demo;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

public sealed class DesignAndPeopleTests : IDisposable
{
    private readonly House _house = new();

    [Fact]
    public void A_draft_changes_nothing_until_it_is_published_and_a_version_stays_as_it_was()
    {
        _house.WithDesigns();
        var code = HarbourDesign.VesselCall.Code;
        int Width() => _house.Designs.Published[code].Type.Width;
        var before = Width();
        Assert.True(
            _house
                .Drafts.Change(code, "added a field", "me", t => t with { Fields = [.. t.Fields, new TextField("weather", "Weather")] })
                .Ok
        );
        Assert.Equal(before, Width());
        Assert.Equal(2, _house.Drafts.Publish(code, "me").Value.Version);
        Assert.Equal(before + 1, Width());
        Assert.Contains("Nothing has changed", _house.Drafts.Publish(code, "me").Problem);
        Assert.Equal([before + 1, before], _house.Designs.Versions(code).Select(v => v.Design.Fields.Count));
    }

    [Fact]
    public void A_flawed_draft_is_not_published_and_says_why()
    {
        Assert.Equal("pilotage", _house.Drafts.Create("Pilotage", "me").Value);
        Assert.False(_house.Drafts.Create("Pilotage", "me").Ok);
        Assert.Contains("no fields", _house.Drafts.Publish("pilotage", "me").Problem);
        Assert.Empty(_house.Designs.Published);
    }

    [Fact]
    public void A_retired_term_is_refused_at_once_and_comes_back()
    {
        _house.WithDesigns();
        bool Accepts() =>
            _house.Designs.Published["vessel-call-record"].Type is var type
            && type.Judge(
                    type.Type.Fields.Select(f => f.Key == "berth" ? "TW" : null).ToArray(),
                    _house.Designs.Now(Core.Rules.EntryChannel.Desk, "me")
                )
                .Problems.All(p => p.Code != "retired-term");
        Assert.True(Accepts());
        Assert.True(
            _house.Vocabularies.Apply("berths", v => VocabularyEditing.SetStatus(v, "timber-wharf", TermStatus.Retired, null), "me").Ok
        );
        Assert.False(Accepts());
        Assert.True(
            _house.Vocabularies.Apply("berths", v => VocabularyEditing.SetStatus(v, "timber-wharf", TermStatus.Current, null), "me").Ok
        );
        Assert.True(Accepts());
        Assert.Contains("Line 2", _house.Vocabularies.AddTerms("berths", "Roads\nTIMBER wharf", null, "me").Problem);
        Assert.Equal(1, _house.Vocabularies.AddTerms("berths", "Roads\tAnchorage", null, "me").Value);
        Assert.Equal("Roads", _house.Designs.Vocabularies["berths"].Find("anchorage")!.Label);
    }

    private const string Long = "anchor-below-lamp-30";

    [Fact]
    public void Passwords_are_checked_and_two_administrators_remain()
    {
        Assert.True(_house.People.NobodyYet);
        Assert.Contains("set-up code", _house.People.AddFirst("Ada", Long, "guessed").Problem);
        Assert.True(_house.People.AddFirst("Ada", Long, _house.People.SetUpWord).Ok);
        Assert.False(_house.People.AddFirst("Eve", Long, _house.People.SetUpWord).Ok);
        Assert.Contains("at least", _house.People.Add("Bo", "short", [Roles.Indexer], "Ada").Problem);
        Assert.Contains("has an account", _house.People.Add("ADA", Long, [Roles.Indexer], "Ada").Problem);
        Assert.NotNull(_house.People.SignIn("ada ", Long, "here").Person);
        Assert.Null(_house.People.SignIn("Ada", Long.ToUpperInvariant(), "here").Person);
        Assert.Null(_house.People.SignIn("Nobody", Long, "here").Person);
        Assert.True(_house.People.Add("Bram", Long, [Roles.Administrator], "Ada").Ok);
        Assert.Contains("two administrators", _house.People.Remove(_house.People.SignIn("Ada", Long, "here").Person!.Id, "Bram").Problem);
        Assert.True(_house.People.Add("Cleo", Long, [Roles.Administrator], "Ada").Ok);
        Assert.True(_house.People.Remove(_house.People.SignIn("Ada", Long, "here").Person!.Id, "Bram").Ok);
        Assert.Null(_house.People.SignIn("Ada", Long, "here").Person);
    }

    [Fact]
    public void A_token_works_until_it_is_ended_and_is_not_stored()
    {
        _house.People.AddFirst("Ada", Long, _house.People.SetUpWord);
        var token = _house.People.MakeToken(_house.People.All()[0], "script");
        Assert.Equal("Ada", _house.People.ByToken(token)!.Value.Person.Name);
        Assert.Null(_house.People.ByToken(token + "0"));
        Assert.DoesNotContain(token, System.Text.Encoding.ASCII.GetString(File.ReadAllBytes(_house.Folder.DatabaseFile)));
        _house.People.Revoke(_house.People.Tokens()[0].Id, "Ada");
        Assert.Null(_house.People.ByToken(token));
    }

    [Theory]
    [InlineData("..", "x.pdf")]
    [InlineData("a/../..", "x.pdf")]
    [InlineData("", "../x.pdf")]
    [InlineData("/etc", "passwd")]
    public void No_path_leads_out_of_the_repository(string folder, string name) =>
        Assert.Throws<InvalidOperationException>(() => _house.Folder.InRepository(folder, name));

    [Theory]
    [InlineData(@"..\..\evil.pdf", "evil.pdf")]
    [InlineData("a/b/c.pdf", "c.pdf")]
    [InlineData("a:b?.pdf", "a-b-.pdf")]
    [InlineData("..", "unnamed")]
    public void An_uploaded_name_is_only_a_name(string sent, string kept) => Assert.Equal(kept, DataFolder.SafeName(sent));

    public void Dispose() => _house.Dispose();
}
