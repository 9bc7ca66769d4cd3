using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using FsCheck.Xunit;

namespace ClearLexicon.Core.Tests;

public class CheckDigitTests
{
    // Numbers that the standards, their registries or authorities print as examples.
    [Theory]
    [InlineData("iban", "GB82 WEST 1234 5698 7654 32")]
    [InlineData("iban", "DE89 3704 0044 0532 0130 00")]
    [InlineData("iban", "NO93 8601 1117 947")]
    [InlineData("luhn", "4111 1111 1111 1111")]
    [InlineData("luhn", "79927398713")]
    [InlineData("gtin-8", "96385074")]
    [InlineData("gtin-12", "036000291452")]
    [InlineData("gtin-13", "4006381333931")]
    [InlineData("gtin-14", "00012345600012")]
    [InlineData("sscc", "106141411234567897")]
    [InlineData("isbn-10", "0-306-40615-2")]
    [InlineData("isbn-10", "080442957X")]
    [InlineData("isbn-13", "978-0-306-40615-7")]
    [InlineData("issn", "0378-5955")]
    [InlineData("issn", "2434-561X")]
    [InlineData("vin", "1M8GDM9AXKP042788")]
    [InlineData("vin", "11111111111111111")]
    [InlineData("container", "CSQU 305438 3")]
    [InlineData("container", "MSKU6639870")]
    [InlineData("imo", "IMO 9074729")]
    [InlineData("lei", "5493001KJTIIGC8Y1R12")]
    [InlineData("isin", "US0378331005")]
    [InlineData("isin", "AU0000XVGZA3")]
    [InlineData("orcid", "0000-0002-1825-0097")]
    [InlineData("orcid", "0000-0002-1694-233X")]
    [InlineData("isni", "0000 0001 2103 2683")]
    [InlineData("mod-97-10", "79444")]
    [InlineData("mod-11-2", "07940")]
    [InlineData("mod-1271-36", "ISO793W")]
    [InlineData("mod-37-36", "A12425GABC1234002M")]
    [InlineData("mod-11-10", "07945")]
    [InlineData("house 7 6 5 4 3 2 modulus 11", "1234560")]
    [InlineData("house 8 7 6 5 modulus 11 complement", "12346")]
    public void A_published_number_passes(string scheme, string number) => Assert.Null(CheckSchemes.Find(scheme)!.Problem(number));

    [Theory]
    [InlineData("ATU13585627")]
    [InlineData("BE0428759497")]
    [InlineData("CY10259033P")]
    [InlineData("CZ25123891")]
    [InlineData("DE136695976")]
    [InlineData("DK13585628")]
    [InlineData("EE100931558")]
    [InlineData("EL094259216")]
    [InlineData("ESB58378431")]
    [InlineData("FI20774740")]
    [InlineData("FR40303265045")]
    [InlineData("HR33392005961")]
    [InlineData("HU12892312")]
    [InlineData("IE6433435F")]
    [InlineData("IT00743110157")]
    [InlineData("LT119511515")]
    [InlineData("LU15027442")]
    [InlineData("MT11679112")]
    [InlineData("NL004495445B01")]
    [InlineData("PL8567346215")]
    [InlineData("PT501964843")]
    [InlineData("RO18547290")]
    [InlineData("SE556188840401")]
    [InlineData("SI50223054")]
    [InlineData("SK2022749619")]
    public void A_VAT_number_of_each_country_passes_and_with_another_last_check_it_fails(string number)
    {
        var scheme = CheckSchemes.Find("eu-vat")!;
        Assert.Null(scheme.Problem(number));
        // Each country's number with one digit changed where its check must notice: the digit before the check digit or letter.
        var at =
            number.StartsWith("NL", StringComparison.Ordinal) ? 5
            : number.StartsWith("SE", StringComparison.Ordinal) ? 9
            : number.Length - 3;
        var changed = number[..at] + (char)(number[at] == '9' ? '0' : number[at] + 1) + number[(at + 1)..];
        Assert.NotNull(scheme.Problem(changed));
    }

