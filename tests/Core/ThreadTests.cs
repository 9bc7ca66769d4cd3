using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Designs.Threads;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;

namespace ClearLexicon.Core.Tests;

/// <summary>Threads: what is tied to what, loose ends, what is followed, and an order with few crossings.</summary>
public class ThreadTests
{
    private static ThreadPicture Weave(
        DocumentType type,
        Dictionary<string, string> record,
        Dictionary<string, Evidence>? evidence = null,
        params Reader[] readers
    ) => Weaving.Weave(new CompiledType(type, Harbour.Vocabularies), readers, new ThreadedDocument(record, evidence ?? [], Harbour.Now));

    private static Evidence At(double y, int page = 1, double x = 0.1, string raw = "raw") =>
        new(page, new Box(x, y, 0.2, 0.02), raw, "text layer", 1);

    private static readonly Dictionary<string, string> Sound = new()
    {
        ["number"] = "VC-2024-00001",
        ["vessel"] = "Grey Heron",
        ["arrived"] = "2024-03-05",
        ["sailed"] = "2024-03-01",
    };

    private static IEnumerable<string> Tied(ThreadPicture p) => p.Threads.Select(t => $"{p.Ends[t.Left].Label} → {p.Ends[t.Right].Label}");

    [Fact]
    public void A_value_goes_from_its_region_over_its_field_to_pieces_and_rules()
    {
        var p = Weave(Harbour.Call, Sound, new() { ["number"] = At(0.1), ["arrived"] = At(0.3, raw: "5 March 2024") });

        Assert.Equal(
            [
                "Call number → Call number",
                "typed by a person → Vessel",
                "Arrived → Arrived",
                "typed by a person → Sailed",
                "by default: a constant → Pilot used",
            ],
            Tied(p).Take(5)
        );
        Assert.Equal(["Calls", "2024", "VC-2024-00001 GREY H.pdf"], p.Segments);
        var arrived = p.Ends.ToList().FindIndex(e => e is { Kind: EndKind.Region, Key: "arrived" });
        Assert.Equal("5 March 2024", p.Ends[arrived].Value);
        Assert.Equal(
            ["Region arrived", "Field arrived", "Piece 2", "Rule r1"],
            p.Follow(arrived).Order().Select(i => $"{p.Ends[i].Kind} {p.Ends[i].Key}")
        );
        // The rule does not hold: it sailed before it arrived. From it both dates are followed, but no other rule.
        var rule = p.Ends.ToList().FindIndex(e => e.Key == "r1");
        Assert.Equal(Level.Must, p.Ends[rule].Broken);
        Assert.Equal(["arrived", "person", "arrived", "sailed", "2", "r1"], p.Follow(rule).Order().Select(i => p.Ends[i].Key));
        Assert.All(p.Ends.Where(e => e.Kind == EndKind.Rule && e.Key != "r1"), e => Assert.Null(e.Broken));
    }

    [Fact]
    public void Loose_ends_are_what_nothing_fills_and_what_leads_nowhere()
    {
        var type = Harbour.Call with
        {
            Fields =
            [
                .. Harbour.Call.Fields.Select(f => f.Key == "crew" ? f with { NotSearched = true, NotInResults = true } : f),
                new TextField("note", "Note")
                {
                    NotSearched = true,
                    NotInResults = true,
                    Default = "none",
                },
            ],
            Convention = Harbour.Call.Convention with
            {
                Name = [.. Harbour.Call.Convention.Name, Piece.Of("sailed"), Piece.Of("agent"), Piece.Of("imo") with { LeaveOut = true }],
            },
        };
        var reader = new Reader(
            "form",
            "Form",
            "call",
            [],
            [new Zone("a", default), new Zone("b", default)],
            [new CrosswalkLine("a", "vessel", []), new CrosswalkLine("b", "tonnage", [])]
        );
        var p = Weave(
            type,
            new() { ["number"] = "VC-2024-00001", ["arrived"] = "2024-03-05" },
            new() { ["number"] = At(0.1), ["gone"] = At(0.2, raw: "secret") },
            reader,
            reader with
            {
                Key = "other",
                TypeCode = "other",
            }
        );

        var loose = p.Loose.ToDictionary(e => $"{e.Kind} {e.Key}", e => e.NoSource ?? e.NoUse);
        Assert.Equal("must be filled, but nothing was read for it here", loose["Field vessel"]);
        Assert.Equal("no reader, default or look-up fills it", loose["Field berth"]);
        Assert.StartsWith("leads nowhere", loose["Field note"]);
        Assert.Equal("was read, but its field is no longer in the type", loose["Region gone"]);
        Assert.Contains("“tonnage”", loose["Source reader form"]);
        Assert.Equal("names “agent”, which is not a field of this type", loose["Piece 7"]);
        Assert.StartsWith("Sailed is empty", loose["Piece 6"]);
        // Not loose: filled by a default; left out of the path on purpose; looked at by a rule; a reader of another type.
        Assert.DoesNotContain("Field pilot", loose.Keys);
        Assert.DoesNotContain("Piece 8", loose.Keys);
        Assert.Null(p.Ends.Single(e => e is { Kind: EndKind.Field, Key: "crew" }).NoUse);
        Assert.DoesNotContain("Source reader other", loose.Keys);
        // What is left of a field that is gone may have been restricted: it is in no picture.
        Assert.DoesNotContain(p.Ends, e => e.Value.Contains("secret", StringComparison.Ordinal));
    }

