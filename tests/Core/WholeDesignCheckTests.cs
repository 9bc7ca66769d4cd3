using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

/// <summary>Each finding about a design is found where it is, and a sound design stays silent.</summary>
public class WholeDesignCheckTests
{
    private static readonly Dictionary<string, VocabularyIndex> Vocabularies = new()
    {
        ["berths"] = new(
            new Vocabulary(
                "berths",
                "Berths",
                [
                    new("Quay", [], "q") { Id = "quay" },
                    new("Berth 1", ["One"], "b1") { Id = "b1", Broader = ["quay"] },
                    new("Pier", [], "p") { Id = "pier" },
                    new("Mole", [], "m", TermStatus.Retired) { Id = "mole" },
                    new("Mole end", [], "me", TermStatus.Retired) { Id = "mole-end", Broader = ["mole"] },
                ]
            )
        ),
        ["flawed"] = new(
            new Vocabulary("flawed", "Flawed", [new("Alpha", [], null) { Id = "a" }, new("Beta", ["Alpha"], null) { Id = "b" }])
        ),
    };

    // Sound: every field is searched, every rule shows what it refuses.
    private static readonly DocumentType Sound = DocumentType.Empty("slip", "Slip") with
    {
        Fields =
        [
            new TextField("number", "Number") { Required = true, MaxLength = 20 },
            new DateField("first", "First") { Required = true },
            new DateField("last", "Last"),
            new WholeNumberField("count", "Count") { Min = "1", Max = "100" },
            new TermField("berth", "Berth") { Vocabulary = "berths" },
            new TextField("note", "Note"),
        ],
        Rules =
        [
            Rule("r1", "compare", ("first", "first"), ("how", "at-most"), ("second", "last")) with
            {
                Examples = [Refused(("first", "2024-02-02"), ("last", "2024-01-01"))],
            },
        ],
        Convention = new([Piece.Literal("Slips")], [Piece.Of("number")]),
    };

    private static Rule Rule(string id, string kind, params (string, string)[] parameters) =>
        new(id, kind, Level.Must, parameters.ToDictionary(p => p.Item1, p => p.Item2));

    private static RuleExample Refused(params (string, string)[] record) => new(false, record.ToDictionary(p => p.Item1, p => p.Item2));

    private static DesignSurroundings Around =>
        new(Vocabularies, RuleScope.NoTables, _ => null, new CheckContext(new DateOnly(2024, 6, 1), EntryChannel.Desk))
        {
            Languages = ["en"],
            Types = ["slip", "child"],
        };

    private static Finding[] Of(DocumentType type, DesignSurroundings? around = null) => [.. DesignCheck.Findings(type, around ?? Around)];

    private static string[] Codes(DocumentType type, DesignSurroundings? around = null) => [.. Of(type, around).Select(f => f.Code)];

    private static DocumentType With(params Rule[] rules) =>
        Sound with
        {
            Rules = [.. Sound.Rules, .. rules.Select(r => r.Examples.Count > 0 || r.Kind == "unique" ? r : r with { Examples = [] })],
        };

    private static DocumentType Field(string key, Func<Field, Field> change) =>
        Sound with
        {
            Fields = [.. Sound.Fields.Select(f => f.Key == key ? change(f) : f)],
        };

    [Fact]
    public void A_sound_design_has_no_findings() => Assert.Empty(Of(Sound));

    // Every finding names a place of the type and says what follows.
    private static void Finds(string code, string place, DocumentType type, DesignSurroundings? around = null)
    {
        var found = Of(type, around).Where(f => f.Code == code).ToList();
        Assert.True(found.Count > 0, $"{code} was not found, but {string.Join(", ", Codes(type, around))}");
        Assert.Equal(place, found[0].Place);
        Assert.NotEmpty(found[0].Consequence);
    }

    [Fact]
    public void A_must_field_that_nothing_can_fill()
    {
        Finds(
            "must-unfillable",
            "note",
            With(Rule("r2", "filled", ("fields", "note"), ("how", "none"))) with
            {
                Fields = Field("note", f => f with { Required = true }).Fields,
            }
        );
        Finds("must-unfillable", "berth", Field("berth", f => (VocabularyField)f with { Required = true, Branch = "mole" }));
        Assert.DoesNotContain("must-unfillable", Codes(Field("berth", f => (VocabularyField)f with { Required = true, Branch = "quay" })));
        Assert.DoesNotContain("must-unfillable", Codes(With(Rule("r2", "filled", ("fields", "note"), ("how", "none")))));
    }

