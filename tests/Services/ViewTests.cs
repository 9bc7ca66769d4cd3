using ClearLexicon.Core.Fields;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Saved views, and the commonest values of what is found.</summary>
public sealed class ViewTests : IDisposable
{
    private const string Code = "vessel-call-record";
    private static readonly Rights Steward = new([Roles.Steward]),
        Searcher = new([Roles.Searcher]);

    private readonly House _house = new();

    private void Publish()
    {
        var draft = _house.Designs.Resolve(_house.Designs.Find(Code)!.Draft);
        _house.Database.Write(c => DesignStore.Publish(c, draft, draft, false, DateTimeOffset.UtcNow, "me"));
    }

    [Fact]
    public async Task A_view_is_kept_shared_found_by_name_and_says_what_it_lacks_when_its_field_is_gone()
    {
        var ids = await _house.FiledAsync(Code);
        var asks = new ViewDefinition
        {
            Type = Code,
            Ask = "arrived IS FROM 2023",
            Columns = ["vessel"],
        };
        Assert.Null(_house.Views.Save("Calls of 2023", "", asks, "ann", Steward).Problem);
        Assert.Null(_house.Views.Find("calls  OF 2023", "bob", Searcher));
        var id = _house.Views.Save("calls of 2023", Roles.Searcher, asks, "ann", Steward).Value;
        // The same name is the same view; its question is kept as it is written.
        var seen = Assert.Single(_house.Views.SeenBy("bob", Searcher));
        Assert.Equal((id, "Arrived is from 2023"), (seen.Id, seen.Asks.Ask));
        var count = _house.Views.Counts("bob", Searcher)[0].Count!.Value;
        Assert.Equal((ids.Count, false), (count.Number, count.OrMore));

        Assert.NotNull(_house.Views.Remove(id, "bob").Problem);
        Assert.Null(_house.Views.Remove(id, "ann").Problem);
        Assert.Empty(_house.Views.SeenBy("ann", Steward));
        Assert.Null(_house.Views.PutBack(id, "ann").Problem);
        // Signs alone would find everything.
        Assert.Contains("no letter or digit", _house.SearchRequests.For(new ViewDefinition { Anywhere = " --- " }, Steward).Fault!.Says);
        Assert.Null(_house.SearchRequests.For(new ViewDefinition { Anywhere = "-5" }, Steward).Fault);
        Assert.Contains(
            "20,000",
            _house.SearchRequests.For(new ViewDefinition { Anywhere = new string('ж', 20_000) }, Steward).Fault!.Says
        );
        Assert.Contains("steward", _house.Views.Save("x", ViewStore.Everyone, asks, "bob", Searcher).Problem);
        Assert.Contains("90", _house.Views.Save(new string('x', 90), "", asks, "bob", Searcher).Problem);
        Assert.Contains(
            "does not begin with a field",
            _house.Views.Save("x", "", asks with { Ask = "Nothing is x" }, "bob", Searcher).Problem
        );
        Assert.Equal(
            ["vessel", "arrived"],
            Repository.Views.Columns("Vessel, ARRIVED, vessel", _house.SearchRequests.For(asks, Steward).Fields).Value
        );

        // Its field goes.
        Assert.Null(
            _house
                .Drafts.Change(Code, "gone", "me", t => t with { Fields = [.. t.Fields.Where(f => f.Key != "arrived")], Rules = [] })
                .Problem
        );
        Publish();
        Assert.Contains("does not begin with a field", _house.SearchRequests.For(seen.Asks, Searcher).Fault!.Says);
        Assert.Null(_house.Views.Counts("ann", Steward)[0].Count);
        // Of a field that is gone nobody knows whether it was restricted, and the question says what it was asked for.
        Assert.Empty(_house.Views.SeenBy("bob", Searcher));
    }

    [Fact]
    public async Task Who_may_not_see_a_field_neither_asks_it_nor_is_told_of_it()
    {
        var ids = await _house.FiledAsync(Code);
        _house.Drafts.Change(
            Code,
            "restricted",
            "me",
            t => t with { Fields = [.. t.Fields.Select(f => f.Key is "berth" or "arrived" ? f with { Restricted = true } : f)] }
        );
        Publish();
        var facets = new Facets(_house.Database, _house.Designs);
        var all = new ViewDefinition { Type = Code };
        var open = facets.Of(_house.SearchRequests.For(all, Steward), null)!;
        Assert.Equal((ids.Count, true), (open.Documents, open.All));
        Assert.Contains(open.Terms, f => f.Field.Key == "berth");
        Assert.Equal("arrived", open.OverTime!.Field.Key);
        var closed = facets.Of(_house.SearchRequests.For(all, Searcher), "arrived")!;
        Assert.DoesNotContain(closed.Terms, f => f.Field.Key == "berth");
        Assert.NotEqual("arrived", closed.OverTime?.Field.Key);
        foreach (var ask in new[] { "Berth is empty", "berth is filled", "Arrived is from 2023", "Vessel is filled and berth is x" })
        {
            var asked = _house.SearchRequests.For(all with { Ask = ask, Sort = "berth", Columns = ["berth"] }, Searcher);
            Assert.NotNull(asked.Fault);
            // As of a field that never was.
            Assert.Equal(
                _house
                    .SearchRequests.For(all with { Ask = ask.Replace("erth", "erch").Replace("Arrived", "Arrives") }, Searcher)
                    .Fault!.Says.Replace("erch", "erth")
                    .Replace("Arrives", "Arrived"),
                asked.Fault!.Says
            );
            Assert.Null(asked.Query.Sort);
            Assert.DoesNotContain(asked.Columns, f => f.Key == "berth");
        }
        Assert.DoesNotContain(
            _house.SearchRequests.Complete(Code, "", Searcher),
            o => o.Contains("Berth", StringComparison.OrdinalIgnoreCase)
        );
        Assert.DoesNotContain(
            _house.SearchRequests.Complete(Code, "Berth is ", Searcher),
            o => o.Contains("Quay", StringComparison.OrdinalIgnoreCase)
        );
        // A narrowing link finds as many as it says.
        foreach (var value in open.Terms.SelectMany(f => f.Values).Concat(open.OverTime.Values.Where(v => v.Documents > 0)))
            Assert.Equal(
                value.Documents,
                _house
                    .Database.Read(c =>
                        RepositorySearch.Count(c, _house.SearchRequests.For(all with { Ask = value.Narrowed }, Steward).Query)
                    )
                    .Number
            );
    }

    public void Dispose() => _house.Dispose();
}
