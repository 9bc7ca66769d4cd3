using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Migration;
using ClearLexicon.Core.Rules;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;

namespace ClearLexicon.Core.Tests;

/// <summary>Forms of pieces, what is left out, limits, and reading paths backwards.</summary>
public class PathTests
{
    private static readonly DocumentType Slip = DocumentType.Empty("slip", "Slip") with
    {
        Fields =
        [
            new TextField("number", "Number") { Required = true },
            new TextField("vessel", "Vessel"),
            new TextField("note", "Note"),
            new DateField("day", "Day"),
            new WholeNumberField("count", "Count"),
            new YesNoField("paid", "Paid"),
        ],
    };

    private static readonly CheckContext Now = new(new DateOnly(2024, 11, 5), EntryChannel.Desk, ["indexer"], "Ada Marsh", "Monday post")
    {
        Original = @"Q:\Old share\In\scan_0042-late.TIF",
        Pages = 3,
        NumberInBatch = 7,
    };

    private static CompiledType Compiled(Convention convention) =>
        new(Slip with { Convention = convention }, new Dictionary<string, Vocabularies.VocabularyIndex>());

    private static FieldValue[] Values(CompiledType type, params (string Key, string? Text)[] texts)
    {
        var values = new FieldValue[type.Width];
        type.Parse([.. Slip.Fields.Select(f => texts.FirstOrDefault(t => t.Key == f.Key).Text)], values, Now);
        return values;
    }

    private static Placement Place(Convention convention, params (string, string?)[] texts)
    {
        var type = Compiled(convention);
        return type.Convention.Render(Values(type, texts), Now);
    }

    private static string Name(Piece piece, string? vessel) =>
        Place(new Convention([], [piece]), ("vessel", vessel), ("day", "2024-03-05")).Name;

    [Fact]
    public void Pieces_have_forms()
    {
        var vessel = Piece.Of("vessel");
        Assert.Equal("G", Name(vessel with { Extract = Extract.FirstLetter }, "“Grey” Heron"));
        Assert.Equal("GHo2", Name(vessel with { Extract = Extract.Initials }, "Grey-Heron of 2"));
        Assert.Equal("Grey", Name(vessel with { MaxLength = 5 }, "Grey Heron"));
        Assert.Equal("Oresund Strasse", Name(vessel with { Ascii = true }, "Öresund Straße"));
        Assert.Equal("Zhemchug 2x3 -L", Name(vessel with { Ascii = true }, "Жемчуг 2×3 –Ł"));
        Assert.Equal("GREY_HERON", Name(vessel with { Blanks = "_", Case = LetterCase.Upper }, "Grey Heron"));
        Assert.Equal("GreyHeron", Name(vessel with { Blanks = "" }, "Grey Heron"));
        Assert.Equal("05 März 2024".Replace("05 ", ""), Name(Piece.Of("day") with { DateForm = "MMMM yyyy", Language = "de" }, null));
        Assert.Equal("03 mars", Name(Piece.Of("day") with { DateForm = "MM MMMM", Language = "fr" }, null));
        // A letter keeps its accent and a family stays together, or neither stands there.
        Assert.Equal("ab", Name(vessel with { MaxLength = 3 }, "abe\u0301"));
        Assert.Equal("a", Name(vessel with { MaxLength = 3 }, "a👨‍👩‍👧"));
    }

    [Theory]
    [InlineData(SystemValue.Today, 0, "2024-11-05")]
    [InlineData(SystemValue.Person, 0, "Ada Marsh")]
    [InlineData(SystemValue.Batch, 0, "Monday post")]
    [InlineData(SystemValue.NumberInBatch, 0, "007")]
    [InlineData(SystemValue.Pages, 0, "003")]
    [InlineData(SystemValue.OriginalName, 0, "scan_0042-late")]
    [InlineData(SystemValue.OriginalName, 2, "0042")]
    [InlineData(SystemValue.OriginalExtension, 0, "TIF")]
    [InlineData(SystemValue.OriginalFolder, 0, "In")]
    public void System_values_come_from_what_surrounds_the_document(SystemValue value, int part, string name) =>
        Assert.Equal(
            name,
            Name(Piece.Of(value) with { Part = part, Digits = value is SystemValue.NumberInBatch or SystemValue.Pages ? 3 : null }, null)
        );

