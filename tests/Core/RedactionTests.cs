using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>A restricted value is found by what it is, in whatever way it stands on a page.</summary>
public class RedactionTests
{
    private static readonly VocabularyIndex Wards = new(
        new Vocabulary(
            "wards",
            "Wards",
            [
                new Term("Isolation ward", ["Fever house"], "ISO-1")
                {
                    Words = new Dictionary<string, TermWords> { ["de"] = new("Seuchenstation", []) },
                },
            ]
        )
    );

    private static readonly CompiledType Type = new(
        new DocumentType(
            "crew-list",
            "Crew list",
            [
                new TextField("name", "Name") { Restricted = true },
                new DateField("born", "Born") { Restricted = true },
                new AmountField("pay", "Pay") { Restricted = true },
                new IdentifierField("account", "Account") { Scheme = "iban", Restricted = true },
                new TermField("ward", "Ward") { Vocabulary = "wards", Restricted = true },
                new YesNoField("fit", "Fit") { Restricted = true },
                new TableField("kin", "Kin") { Restricted = true, Columns = [new TextField("who", "Who"), new DateField("when", "When")] },
                new TextField("ship", "Ship"),
                new DecimalField("double-pay", "Double pay")
                {
                    Restricted = true,
                    DefaultFrom = DefaultSource.Formula,
                    Default = "1 + 1",
                },
            ],
            [],
            Conventions.Convention.Empty
        ),
        new Dictionary<string, VocabularyIndex> { ["wards"] = Wards }
    );

    // Every value has a place far from the words, so that only its spelling can find it.
    private static Redaction Of(string field, string text) =>
        Type.Restricted(
            new Dictionary<string, string> { [field] = text },
            new Dictionary<string, Evidence> { [field] = new(2, new Box(0.9, 0.9, 0.01, 0.01), "", "picked", 1) }
        );

    private static PageText Page(string lines) =>
        new(
            1000,
            1000,
            [
                .. lines
                    .Split('\n')
                    .SelectMany((line, y) => line.Split(' ').Select((w, x) => new Word(w, new Box(x * 0.05, y * 0.05, 0.04, 0.02)))),
            ],
            "text layer"
        );

    private static string Shown(Redaction redaction, PageText page)
    {
        var masks = redaction.Masks(page, 1);
        return string.Join(' ', page.Words.Where(w => !masks.Any(m => m.Overlaps(w.Box))).Select(w => w.Text));
    }

    [Fact]
    public void A_code_that_holds_a_restricted_value_is_masked_and_others_are_not()
    {
        var (secret, open) = (new Box(0.5, 0.5, 0.1, 0.1), new Box(0.7, 0.7, 0.1, 0.1));
        var page = Page("nothing here") with
        {
            Codes = [new PageCode("QR", "HW-7|PIKE, Wren|yes", secret), new PageCode("QR", "HW-7", open)],
        };
        var masks = Of("name", "Wren Pike").Masks(page, 1);
        Assert.Contains(secret, masks);
        Assert.DoesNotContain(masks, m => m.Overlaps(open));
    }

    [Theory]
    // Names: in parts, with endings, glued, spaced, hyphenated, across lines, in other letters, backwards.
    [InlineData("name", "Bo Li", "signed Bo Li here", "signed here")]
    [InlineData("name", "Bo Li", "signed LI, Bo. here", "signed here")]
    [InlineData("name", "Bo Li", "the BoLi list", "the list")]
    [InlineData("name", "Wren Pike", "is Pike's boat and Pikes pay", "is boat and pay")]
    [InlineData("name", "Wren Pike", "wrenpike@harbour.test or W.Pike or PIKEWREN", "or or")]
    [InlineData("name", "Wren Pike", "P i k e and Pi-\nke and Wr\nen left", "and and left")]
    [InlineData("name", "Jörn Müller", "Mueller Muller MÜLLER Joern jorn left", "left")]
    [InlineData("name", "Joern Mueller", "Müller Jörn left", "left")]
    [InlineData("name", "Wren Pike", "ekiP nerW left", "left")]
    [InlineData("name", "Wren of Pike", "a list of all", "a list of all")]
    // Dates in all orders, with and without zeros, in words of several languages, short years, week and ordinal signs.
    [InlineData("born", "1970-05-03", "1970-05-03 03.05.1970 3/5/70 05/03/1970 19700503 030570 5-3-1970 left", "left")]
    [InlineData(
        "born",
        "1970-05-03",
        "3 May 1970\nMay 3rd, 1970\n3. Mai 1970\nle 3 mai 70\n3 maj 1970\n3.V.1970\n1970 May 03\nthe 3rd of May 1970",
        "le the"
    )]
    [InlineData("born", "1970-05-03", "born 03051970x D1970-05-03T00:00 id", "born id")]
    [InlineData("born", "1970-05-03", "4 May 1970 1971-05-03 or 1970 05 13 left", "4 May 1970 1971-05-03 or 1970 05 13 left")]
    // In the languages of neighbours, in words, in machine-readable lines.
    [InlineData("born", "1970-05-03", "3 maggio 1970\n3 de mayo de 1970 left\n3. květen 1970\n3 мая 1970 left\n3 Μαΐου 1970", "left left")]
    [InlineData(
        "born",
        "1970-05-03",
        "the third of May 1970\nMay the third, 1970\nam dritten Mai 1970\nle trois mai 1970\nthe fourth of May 1970",
        "the am le the fourth of May 1970"
    )]
    [InlineData("born", "1970-05-03", "PIKE<<WREN<<<<\nL898902C3UTO7005037M2501017<<<<10 left", "PIKE<<WREN<<<< left")]
    // An account by its own number, and by that of the bank.
    [InlineData("account", "DE89370400440532013000", "account 0532013000 bank 370 400 44 left 532013001", "account bank left 532013001")]
    [InlineData("account", "NO9386011117947", "8601.11.17947 left 8601", "left 8601")]
    // Numbers with and without separators, decimals, currency, zeros before.
    [InlineData("pay", "1234.50 EUR", "1234.50 1,234.50 1.234,50 1234,5 1’234.50 EUR1234.5 001234.50 left", "left")]
    [InlineData("pay", "1234.50 EUR", "1 234.50 left", "left")]
    [InlineData("pay", "1200 EUR", "1200 1,200.00 1200,- left 12001 51200", "left 12001 51200")]
    // Numbers with a check digit, spaced; terms by any of their names; cells of a table.
    [InlineData("account", "DE89370400440532013000", "DE89 3704 0044 0532 0130 00 de89-3704-0044-0532-0130-00 left", "left")]
    [InlineData("ward", "Isolation ward", "the fever houses, ISO-1, Seuchenstation left", "the left")]
    [InlineData("kin", """[{"who":"Ada Moor","when":"1999-12-31"}]""", "Moor, 31.12.99 left", "left")]
    [InlineData("fit", "yes", "yes no left", "yes no left")]
    // A value of a field that is no longer in the type.
    [InlineData("gone", "1970-05-03", "3 May 1970 left", "left")]
    // What is not restricted stays.
    [InlineData("ship", "Grey Heron", "Grey Heron", "Grey Heron")]
    public void A_value_is_masked_however_it_is_written(string field, string value, string page, string shown) =>
        Assert.Equal(shown, Shown(Of(field, value), Page(page)));

