using System.Globalization;
using ClearLexicon.Core.Reading.Codes;
using ClearLexicon.Core.Reading.Sheets;
using ClearLexicon.Core.Reading.Stacks;
using ClearLexicon.Formats;
using SkiaSharp;
using ZXing;

namespace ClearLexicon.Demo;

/// <summary>The stacks that the harbour's copier and mail room send, with the ways they come in. The same in every run.</summary>
public static class HarbourStacks
{
    private static readonly string[] Sentences =
    [
        "The pilot boards at the outer buoy and waits for the tide.",
        "Lines were taken by the boatmen at the head of the quay.",
        "The agent asks for water, stores and a shore pass for the crew.",
        "Wind south-west, freshening in the afternoon; no delay was noted.",
        "Fenders were moved twice, and the gangway was watched by night.",
        "The tally of packages agrees with the manifest in all points.",
    ];

    /// <summary>The ways in of the demo.</summary>
    public static IReadOnlyList<WayIn> Ways { get; } =
    [
        new("scanner", "Scanner at the desk") { LookFirst = LookFirst.Never },
        new("copier", "Copier, harbour office")
        {
            Folder = "incoming",
            Separation = new Separation
            {
                Method = "patch",
                Blanks = BlankPages.Drop,
                EndsWithFile = true,
            },
            Constants = new Dictionary<string, string> { ["handling"] = "Open" },
        },
        new("mail-room", "Mail room, labelled letters")
        {
            Folder = "mail-room",
            Separation = new Separation
            {
                Method = "code",
                Codes = new CodeFilter
                {
                    Kinds = ["Code 128"],
                    Shortest = 12,
                    Longest = 12,
                },
                Stays = true,
                Blanks = BlankPages.Drop,
            },
        },
        new("permits", "Fire office, permits")
        {
            Folder = "permits",
            Separation = new Separation { Method = "reader" },
            Readers = ["hot-work-permit-with-code"],
            TypeCode = "hot-work-permit",
        },
        new("goods", "Shippers, dangerous goods")
        {
            Folder = "shippers",
            Separation = new Separation
            {
                Method = "numbers",
                Blanks = BlankPages.Drop,
                Duplex = true,
            },
            LookFirst = LookFirst.Always,
        },
    ];