    [Theory]
    [InlineData("n", "v", "c", "n - v (c)")]
    [InlineData("n", null, "c", "n (c)")]
    [InlineData("n", "v", null, "n - v")]
    [InlineData("n", null, null, "n")]
    [InlineData(null, "v", null, "v")]
    [InlineData(null, null, "c", "(c)")]
    public void What_is_left_out_takes_a_separator_along(string? number, string? vessel, string? note, string name)
    {
        var convention = new Convention(
            [],
            [Out("number"), Piece.Literal(" - "), Out("vessel"), Piece.Literal(" ("), Out("note"), Piece.Literal(")")]
        );
        Assert.Equal(name, Place(convention, ("number", number), ("vessel", vessel), ("note", note)).Name);
    }

    private static Piece Out(string field) => Piece.Of(field) with { LeaveOut = true };

    [Fact]
    public void A_folder_that_leaving_out_empties_is_no_folder()
    {
        var convention = new Convention([Piece.Literal("A"), Piece.Inside, Out("vessel"), Piece.Inside, Out("note")], [Piece.Of("number")]);
        Assert.Equal("A/v/x/n", Place(convention, ("number", "n"), ("vessel", "v"), ("note", "x")).Path);
        Assert.Equal("A/x/n", Place(convention, ("number", "n"), ("note", "x")).Path);
        Assert.Equal("A/n", Place(convention, ("number", "n")).Path);
        Assert.Equal("n", Place(convention with { Folder = [Out("vessel")] }, ("number", "n")).Path);
    }

    [Fact]
    public void A_piece_can_stand_under_a_condition()
    {
        Piece[] name =
        [
            Piece.Of("number"),
            Piece.Literal(" for") with
            {
                OnlyWhenFilled = "vessel",
            },
            Piece.Literal("!") with
            {
                OnlyForType = "other",
            },
            Piece.Literal("+") with
            {
                OnlyForType = "slip",
            },
        ];
        Assert.Equal("n for+", Place(new Convention([], name), ("number", "n"), ("vessel", "v")).Name);
        Assert.Equal("n+", Place(new Convention([], name), ("number", "n")).Name);
        var counter = new Convention(
            [],
            [Piece.Of("number"), Piece.Literal("_"), new Piece(PieceKind.Counter) { OnlyWhenTaken = true, Digits = 2 }]
        );
        var type = Compiled(counter);
        Assert.Equal("n", type.Convention.Render(Values(type, ("number", "n")), Now).Name);
        Assert.Equal("n_02", type.Convention.Render(Values(type, ("number", "n")), Now, 2).Name);
    }

    [Fact]
    public void Profiles_say_what_names_may_be()
    {
        var convention = new Convention([Piece.Of("vessel")], [Piece.Of("number")]);
        string Path(PathLimits limits, string vessel, string number = "Straße 1: ä.b") =>
            Place(convention with { Limits = limits }, ("vessel", vessel), ("number", number)).Path;
        Assert.Equal("Öre-sund/Straße 1- ä.b", Path(PathLimits.FileShare, "Öre?sund"));
        Assert.Equal("Öre?sund/Straße 1: ä.b", Path(PathLimits.Posix, "Öre?sund"));
        Assert.Equal("ORE_SUND/STRASSE_1__A_B", Path(PathLimits.Disc, "Öre?sund"));
        Assert.Equal("Ore-sund/Strasse-1--a.b", Path(PathLimits.Web, "Öre?sund"));
        Assert.Equal("Öresund/Straße 1 ä.b", Path(PathLimits.FileShare with { Substitute = "" }, "Öre?sund"));
        // Overrides of direction stand nowhere; letters from right to left and pictograms may.
        Assert.Equal("a-gpj/שלום-⚓-🚢", Path(PathLimits.Posix, "a\u202egpj", "שלום-⚓-🚢"));
        // A value with half a character is refused by its field, and no piece of a path is made of it.
        Assert.Equal("x", Path(PathLimits.Posix, "a\ud83db", "x"));
        Assert.Equal("CON/x", Path(PathLimits.Posix, "CON", "x"));
        Assert.Equal("é/x", Path(PathLimits.FileShare, "e\u0301", "x"));
        Assert.Equal("e\u0301/x", Path(PathLimits.FileShare with { Decomposed = true }, "é", "x"));
        var deep = new Convention(
            [.. Enumerable.Repeat<Piece[]>([Piece.Literal("A"), Piece.Inside], 8).SelectMany(p => p).SkipLast(1)],
            [Piece.Of("number")]
        )
        {
            Limits = PathLimits.Disc,
        };
        Assert.Equal("path-too-deep", Place(deep, ("number", "1")).Problem?.Code);
        Assert.All(PathLimits.All, l => Assert.Null(l.Contradiction()));
        Assert.Contains("8 to 255", (PathLimits.FileShare with { Segment = 3 }).Contradiction());
        Assert.Contains("take the place", (PathLimits.FileShare with { Substitute = "?" }).Contradiction());
    }

