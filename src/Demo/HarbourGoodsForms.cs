using System.Globalization;
using System.Text.Json;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;
using SkiaSharp;
using static ClearLexicon.Demo.HarbourFreeForms;

namespace ClearLexicon.Demo;

/// <summary>
/// Notes of dangerous goods: containers in a table, with places to sign; and in groups that repeat, two beside one another.
/// </summary>
internal static class HarbourGoodsForms
{
    /// <summary>With a table and two signatures.</summary>
    public static FreeForm Signed { get; } =
        new("goods-signed", "Dangerous goods note, signed", "dangerous-goods-note", Goods)
        {
            Clues = ["Declaration of Dangerous Goods", "Signature of shipper", "Containers"],
            Finders =
            [
                ("note-number", Beside("note-number-beside", "Declaration No"), [new("look-alikes")]),
                ("vessel", Beside("vessel-beside", "To be shipped in"), None),
                ("un-number", new Finder("un-number-shape", "shape") { Shape = "pattern", Pattern = "UN ?[0-9]{4}" }, None),
                ("class", new Finder("class-list", "list"), None),
                ("loaded", Beside("loaded-beside", "Loaded"), DottedDate),
                (
                    "containers",
                    new Finder("containers-rows", "rows")
                    {
                        Columns =
                        [
                            new RowColumn("container", ["Container number"]),
                            new RowColumn("packages", ["Packages"]),
                            new RowColumn("mass", ["Mass kg", "Mass"]),
                        ],
                        Words = ["Total mass"],
                    },
                    None
                ),
                ("shipper-signed", new Finder("shipper-signed-ink", "ink"), None),
                ("master-signed", new Finder("master-signed-ink", "ink"), None),
            ],
            Regions = [("shipper-signed-ink", new SKRect(50, 690, 280, 742)), ("master-signed-ink", new SKRect(320, 690, 550, 742))],
        };

    /// <summary>With a group of labels for each container.</summary>
    public static FreeForm Groups { get; } =
        new("goods-groups", "Dangerous goods manifest", "dangerous-goods-note", Manifest)
        {
            Clues = ["Manifest of Dangerous Goods", "Declared by the forwarder", "Loading berth office"],
            Finders =
            [
                ("note-number", Beside("note-number-beside", "Manifest"), [new("look-alikes")]),
                ("vessel", Beside("vessel-beside", "Carried by"), None),
                ("un-number", new Finder("un-number-shape", "shape") { Shape = "pattern", Pattern = "UN ?[0-9]{4}" }, None),
                ("class", new Finder("class-list", "list"), None),
                ("loaded", Beside("loaded-beside", "Put on board"), DottedDate),
                (
                    "containers",
                    new Finder("containers-groups", "groups")
                    {
                        Columns =
                        [
                            new RowColumn("container", ["Unit"]),
                            new RowColumn("packages", ["Packages"]),
                            new RowColumn("mass", ["Gross mass kg", "Gross mass"]),
                        ],
                        Words = ["Sum of all units"],
                        LeftOut = ["not loaded"],
                    },
                    None
                ),
                ("shipper-signed", Beside("shipper-signed-beside", "Signed by the shipper"), None),
                ("master-signed", Beside("master-signed-beside", "Signed by the master"), None),
            ],
        };

    private sealed record Consignment(
        string Note,
        string Vessel,
        string Un,
        string Class,
        DateOnly Loaded,
        IReadOnlyList<(string Number, int Packages, int Mass)> Boxes,
        bool Shipper,
        bool Master
    )
    {
        public Dictionary<string, string> Truth =>
            new()
            {
                ["note-number"] = Note,
                ["vessel"] = Vessel,
                ["un-number"] = Un,
                ["class"] = Class,
                ["loaded"] = Iso(Loaded),
                ["containers"] = JsonSerializer.Serialize(
                    Boxes.Select(b => new Dictionary<string, string>
                    {
                        ["container"] = b.Number,
                        ["packages"] = b.Packages.ToString(CultureInfo.InvariantCulture),
                        ["mass"] = b.Mass.ToString(CultureInfo.InvariantCulture),
                    })
                ),
                ["shipper-signed"] = Shipper ? "yes" : "no",
                ["master-signed"] = Master ? "yes" : "no",
            };
    }

