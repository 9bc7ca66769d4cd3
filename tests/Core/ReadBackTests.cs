using System.Globalization;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Conventions.Inference;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.TestSupport;

namespace ClearLexicon.Core.Tests;

/// <summary>What a path is said to give back is what went into it: values are made here, rendered, read, and compared with what was
/// made.</summary>
public class ReadBackTests
{
    private static readonly CheckContext Now = new(new DateOnly(2024, 6, 1), EntryChannel.Desk);

    private static DocumentType Of(Convention convention) =>
        DocumentType.Empty("t", "T") with
        {
            Fields =
            [
                new DateField("day", "Day"),
                new TextField("title", "Title"),
                new TextField("code", "Code"),
                new WholeNumberField("qty", "Quantity"),
            ],
            Convention = convention,
        };

    public static TheoryData<string> Lines =>
        [
            "day: :title: - :code: - :qty",
            "title:_:code",
            "code:-:title",
            "title: (:qty:)",
            "title: (:qty:) :#",
            "day:/:title:/:qty: :code",
            "qty:.:title:.:code",
        ];

    // “field:literal:field”, “/” for a folder, “#” for a counter that stands only when the name is taken.
    private static Convention Parse(string line)
    {
        var pieces = line.Split(':')
            .Select(p =>
                p is "day" or "title" or "code" or "qty" ? Piece.Of(p)
                : p == "#" ? new Piece(PieceKind.Counter) { OnlyWhenTaken = true }
                : p == "/" ? new Piece(PieceKind.Inside)
                : Piece.Literal(p)
            )
            .ToList();
        var last = pieces.FindLastIndex(p => p.Kind == PieceKind.Inside);
        return new Convention(pieces[..Math.Max(0, last)], pieces[(last + 1)..]);
    }

    [Theory]
    [MemberData(nameof(Lines))]
    public void No_value_comes_back_as_another_one_and_nothing_of_a_name_vanishes(string line)
    {
        var type = new CompiledType(Of(Parse(line)), new Dictionary<string, VocabularyIndex>());
        var reader = type.PathReader();
        var random = new Random(7);
        string[] words = ["Grey", "Heron", "A", "5", "-", "_", ".", " - ", "(2)", "(", ")", "%", "late", "12", "2024-03-05", "Größe", "v2"];
        var (compared, sure, unread) = (0, 0, 0);
        for (var i = 0; i < 5_000 * Larger.By; i++)
        {
            string Text() =>
                string.Join(
                        random.Next(3) == 0 ? "" : " ",
                        Enumerable.Range(0, random.Next(1, 4)).Select(_ => words[random.Next(words.Length)])
                    )
                    .Trim(' ', '.');
            var (title, code) = (Text(), Text());
            if (title.Length == 0 || code.Length == 0)
                continue;
            var record = new Dictionary<string, string>
            {
                ["day"] = new DateOnly(2024, 1, 1).AddDays(random.Next(700)).ToString("O", CultureInfo.InvariantCulture),
                ["title"] = title,
                ["code"] = code,
                ["qty"] = $"{random.Next(2_000)}",
            };
            var values = type.Judge([.. type.Type.Fields.Select(f => record[f.Key])], Now).Values;
            var place = type.Convention.Render(values, Now);
            if (place.Problem is not null)
                continue;
            // What stands behind the last value does not vanish.
            if (line.Contains(":)", StringComparison.Ordinal))
                Assert.EndsWith($"({record["qty"]})", place.Name);
            compared++;
            var read = reader.Read(place.Path, Now);
            if (!read.Fits)
            {
                unread++;
                continue;
            }
            foreach (var (key, value) in read.Values.Where(v => !read.Unsure.Contains(v.Key)))
            {
                // Runs of blanks are one in a name.
                sure++;
                Assert.True(
                    value == record[key] || value == type.Convention.Limits.Clean(record[key]),
                    $"{line}: {place.Path}: {key} is “{record[key]}”, read as “{value}”"
                );
            }
        }
        Assert.True(compared > 4_000 && sure > compared && unread < compared / 20, $"{compared} compared, {sure} sure, {unread} not read");
    }