    [Fact]
    public void Only_the_pieces_that_may_be_are_shortened_and_not_below_their_least()
    {
        var convention = new Convention(
            [Piece.Of("vessel")],
            [Piece.Of("number"), Piece.Literal(" "), Piece.Of("note") with { ShortenTo = 20 }]
        );
        var place = Place(convention, ("number", "n"), ("vessel", "v"), ("note", new string('x', 300)));
        Assert.Equal((null, 116), (place.Problem, place.Name.Length));
        Assert.Equal(
            "path-segment-too-long",
            Place(convention, ("number", new string('n', 100)), ("vessel", "v"), ("note", new string('x', 300))).Problem?.Code
        );
        Assert.Equal(
            "path-segment-too-long",
            Place(convention, ("number", "n"), ("vessel", new string('v', 130)), ("note", "x")).Problem?.Code
        );
    }

    [Fact]
    public void Paths_are_read_back()
    {
        var type = Compiled(
            new Convention(
                [
                    Piece.Literal("Calls"),
                    Piece.Inside,
                    Piece.Of("day") with
                    {
                        DateForm = "yyyy",
                    },
                    Piece.Inside,
                    Piece.Of("day") with
                    {
                        DateForm = "MM MMMM",
                        Language = "de",
                    },
                ],
                [
                    Piece.Of("day") with
                    {
                        DateForm = "dd",
                    },
                    Piece.Literal(" "),
                    Piece.Of("number"),
                    Piece.Literal("_"),
                    Piece.Of("count") with
                    {
                        Digits = 4,
                    },
                    Piece.Literal("_"),
                    Out("note"),
                ]
            )
        );
        var reader = type.PathReader();
        var read = reader.Read("Calls/2024/03 März/05 MH-1_0042_late", Now);
        Assert.True(read.Fits);
        Assert.Equal(
            [("count", "42"), ("day", "2024-03-05"), ("note", "late"), ("number", "MH-1")],
            read.Values.OrderBy(v => v.Key).Select(v => (v.Key, v.Value))
        );
        Assert.Empty(read.Unsure);
        Assert.Equal(3, reader.Read("Calls/2024/03 März/05 MH-1_0042 (3)", Now).Counter);
        // Another month in the name than in the number, no such day, a level missing, another folder.
        foreach (
            var no in new[]
            {
                "Calls/2024/03 April/05 MH-1_0042_late",
                "Calls/2023/02 Februar/30 MH-1_0042",
                "Calls/2024/05 MH-1_0042",
                "Other/2024/03 März/05 MH-1_0042",
                "../etc/passwd",
                @"C:\Calls\2024",
                "",
                new string('x', 4000),
            }
        )
            Assert.False(reader.Read(no, Now).Fits, no);
    }

    [Fact]
    public void What_a_path_does_not_keep_is_listed_and_read_as_unsure()
    {
        var type = Slip with
        {
            Convention = new Convention(
                [Piece.Of("day") with { DateForm = "yyyy" }],
                [
                    Piece.Of("vessel") with
                    {
                        MaxLength = 4,
                    },
                    Piece.Literal("_"),
                    Piece.Of("number"),
                    Piece.Literal("_"),
                    Piece.Of("note") with
                    {
                        IfEmpty = "none",
                        Case = LetterCase.Upper,
                    },
                ]
            ),
        };
        Assert.Equal(
            [
                "day: Day: the month and the day cannot be read back",
                "vessel: Vessel: only the first 4 characters are kept",
                "note: Note: upper and lower case are not told apart",
                "note: Note: “none” is read as empty",
                "vessel: Vessel: a value that holds “_” cannot be told from what stands behind it",
                "number: Number: a value that holds “_” cannot be told from what stands behind it",
            ],
            ConventionLosses.Of(type.Convention, type).Select(l => $"{l.Field}: {l.Text}")
        );
        var read = new CompiledType(type, new Dictionary<string, Vocabularies.VocabularyIndex>())
            .PathReader()
            .Read("2024/Grey_MH-1_NONE", Now);
        Assert.True(read.Fits);
        Assert.Equal(["day", "vessel"], read.Unsure.Order());
        Assert.False(read.Values.ContainsKey("note"));
    }