    [Theory]
    [InlineData("iban", "GB82 WEST 1234 5698 7654 33", "check-digit", "should be 55")]
    [InlineData("iban", "GB82 WEST 1234 5698 7654 3", "check-length", "22 characters")]
    [InlineData("iban", "XX82 WEST 1234", "check-country", "“XX”")]
    [InlineData("iban", "NO93 8601 1117 9?7", "check-character", "character 14")]
    [InlineData("gtin-13", "4006381333932", "check-digit", "should be 1")]
    [InlineData("imo", "9074728", "check-digit", "should be 9")]
    [InlineData("imo", "90747Z9", "check-character", "“Z”")]
    [InlineData("isbn-13", "9770306406157", "check-prefix", "978 or 979")]
    [InlineData("issn", "0378-5954", "check-digit", "should be 5")]
    [InlineData("container", "CSQA3054383", "check-character", "“A”")]
    [InlineData("container", "CSQU3054384", "check-digit", "should be 3")]
    [InlineData("vin", "1M8GDM9A1KP042788", "check-digit", "should be X")]
    [InlineData("vin", "1M8GDM9AXKPO42788", "check-character", "“O”")]
    [InlineData("orcid", "0000-0002-1825-0098", "check-digit", "should be 7")]
    [InlineData("lei", "5493001KJTIIGC8Y1R13", "check-digit", "should be 12")]
    [InlineData("eu-vat", "ZZ12345678", "check-country", "“ZZ”")]
    public void The_message_says_what_is_wrong(string scheme, string number, string code, string said)
    {
        var field = new Fields.IdentifierField("n", "Number") { Scheme = scheme };
        var problem = Assert.Single(
            new CompiledType(Designs.DocumentType.Empty("t", "T") with { Fields = [field] }, Harbour.Vocabularies)
                .Judge([number], Harbour.Now)
                .Problems
        );
        Assert.Equal(code, problem.Code);
        Assert.Contains(said, problem.Message);
    }

    [Fact]
    public void Every_scheme_accepts_its_own_example_and_names_its_standard()
    {
        foreach (var scheme in CheckSchemes.All)
        {
            Assert.True(
                scheme.Problem(scheme.Example) is null,
                $"{scheme.Code} refuses its example {scheme.Example}: {scheme.Problem(scheme.Example)}"
            );
            Assert.NotEmpty(scheme.Standard);
            Assert.Same(scheme, CheckSchemes.Find(scheme.Code));
        }
        Assert.Equal(CheckSchemes.All.Count, CheckSchemes.All.Select(s => s.Code).Distinct().Count());
    }

    [Property(MaxTest = 400)]
    public void A_changed_digit_is_caught_wherever_the_scheme_promises_it(
        FsCheck.NonNegativeInt which,
        FsCheck.NonNegativeInt place,
        FsCheck.NonNegativeInt by
    )
    {
        CheckScheme[] promising = [.. CheckSchemes.All.Where(s => s.CatchesEveryDigit), CheckSchemes.Find("house 7 6 5 4 3 2 modulus 11")!];
        var scheme = promising[which.Get % promising.Length];
        var number = CheckScheme.Compact(scheme.Example);
        var digits = Enumerable.Range(0, number.Length).Where(i => char.IsAsciiDigit(number[i])).ToArray();
        if (digits.Length == 0)
            return;
        var at = digits[place.Get % digits.Length];
        var changed = number[..at] + (char)('0' + (number[at] - '0' + 1 + by.Get % 9) % 10) + number[(at + 1)..];
        Assert.True(scheme.Problem(changed) is not null, $"{scheme.Code}: {changed} passes beside {number}");
    }

    [Theory]
    [InlineData("7 6 5 4 3 2", "modulus")]
    [InlineData("7 six 5 modulus 11", "“six”")]
    [InlineData("7 6 modulus 40", "2 to 11")]
    public void A_house_scheme_that_cannot_be_read_says_why(string text, string why)
    {
        Assert.False(HouseScheme.TryParse(text, out _, out var problem));
        Assert.Contains(why, problem);
    }

    [Fact]
    public void A_house_scheme_knows_whether_it_can_promise_anything()
    {
        Assert.True(CheckSchemes.Find("house 7 6 5 4 3 2 modulus 11")!.CatchesEveryDigit);
        Assert.False(CheckSchemes.Find("house 5 4 3 2 modulus 10")!.CatchesEveryDigit);
        Assert.Null(
            CheckSchemes
                .Find("house 5 4 3 2 modulus 11 complement")!
                .Problem(CheckSchemes.Find("house 5 4 3 2 modulus 11 complement")!.Example)
        );
    }

    [Fact]
    public void Identifiers_are_kept_as_their_standard_writes_them()
    {
        var field = new Fields.IdentifierField("n", "Number") { Scheme = "issn" };
        Assert.Equal("0378-5955", new Cleaning.FieldReader(field, Harbour.Vocabularies).Read(" 03785955 ").Text);
        Assert.Equal(
            "NO9386011117947",
            new Cleaning.FieldReader(field with { Scheme = "iban" }, Harbour.Vocabularies).Read("no93 8601 1117 947").Text
        );
    }
}
