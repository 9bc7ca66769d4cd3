using System.Globalization;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Conventions.Inference;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;

namespace ClearLexicon.Core.Tests;

public class PathInferenceTests
{
    private static readonly DocumentType Empty = DocumentType.Empty("t", "T");

    private static ProposedConvention Propose(DocumentType type, params string[] lines)
    {
        var (proposal, problem) = PathInference.Propose(lines, type, type.Convention, Harbour.Vocabularies);
        Assert.Null(problem);
        return proposal!;
    }

    private static string Outline(ProposedConvention p, DocumentType? type = null)
    {
        var with = (type ?? Empty) with { Fields = [.. (type ?? Empty).Fields, .. p.Fields.Select(f => f.Field)] };
        return DesignDifference.Outline(p.Folder.Select(x => x.Piece), with)
            + " : "
            + DesignDifference.Outline(p.Name.Select(x => x.Piece), with);
    }

    [Fact]
    public void What_varies_is_told_from_what_does_not()
    {
        var p = Propose(
            Empty,
            "Vessel calls/2024/03 March/MH-2024-00042 Grey Heron (1).pdf",
            "Vessel calls/2024/03 March/MH-2024-00043 Corvina (1).pdf",
            "Vessel calls/2024/11 November/MH-2024-00197 Sea Lark of Merrow (2).pdf",
            "Vessel calls/2023/01 January/MH-2023-00001 St Brannoc (1).pdf",
            "Vessel calls/2023/12 December/MH-2023-00999 Grey Heron (3).pdf"
        );
        Assert.Equal("Vessel calls / ‹Date: 2024› / ‹Date: 03 March› : MH-‹Date: 2024›-‹Number: 5 digits› ‹Title› (‹counter›)", Outline(p));
        Assert.Equal((5, 5), (p.Paths, p.Explained));
        Assert.Equal([FieldKind.Date, FieldKind.WholeNumber, FieldKind.Text], p.Fields.Select(f => f.Field.Kind));
        Assert.Contains("Agrees with Date", p.Name[1].Because);
        Assert.Empty(p.Unexplained);
    }

    [Theory]
    [InlineData("A/2024-03-05 x.pdf|A/2023-12-31 y.pdf", "A : ‹Date: 2024-03-05› ‹Title›")]
    [InlineData("05.03.2024_0007|31.12.2023_0011", " : ‹Date: 05.03.2024›_‹Number: 4 digits›")]
    [InlineData("2024/März/a b|2023/Mai/c", "‹Date: 2024› / ‹Date: March, in German› : ‹Title›")]
    [InlineData("2024/03/05/a|2023/12/31/b", "‹Date: 2024› / ‹Date: 03› / ‹Date: 05› : ‹Title›")]
    [InlineData("C/Corvina/CORVINA 1|G/Grey Heron/GREY HERON 22", "‹Subject: first letter› / ‹Subject› : ‹Subject: UPPER CASE› ‹Number›")]
    [InlineData("A/x 01|A/y 002", "A : ‹Title› ‹Number›")]
    [InlineData("A/Fee note - late.pdf|A/Fee note.pdf", "A : ‹Title›")]
    [InlineData("A/Grey Heron.pdf|A/Grey Heron (2).pdf|A/Corvina.pdf", "A : ‹Title›")]
    [InlineData("Old coal staith/1|Fish quay/2", "‹Subject› : ‹Number›")]
    public void Pieces_are_recognised(string paths, string outline)
    {
        var p = Propose(Empty, paths.Split('|'));
        Assert.Equal(outline, Outline(p));
        Assert.Equal(p.Paths, p.Explained);
    }

    [Fact]
    public void Fields_of_the_type_are_taken_where_they_fit()
    {
        var p = Propose(Harbour.Call, "Calls/2024/VC-2024-00042 Grey Heron", "Calls/2023/VC-2023-00043 Corvina");
        Assert.StartsWith("Calls / ‹Arrived: 2024› : ‹Call number› ‹Title›", Outline(p, Harbour.Call));
        Assert.Equal(["title"], p.Fields.Select(f => f.Field.Key));
    }

    [Fact]
    public void One_example_gives_a_proposal_marked_unsure()
    {
        var p = Propose(Empty, "Dues/2024/MH-0042 Grey Heron.pdf");
        Assert.Equal("Dues / ‹Year› : MH-‹Number: 4 digits› ‹Title›", Outline(p));
        Assert.All(p.Name.Where(x => x.Piece.Kind == PieceKind.Field), x => Assert.True(x.Unsure));
        Assert.Contains(p.Notes, n => n.StartsWith("One example", StringComparison.Ordinal));
    }

    [Fact]
    public void A_listing_is_explained_in_part_and_the_rest_is_grouped()
    {
        string[] basins = ["North", "South", "Fish dock"];
        var lines = Enumerable
            .Range(0, 900)
            .Select(i => $@"Q:\Share\{basins[i % 3]}\{1990 + i % 20}\{i:00000} vessel {(char)('a' + i % 26)}.tif")
            .ToList();
        lines.AddRange(Enumerable.Range(0, 60).Select(i => $@"Q:\Share\{basins[i % 3]}\misc\copy of {i}.tif"));
        lines.AddRange(Enumerable.Range(0, 40).Select(i => $@"Q:\Share\New folder\old\scan{i}.tif"));
        var p = Propose(Empty, [.. lines]);
        Assert.Equal("Share / ‹Class› / ‹Year› : ‹Number: 5 digits› ‹Kind›", Outline(p));
        Assert.Equal((1000, 900), (p.Paths, p.Explained));
        Assert.Equal([("T/T/T/T 9", 60), ("T/T/T/T9", 40)], p.Unexplained.Select(g => (g.Form, g.Count)));
    }

