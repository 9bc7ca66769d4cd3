using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;

namespace ClearLexicon.Core.Tests;

/// <summary>Records carried from one version of their type to the next.</summary>
public class CarryingTests
{
    private static DocumentType Type(params string[] fields) =>
        DocumentType.Empty("t", "T") with
        {
            Fields = [.. fields.Select(f => new TextField(f.TrimEnd('!'), f.TrimEnd('!')) { Restricted = f.EndsWith('!') })],
        };

    private static readonly DocumentType Before = Type("number", "place", "street", "town", "berth", "master!"),
        After = Type("number", "harbour", "quay", "address", "berth", "captain!", "chief");

    private static string Carried(CarryLine line, params (string, string)[] record) =>
        string.Join(
            ' ',
            new CompiledCarrying([line], Before, After)
                .Carry(record.ToDictionary(r => r.Item1, r => r.Item2))
                .OrderBy(r => r.Key, StringComparer.Ordinal)
                .Select(r => $"{r.Key}={r.Value}")
        );

    [Fact]
    public void Fields_are_renamed_split_joined_and_terms_replaced()
    {
        Assert.Equal(
            "harbour=Merrowmouth number=7",
            Carried(new("harbour", CarryHow.Whole, ["place"]), ("number", "7"), ("place", "Merrowmouth"))
        );
        var split = new CarryLine("quay", CarryHow.Part, ["place"]) { Between = ",", Part = 2 };
        Assert.Equal("quay=North Quay", Carried(split, ("place", "Outer Basin, North Quay, 3")));
        Assert.Equal("quay=North Quay, 3", Carried(split with { AndRest = true }, ("place", "Outer Basin, North Quay, 3")));
        // A text without that part gives nothing, and is not taken whole.
        Assert.Equal("", Carried(split, ("place", "Outer Basin")));
        Assert.Equal("quay=Basin 3", Carried(split with { Between = "", AndRest = true }, ("place", "Outer  Basin 3")));
        var join = new CarryLine("address", CarryHow.Joined, ["street", "town"]) { Between = ", " };
        Assert.Equal("address=Quay Road 2, Merrowmouth", Carried(join, ("street", "Quay Road 2"), ("town", "Merrowmouth")));
        Assert.Equal("address=Merrowmouth", Carried(join, ("town", "Merrowmouth")));
        Assert.Equal(
            "berth=North Quay 1",
            Carried(
                new("berth", CarryHow.Whole, ["berth"])
                {
                    Steps = [new("replace", "Old Coal Staith=North Quay 1|Timber Pier=Timber Wharf")],
                },
                ("berth", "old coal staith")
            )
        );
        // What stands there already is not overwritten, and a record without the sources stays the very same.
        Assert.Equal(
            "harbour=Typed since",
            Carried(new("harbour", CarryHow.Whole, ["place"]), ("place", "Merrowmouth"), ("harbour", "Typed since"))
        );
        var untouched = new Dictionary<string, string> { ["number"] = "7" };
        Assert.Same(untouched, new CompiledCarrying([join], Before, After).Carry(untouched));
    }

    [Fact]
    public void Evidence_goes_with_the_value_and_carrying_twice_is_carrying_once()
    {
        var carrying = new CompiledCarrying(
            [
                new("harbour", CarryHow.Part, ["place"]) { Between = "," },
                new("quay", CarryHow.Part, ["place"]) { Between = ",", Part = 2 },
                new("captain", CarryHow.Whole, ["master"]),
            ],
            Before,
            After
        );
        var at = new Evidence(1, new Box(0.1, 0.2, 0.3, 0.02), "Outer Basin, North Quay", "recognised", 0.9);
        var evidence = carrying.Carry(new Dictionary<string, Evidence> { ["place"] = at, ["number"] = at });
        Assert.Equal(["harbour", "number", "quay"], evidence.Keys.Order());
        Assert.Equal(at, evidence["quay"]);
        var once = carrying.Carry(new Dictionary<string, string> { ["place"] = "Outer Basin, North Quay", ["master"] = "Frida Lund" });
        Assert.Equal(["captain", "harbour", "quay"], once.Keys.Order());
        Assert.Equal(once, carrying.Carry(once));
    }