    [Fact]
    public void A_must_field_that_only_hands_fill()
    {
        var reader = new Reader("r", "R", "slip", [new Clue("Slip", default)], [], [new CrosswalkLine("z", "number", [])]);
        var around = Around with { Readers = [reader] };
        Finds("must-by-hand", "first", Sound, around);
        Assert.DoesNotContain("must-by-hand", Codes(Field("first", f => f with { DefaultFrom = DefaultSource.Today }), around));
        Assert.DoesNotContain("must-by-hand", Codes(Sound));
    }

    [Fact]
    public void A_field_used_nowhere()
    {
        Field Unused(Field f) => f with { NotSearched = true, NotInResults = true };
        Finds("field-unused", "note", Field("note", Unused));
        Assert.DoesNotContain("field-unused", Codes(Field("last", Unused)));
        Assert.DoesNotContain("field-unused", Codes(Field("number", Unused)));
        Assert.DoesNotContain("field-unused", Codes(Field("note", f => Unused(f) with { Standard = "description" })));
    }

    [Fact]
    public void A_branch_without_terms_and_a_term_that_rules_refuse()
    {
        Finds("branch-empty", "berth", Field("berth", f => (VocabularyField)f with { Branch = "mole" }));
        Finds("branch-empty", "berth", Field("berth", f => (VocabularyField)f with { OnlyLevel = 7 }));
        Assert.DoesNotContain("branch-empty", Codes(Field("berth", f => (VocabularyField)f with { Branch = "quay" })));
        var within = Rule("r2", "term-in", ("field", "berth"), ("branch", "quay")) with { Examples = [Refused(("berth", "Pier"))] };
        Finds("term-refused", "r2", With(within));
        Assert.DoesNotContain(
            "term-refused",
            Codes(With(within) with { Fields = Field("berth", f => (VocabularyField)f with { Branch = "quay" }).Fields })
        );
    }

    [Theory]
    [InlineData("number-within", "field=count;least=200;most=300", "r2", "Count is at most 100")]
    [InlineData("length", "field=number;least=30;most=", "r2", "Number has at most 20 characters")]
    [InlineData("matches", "field=number;pattern=[A-Z]{30}", "r2", "matches [A-Z]{30}")]
    [InlineData("compare", "first=last;how=below;second=first", "r2", "First ≤ Last")]
    [InlineData("compare", "first=first;how=at-least;second=last;shift=days;by=3", "r2", "Last")]
    [InlineData("date-within", "field=first;earliest=2031-01-01;latest=", null, null)]
    public void What_can_never_hold_together_across_rules(string kind, string parameters, string? place, string? says)
    {
        var rule = Rule("r2", kind, [.. parameters.Split(';').Select(p => p.Split('=', 2)).Select(p => (p[0], p[1]))]);
        if (place is null)
        {
            Assert.DoesNotContain("never-together", Codes(With(rule)));
            return;
        }
        Finds("never-together", place, With(rule));
        Assert.Contains(says!, Of(With(rule)).First(f => f.Code == "never-together").Text);
        // Under a condition it may hold for others.
        Assert.DoesNotContain("never-together", Codes(With(rule with { When = Condition.When("note", Operator.IsFilled) })));
        Assert.DoesNotContain("never-together", Codes(With(rule with { Level = Level.Should })));
    }

    [Fact]
    public void Three_rules_contradict_each_other_round_a_circle()
    {
        var type = With(
            Rule("r2", "date-today", ("field", "first"), ("how", "future")),
            Rule("r3", "date-within", ("field", "last"), ("earliest", ""), ("latest", "2024-05-31"))
        );
        Finds("never-together", "r3", type);
        Assert.Contains("First ≤ Last", Of(type).First(f => f.Code == "never-together").Text);
    }

    [Theory]
    [InlineData("berth", Operator.Is, "Quay", "berth", Operator.Is, "Berth 1")]
    [InlineData("note", Operator.IsEmpty, "", "note", Operator.BeginsWith, "x")]
    [InlineData("count", Operator.Above, "50", "count", Operator.Below, "20")]
    [InlineData("count", Operator.Above, "500", "note", Operator.IsFilled, "")]
    [InlineData("number", Operator.IsEmpty, "", "note", Operator.IsFilled, "")]
    [InlineData("@type", Operator.Is, "gone", "note", Operator.IsFilled, "")]
    public void A_condition_that_never_holds(string a, Operator how, string x, string b, Operator then, string y)
    {
        var both = new Condition(Joined.All, [new Comparison(a, how, x), new Comparison(b, then, y)]);
        Finds("condition-never", "r1", Sound with { Rules = [Sound.Rules[0] with { When = both, Examples = [] }] });
        Finds("condition-never", "note", Field("note", f => f with { RequiredWhen = both }));
        Assert.DoesNotContain(
            "condition-never",
            Codes(
                Field(
                    "note",
                    f =>
                        f with
                        {
                            RequiredWhen = new Condition(Joined.Any, [new Comparison("count", Operator.AtMost, "20"), .. both.Comparisons]),
                        }
                )
            )
        );
    }