    /// <summary>Listings of many habits: for each field, what is promised to be read back is read back, and stands in the path.</summary>
    [Theory]
    [InlineData("Staff/{L}/{S}/{S} {y}.pdf")]
    [InlineData("Letters/{y}/{m}/{n4} {S}.pdf")]
    [InlineData("{y}-{m}/{S} {n3}.pdf")]
    [InlineData("Notes/{d}. {MMMM-de} {y} {S}.pdf")]
    [InlineData("Notes/{m}-{d}-{y} {S}.pdf")]
    [InlineData("Notes/{d}-{m}-{y} {S}.pdf")]
    [InlineData("Bau/{S-nfd}/{n5}.pdf")]
    [InlineData("{y}{m}{d}_{n2}_{S}.tif")]
    [InlineData("Box {n3}/{S} - {n4}.pdf")]
    public void A_proposal_gives_back_what_it_says_it_gives_back(string form)
    {
        var random = new Random(3);
        string[] names = ["Brown", "Smith", "Ångström", "Müller", "Díaz", "Okoro", "Winter", "Hale"];
        var lines = new List<string>();
        for (var i = 0; i < 120 * Larger.By; i++)
        {
            var day = new DateOnly(1998, 1, 1).AddDays(random.Next(6_000));
            var name = names[random.Next(names.Length)];
            lines.Add(
                form.Replace("{L}", name[..1])
                    .Replace("{S-nfd}", name.Normalize(System.Text.NormalizationForm.FormD))
                    .Replace("{S}", name)
                    .Replace("{y}", $"{day.Year}")
                    .Replace("{m}", $"{day.Month:00}")
                    .Replace("{d}", $"{day.Day:00}")
                    .Replace("{MMMM-de}", CultureInfo.GetCultureInfo("de").DateTimeFormat.GetMonthName(day.Month))
                    .Replace("{n2}", $"{i % 90 + 10}")
                    .Replace("{n3}", $"{i + 100}")
                    .Replace("{n4}", $"{i + 1000}")
                    .Replace("{n5}", $"{i + 10000}")
            );
        }
        var type = DocumentType.Empty("t", "T");
        var (p, problem) = PathInference.Propose(lines, type, Convention.Empty, new Dictionary<string, VocabularyIndex>());
        Assert.Null(problem);
        Assert.Empty(p!.Refused);
        Assert.Equal(p.Paths, p.Explained);
        // As a path pass reads them afterwards, with the fields that were made.
        var known = p
            .Fields.Where(f => f.NewTerms.Count > 0)
            .ToDictionary(
                f => f.Field.Vocabulary!,
                f => new VocabularyIndex(
                    new Vocabulary(f.Field.Vocabulary!, "V", [.. f.NewTerms.Select(t => new Term(t, []) { Id = t })])
                    {
                        Growth = Growth.WithReview,
                    }
                )
            );
        var compiled = new CompiledType(
            type with
            {
                Fields = [.. p.Fields.Select(f => f.Field)],
                Convention = p.Convention(Convention.Empty),
            },
            known
        );
        var reader = compiled.PathReader();
        var back = 0;
        foreach (var line in lines)
        {
            var path = line.Normalize(System.Text.NormalizationForm.FormC)[
                ..line.Normalize(System.Text.NormalizationForm.FormC).LastIndexOf('.')
            ];
            var read = reader.Read(path, Now);
            Assert.True(read.Fits, path);
            foreach (var field in p.Fields.Select(f => f.Field))
            {
                var given = read.Values.GetValueOrDefault(field.Key);
                var promised = p.NotReadBack.All(l => l.Label != field.Label);
                Assert.True(!promised || given is not null && !read.Unsure.Contains(field.Key), $"{path}: {field.Label} was promised");
                if (given is null || read.Unsure.Contains(field.Key))
                    continue;
                back++;
                if (field.Kind.Measure == Measure.Day)
                    Assert.All(
                        given.Split('-'),
                        part =>
                            Assert.True(
                                path.Contains(part, StringComparison.Ordinal)
                                    || path.Contains(
                                        CultureInfo
                                            .GetCultureInfo("de")
                                            .DateTimeFormat.GetMonthName(DateOnly.Parse(given, CultureInfo.InvariantCulture).Month),
                                        StringComparison.Ordinal
                                    ),
                                $"{path}: {given}"
                            )
                    );
                else
                    Assert.True(path.Contains(given, StringComparison.Ordinal), $"{path}: {given}");
            }
        }
        Assert.True(back >= lines.Count, $"{back} values came back");
    }
}