    /// <summary>
    /// Over many mappings and records: carrying twice is carrying once, nothing that has no line changes, and no text comes from nowhere.
    /// </summary>
    [Fact]
    public void Whatever_the_mapping_it_is_safe_to_run_again()
    {
        string[] before = ["number", "place", "street", "town", "berth"],
            after = ["number", "harbour", "quay", "address", "berth"];
        string[] words = ["Outer Basin, North Quay, 3", "Merrowmouth", "", "a  b", ",", "North Quay 1", "x, ,y"];
        for (var seed = 0; seed < 2_000; seed++)
        {
            var random = new Random(seed);
            List<CarryLine> lines =
            [
                .. Enumerable
                    .Range(0, random.Next(1, 4))
                    .Select(_ => new CarryLine(
                        after[random.Next(5)],
                        (CarryHow)random.Next(3),
                        [.. before.OrderBy(_ => random.Next()).Take(random.Next(1, 3))]
                    )
                    {
                        Between = random.Next(2) == 0 ? "," : "",
                        Part = random.Next(1, 4),
                        AndRest = random.Next(2) == 0,
                    })
                    .DistinctBy(l => l.Field),
            ];
            var record = before.Where(_ => random.Next(3) > 0).ToDictionary(k => k, _ => words[random.Next(words.Length)]);
            var carrying = new CompiledCarrying(lines, Before, After);
            var once = carrying.Carry(record);
            var sound = lines.Where(l => CompiledCarrying.Finding(l, Before, After) is null).ToList();
            // Whole lines of one field into another that has a line too are a chain; each run goes one step along it.
            if (!sound.Any(l => l.From.Any(f => sound.Any(o => o.Field == f && o != l))))
                Assert.Equal(once, carrying.Carry(once, isThere: true));
            foreach (var key in record.Keys.Where(k => sound.All(l => l.Field != k && !l.From.Contains(k))))
                Assert.Equal(record[key], once[key]);
            var letters = record.Values.SelectMany(v => v).Append(' ').Append(',').ToHashSet();
            Assert.All(once.Values, v => Assert.All(v, c => Assert.Contains(c, letters)));
            Assert.DoesNotContain(
                once,
                r => After.Find(r.Key) is null && sound.Any(l => l.From.Contains(r.Key)) && sound.Any(l => l.From.Any(record.ContainsKey))
            );
        }
    }

    [Fact]
    public void Lines_that_cannot_run_say_why_and_are_passed_over()
    {
        void Refused(string why, CarryLine line)
        {
            Assert.Contains(why, CompiledCarrying.Finding(line, Before, After));
            Assert.Equal("place=x", Carried(line, ("place", "x")));
        }
        Refused("not in the draft", new("place", CarryHow.Whole, ["place"]));
        Refused("choose the field", new("harbour", CarryHow.Whole, []));
        Refused("at least two", new("address", CarryHow.Joined, ["town"]));
        Refused("no field “pier”", new("harbour", CarryHow.Whole, ["pier"]));
        Refused("from 1 to 20", new("harbour", CarryHow.Part, ["place"]) { Part = 0 });
        Refused("pairs such as", new("harbour", CarryHow.Whole, ["place"]) { Steps = [new("replace", "nonsense")] });
        // A restricted value never becomes one that everybody sees.
        Refused("must be restricted too", new("chief", CarryHow.Whole, ["master"]));
    }

    [Fact]
    public void Likely_renamings_are_suggested()
    {
        Assert.Equal("Berth number is what Berth no was", Words(Named("Berth no", "Town"), Named("Berth number", "Crew")));
        Assert.Equal("Ship’s agent is what Agent was", Words(Named("Agent", "Town"), Named("Ship’s agent", "Crew")));
        Assert.Equal("Crew is what Town was", Words(Named("Town"), Named("Crew")));
        Assert.Equal("", Words(Named("Town", "Street"), Named("Crew", "Cargo")));

        static DocumentType Named(params string[] labels) =>
            DocumentType.Empty("t", "T") with
            {
                Fields = [.. labels.Select(l => new TextField(ShortName.From(l), l))],
            };
        static string Words(DocumentType before, DocumentType after) =>
            string.Join("; ", CompiledCarrying.Suggest(before, after).Select(l => CompiledCarrying.InWords(l, before, after)));
    }
}