    // Whatever stands in the fields and whatever the pieces are, in every profile.
    private static readonly Gen<string?> Texts = Gen.OneOf(
        ArbMap.Default.ArbFor<string?>().Generator,
        Gen.Elements(
            "a",
            "CON",
            "..",
            " x. ",
            "grey heron",
            "שלום",
            "🚢⚓",
            "e\u0301",
            "\u0301",
            "a/b\\c",
            "x\u202ey",
            "\ud83d",
            "1_2 - (3)",
            new('y', 400),
            new('é', 200),
            null
        )
    );

    private static readonly Gen<Piece> Pieces =
        from kind in Gen.Choose(0, 9)
        from field in Gen.Elements("number", "vessel", "note", "day", "count", "paid")
        from text in Gen.Elements(" ", "-", "_", " (", ")", "MH", ". ", "ß:")
        from number in Gen.Elements<int?>(null, 2, 5, 40)
        from form in Gen.Elements(DateForms.All.Select(f => f.Form).ToArray())
        from letters in Gen.Elements(LetterCase.AsIs, LetterCase.Upper, LetterCase.Lower)
        from extract in Gen.Elements(Extract.Whole, Extract.Whole, Extract.Initials, Extract.FirstLetter)
        from flags in Gen.Choose(0, 63)
        let given = new Piece(
            kind < 6 ? PieceKind.Field
            : kind < 9 ? PieceKind.Text
            : PieceKind.System
        )
        {
            Field = field,
            Text = text,
            System = SystemValue.Person,
            DateForm = form,
            Digits = number,
        }
        select (flags & 1) == 0
            ? given with
            {
                Field = given.Field,
            }
            : given with
            {
                Case = letters,
                Extract = extract,
                LeaveOut = (flags & 2) > 0,
                IfEmpty = (flags & 4) > 0 ? "none" : null,
                MaxLength = (flags & 8) > 0 ? number : null,
                Ascii = (flags & 16) > 0,
                Blanks = (flags & 32) > 0 ? "_" : null,
                ShortenTo = number,
                OnlyWhenFilled = flags == 33 ? "note" : null,
            };

    // Nothing that loses, and a piece that tells the whole date.
    private static readonly Gen<Piece> Keeping = Pieces.Select(p =>
        p with
        {
            Case = LetterCase.AsIs,
            Extract = Extract.Whole,
            Ascii = false,
            Blanks = null,
            MaxLength = null,
            ShortenTo = null,
            OnlyWhenFilled = null,
            DateForm = p.Field == "day" ? "yyyyMMdd" : null,
            Digits = p.Field == "count" ? p.Digits : null,
        }
    );

    private static readonly Gen<string?> Plain = Gen.Elements(
        "a",
        "grey heron",
        "MH-1",
        "שלום",
        "🚢",
        "1_2 - (3)",
        "none",
        "2024",
        "x y z",
        null
    );

    private static Gen<(Convention Convention, string?[] Texts, int Counter)> Cases(Gen<Piece> pieces, Gen<string?> given) =>
        from folder in Gen.ListOf(pieces)
        from name in Gen.NonEmptyListOf(pieces)
        from texts in Gen.ArrayOf(given, Slip.Fields.Count)
        from day in Gen.Choose(0, 40_000)
        from count in Gen.Choose(0, 99_999)
        from limits in Gen.Elements(PathLimits.All.ToArray())
        from counter in Gen.Choose(1, 12)
        from collision in Gen.Elements(Collision.Number, Collision.Version)
        let folders = folder.Take(6).SelectMany((p, i) => i % 2 == 1 ? new[] { p, Piece.Inside } : [p]).ToList()
        select (
            new Convention(folders, [.. name.Take(8)]) { Limits = limits, Collision = collision },
            (string?[])
                [
                    texts[0],
                    texts[1],
                    texts[2],
                    texts[3] is null ? null : new DateOnly(1950, 1, 1).AddDays(day).ToString("yyyy-MM-dd"),
                    $"{count}",
                    texts[5] is null ? null : "yes",
                ],
            counter
        );

