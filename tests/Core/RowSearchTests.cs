using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>Rows of a reference table found as somebody types.</summary>
public class RowSearchTests
{
    private static readonly List<string[]> Rows =
    [
        ["9074729", "Île Grise", "Tanker", "3268"],
        ["9216535", "Höfnvik", "General cargo", "2713"],
        ["9245706", "Grise", "Ferry", "3268"],
        ["9319466", "Île Grise", "Tanker", "4100"],
        ["", "", "", ""],
    ];

    [Theory]
    [InlineData("92", "9216535 9245706")]
    [InlineData("grise", "9245706 9074729 9319466")]
    [InlineData("ILE gr", "9074729 9319466")]
    [InlineData("cargo", "9216535")]
    [InlineData("hofn", "9216535")]
    [InlineData("271", "9216535")]
    [InlineData("rise", "")]
    [InlineData("9", "")]
    [InlineData(" - ", "")]
    [InlineData("\u001f", "")]
    [InlineData("2713 9245706", "")]
    public void A_beginning_of_any_word_of_any_cell_finds_its_row_once_beginnings_of_cells_first(string typed, string keys) =>
        Assert.Equal(keys, string.Join(' ', new RowSearch(Rows).Find(typed, 9).Select(r => r[0])));

    [Fact]
    public void What_tells_rows_apart_is_shown_and_what_is_shown_anyway_is_not()
    {
        var hits = new RowSearch(Rows).Find("ile grise", 9);
        Assert.Equal([0, 3], RowSearch.TellingApart(hits, without: 1));
        Assert.Equal([1, 3], RowSearch.TellingApart(hits, without: 0));
        Assert.Empty(RowSearch.TellingApart([], 0));
        Assert.Empty(new RowSearch([]).Find("anything", 8));
    }

    [Fact]
    public void Whatever_is_typed_it_finds_what_going_through_all_rows_finds()
    {
        var random = new Random(7);
        string Word() => string.Concat(Enumerable.Range(0, random.Next(1, 5)).Select(_ => "abéß 7-"[random.Next(7)]));
        List<string[]> rows = [.. Enumerable.Range(0, 300).Select(i => new[] { $"{i}", Word() + " " + Word(), Word() })];
        var search = new RowSearch(rows);
        for (var n = 0; n < 500; n++)
        {
            var typed = Word();
            var folded = Folding.Letters(typed);
            var expected =
                folded.Length < RowSearch.Fewest
                    ? []
                    : rows.Where(r => r.Any(c => (" " + Folding.Letters(c)).Contains(" " + folded, StringComparison.Ordinal)))
                        .Select(r => r[0]);
            Assert.Equal(expected.Order(), search.Find(typed, 1000).Select(r => r[0]).Order());
        }
    }
}
