using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Tests;

public class VocabularyEditingTests
{
    private static readonly Vocabulary Cargo = new(
        "cargo",
        "Cargo",
        [
            new Term("Bulk", []) { Id = "bulk" },
            new Term("Timber", ["Wood"], "T")
            {
                Id = "timber",
                Broader = ["bulk"],
                Words = new Dictionary<string, TermWords> { ["de"] = new("Holz", ["Schnittholz"]) },
            },
            new Term("Sawn timber", [])
            {
                Id = "sawn",
                Broader = ["timber"],
                Related = ["planks"],
            },
            new Term("Planks", ["Boards", "Battens"])
            {
                Id = "planks",
                Broader = ["bulk"],
                Related = ["sawn"],
            },
        ]
    );

    private static readonly VocabularyIndex Index = new(Cargo);

    private static VocabularyIndex After(VocabularyChange change)
    {
        var after = change.Apply(Cargo);
        Assert.Empty(VocabularyCheck.Findings(after));
        return new VocabularyIndex(after);
    }

    [Fact]
    public void The_tree_knows_levels_branches_and_labels_of_all_languages()
    {
        Assert.Equal((1, 2, 3), (Index.Level(0), Index.Level(1), Index.Level(2)));
        Assert.True(Index.IsWithin(2, 0) && Index.IsWithin(2, 2) && !Index.IsWithin(3, 1) && !Index.IsWithin(-1, 0));
        Assert.Equal([1, 3], Index.Narrower(0).ToArray());
        Assert.Equal([0], Index.Tops);
        Assert.Equal("Timber", Index.Find("schnittholz")!.Label);
        Assert.Equal("Timber", Index.Complete("hol", 5).Single().Label);
        var twoWays = new VocabularyIndex(
            Cargo with
            {
                Terms = [.. Cargo.Terms, new Term("Both", []) { Id = "both", Broader = ["sawn", "bulk"] }],
            }
        );
        Assert.Equal(2, twoWays.Level(4));
        Assert.True(twoWays.IsWithin(4, 1));
    }

    [Fact]
    public void Merging_moves_spellings_narrower_terms_and_relations()
    {
        var change = VocabularyEditing.Merge(Index, "timber", "planks");
        var after = After(change);
        Assert.Equal([("Timber", "Planks")], change.Relabelled);
        Assert.Equal("Planks", after.Find("Wood")!.Label);
        Assert.Equal("Planks", after.Find("t")!.Label);
        Assert.Equal("Planks", after.Find("Holz")!.Label);
        Assert.Equal(["planks"], after.Find("Sawn timber")!.Broader);
        Assert.Equal(3, after.Vocabulary.Terms.Count);
    }

    [Fact]
    public void Splitting_moving_retiring_and_rejecting_are_changes_too()
    {
        var split = After(VocabularyEditing.Split(Index, "planks", "Battens", ["Battens"], "battens"));
        Assert.Equal(("Battens", "Planks"), (split.Find("battens")!.Label, split.Find("boards")!.Label));
        Assert.Equal(["bulk"], split.Find("Battens")!.Broader);
        Assert.Equal(1, After(VocabularyEditing.Move(Index, "sawn", null)).Level(2));
        var retired = After(VocabularyEditing.SetStatus(Index, "sawn", TermStatus.Retired, "planks")).Find("Sawn timber")!;
        Assert.Equal((TermStatus.Retired, "planks"), (retired.Status, retired.ReplacedBy));
        var put = VocabularyEditing.Put(Index, Cargo.Terms[3] with { Label = "Deals" });
        Assert.Equal([("Planks", "Deals")], put.Relabelled);
        Assert.Equal("Deals", After(put).Find("planks")!.Label);
        var rejected = VocabularyEditing.Reject(
            new VocabularyIndex(Cargo with { Terms = [.. Cargo.Terms, new Term("Wodd", [], null, TermStatus.Proposed) { Id = "wodd" }] }),
            "wodd",
            "timber"
        );
        Assert.Equal([("Wodd", "Timber")], rejected.Relabelled);
        Assert.Equal(["wodd"], rejected.Removed);
    }

    [Theory]
    [InlineData("sawn", "sawn", "is below itself")]
    [InlineData("timber", "sawn", "is below itself")]
    [InlineData("timber", "gone", "not in the vocabulary")]
    public void A_cycle_or_an_unknown_broader_term_is_refused(string id, string below, string why) =>
        Assert.Contains(VocabularyCheck.Findings(VocabularyEditing.Move(Index, id, below).Apply(Cargo)), f => f.Contains(why));

    [Fact]
    public void Two_terms_with_one_label_and_a_variant_that_is_another_label_are_refused()
    {
        string[] Of(params Term[] terms) => [.. VocabularyCheck.Findings(new Vocabulary("v", "V", terms))];
        Assert.Contains(
            "is the preferred label of two terms",
            Assert.Single(Of(new Term("Öster Quay", []) { Id = "a" }, new Term("oster-quay", []) { Id = "b" }))
        );
        Assert.Contains("is the preferred label of “Coal”", Assert.Single(Of(new Term("Ore", ["coal"]), new Term("Coal", []))));
        Assert.Contains("leads both to", Assert.Single(Of(new Term("Ore", ["stuff"]), new Term("Coal", ["Stuff"]))));
        Assert.Contains("no preferred label", Assert.Single(Of(new Term(" – ", []))));
        Assert.Contains("longer than", Assert.Single(Of(new Term(new string('x', 301), []))));
        var cycle = Of(
            new Term("A", []) { Id = "a", Broader = ["b"] },
            new Term("B", []) { Id = "b", Broader = ["c"] },
            new Term("C", []) { Id = "c", Broader = ["a"] },
            new Term("D", []) { Id = "d", Broader = ["a"] }
        );
        Assert.Equal(3, cycle.Length);
        Assert.Equal(
            1,
            new VocabularyIndex(
                new Vocabulary("v", "V", [new Term("A", []) { Id = "a", Broader = ["b"] }, new Term("B", []) { Id = "b", Broader = ["a"] }])
            ).Level(0)
        );
    }