    [Fact]
    public void A_restricted_value_is_nowhere_in_the_picture()
    {
        var type = Harbour.Call with
        {
            Fields = [.. Harbour.Call.Fields.Select(f => f.Key == "vessel" ? f with { Restricted = true } : f)],
        };
        var p = Weave(type, Sound, new() { ["vessel"] = At(0.2, raw: "Grey Heron") });

        Assert.Equal(3, p.Ends.Count(e => e.Restricted));
        Assert.DoesNotContain(
            p.Ends.SelectMany(e => new[] { e.Value, e.Label, e.Note, e.NoSource ?? "" }).Concat(p.Segments),
            t => t.Contains("grey", StringComparison.OrdinalIgnoreCase)
        );
    }

    /// <summary>30 fields read from 3 pages in another order than the design has them, 18 rules, 8 pieces.</summary>
    private static ThreadPicture Large()
    {
        var random = new Random(30);
        var fields = Enumerable.Range(0, 30).Select(i => new TextField($"f{i}", $"Field {i}")).ToList();
        var rules = Enumerable
            .Range(0, 18)
            .Select(i =>
                Harbour.Rule(
                    $"r{i}",
                    "filled",
                    ("fields", string.Join(',', Enumerable.Range(0, 1 + i % 3).Select(_ => $"f{random.Next(30)}").Distinct())),
                    ("how", "all")
                )
            )
            .ToList();
        var type = new DocumentType(
            "large",
            "Large",
            fields,
            rules,
            new Convention(
                [Piece.Of("f21"), Piece.Inside, Piece.Of("f4"), Piece.Inside, Piece.Of("f17"), Piece.Literal(" "), Piece.Of("f9")],
                [
                    Piece.Of("f2"),
                    Piece.Literal(" "),
                    Piece.Of("f28"),
                    Piece.Literal(" "),
                    Piece.Of("f13"),
                    Piece.Literal(" "),
                    Piece.Of("f11"),
                ]
            )
        );
        var places = Enumerable.Range(0, 30).OrderBy(_ => random.Next()).ToList();
        return Weave(
            type,
            fields.ToDictionary(f => f.Key, f => f.Label),
            fields
                .Select((f, i) => (f.Key, Place: places[i]))
                .Where(f => f.Place > 3)
                .ToDictionary(f => f.Key, f => At(0.05 + f.Place % 10 * 0.09, 1 + f.Place / 10))
        );
    }

    [Fact]
    public void Sifting_takes_most_crossings_away()
    {
        var p = Large();
        var (before, after) = (ThreadOrder.OfDesign(p), ThreadOrder.Fewest(p));
        TestContext.Current.TestOutputHelper?.WriteLine(
            $"crossings before {before.Crossings}, after {after.Crossings}, of {p.Threads.Count} threads"
        );

        Assert.Equal(Pairs(p, before), before.Crossings);
        Assert.Equal(Pairs(p, after), after.Crossings);
        Assert.True(after.Crossings * 3 < before.Crossings, $"{before.Crossings} before, {after.Crossings} after");
        // Nothing is lost or twice, and what has a place of its own keeps it.
        Assert.Equal(before.Fields.Order(), after.Fields.Order());
        Assert.Equal(before.Right.Order(), after.Right.Order());
        Assert.Equal(p.Of(EndKind.Region), after.Left.Where(e => p.Ends[e].Kind == EndKind.Region));
        Assert.Equal(p.Of(EndKind.Piece), after.Right.Take(8));
        Assert.Equal(after.Fields, ThreadOrder.Fewest(Large()).Fields);
    }

    /// <summary>
    /// For small pictures every order can be tried: sifting finds the best of all or nearly so, and is never worse than the design.
    /// </summary>
    [Fact]
    public void Sifting_comes_close_to_the_best_of_all_orders()
    {
        var (found, best) = (0L, 0L);
        for (var seed = 0; seed < 40; seed++)
        {
            var random = new Random(seed);
            List<ThreadEnd> ends = [.. Kind(EndKind.Region, 6), .. Kind(EndKind.Field, 6), .. Kind(EndKind.Piece, 5)];
            var p = new ThreadPicture(
                ends,
                [
                    .. Enumerable.Range(0, 6).Select(f => new DrawnThread(random.Next(6), 6 + f)),
                    .. Enumerable.Range(0, 8).Select(_ => new DrawnThread(6 + random.Next(6), 12 + random.Next(5))).Distinct(),
                ],
                []
            );
            var order = ThreadOrder.Fewest(p);
            Assert.Equal(Pairs(p, order), order.Crossings);
            Assert.True(order.Crossings <= ThreadOrder.OfDesign(p).Crossings);
            found += order.Crossings;
            best += Permutations([.. order.Fields])
                .Min(fields => ThreadOrder.Crossing(p.Threads, order.Left, fields) + ThreadOrder.Crossing(p.Threads, fields, order.Right));
        }
        Assert.InRange(found, best, best * 1.02);

        static IEnumerable<ThreadEnd> Kind(EndKind kind, int count) =>
            Enumerable.Range(0, count).Select(i => new ThreadEnd(kind, $"{kind}{i}", "", ""));
        static IEnumerable<int[]> Permutations(int[] of) =>
            of.Length < 2
                ? [of]
                : of.SelectMany((x, i) => Permutations([.. of[..i], .. of[(i + 1)..]]).Select(rest => (int[])[x, .. rest]));
    }

    // Every pair of threads, one by one.
    private static long Pairs(ThreadPicture p, ThreadOrder order)
    {
        long Between(IReadOnlyList<int> left, IReadOnlyList<int> right)
        {
            var lines = p
                .Threads.Select(t => (L: left.ToList().IndexOf(t.Left), R: right.ToList().IndexOf(t.Right)))
                .Where(t => t.L >= 0 && t.R >= 0)
                .ToList();
            return lines.Sum(a => lines.LongCount(b => a.L < b.L && a.R > b.R));
        }
        return Between(order.Left, order.Fields) + Between(order.Fields, order.Right);
    }
}