    /// <summary>A labelled slip: what is printed, what its label holds, and what is true.</summary>
    public static (IReadOnlyDictionary<string, string> Printed, string Label, IReadOnlyDictionary<string, string> Truth) Slip(int number)
    {
        var random = new Random(700 + number);
        var vessel = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)];
        var arrived = new DateOnly(2024, 2, 1).AddDays(random.Next(200));
        var call = 60_000 + number;
        var printed = new Dictionary<string, string>
        {
            ["vessel"] = vessel.Name,
            ["berth"] = HarbourNames.Berths[random.Next(HarbourNames.Berths.Length)].Label,
            ["arrived"] = Day(arrived, "d MMM yyyy"),
            ["sailed"] = Day(arrived.AddDays(2), "d MMM yyyy"),
            ["agent"] = HarbourNames.Agents[random.Next(HarbourNames.Agents.Length)],
            ["pilot-used"] = "no",
        };
        return (
            printed,
            $"{vessel.Imo}{call}",
            new Dictionary<string, string>
            {
                ["imo"] = vessel.Imo,
                ["call-number"] = $"VC-2024-{call}",
                ["berth"] = printed["berth"],
                ["arrived"] = Day(arrived, "yyyy-MM-dd"),
            }
        );
    }

    /// <summary>A permit: what is printed, what its code holds, and what is true.</summary>
    public static (IReadOnlyDictionary<string, string> Printed, string Code, IReadOnlyDictionary<string, string> Truth) PermitPage(
        int number
    )
    {
        var random = new Random(900 + number);
        var from = new DateOnly(2024, 5, 1).AddDays(number * 3);
        var truth = new Dictionary<string, string>
        {
            ["permit-number"] = $"HW-2024-{100 + number}",
            ["berth"] = HarbourNames.Berths[random.Next(HarbourNames.Berths.Length)].Label,
            ["work"] = number % 2 == 0 ? "Welding of a hatch coaming" : "Cutting of old pipes",
            ["valid-from"] = Day(from, "yyyy-MM-dd"),
            ["responsible"] = HarbourNames.Masters[random.Next(HarbourNames.Masters.Length)],
        };
        var printed = new Dictionary<string, string>
        {
            ["valid-to"] = Day(from.AddDays(1), "d MMM yyyy"),
            ["gas-free"] = "yes",
            ["fire-watch"] = "yes",
            ["fee"] = "45.00 EUR",
        };
        return (printed, string.Join('|', truth.Values), truth);
    }

    /// <summary>
    /// Sixty sides with separator sheets between eleven documents: two sheets in a row once, one at the end, a page on its head.
    /// </summary>
    public static IReadOnlyList<Leaf> WithSeparators(SheetPrint separators)
    {
        var pages = HarbourDocuments.AlreadyFiled();
        var leaves = new List<Leaf>();
        var sheet = 0;
        void Separate() => leaves.Add(Sheet(separators, sheet++ % separators.Rows.Count + 1));
        foreach (var length in new[] { 4, 3, 5, 2, 6, 4, 3, 5, 4, 6, 4 })
        {
            Separate();
            if (length == 6)
                Separate();
            leaves.AddRange(Document(pages[leaves.Count % pages.Count], length, leaves.Count));
        }
        Separate();
        leaves[^3] = leaves[^3] with { Turned = 180 };
        leaves[7] = leaves[7] with { Skew = 1.8f };
        leaves[8] = leaves[8] with { Skew = -2.4f };
        return leaves;
    }

    /// <summary>Labelled letters: twelve digits on first pages, ten digits on enclosures.</summary>
    public static IReadOnlyList<Leaf> Labelled()
    {
        var leaves = new List<Leaf>();
        for (var i = 0; i < 8; i++)
        {
            var (printed, label, _) = Slip(i);
            leaves.Add(
                new Leaf(
                    canvas =>
                    {
                        PageDrawing.Draw(canvas, PageDesigns.LabelledSlip, printed, new SKColor(0x11, 0x11, 0x11));
                        StackDrawing.Code(canvas, BarcodeFormat.CODE_128, label, SKRect.Create(330, 500, 200, 46));
                        PageDrawing.Plain(canvas, label, 330, 560, 9);
                    },
                    Begins: true,
                    Vanishes: false
                )
                {
                    Skew = i % 3 - 1,
                }
            );
            for (var k = 0; k < i % 3; k++)
                leaves.Add(Enclosure(i * 10 + k, $"77{i:0000}{k:0000}"));
        }
        return leaves;
    }

    /// <summary>Permits with a code of five values each, the second with a sketch behind it.</summary>
    public static IReadOnlyList<Leaf> Permits() =>
        [
            .. Enumerable
                .Range(0, 5)
                .SelectMany(i =>
                {
                    var (printed, code, _) = PermitPage(i);
                    var page = new Leaf(
                        canvas =>
                        {
                            PageDrawing.Draw(canvas, PageDesigns.Permit, printed, new SKColor(0x11, 0x11, 0x11));
                            StackDrawing.Code(canvas, BarcodeFormat.QR_CODE, code, SKRect.Create(400, 330, 110, 110));
                        },
                        Begins: true,
                        Vanishes: false
                    );
                    return i == 1 ? (Leaf[])[page, Enclosure(300, null)] : [page];
                }),
        ];

    /// <summary>Two notes of dangerous goods, scanned on both sides: three pages and two, with blank backs.</summary>
    public static IReadOnlyList<Leaf> Goods()
    {
        var leaves = new List<Leaf>();
        foreach (var (note, pages) in new[] { (107, 3), (108, 2) })
            for (var page = 1; page <= pages; page++)
            {
                var (number, of, n) = (page, pages, note);
                leaves.Add(
                    new Leaf(
                        canvas =>
                        {
                            if (number == 1)
                                PageDrawing.Draw(canvas, PageDesigns.GoodsNote, GoodsPrinted(n), new SKColor(0x11, 0x11, 0x11));
                            else
                                Prose(canvas, $"Dangerous Goods Note DG-2024-0{n}, list of packages", n + number);
                            PageDrawing.Plain(canvas, $"page {number} of {of}", 270, 780, 11);
                        },
                        page == 1,
                        Vanishes: false
                    )
                );
                leaves.Add(new Leaf(static _ => { }, Begins: false, Vanishes: true));
            }
        return leaves;
    }

    /// <summary>Cover sheets that a pen has filled, each before a page or two: the last has two boxes filled where one is asked.</summary>
    public static IReadOnlyList<Leaf> Covered(SheetPrint covers)
    {
        var leaves = new List<Leaf>();
        for (var row = 1; row <= covers.Rows.Count; row++)
        {
            var (own, boxes) = (row, SheetLayout.Of(covers, row).Boxes);
            leaves.Add(
                new Leaf(
                    canvas =>
                    {
                        SheetPdf.Draw(canvas, covers, own);
                        var random = new Random(own);
                        StackDrawing.Cross(canvas, boxes[own % boxes.Count], random);
                        if (own == covers.Rows.Count)
                            StackDrawing.Cross(canvas, boxes[(own + 1) % boxes.Count], random);
                    },
                    Begins: false,
                    Vanishes: true
                )
                {
                    Skew = own % 2 == 0 ? 1.2f : -0.7f,
                }
            );
            leaves.Add(Enclosure(400 + row, null) with { Begins = true });
            if (row % 2 == 0)
                leaves.Add(Enclosure(450 + row, null));
        }
        return leaves;
    }

    /// <summary>A separator or cover sheet as a side of a stack.</summary>
    public static Leaf Sheet(SheetPrint print, int row) => new(canvas => SheetPdf.Draw(canvas, print, row), Begins: false, Vanishes: true);

    /// <summary>A document of a page of values and pages of prose.</summary>
    public static IEnumerable<Leaf> Document(HarbourPage page, int pages, int seed)
    {
        yield return new Leaf(
            canvas => PageDrawing.Draw(canvas, page.Design, page.Printed, new SKColor(0x11, 0x11, 0x11)),
            Begins: true,
            Vanishes: false
        );
        for (var i = 1; i < pages; i++)
            yield return Enclosure(seed + i, null);
    }

    /// <summary>A page of prose, with a label of its own when it has one.</summary>
    public static Leaf Enclosure(int seed, string? label) =>
        new(
            canvas =>
            {
                Prose(canvas, "Enclosure", seed);
                if (label is null)
                    return;
                StackDrawing.Code(canvas, BarcodeFormat.CODE_128, label, SKRect.Create(330, 560, 180, 40));
                PageDrawing.Plain(canvas, label, 330, 612, 9);
            },
            Begins: false,
            Vanishes: false
        );

    private static void Prose(SKCanvas canvas, string heading, int seed)
    {
        var random = new Random(seed);
        PageDrawing.Plain(canvas, heading, 60, 90, 15);
        for (var y = 130; y < 520; y += 20)
            if (random.Next(7) > 0)
                PageDrawing.Plain(canvas, Sentences[random.Next(Sentences.Length)], 60, y, 11);
    }

    internal static Dictionary<string, string> GoodsPrinted(int note) =>
        new()
        {
            ["note-number"] = $"DG-2024-0{note}",
            ["vessel"] = HarbourNames.Fleet[note % HarbourNames.Fleet.Count].Name,
            ["un-number"] = "UN1203",
            ["class"] = "Class 3 Flammable liquids",
            ["loaded"] = "12.03.2024",
            ["shipper-signed"] = "yes",
            ["master-signed"] = "yes",
        };

    private static string Day(DateOnly day, string form) => day.ToString(form, CultureInfo.InvariantCulture);
}
