using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

public class VocabularyTests
{
    private static readonly VocabularyIndex Berths = new(
        new Vocabulary(
            "berths",
            "Berths",
            [
                new Term("North Quay 1", ["N. Quay 1", "Old Coal Staith"], "NQ1"),
                new Term("North Quay", []),
                new Term("Österkaj", ["Oesterkaj"]),
                new Term("Timber Wharf", ["Deal Wharf"], null, TermStatus.Retired),
            ]
        )
    );

    [Theory]
    [InlineData("north quay 1", "North Quay 1")]
    [InlineData("N QUAY 1", "North Quay 1")]
    [InlineData("old-coal  staith", "North Quay 1")]
    [InlineData("nq1", "North Quay 1")]
    [InlineData("OSTERKAJ", "Österkaj")]
    [InlineData("deal wharf", "Timber Wharf")]
    [InlineData("west basin", null)]
    [InlineData("", null)]
    public void A_spelling_leads_to_its_term(string spelling, string? label) => Assert.Equal(label, Berths.Find(spelling)?.Label);

    [Theory]
    [InlineData(@"R:\calls\1998\GREY HERON old coal staith.tif", "North Quay 1")]
    [InlineData("moored at North Quay 1, then left", "North Quay 1")]
    [InlineData("moored at north quay", "North Quay")]
    [InlineData("north of the quay", null)]
    [InlineData("northquay", null)]
    public void The_longest_spelling_in_a_text_wins(string text, string? label) => Assert.Equal(label, Berths.FindIn(text)?.Label);

    [Fact]
    public void Completion_begins_at_any_word_and_leaves_retired_terms_out()
    {
        Assert.Equal(["North Quay 1"], Berths.Complete("coal", 5).Select(t => t.Label));
        Assert.Equal(["North Quay", "North Quay 1"], Berths.Complete("nor", 5).Select(t => t.Label));
        Assert.Empty(Berths.Complete("deal", 5));
        Assert.Equal(2, Berths.Complete("", 2).Count());
    }

    [Fact]
    public void A_variant_never_takes_another_terms_label_away()
    {
        var index = new VocabularyIndex(new Vocabulary("v", "V", [new Term("Tug", ["Tender"]), new Term("Tender", [])]));
        Assert.Equal("Tender", index.Find("tender")!.Label);
    }

    [Fact]
    public void A_paste_names_every_line_it_cannot_take()
    {
        var pasted = PastedTerms.Parse("Bulk carrier\tBulker|Bulk\tBC\n\nTanker\tbulker\n\tx\nTUG\nTug", [new Term("Ferry", [], "BC2")]);
        Assert.Equal(["Bulk carrier", "TUG"], pasted.Terms.Select(t => t.Label));
        Assert.Equal(["Bulker", "Bulk"], pasted.Terms[0].Variants);
        Assert.Equal("BC", pasted.Terms[0].Code);
        Assert.Equal(3, pasted.Problems.Count);
        Assert.Contains("Line 3: “bulker” already leads to “Bulk carrier”", pasted.Problems[0]);
        Assert.Contains("Line 4", pasted.Problems[1]);
        Assert.Contains("Line 6", pasted.Problems[2]);
    }
}