    [Theory]
    [InlineData("Öster Quay", "OSTER-QUAY", 0.99)]
    [InlineData("Woodpulp", "Wood pulp", 0.97)]
    [InlineData("Sawn timber", "Timber, sawn", 0.95)]
    [InlineData("Paper reel", "Paper reels", 0.90)]
    [InlineData("Ferries", "Ferry", 0.90)]
    [InlineData("Diesel oil", "Deisel oil", 0.85)]
    [InlineData("Fertiliser", "Fertilizer", 0.85)]
    [InlineData("Molasses", "Mollasses", 0.85)]
    [InlineData("Granite blocks", "Stone blocks", 0)]
    [InlineData("Quay 1", "Quay 2", 0)]
    [InlineData("Berth", "Birth", 0)]
    [InlineData("Ice", "Icy", 0)]
    public void Near_duplicates_have_a_strength_and_digits_tell_apart(string a, string b, double strength)
    {
        var groups = NearDuplicates.Find([a, "Something else", b]);
        if (strength == 0)
        {
            Assert.Empty(groups);
            return;
        }
        var group = Assert.Single(groups);
        Assert.Equal(strength, group.Strength);
        Assert.Equal([a, b], group.Spellings);
        Assert.NotEmpty(group.Because);
    }

    [Fact]
    public void Planted_near_duplicates_are_found_among_thousands_and_little_else()
    {
        var random = new Random(9);
        string Word() => string.Concat(Enumerable.Range(0, random.Next(6, 11)).Select(_ => (char)('a' + random.Next(26))));
        var words = Enumerable.Range(0, 4_000).Select(_ => $"{Word()} {Word()}").Distinct().ToList();
        var planted = words
            .Take(200)
            .Select(
                (w, i) =>
                    (
                        Of: w,
                        Slip: (i % 4) switch
                        {
                            0 => w.Remove(3, 1),
                            1 => w[..2] + w[3] + w[2] + w[4..],
                            2 => string.Join(' ', w.Split(' ').Reverse()),
                            _ => w.ToUpperInvariant().Replace(' ', '-'),
                        }
                    )
            )
            .Where(p => p.Slip != p.Of)
            .ToList();
        var groups = NearDuplicates.Find([.. words, .. planted.Select(p => p.Slip)]);
        Assert.All(planted, p => Assert.Contains(groups, g => g.Spellings.Contains(p.Of) && g.Spellings.Contains(p.Slip)));
        Assert.InRange(groups.Count, planted.Count, planted.Count + 5);
    }

    [Fact]
    public void A_group_hangs_together_by_its_weakest_link()
    {
        var group = Assert.Single(
            NearDuplicates.Find(["Wind turbine part", "Wind turbine parts", "wind-turbine parts", "Turbine parts, wind"])
        );
        Assert.Equal((4, 0.90), (group.Spellings.Count, group.Strength));
    }

    [Fact]
    public void An_import_plans_new_changed_same_and_conflicting_and_names_what_is_broken()
    {
        BroughtTerm[] brought =
        [
            new(Cargo.Terms[0], 2),
            new(Cargo.Terms[1] with { Variants = ["Wood", "Logs"] }, 3),
            new(new Term("planks", []) { Id = "http://x/1" }, 4),
            new(new Term("Coal", ["Boards"]) { Id = "coal", Broader = ["bulk"] }, 5),
            new(new Term("Coal", []) { Id = "coal2", Broader = ["coal"] }, 6),
        ];
        var plan = TermImport.Plan(Index, new BroughtTerms(brought, []));
        Assert.Empty(plan.Broken);
        Assert.Equal(["Coal", "Coal (Coal)"], plan.New.Select(t => t.Label));
        Assert.Equal(
            ["Timber: variants", "Planks: label “Planks” → “planks”, variants, broader, related"],
            plan.Changed.Select(c => $"{c.Before.Label}: {c.What}")
        );
        Assert.Equal(1, plan.Same);
        Assert.Contains(plan.Conflicts, c => c.Contains("Two terms are called “Coal”"));
        Assert.Empty(VocabularyCheck.Findings(plan.AsChange().Apply(Cargo)));
        Assert.Empty(
            TermImport
                .Plan(
                    new VocabularyIndex(plan.AsChange().Apply(Cargo)),
                    new BroughtTerms([.. plan.AsChange().Apply(Cargo).Terms.Select((t, i) => new BroughtTerm(t, i))], [])
                )
                .Changed
        );

        var broken = TermImport.Plan(
            Index,
            new BroughtTerms(
                [
                    new(new Term("A", []) { Id = "a", Broader = ["b"] }, 7),
                    new(new Term("B", []) { Id = "b", Broader = ["a"] }, 8),
                    new(new Term("C", []) { Id = "c", Broader = ["nowhere"] }, 9),
                    new(new Term("A again", []) { Id = "a" }, 10),
                ],
                [(3, "torn")]
            )
        );
        Assert.Equal([3, 7, 8, 9, 10], broken.Broken.Select(b => b.Line));
    }
}
