using System.Text.Json;
using ClearLexicon.Core.Reading;

namespace ClearLexicon.Core.Tests;

/// <summary>Words of pages as they are kept: as short as they can be, and as earlier releases kept them.</summary>
public sealed class WordJsonTests
{
    private static readonly JsonSerializerOptions Kept = new(JsonSerializerDefaults.Web);

    [Fact]
    public void A_page_is_kept_to_a_millionth_of_its_size_and_nothing_is_kept_that_follows_from_the_rest()
    {
        Word[] words =
        [
            new("Quay “7”\n", new Box(0.10084033613445378, 0.06425415676959612, 1 / 3.0, 0), 0.97),
            new("", new Box(double.NaN, -1, 2, double.PositiveInfinity)),
        ];
        var page = new PageText(595, 842, words, "recognised") { Unread = [new Box(0.25, 0.5, 0.125, 1)] };
        var json = JsonSerializer.Serialize(page, Kept);
        Assert.Contains("""{"text":"","box":{"x":0,"y":-1,"w":2,"h":0},"confidence":1}""", json);
        Assert.Contains("""{"x":0.10084,"y":0.064254,"w":0.333333,"h":0}""", json);
        Assert.Contains("""{"x":0.25,"y":0.5,"w":0.125,"h":1}""", json);
        Assert.DoesNotContain("entre", json);
        var back = JsonSerializer.Deserialize<PageText>(json, Kept)!;
        Assert.Equal(words.Select(w => (w.Text, w.Confidence)), back.Words.Select(w => (w.Text, w.Confidence)));
        Assert.Equal(words[0].Box.CentreX, back.Words[0].Box.CentreX, 1e-6);
        Assert.Equal(page.Unread, back.Unread);
    }

    [Theory]
    [InlineData("""{"text":"a","box":{"x":0.1,"y":0.2,"w":0.3,"h":0.4,"centreX":0.25,"centreY":0.4},"confidence":0.5}""", 0.5)]
    [InlineData("""{"confidence":0.5,"more":[{"x":9}],"box":{"h":0.4,"w":0.3,"of":{"x":9},"y":0.2,"x":0.1},"text":"a"}""", 0.5)]
    [InlineData("""{"text":"a","box":{"x":1e-1,"y":0.2,"w":0.3,"h":0.4}}""", 1)]
    public void Words_are_read_as_they_were_ever_kept(string json, double confidence) =>
        Assert.Equal(new Word("a", new Box(0.1, 0.2, 0.3, 0.4), confidence), JsonSerializer.Deserialize<Word>(json, Kept));

    [Theory]
    [InlineData("[1]")]
    [InlineData("\"a\"")]
    [InlineData("""{"text":"a","box":[1,2,3,4]}""")]
    [InlineData("""{"text":1,"box":{}}""")]
    [InlineData("""{"text":"a","box":{"x":"left"}}""")]
    [InlineData("""{"text":"a","box":{"x":0.1""")]
    public void What_is_no_word_is_refused(string json) => Assert.Throws<JsonException>(() => JsonSerializer.Deserialize<Word>(json, Kept));
}