    [Fact]
    public void Conditions_that_can_hold_stay_silent()
    {
        foreach (
            var when in new[]
            {
                Condition.When("count", Operator.AtLeast, "100"),
                Condition.When("@type", Operator.Is, "child"),
                new Condition(Joined.All, [new("count", Operator.AtLeast, "5"), new("count", Operator.AtMost, "5")]),
                Condition.When("note", Operator.IsEmpty),
            }
        )
            Assert.DoesNotContain("condition-never", Codes(Field("last", f => f with { RequiredWhen = when })));
    }

    [Fact]
    public void Rules_that_say_the_same_or_show_nothing_or_lack_a_language()
    {
        Finds("rules-same", "r2", With(Sound.Rules[0] with { Id = "r2" }));
        Finds("rules-same", "r2", With(Rule("r2", "filled", ("fields", "number"), ("how", "all"))));
        Assert.DoesNotContain(
            "rules-same",
            Codes(With(Sound.Rules[0] with { Id = "r2", When = Condition.When("note", Operator.IsFilled) }))
        );
        Finds(
            "rule-no-failing-example",
            "r1",
            Sound with
            {
                Rules =
                [
                    Sound.Rules[0] with
                    {
                        Examples = [new RuleExample(true, new Dictionary<string, string> { ["first"] = "2024-01-01" })],
                    },
                ],
            }
        );
        Finds("unique-optional", "r2", With(Rule("r2", "unique", ("fields", "number,note"))));
        Assert.Empty(Of(With(Rule("r2", "unique", ("fields", "number,first")))));
        var said = Sound with { Rules = [Sound.Rules[0] with { Message = "First comes first." }] };
        Finds("message-language", "r1", said, Around with { Languages = ["en", "de"] });
        Assert.DoesNotContain("message-language", Codes(said));
        Assert.DoesNotContain("message-language", Codes(Sound, Around with { Languages = ["en", "de"] }));
    }

    [Fact]
    public void A_variant_that_is_another_term()
    {
        Finds("vocabulary-fault", "vocabulary flawed", Field("berth", f => (VocabularyField)f with { Vocabulary = "flawed" }));
        Assert.DoesNotContain("vocabulary-fault", Codes(Sound));
    }

    [Fact]
    public void Two_types_that_can_give_one_path_and_two_readers_that_claim_one_page()
    {
        CompiledType Other(Convention convention) =>
            new(Sound with { Code = "other", Name = "Other", Convention = convention }, Vocabularies);
        Finds("convention-clash", "name", Sound, Around with { Published = [Other(new([Piece.Literal("Slips")], [Piece.Of("note")]))] });
        Assert.Empty(
            Of(
                Sound,
                Around with
                {
                    Published = [Other(new([Piece.Literal("Other")], [Piece.Of("number")])), new CompiledType(Sound, Vocabularies)],
                }
            )
        );
        Reader Claims(string key, params string[] clues) =>
            new(
                key,
                key,
                "slip",
                [.. clues.Select(c => new Clue(c, default))],
                [],
                [.. Sound.Fields.Select(f => new CrosswalkLine("z", f.Key, []))]
            );
        Finds("readers-overlap", "reader a", Sound, Around with { Readers = [Claims("a", "Slip"), Claims("b", "SLIP", "Tide")] });
        Assert.Empty(Of(Sound, Around with { Readers = [Claims("a", "Slip", "Neap"), Claims("b", "Slip", "Tide")] }));
    }

    [Fact]
    public void The_codes_from_before_go_on()
    {
        Assert.Contains("convention-hole", Codes(Sound with { Convention = new([], [Piece.Of("note")]) }));
        Assert.DoesNotContain(
            "convention-hole",
            Codes(Sound with { Convention = new([], [Piece.Of("number"), Piece.Of("note") with { LeaveOut = true }]) })
        );
        Assert.Contains("convention-restricted", Codes(Field("number", f => f with { Restricted = true })));
        Assert.Contains("field-default", Codes(Field("count", f => f with { Default = "500" })));
        Assert.Contains("field-example", Codes(Field("count", f => f with { Example = "500" })));
        Assert.Contains(
            "convention-limits",
            Codes(Sound with { Convention = Sound.Convention with { Limits = PathLimits.FileShare with { Segment = 2 } } })
        );
    }