    [Theory]
    [InlineData("../../etc/passwd", "goes up")]
    [InlineData("A/./b", "goes up")]
    [InlineData("A/B/", "names a folder")]
    [InlineData("A/x\u202egpj.pdf", "refuses")]
    [InlineData("A/CON.pdf", "devices")]
    [InlineData("A/a?b.pdf", "refuses")]
    public void What_is_no_path_is_named_with_its_line(string line, string reason)
    {
        var p = Propose(Empty, "A/1.pdf", line, "A/2.pdf");
        Assert.Equal(2, p.Paths);
        var (number, text, why) = Assert.Single(p.Refused);
        Assert.Equal((2, line), (number, text));
        Assert.Contains(reason, why);
        Assert.Contains("Line 1", PathInference.Propose([line], Empty, Empty.Convention, Harbour.Vocabularies).Problem);
    }

    [Fact]
    public void Drives_shares_and_addresses_before_a_path_are_left_out()
    {
        var p = Propose(
            Empty,
            @"C:\Dues\1 a.pdf",
            @"\\server\share\Dues\2 b.pdf",
            "https://example.org/Dues/3%20c.pdf",
            "\"Dues/4 🚢.pdf\"",
            "Dues/5 שלום.pdf"
        );
        Assert.Equal(("Dues : ‹Number› ‹Title›", 5, 0), (Outline(p), p.Explained, p.Refused.Count));
        Assert.Single(Propose(Empty, "A/1", new string('x', 4_001)).Refused);
        Assert.Contains("Write or paste", PathInference.Propose(["", " "], Empty, Empty.Convention, Harbour.Vocabularies).Problem);
    }

    [Fact]
    public void Examples_without_a_common_structure_are_said_to_have_none()
    {
        var p = Propose(Empty, "a-1/Grey", "x (z)/14 b", "2020/_-_");
        Assert.Equal((3, 3), (p.Paths, p.Explained));
        Assert.Contains(p.Notes, n => n.StartsWith("These examples have no structure", StringComparison.Ordinal));
    }

    private static readonly Gen<string> Names =
        from pieces in Gen.NonEmptyListOf(
            Gen.Elements(
                "MH",
                "-",
                " ",
                "_",
                "(",
                ")",
                "42",
                "007",
                "2024",
                "Grey Heron",
                "quay",
                "Ö",
                "03 March",
                "2024-03-05",
                ".",
                "🚢",
                "a"
            )
        )
        let name = string.Concat(pieces.Take(7)).Trim(' ', '.')
        select GivenPath.Read(name, 1, PathLimits.FileShare).Path is null ? "x" : name;

    /// <summary>Whatever a handful of examples is, the convention proposed gives exactly them.</summary>
    [Property(MaxTest = 300)]
    public Property The_proposal_renders_its_examples() =>
        Prop.ForAll(
            Arb.From(
                from depth in Gen.Choose(1, 4)
                from paths in Gen.NonEmptyListOf(Gen.ArrayOf(Names, depth))
                select paths.Take(6).Select(p => string.Join('/', p)).Distinct().ToArray()
            ),
            lines =>
            {
                var p = Propose(Empty, lines);
                Assert.Empty(p.Refused);
                var known = Harbour.Vocabularies.ToDictionary(StringComparer.Ordinal);
                var type = new CompiledType(
                    Empty with
                    {
                        Fields = [.. p.Fields.Select(f => f.Field)],
                        Convention = p.Convention(Convention.Empty),
                    },
                    known
                );
                var reader = type.PathReader();
                foreach (var line in lines)
                {
                    var path = GivenPath.Read(line, 1, PathLimits.FileShare).Path!.Path;
                    var read = reader.Read(path, Harbour.Now);
                    Assert.True(read.Fits, $"{line} by {Outline(p)}");
                    Assert.Equal(
                        path,
                        type.Convention.Render(
                            type.Judge([.. type.Type.Fields.Select(f => read.Values.GetValueOrDefault(f.Key))], Harbour.Now).Values,
                            Harbour.Now,
                            read.Counter
                        ).Path
                    );
                }
            }
        );

    [Fact]
    public void Fifty_thousand_paths_are_looked_at_whole()
    {
        var lines = Enumerable
            .Range(0, 50_000)
            .Select(i =>
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"Calls/{1986 + i % 28}/{1 + i % 12:00}/MH-{1986 + i % 28}-{i:00000} Vessel "
                        + $"{(char)('A' + i % 26)}{(char)('a' + i % 20)}{(i % 50 == 0 ? " copy (2)" : "")}.pdf"
                )
            )
            .ToArray();
        var p = Propose(Empty, lines);
        Assert.Equal("Calls / ‹Date: 2024› / ‹Date: 03› : MH-‹Date: 2024›-‹Number: 5 digits› ‹Title›", Outline(p));
        Assert.Equal((50_000, 50_000), (p.Paths, p.Explained));
    }
}
