using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Tests;

public class ConventionTests
{
    private static Placement Place(Convention convention, params (string, string?)[] changes) =>
        new CompiledType(Harbour.Call with { Convention = convention }, Harbour.Vocabularies)
            .Judge(Harbour.Record(changes), Harbour.Now)
            .Placement;

    private static Convention Named(params Piece[] name) => new([], name);

    [Fact]
    public void Folder_and_name_follow_the_pieces()
    {
        var placement = Harbour.Compiled.Judge(Harbour.Record(), Harbour.Now).Placement;
        Assert.Equal("Calls/2024", placement.Folder);
        Assert.Equal("VC-2024-00001 GREY H", placement.Name);
        Assert.Null(placement.Problem);
    }

    [Theory]
    [InlineData("yyyy-MM-dd", LetterCase.AsIs, "2024-03-05")]
    [InlineData("MM MMMM", LetterCase.AsIs, "03 March")]
    [InlineData("MM MMMM", LetterCase.Upper, "03 MARCH")]
    [InlineData("yyyyMMdd", LetterCase.AsIs, "20240305")]
    public void A_date_takes_its_form(string form, LetterCase letters, string name) =>
        Assert.Equal(name, Place(Named(Piece.Of("arrived") with { DateForm = form, Case = letters })).Name);

    [Fact]
    public void The_counter_stands_where_it_is_put_or_behind_the_name()
    {
        var values = Harbour.Compiled.Judge(Harbour.Record(), Harbour.Now).Values;
        Assert.Equal("VC-2024-00001 GREY H (3)", Harbour.Compiled.Convention.Render(values, Harbour.Now, 3).Name);
        var counted = new CompiledConvention(
            Named(Piece.Of("vessel"), Piece.Literal("-"), new Piece(PieceKind.Counter) { Digits = 3 }),
            Harbour.Call
        );
        Assert.Equal("Grey Heron-007", counted.Render(values, Harbour.Now, 7).Name);
        Assert.Equal("Grey Heron-1234", counted.Render(values, Harbour.Now, 1234).Name);
    }

    [Theory]
    [InlineData("a/b", "a-b")]
    [InlineData(@"a\b:c", "a-b-c")]
    [InlineData("a\tb", "a-b")]
    [InlineData("ends. ", "ends")]
    [InlineData("Ä Ø ß", "Ä Ø ß")]
    public void What_a_file_system_refuses_is_substituted(string value, string name) =>
        Assert.Equal(name, Place(Named(Piece.Of("certificate")), ("certificate", value)).Name);

    [Theory]
    [InlineData("..", "path-leaves-root")]
    [InlineData(".", "path-leaves-root")]
    [InlineData("CON", "path-reserved-name")]
    [InlineData("com1.txt", "path-reserved-name")]
    [InlineData(null, "path-hole")]
    public void A_place_that_cannot_be_says_why(string? value, string code) =>
        Assert.Equal(code, Place(Named(Piece.Of("certificate")), ("certificate", value)).Problem?.Code);

    [Fact]
    public void Nothing_too_long_and_climbing_folders_are_refused()
    {
        Assert.Equal("path-empty", Place(Convention.Empty).Problem?.Code);
        Assert.Equal("path-segment-too-long", Place(Named(Piece.Literal(new string('x', 300)))).Problem?.Code);
        var inside = new Piece(PieceKind.Inside);
        Assert.Equal(
            "path-leaves-root",
            Place(new Convention([Piece.Literal(".."), inside, Piece.Literal("x")], [Piece.Of("number")])).Problem?.Code
        );
        Assert.Equal(
            "path-segment-empty",
            Place(new Convention([Piece.Literal("a"), inside, inside, Piece.Literal("b")], [Piece.Of("number")])).Problem?.Code
        );
        Assert.Equal(
            "path-too-long",
            Place(
                new Convention(
                    [Piece.Literal(new string('x', 100)), inside, Piece.Literal(new string('y', 100))],
                    [Piece.Literal(new string('z', 60))]
                )
            ).Problem?.Code
        );
        Assert.Contains("lead outside the repository", Place(Named(Piece.Literal(".."))).Problem!.Message);
    }

    [Fact]
    public void An_empty_field_is_replaced_when_the_steward_says_so() =>
        Assert.Equal("no paper", Place(Named(Piece.Of("certificate") with { IfEmpty = "no paper" })).Name);

    [Fact]
    public void Flaws_are_found_before_any_document()
    {
        string[] Codes(Convention convention, bool restricted = false) =>
            [
                .. ConventionCheck
                    .Findings(
                        convention,
                        Harbour.Call with
                        {
                            Fields = restricted ? [.. Harbour.Call.Fields.Select(f => f with { Restricted = true })] : Harbour.Call.Fields,
                        }
                    )
                    .Select(f => f.Code),
            ];
        Assert.Contains("convention-nameless", Codes(Convention.Empty));
        Assert.Contains("convention-same-name", Codes(Named(Piece.Literal("x"))));
        Assert.Contains("convention-hole", Codes(Named(Piece.Of("certificate"))));
        Assert.DoesNotContain("convention-hole", Codes(Named(Piece.Of("pilot"))));
        Assert.Contains("convention-no-field", Codes(Named(Piece.Of("gone"))));
        Assert.Contains("convention-restricted", Codes(Named(Piece.Of("number")), restricted: true));
        Assert.Contains("convention-character", Codes(Named(Piece.Literal("a:b"), Piece.Of("number"))));
        Assert.Contains("path-reserved-name", Codes(new Convention([Piece.Literal("CON")], [Piece.Of("number")])));
        Assert.Contains("path-leaves-root", Codes(new Convention([Piece.Literal("..")], [Piece.Of("number")])));
        Assert.Contains("convention-long", Codes(new Convention([Piece.Literal(new string('x', 230))], [Piece.Of("number")])));
        Assert.Empty(Codes(Harbour.Call.Convention));
    }
}