    [Fact]
    public void Sixty_fields_and_eighty_rules_are_looked_at_at_once()
    {
        var large = DocumentType.Empty("large", "Large") with
        {
            Fields = [.. Enumerable.Range(0, 60).Select(i => (i % 3 == 0 ? FieldKind.Date : FieldKind.WholeNumber).New($"f{i}", $"F {i}"))],
            Rules =
            [
                .. Enumerable
                    .Range(0, 80)
                    .Select(i =>
                        Rule(
                            $"r{i}",
                            "compare",
                            ("first", $"f{i * 3 % 60}"),
                            ("how", "at-most"),
                            ("second", $"f{(i * 3 + 3) % 60}"),
                            ("shift", "days"),
                            ("by", $"{1 + i}")
                        )
                    ),
            ],
            Convention = new([], [Piece.Of("f1") with { IfEmpty = "none" }]),
        };
        Assert.DoesNotContain("never-together", Codes(large));
        Finds(
            "never-together",
            "r79",
            large with
            {
                Rules =
                [
                    .. large.Rules.Select(
                        (r, i) =>
                            i < 79
                                ? r
                                : Rule(
                                    "r79",
                                    "compare",
                                    ("first", "f0"),
                                    ("how", "at-least"),
                                    ("second", "f3"),
                                    ("shift", "days"),
                                    ("by", "900")
                                )
                    ),
                ],
            }
        );
    }

    /// <summary>
    /// Against every assignment of a small domain: a set of ranges and comparisons is reported exactly when no record satisfies it, and
    /// what is named cannot hold by itself either.
    /// </summary>
    [Fact]
    public void What_can_never_hold_is_found_exactly_when_no_record_holds()
    {
        string[] hows = ["at-most", "below", "equal", "at-least", "above"];
        var (reported, sound) = (0, 0);
        for (var seed = 0; seed < 400; seed++)
        {
            var random = new Random(seed);
            var type = DocumentType.Empty("t", "T") with
            {
                Fields =
                [
                    .. new[] { "a", "b", "c" }
                        .Select(k => (Least: random.Next(4), Key: k))
                        .Select(f => new WholeNumberField(f.Key, f.Key.ToUpperInvariant())
                        {
                            Required = true,
                            Min = $"{f.Least}",
                            Max = $"{f.Least + random.Next(3)}",
                        }),
                ],
                Rules =
                [
                    .. Enumerable
                        .Range(0, random.Next(1, 5))
                        .Select(i =>
                            random.Next(4) == 0
                                ? Rule(
                                    $"r{i}",
                                    "number-within",
                                    ("field", $"{"abc"[random.Next(3)]}"),
                                    ("least", $"{random.Next(4)}"),
                                    ("most", $"{3 + random.Next(3)}")
                                )
                                : Rule(
                                    $"r{i}",
                                    "compare",
                                    ("first", $"{"abc"[random.Next(3)]}"),
                                    ("how", hows[random.Next(5)]),
                                    ("second", $"{"abc"[random.Next(3)]}"),
                                    ("shift", "plus"),
                                    ("by", $"{random.Next(-2, 3)}")
                                )
                        ),
                ],
                Convention = new([], [Piece.Of("a")]),
            };
            var finding = Of(type).FirstOrDefault(f => f.Code == "never-together");
            Assert.True(
                Satisfiable(type) == (finding is null),
                $"seed {seed}: {finding?.Text ?? "nothing found"}; "
                    + $"{string.Join("; ", type.Rules.Select(r => RuleKinds.Sentence(r, type)))}; "
                    + $"{string.Join("; ", type.Fields.OfType<RangedField>().Select(f => $"{f.Label} {f.Min}–{f.Max}"))}"
            );
            if (finding is null)
            {
                sound++;
                continue;
            }
            reported++;
            // The rules that are named are enough for it, with the ranges of the fields.
            var named = type.Rules.Where(r => finding.Text.Contains(RuleKinds.Sentence(r, type), StringComparison.Ordinal)).ToList();
            Assert.Contains(named, r => r.Id == finding.Place);
            Assert.False(Satisfiable(type with { Rules = named }), $"seed {seed}: {finding.Text}");
        }
        Assert.True(reported > 60 && sound > 60, $"{reported} reported, {sound} sound");
    }

    private static bool Satisfiable(DocumentType type)
    {
        var compiled = new CompiledType(type, Vocabularies);
        return Enumerable.Range(0, 343).Any(n => compiled.Judge([$"{n % 7}", $"{n / 7 % 7}", $"{n / 49}"], Around.Now).Problems.Count == 0);
    }
}