    [Property(MaxTest = 2_000)]
    public Property Rendered_paths_stay_within_the_limits_of_their_profile() =>
        Prop.ForAll(
            Arb.From(Cases(Pieces, Texts)),
            c =>
            {
                var type = Compiled(c.Convention);
                var values = new FieldValue[type.Width];
                type.Parse(c.Texts, values, Now);
                var place = type.Convention.Render(values, Now, c.Counter);
                if (place.Problem is not null)
                    return;
                var limits = c.Convention.Limits!;
                Assert.True(limits.LengthOf(place.Path) + 4 <= limits.Whole);
                Assert.True(limits.Depth == 0 || place.Path.Count(ch => ch == '/') <= limits.Depth);
                foreach (var segment in place.Path.Split('/'))
                {
                    Assert.InRange(limits.LengthOf(segment), 1, limits.Segment);
                    Assert.DoesNotContain(segment, limits.Refuses);
                    Assert.True(segment.IsNormalized());
                    Assert.False(limits.NoDeviceNames && PathLimits.IsDevice(segment));
                    Assert.False(segment[^1] is ' ' or '.');
                }
                Assert.StartsWith(
                    "/root/",
                    System.IO.Path.GetFullPath(System.IO.Path.Combine("/root", place.Path)) + "/",
                    StringComparison.Ordinal
                );
                // The disk under the repository keeps it too.
                Assert.All(place.Path.Split('/'), s => Assert.InRange(System.Text.Encoding.UTF8.GetByteCount(s), 1, 255));
            }
        );

    private static int _survived;

    [Fact]
    public void Path_to_values_to_path_is_the_identity()
    {
        FsCheck.Check.One(
            Config.QuickThrowOnFailure.WithMaxTest(4_000).WithReplay(2024, 11),
            Prop.ForAll(Arb.From(Cases(Keeping, Plain)), Identity)
        );
        Assert.InRange(_survived, 100, 4_000);
    }

    private static void Identity((Convention Convention, string?[] Texts, int Counter) c)
    {
        var type = Compiled(c.Convention);
        var values = new FieldValue[type.Width];
        type.Parse(c.Texts, values, Now);
        var place = type.Convention.Render(values, Now, c.Counter);
        // What the forms change does not survive; such a record promises nothing.
        if (place.Problem is not null || !Survives(c.Convention, c.Texts))
            return;
        var read = type.PathReader().Read(place.Path, Now);
        Assert.True(
            read.Fits,
            $"{place.Path} by {Designs.DesignDifference.Outline(c.Convention.Folder, Slip)} : "
                + $"{Designs.DesignDifference.Outline(c.Convention.Name, Slip)}"
        );
        var again = new FieldValue[type.Width];
        type.Parse([.. Slip.Fields.Select(f => read.Values.GetValueOrDefault(f.Key))], again, Now);
        Assert.Equal(place.Path, type.Convention.Render(again, Now, read.Counter).Path);
        Interlocked.Increment(ref _survived);
    }

    /// <summary>Whatever the convention, its counter and what happens to taken names: no two rows of a run get one path.</summary>
    [Property(MaxTest = 300)]
    public Property No_two_rows_of_a_run_get_one_path() =>
        Prop.ForAll(
            Arb.From(
                from c in Cases(Pieces, Gen.Elements("a", "A", "b", "e\u0301", "É", null))
                from rows in Gen.ListOf(Gen.ArrayOf(Gen.Elements("a", "A", "é", "E\u0301", ""), 3))
                from scope in Gen.Elements(CounterScope.Name, CounterScope.Folder, CounterScope.Everywhere)
                from counts in Gen.Choose(0, 2)
                select (
                    Convention: c.Convention with
                    {
                        Name =
                            counts == 0
                                ? c.Convention.Name
                                : [.. c.Convention.Name, new Piece(PieceKind.Counter) { Scope = scope, OnlyWhenTaken = counts == 2 }],
                    },
                    Rows: rows
                )
            ),
            c =>
            {
                var plan = new CompiledPlan(
                    new MigrationPlan("slip", [new("N", "number", []), new("V", "vessel", []), new("T", "note", [])], []),
                    Compiled(c.Convention),
                    ["N", "V", "T"]
                );
                var judge = new RowJudge(plan, new TakenNames(), Now);
                var paths = new HashSet<string>(StringComparer.Ordinal);
                var number = 0;
                foreach (var row in c.Rows)
                    if (judge.Judge(row, ++number, "x.tif") != RowVerdict.Held)
                        Assert.True(paths.Add(judge.Placement.Path.Normalize().ToLowerInvariant()), judge.Placement.Path);
            }
        );

    private static bool Survives(Convention convention, string?[] texts) =>
        convention.Pieces.Count(p => p.LeaveOut || p.OnlyWhenFilled is not null) <= 6
        && ConventionLosses.Of(convention, Slip).All(l => l.Text.EndsWith("is read as empty", StringComparison.Ordinal))
        && texts.All(t => t is null || convention.Limits!.Clean(t) == t);
}
