using System.Globalization;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Core.Tests;

/// <summary>
/// The one reading of numbers, held against numbers that are written here by rules of their own: English, German, French and Swiss shapes.
/// </summary>
public class NumberTests
{
    private sealed record Shape(string Name, string Thousands, string Decimal);

    private static readonly Shape[] Shapes =
    [
        new("English", ",", "."),
        new("German", ".", ","),
        new("French", "\u202f", ","),
        new("Swiss", "’", "."),
        new("plain", "", "."),
        new("plain, comma", "", ","),
    ];

    private static readonly (string Before, string Behind)[] Signs = [("", ""), ("-", ""), ("−", ""), ("", "-"), ("(", ")")];

    // A number as digits, so that the oracle needs no decimal of ours: whole part and places.
    private static IEnumerable<(string Whole, string Places)> Some()
    {
        var random = new Random(1986);
        foreach (var length in new[] { 1, 2, 3, 4, 5, 6, 7, 9 })
        foreach (var places in new[] { 0, 1, 2, 3, 4 })
            for (var i = 0; i < 4 * Larger.By; i++)
                yield return (
                    $"{random.Next(1, 10)}" + string.Concat(Enumerable.Range(1, length - 1).Select(_ => random.Next(10))),
                    string.Concat(Enumerable.Range(0, places).Select(_ => random.Next(10)))
                );
        yield return ("0", "125");
        yield return ("0", "5");
    }

    private static string Written(string whole, string places, Shape shape)
    {
        var grouped = whole;
        if (shape.Thousands.Length > 0)
            for (var at = whole.Length - 3; at > 0; at -= 3)
                grouped = grouped.Insert(at, shape.Thousands);
        return places.Length == 0 ? grouped : grouped + shape.Decimal + places;
    }

    private static decimal Meant(string whole, string places, bool negative) =>
        (negative ? -1 : 1) * decimal.Parse(places.Length == 0 ? whole : $"{whole}.{places}", CultureInfo.InvariantCulture);

    [Fact]
    public void A_typed_number_is_what_was_meant_or_is_refused_with_both_readings()
    {
        var (compared, refused) = (0, 0);
        foreach (var (whole, places) in Some())
        foreach (var shape in Shapes)
        foreach (var (before, behind) in Signs)
        {
            var text = before + Written(whole, places, shape) + behind;
            var read = Numbers.Typed(text, out var problem);
            compared++;
            if (read is null)
            {
                // Only a comma that can be either sign.
                refused++;
                Assert.True(text.Count(c => c == ',') == 1 && !text.Contains('.'), $"{text}: {problem}");
                Assert.Contains(" or ", problem);
                continue;
            }
            // A point is the decimal point, as numbers are shown.
            if (shape.Name == "German" && places.Length == 0 && text.Count(c => c == '.') == 1)
                continue;
            Assert.True(read == Meant(whole, places, before + behind is not ""), $"{text} is read as {read}");
        }
        Assert.True(compared > 4_000 && refused > 100 && refused < 600 * Larger.By, $"{compared}, {refused}");
    }

    [Theory]
    [InlineData("")]
    [InlineData("1,2,3")]
    [InlineData("1.2.3")]
    [InlineData("1,23,456")]
    [InlineData("12 34")]
    [InlineData("1.234,5.6")]
    [InlineData("--5")]
    [InlineData("(5")]
    [InlineData("5 000 0")]
    [InlineData("1'234,567'890")]
    [InlineData("1e5")]
    [InlineData("٣")]
    [InlineData("0,123,456")]
    public void What_is_no_number_is_refused(string text) => Assert.Null(Numbers.Typed(text));

    /// <summary>With the sign that a steward has chosen there is nothing to guess; what is written is read the same again.</summary>
    [Fact]
    public void Cleaning_reads_what_was_printed_and_keeps_its_currency()
    {
        var compared = 0;
        var field = new AmountField("due", "Due") { Currencies = ["EUR", "GBP", "USD"] };
        foreach (var (whole, places) in Some())
        foreach (var shape in Shapes)
        foreach (var (before, behind) in Signs)
        foreach (
            var (front, back, currency) in new[]
            {
                ("", "", ""),
                ("£", "", "GBP"),
                ("", " €", "EUR"),
                ("USD ", "", "USD"),
                ("", " GBP", "GBP"),
            }
        )
        {
            var printed = front + before + Written(whole, places, shape) + behind + back;
            var sign = shape.Decimal[0];
            foreach (var amount in new[] { field, null })
            {
                var clean = TextCleaning.ReadNumber(printed, sign, amount);
                var parts = clean.Split(' ');
                Assert.True(
                    Numbers.Kept(parts[0]) == Meant(whole, places, before + behind is not "")
                        && parts.ElementAtOrDefault(1) == (amount is null || currency == "" ? null : currency),
                    $"{printed} with {sign} gives {clean}"
                );
                Assert.Equal(clean, TextCleaning.ReadNumber(clean, sign, amount));
                compared++;
            }
        }
        Assert.True(compared > 40_000, $"{compared}");
    }

    [Theory]
    [InlineData("$5.00")]
    [InlineData("5.00 XQX")]
    [InlineData("¥5")]
    [InlineData("GBP")]
    public void A_currency_that_is_not_known_for_sure_is_not_made_up(string printed) =>
        Assert.Equal(printed, TextCleaning.ReadNumber(printed, '.', new AmountField("due", "Due")));
}