    private static Consignment Of(int number)
    {
        var random = new Random(number * 104_729 + 9500);
        var vessel = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)].Name;
        var all = HarbourVocabularies.All.First(v => v.Key == "dangerous-goods").Terms;
        var leaves = all.Where(t => !all.Any(o => o.Broader.Contains(t.Id!))).ToList();
        var (term, loaded) = (leaves[random.Next(leaves.Count)], new DateOnly(2024, 1, 1).AddDays(random.Next(350)));
        var un = $"UN{random.Next(1000, 3400)}";
        var boxes = Enumerable
            .Range(0, random.Next(1, 9))
            .Select(_ => (Container(random), random.Next(1, 400), random.Next(200, 24_000)))
            .ToList();
        var (shipper, master) = (random.Next(2) == 0, random.Next(2) == 0);
        return new Consignment($"DG-2024-{number % 7000 + 3000:0000}", vessel, un, term.Label, loaded, boxes, shipper, master);
    }

    private static FreeDocument Goods(int number)
    {
        var goods = Of(number);
        void Draw(SKCanvas canvas)
        {
            var (pen, hand) = (new Pen(canvas), new Random(9500 + number * 104_729));
            pen.Write("Shippers of Merrowmouth", 48, 52, 10);
            pen.Write("Declaration of Dangerous Goods", 48, 84, 18);
            pen.Write($"Declaration No. {goods.Note}", 380, 110, 11);
            pen.Write($"To be shipped in {goods.Vessel}", 48, 140, 11);
            pen.Write($"Loaded: {goods.Loaded:dd.MM.yyyy}", 380, 140, 11);
            pen.Write($"{goods.Un}, {goods.Class}", 48, 166, 11);
            pen.Write("Containers", 48, 204, 13);
            float[] x = [52, 220, 340];
            string[] heads = ["Container number", "Packages", "Mass kg"];
            for (var i = 0; i < 3; i++)
                pen.Write(heads[i], x[i], 226, 10);
            pen.Line(48, 231, 547, 231);
            var y = 231f;
            foreach (var box in goods.Boxes)
            {
                y += 20;
                pen.Write(box.Number, x[0], y, 11);
                pen.Write(box.Packages.ToString(CultureInfo.InvariantCulture), x[1], y, 11);
                pen.Write(box.Mass.ToString("#,##0", CultureInfo.InvariantCulture), x[2], y, 11);
            }
            pen.Write($"Total mass {goods.Boxes.Sum(b => b.Mass):#,##0}", x[0], y + 28, 11);
            pen.Line(52, 738, 270, 738);
            pen.Write("Signature of shipper", 52, 754, 9);
            pen.Line(324, 738, 540, 738);
            pen.Write("Signature of master", 324, 754, 9);
            if (goods.Shipper)
                pen.Sign(80, 725, hand);
            if (goods.Master)
                pen.Sign(350, 725, hand);
        }
        return new FreeDocument([Draw], goods.Truth);
    }

    private static FreeDocument Manifest(int number)
    {
        // Other goods than those of the note of the same number.
        var goods = Of(number + 4_000);
        void Draw(SKCanvas canvas)
        {
            var pen = new Pen(canvas);
            pen.Write("Declared by the forwarder", 48, 52, 10);
            pen.Write("Manifest of Dangerous Goods", 48, 84, 17);
            pen.Write($"Manifest: {goods.Note}", 380, 84, 11);
            pen.Write($"Carried by: {goods.Vessel}", 48, 116, 11);
            pen.Write($"Put on board: {goods.Loaded:dd.MM.yyyy}", 380, 116, 11);
            pen.Write($"{goods.Un}, {goods.Class}", 48, 140, 11);
            pen.Line(48, 152, 547, 152);
            var y = 0f;
            foreach (var (box, i) in goods.Boxes.Select((b, i) => (b, i)))
            {
                var x = i % 2 == 0 ? 52 : 310;
                y = 178 + i / 2 * 72;
                pen.Write($"Unit: {box.Number}", x, y, 11);
                pen.Write("Packages:", x, y + 17, 11);
                pen.Write(box.Packages.ToString(CultureInfo.InvariantCulture), x + 110, y + 17, 11);
                pen.Write("Gross mass kg:", x, y + 34, 11);
                pen.Write(box.Mass.ToString("#,##0", CultureInfo.InvariantCulture), x + 110, y + 34, 11);
            }
            pen.Write($"Sum of all units {goods.Boxes.Sum(b => b.Mass):#,##0}", 52, y + 74, 11);
            pen.Write($"Signed by the shipper: {(goods.Shipper ? "yes" : "no")}", 52, 560, 11);
            pen.Write($"Signed by the master: {(goods.Master ? "yes" : "no")}", 310, 560, 11);
            pen.Write("Loading berth office", 48, 780, 9);
        }
        return new FreeDocument([Draw], goods.Truth);
    }

    // A container number with its check digit (ISO 6346).
    private static string Container(Random random)
    {
        var scheme = Core.Fields.CheckDigits.CheckSchemes.Find("container")!;
        while (true)
        {
            var stem = $"MRWU{random.Next(100_000, 999_999)}";
            for (var d = 0; d < 10; d++)
                if (scheme.Problem($"{stem}{d}") is null)
                    return $"{stem}{d}";
        }
    }
}