    [Fact]
    public void The_order_in_which_a_file_keeps_its_words_does_not_matter()
    {
        var page = Page("3 May 1970 left");
        Assert.Equal(
            "left",
            Shown(Of("born", "1970-05-03"), page with { Words = [page.Words[2], page.Words[3], page.Words[0], page.Words[1]] })
        );
    }

    [Fact]
    public void A_typed_value_without_a_place_closes_every_page_until_its_place_is_known()
    {
        var (page, record) = (
            Page("nothing of it here"),
            new Dictionary<string, string>
            {
                ["name"] = "Wren Pike",
                ["fit"] = "yes",
                ["double-pay"] = "12",
                ["ship"] = "Grey Heron",
            }
        );
        Redaction With(params (string, Evidence)[] places) => Type.Restricted(record, places.ToDictionary(p => p.Item1, p => p.Item2));
        Assert.Equal(["name", "fit"], With().Unplaced);
        Assert.Equal("", Shown(With(), page));
        Assert.Equal("", Shown(With(("name", Evidence.NoPlace)), page));
        var marked = new Evidence(1, new Box(0, 0, 0.04, 0.02), "", "marked", 1) { Also = [new Box(0.15, 0, 0.04, 0.02)] };
        Assert.Equal("of it", Shown(With(("name", Evidence.NoPlace), ("fit", marked)), page));
    }

    [Fact]
    public void Many_values_on_a_long_page_end()
    {
        var rows = string.Join(
            ',',
            Enumerable
                .Range(0, 3_000)
                .Select(i => $$"""{"who":"Seaman{{i}} Hand{{i}}","when":"19{{i % 90 + 10}}-0{{i % 9 + 1}}-1{{i % 10}}"}""")
        );
        var page = Page(string.Join('\n', Enumerable.Range(0, 3_000).Select(i => $"Line {i} with Seaman{i * 7} and words")));
        Assert.DoesNotContain("Seaman7 ", Shown(Of("kin", $"[{rows}]"), page));
    }

    [Fact]
    public void A_zone_lies_on_a_skewed_page_where_its_words_do()
    {
        var taught = new Box(0.4, 0.5, 0.1, 0.02);
        var clues = new[] { new Box(0.1, 0.1, 0.1, 0.02), new Box(0.8, 0.1, 0.1, 0.02), new Box(0.1, 0.9, 0.1, 0.02) };
        // Turned by two degrees and shifted.
        static Box Turned(Box b)
        {
            var (x, y) = (b.CentreX - 0.5, b.CentreY - 0.5);
            var (sin, cos) = Math.SinCos(Math.PI / 90);
            return new Box(x * cos - y * sin + 0.52 - b.W / 2, x * sin + y * cos + 0.49 - b.H / 2, b.W, b.H);
        }
        var page = new PageText(1000, 1000, [], "recognised");
        var fit = Registration.Fit(page, clues.Select((c, i) => new ClueMatch(new Clue($"clue{i}", c), Turned(c))));
        var (expected, found) = (Turned(taught), fit.FromTaught(taught));
        Assert.Equal(expected.CentreX, found.CentreX, 6);
        Assert.Equal(expected.CentreY, found.CentreY, 6);
        Assert.True(found.W >= taught.W && found.H >= taught.H);
    }
}
