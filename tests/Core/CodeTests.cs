using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Codes;

namespace ClearLexicon.Core.Tests;

/// <summary>Which codes count, and what becomes of one.</summary>
public class CodeTests
{
    private static PageCode Code(string kind, string text, double y = 0.1) => new(kind, text, new Box(0.1, y, 0.2, 0.05));

    private static (int, PageText) Page(int number, params PageCode[] codes) =>
        (number, new PageText(100, 140, [], "none") { Codes = codes });

    [Fact]
    public void A_filter_says_of_every_code_why_it_is_passed_over()
    {
        var filter = new CodeFilter
        {
            Kinds = ["Code 128"],
            Shortest = 12,
            Longest = 12,
            Pattern = @"\d+",
            Region = new Box(0, 0, 1, 0.5),
            Page = 1,
            Which = 2,
        };
        var sifted = filter.Sift([
            Page(
                1,
                Code("QR", "123456789012"),
                Code("Code 128", "1234567890"),
                Code("Code 128", "12345678901A"),
                Code("Code 128", "111111111111", 0.8),
                Code("Code 128", "222222222222"),
                Code("Code 128", "333333333333"),
                Code("Code 128", "444444444444")
            ),
            Page(2, Code("Code 128", "555555555555")),
        ]);
        Assert.Equal(
            [
                "it is QR, not Code 128",
                "it has 10 characters, not 12",
                "it does not follow the pattern",
                "it is outside the region",
                "it is number 1 of those that pass, not number 2",
                null,
                "it is number 3 of those that pass, not number 2",
                "it is on page 2, not on page 1",
            ],
            sifted.Select(s => s.Ignored)
        );
        // A patch code is no value unless it is asked for.
        Assert.NotNull(CodeFilter.Every.Refuses(Code(PatchCode.Kind, "T"), 1));
        Assert.Null(new CodeFilter { Kinds = [PatchCode.Kind] }.Refuses(Code(PatchCode.Kind, "T"), 1));
        Assert.NotNull(new CodeFilter { Pattern = "(" }.Finding);
        Assert.NotNull(new CodeFilter { Shortest = 3, Longest = 2 }.Finding);
    }

    [Theory]
    [InlineData("separator", "|", "a|\"b|c\"|say \"\"|\"x\"\"y\"|", "a;b|c;say \"\";x\"y;")]
    [InlineData("separator", "::", "1::2", "1;2")]
    [InlineData("widths", "2,3", "ABCDE", "AB;CDE")]
    [InlineData("elements", "", "0105901234123457\u001D10A7\u001D21X", "05901234123457;A7;X")]
    [InlineData("elements", "", "(01)05901234123457(10)B(2)", "05901234123457;B(2)")]
    public void One_code_is_several_values(string way, string with, string text, string pieces)
    {
        var (divided, problem) = new CodeDivision(way, with).Divide(text);
        Assert.Null(problem);
        Assert.Equal(("whole", text), divided[0]);
        Assert.Equal(pieces, string.Join(';', divided.Skip(1).Select(p => p.Text)));
    }

    [Theory]
    [InlineData("widths", "2,3", "ABCD", "it has 4 characters, and the widths ask for 5")]
    [InlineData("elements", "", "0105901234123458", "(01) 05901234123458 has a wrong check digit")]
    [InlineData("elements", "", "01059012341", "(01) is too short")]
    [InlineData("elements", "", "ABC", "there is no application identifier at character 1")]
    [InlineData("elements", "", "17ABCDEF", "(17) holds more than digits")]
    [InlineData("widths", "0,2", "AB", "Write the widths as numbers from 1 with commas between, such as 4,3,5; at most 60.")]
    public void What_cannot_be_divided_says_why(string way, string with, string text, string why) =>
        Assert.Equal(why, new CodeDivision(way, with).Divide(text).Problem);

    [Fact]
    public void Nothing_that_a_code_holds_makes_a_division_throw()
    {
        var random = new Random(11);
        const string letters = "0123456789()\u001D\"|,A\0\uD800";
        foreach (var way in CodeDivision.Ways.Select(w => w.Code))
            for (var i = 0; i < 4_000; i++)
            {
                var text = new string([.. Enumerable.Range(0, random.Next(40)).Select(_ => letters[random.Next(letters.Length)])]);
                var (pieces, _) = new CodeDivision(way, way == "widths" ? "3,9,1" : "|").Divide(text);
                Assert.Equal(text, pieces[0].Text);
            }
        Assert.Equal(CodeDivision.Most + 1, new CodeDivision("separator", "|").Divide(new string('|', 3_000)).Pieces.Count);
    }

    [Fact]
    public void Several_codes_become_one_value_in_their_order()
    {
        var source = new CodeSource("parts", new CodeFilter { Kinds = ["Code 39"] }, CodeDivision.Whole, "/");
        var read = source.Read([Page(1, Code("Code 39", "A"), Code("QR", "x"), Code("Code 39", "B", 0.4)), Page(2, Code("Code 39", "C"))]);
        var whole = read.Evidence["parts/whole"];
        Assert.Equal(("A/B/C", 1, "Code 39"), (whole.Raw, whole.Page, whole.Method));
        // The place is that of the codes on its page.
        Assert.Equal(new Box(0.1, 0.1, 0.2, 0.35).H, whole.Box.H, 6);
    }

    [Fact]
    public void A_patch_code_is_told_by_two_wide_and_two_narrow_bars()
    {
        foreach (var name in PatchCode.Names)
        {
            var bars = PatchCode.WideBars(name).Select(w => w ? 20.0 : 8).ToArray();
            Assert.Equal(name, PatchCode.Read(bars, [8, 8, 8]));
            // Ink that spread, and light that ate.
            Assert.Equal(name, PatchCode.Read([.. bars.Select(b => b + 2.5)], [5.5, 5.5, 5.5]));
            Assert.Equal(name, PatchCode.Read([.. bars.Select(b => b - 3)], [11, 11, 11]));
        }
        Assert.Null(PatchCode.Read([20, 20, 20, 8], [8, 8, 8]));
        Assert.Null(PatchCode.Read([20, 8, 8, 20], [8, 30, 8]));
        Assert.Null(PatchCode.Read([20, 8, 8], [8, 8]));
        Assert.Null(PatchCode.Read([0, 8, 8, 20], [8, 8, 8]));
    }
}
