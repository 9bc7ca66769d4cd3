using System.Globalization;
using System.Text.Json;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Formats;
using SkiaSharp;

namespace ClearLexicon.Demo;

/// <summary>A document whose values have no fixed place, with what is true of it.</summary>
/// <param name="Pages">Draws each page on a canvas of A4 in points.</param>
/// <param name="Truth">Values as they should be read, by field key.</param>
public sealed record FreeDocument(IReadOnlyList<Action<SKCanvas>> Pages, IReadOnlyDictionary<string, string> Truth);

/// <summary>A half-fixed design: how one is drawn, and how a careful steward has it read.</summary>
/// <param name="Key">Key of its reader.</param>
/// <param name="Name">Name of its reader.</param>
/// <param name="TypeCode">Document type it carries.</param>
/// <param name="Make">A document by its number, the same for the same number.</param>
public sealed record FreeForm(string Key, string Name, string TypeCode, Func<int, FreeDocument> Make)
{
    /// <summary>Words that every page of it has.</summary>
    public required IReadOnlyList<string> Clues { get; init; }

    /// <summary>Fields with the finders asked for them, in order, and how what they find is cleaned.</summary>
    public required IReadOnlyList<(string Field, Finder Finder, CleaningStep[] Steps)> Finders { get; init; }

    /// <summary>Regions for finders that need one, in points of A4.</summary>
    public IReadOnlyList<(string Finder, SKRect Place)> Regions { get; init; } = [];

    /// <summary>The reader, taught on the first document.</summary>
    public Reader Reader
    {
        get
        {
            var page = Path.GetTempFileName();
            try
            {
                HarbourFreeForms.Pdf(page, Make(0));
                var text = PageReading.TextLayer(page, 1);
                return new Reader(
                    Key,
                    Name,
                    TypeCode,
                    [.. Clues.Select(c => new Clue(c, HarbourReaders.Find(text, c)))],
                    [.. Regions.Select(r => new Zone(r.Finder, HarbourFreeForms.Share(r.Place)))],
                    [.. Finders.Select(f => new CrosswalkLine(f.Finder.Key, f.Field, f.Steps))]
                )
                {
                    Finders = [.. Finders.Select(f => f.Finder)],
                };
            }
            finally
            {
                File.Delete(page);
            }
        }
    }
}

/// <summary>
/// Pages as offices really send them: a letter, tables that go on, boxes to fill and places to sign. What stands above a value moves it
/// down the page.
/// </summary>
public static class HarbourFreeForms
{
    private static readonly string[] Areas =
    [
        "Merrow Deeps",
        "Coal Quay Approach",
        "Outer Roads",
        "Saltby Bank",
        "Tanker Basin",
        "East Channel",
    ];
    private static readonly string[] Bottoms = ["sand", "mud", "rock", "sand and shells", "soft mud", "", "gravel"];
    private static readonly string[] Works = ["Welding a rail", "Grinding a plate", "Cutting a pipe", "Brazing a valve"];

    private static readonly string[] Fillers =
    [
        "With reference to the order of the Harbour Board of last spring,",
        "and after the examination held in the Board Room at Quayside House,",
        "in the presence of the Harbour Master and of two wardens,",
        "as the bye-laws of the Authority require of every applicant,",
        "the fee having been paid to the Port Cashier,",
    ];

    private static readonly CleaningStep[] SpokenDate = [new("squeeze-blanks"), new("read-date", "d MMMM yyyy|d MMM yyyy")];
    private static readonly CleaningStep[] DottedDate = [new("squeeze-blanks"), new("read-date", "dd.MM.yyyy|d.M.yyyy")];
    private static readonly CleaningStep[] None = [];
    private static readonly CleaningStep[] Number = [new("read-number", ".")];

    /// <summary>All of them: two of soundings, two of certificates, one permit with boxes, one note with signatures.</summary>
    public static IReadOnlyList<FreeForm> All { get; } =
    [
        new("sounding-survey", "Sounding sheet, survey office", "sounding-sheet", n => Soundings(n, ruled: false))
        {
            Clues = ["Sounding Sheet", "Hydrographic Survey", "Depth"],
            Finders =
            [
                ("sheet-number", Beside("sheet-number-beside", "Sheet No", "Sheet Nr"), [new("look-alikes")]),
                ("sheet-number", new Finder("sheet-number-shape", "shape") { Shape = "pattern", Pattern = "SS-[0-9]{5}" }, None),
                ("area", Beside("area-beside", "Area surveyed"), None),
                ("surveyed", Beside("surveyed-beside", "Date of survey"), None),
                ("soundings", Table("soundings-rows", ["Point"], ["Depth in m", "Depth"], ["Remarks"]), None),
            ],
        },
        new("sounding-leadsman", "Sounding sheet, leadsman’s book", "sounding-sheet", n => Soundings(n, ruled: true))
        {
            Clues = ["Leadsman's Book", "Fathomed", "Soundings taken"],
            Finders =
            [
                ("sheet-number", Beside("sheet-number-beside", "Leaf"), [new("look-alikes")]),
                ("area", Beside("area-beside", "Soundings taken in") with { Side = Side.Below }, None),
                ("surveyed", Beside("surveyed-beside", "on the"), None),
                ("soundings", Table("soundings-rows", ["Mark"], ["Metres"], ["Bottom found"]), None),
            ],
        },
        new("certificate-letter", "Pilotage certificate, letter", "pilotage-certificate", n => Certificate(n, formal: false))
        {
            Clues = ["Pilotage Certificate", "hereby certify", "Harbour Master"],
            Finders = CertificateFinders("born on", "issued on", "until", "holds a certificate", "of the class"),
        },
        new("certificate-deed", "Pilotage certificate, deed", "pilotage-certificate", n => Certificate(n, formal: true))
        {
            Clues = ["Know all men", "Board of Pilotage", "Given under our hand"],
            Finders = CertificateFinders("whose birth was on", "Given under our hand on", "lapses on", "is admitted", "is admitted as"),
        },
        new("permit-boxes", "Hot work permit with boxes", "hot-work-permit", Permit)
        {
            Clues = ["Permit for Hot Work", "Fire precautions", "Place of work"],
            Finders =
            [
                ("permit-number", new Finder("permit-number-shape", "shape") { Shape = "pattern", Pattern = "HW-[0-9]{4}-[0-9]{3}" }, None),
                ("berth", new Finder("berth-list", "list"), None),
                ("work", Beside("work-beside", "Work to be done"), None),
                ("valid-from", Beside("valid-from-beside", "From"), DottedDate),
                ("valid-to", Beside("valid-to-beside", "Until"), DottedDate),
                ("gas-free", new Finder("gas-free-mark", "mark"), None),
                ("fire-watch", new Finder("fire-watch-mark", "mark"), None),
                ("responsible", Beside("responsible-beside", "Responsible"), None),
            ],
            Regions = [("gas-free-mark", new SKRect(250, 364, 420, 392)), ("fire-watch-mark", new SKRect(250, 396, 420, 424))],
        },
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
        },
    ];

    /// <summary>Draws a document as a PDF with text.</summary>
    public static void Pdf(string path, FreeDocument document)
    {
        using var file = File.Create(path);
        using var pdf = SKDocument.CreatePdf(file);
        foreach (var draw in document.Pages)
        {
            using (var canvas = pdf.BeginPage(PageDrawing.Width, PageDrawing.Height))
                draw(canvas);
            pdf.EndPage();
        }
        pdf.Close();
    }

    internal static Box Share(SKRect r) =>
        new(r.Left / PageDrawing.Width, r.Top / PageDrawing.Height, r.Width / PageDrawing.Width, r.Height / PageDrawing.Height);

    private static Finder Beside(string key, params string[] labels) => new(key, "beside") { Words = labels };

    private static Finder Table(string key, string[] point, string[] depth, string[] remark) =>
        new(key, "rows")
        {
            Columns = [new RowColumn("point", point), new RowColumn("depth", depth), new RowColumn("remark", remark)],
            Words = ["Least depth", "Shoalest"],
            LeftOut = ["Carried forward", "Brought forward"],
        };

    private static (string, Finder, CleaningStep[])[] CertificateFinders(
        string born,
        string issued,
        string expires,
        string holder,
        string kind
    ) =>
        [
            ("certificate-number", new Finder("certificate-number-shape", "shape") { Shape = "pattern", Pattern = "PC-[0-9]{4}" }, None),
            (
                "holder",
                new Finder("holder-beside", "beside")
                {
                    Words = [holder],
                    Side = Side.Left,
                    Shape = "text",
                },
                None
            ),
            ("date-of-birth", Nearest("date-of-birth-shape", born), SpokenDate),
            ("issued", Nearest("issued-shape", issued), SpokenDate),
            ("expires", Nearest("expires-shape", expires), SpokenDate),
            ("class", Beside("class-beside", kind), None),
            ("tonnage-limit", new Finder("tonnage-limit-beside", "beside") { Words = ["gross tons"], Side = Side.Left }, Number),
            ("examiner", Beside("examiner-beside", "Examiner"), None),
        ];

    private static Finder Nearest(string key, string words) =>
        new(key, "shape")
        {
            Shape = "date",
            Which = Which.Nearest,
            Words = [words],
        };

    private static FreeDocument Soundings(int number, bool ruled)
    {
        var random = new Random(7000 + number * 104_729 + (ruled ? 1 : 0));
        var (area, day) = (Areas[random.Next(Areas.Length)], new DateOnly(2024, 1, 1).AddDays(random.Next(300)));
        var rows = Enumerable
            .Range(1, random.Next(6, 44))
            .Select(i =>
                (
                    Point: $"{(char)('A' + i / 12)}{i % 12 + 1}",
                    Depth: $"{random.Next(12, 260) / 10m:0.0}",
                    Remark: Bottoms[random.Next(Bottoms.Length)]
                )
            )
            .ToList();
        var (sheet, above) = ($"SS-{number + 300:00000}", random.Next(0, 4));
        const int OnPage = 26;
        var pages = new List<Action<SKCanvas>>();
        for (var from = 0; from < rows.Count; from += OnPage)
        {
            var (here, first, last) = (rows.Skip(from).Take(OnPage).ToList(), from == 0, from + OnPage >= rows.Count);
            pages.Add(canvas =>
            {
                var pen = new Pen(canvas);
                pen.Write(ruled ? "Leadsman's Book" : "Sounding Sheet", 48, 80, 18);
                pen.Write(ruled ? "Fathomed for the Harbour Master" : "Merrowmouth Harbour Authority, Hydrographic Survey", 48, 52, 10);
                var y = 110f;
                if (first)
                {
                    for (var i = 0; i < above; i++, y += 16)
                        pen.Write(Fillers[(number + i) % Fillers.Length], 48, y, 10);
                    if (ruled)
                    {
                        pen.Write($"Leaf {sheet}", 430, y, 11);
                        pen.Write($"on the {day:d/M/yyyy}", 430, y + 22, 11);
                        pen.Write("Soundings taken in", 48, y, 10);
                        pen.Write(area, 48, y + 18, 12);
                        y += 56;
                    }
                    else
                    {
                        pen.Write($"Sheet No.: {sheet}", 48, y, 11);
                        pen.Write($"Area surveyed: {area}", 48, y + 20, 11);
                        pen.Write($"Date of survey: {day.ToString("d/M/yyyy", CultureInfo.InvariantCulture)}", 330, y + 20, 11);
                        y += 58;
                    }
                }
                else
                    pen.Write($"Soundings taken in, continued: {sheet}", 48, y - 10, 10);
                y += first ? 0 : 20;
                float[] x = ruled ? [60, 180, 300] : [52, 160, 260];
                string[] heads = ruled ? ["Mark", "Metres", "Bottom found"] : ["Point", "Depth in m", "Remarks"];
                for (var i = 0; i < 3; i++)
                    pen.Write(heads[i], x[i], y, 10);
                pen.Line(48, y + 5, 547, y + 5);
                var top = y + 5;
                foreach (var row in here)
                {
                    y += 20;
                    pen.Write(row.Point, x[0], y, 11);
                    pen.Write(row.Depth, x[1], y, 11);
                    pen.Write(row.Remark, x[2], y, 11);
                    if (ruled)
                        pen.Line(48, y + 6, 547, y + 6);
                }
                if (ruled)
                    foreach (var line in (float[])[48, 168, 288, 547])
                        pen.Line(line, top, line, y + 6);
                if (last)
                    pen.Write(
                        $"{(ruled ? "Shoalest" : "Least depth")} {rows.Min(r => decimal.Parse(r.Depth, CultureInfo.InvariantCulture)):0.0}",
                        x[0],
                        y + 30,
                        11
                    );
                else
                    pen.Write("Carried forward", x[0], y + 24, 10);
            });
        }
        return new FreeDocument(
            pages,
            new Dictionary<string, string>
            {
                ["sheet-number"] = sheet,
                ["area"] = area,
                ["surveyed"] = day.ToString("d/M/yyyy", CultureInfo.InvariantCulture),
                ["soundings"] = JsonSerializer.Serialize(
                    rows.Select(r =>
                        new Dictionary<string, string>
                        {
                            ["point"] = r.Point,
                            ["depth"] = r.Depth,
                            ["remark"] = r.Remark,
                        }
                            .Where(c => c.Value.Length > 0)
                            .ToDictionary()
                    )
                ),
            }
        );
    }

    private static FreeDocument Certificate(int number, bool formal)
    {
        var random = new Random(8000 + number * 104_729 + (formal ? 1 : 0));
        var (holder, examiner) = (
            HarbourNames.Masters[random.Next(HarbourNames.Masters.Length)],
            HarbourNames.Masters[random.Next(HarbourNames.Masters.Length)]
        );
        var born = new DateOnly(1958, 1, 1).AddDays(random.Next(12_000));
        var issued = new DateOnly(2023, 1, 1).AddDays(random.Next(600));
        var expires = issued.AddYears(5);
        string[] classes = ["Cadet", "Mate", "Master"];
        var kind = classes[random.Next(3)];
        var (certificate, tons, above) = ($"PC-{random.Next(1000, 9999)}", random.Next(3, 90) * 1000, random.Next(0, 5));
        string Day(DateOnly day) => day.ToString("d MMMM yyyy", CultureInfo.InvariantCulture);
        void Draw(SKCanvas canvas)
        {
            var pen = new Pen(canvas);
            pen.Write(formal ? "Board of Pilotage of Merrowmouth" : "Merrowmouth Harbour Authority", 48, 52, 10);
            pen.Write(formal ? "Know all men by this deed" : "Pilotage Certificate", 48, 84, 18);
            var y = 130f;
            for (var i = 0; i < above; i++, y += 20)
                pen.Write(Fillers[(number + i) % Fillers.Length], 60, y, 11);
            string[] lines = formal
                ?
                [
                    $"that {holder}",
                    $"{holder} is admitted as {kind} to pilot vessels in these waters,",
                    $"whose birth was on {Day(born)}, of vessels up to {tons:#,##0} gross tons.",
                    $"This deed is entered as {certificate} in the book of the Board",
                    $"and lapses on {Day(expires)} unless it is renewed.",
                ]
                :
                [
                    "We hereby certify that after examination",
                    $"{holder} holds a certificate of the class {kind},",
                    $"No. {certificate}, born on {Day(born)},",
                    $"for vessels of up to {tons:#,##0} gross tons.",
                    $"It was issued on {Day(issued)} and is good until {Day(expires)}.",
                ];
            foreach (var line in lines)
            {
                pen.Write(line, 60, y, 11);
                y += 24;
            }
            y += 30;
            if (formal)
                pen.Write($"Given under our hand on {Day(issued)}", 60, y, 11);
            pen.Write($"Examiner: {examiner}", 60, y + 30, 11);
            pen.Write("Harbour Master", 360, y + 30, 11);
        }
        return new FreeDocument(
            [Draw],
            new Dictionary<string, string>
            {
                ["certificate-number"] = certificate,
                ["holder"] = holder,
                ["date-of-birth"] = Iso(born),
                ["issued"] = Iso(issued),
                ["expires"] = Iso(expires),
                ["class"] = kind,
                ["tonnage-limit"] = tons.ToString(CultureInfo.InvariantCulture),
                ["examiner"] = examiner,
            }
        );
    }

    private static FreeDocument Permit(int number)
    {
        var random = new Random(9000 + number * 104_729);
        var (berth, work) = (HarbourNames.Berths[random.Next(HarbourNames.Berths.Length)].Label, Works[random.Next(Works.Length)]);
        var from = new DateOnly(2024, 1, 1).AddDays(random.Next(350));
        var (to, gas, watch) = (from.AddDays(random.Next(2)), random.Next(2) == 0, random.Next(2) == 0);
        var (permit, responsible) = ($"HW-2024-{number + 200:000}", HarbourNames.Masters[random.Next(HarbourNames.Masters.Length)]);
        var down = random.Next(0, 40);
        void Draw(SKCanvas canvas)
        {
            var pen = new Pen(canvas);
            var hand = new Random(9000 + number * 104_729);
            pen.Write("Merrowmouth Harbour Authority, Fire Office", 48, 52, 10);
            pen.Write("Permit for Hot Work", 48, 84, 18);
            pen.Write($"No. {permit}", 430, 84 + down / 4f, 11);
            pen.Write("Place of work:", 48, 130 + down, 10);
            pen.Write(berth, 150 + down, 130 + down, 11);
            pen.Write("Work to be done:", 48, 160 + down, 10);
            pen.Write(work, 150 + down, 160 + down, 11);
            pen.Write($"From: {from:dd.MM.yyyy}", 48, 200 + down, 11);
            pen.Write($"Until: {to:dd.MM.yyyy}", 250, 200 + down, 11);
            pen.Write($"Responsible: {responsible}", 48, 240 + down, 11);
            pen.Write("Fire precautions", 48, 340, 13);
            pen.Line(48, 346, 547, 346);
            pen.Write("Gas-free certificate seen", 60, 382, 11);
            pen.Box(260, 372, 12);
            pen.Write("yes", 278, 382, 11);
            pen.Box(330, 372, 12);
            pen.Write("no", 348, 382, 11);
            pen.Mark(gas ? 260 : 330, 372, 12, hand);
            pen.Write("Fire watch posted", 60, 414, 11);
            pen.Box(260, 404, 12);
            if (watch)
                pen.Mark(260, 404, 12, hand);
        }
        return new FreeDocument(
            [Draw],
            new Dictionary<string, string>
            {
                ["permit-number"] = permit,
                ["berth"] = berth,
                ["work"] = work,
                ["valid-from"] = Iso(from),
                ["valid-to"] = Iso(to),
                ["gas-free"] = gas ? "yes" : "no",
                ["fire-watch"] = watch ? "yes" : "no",
                ["responsible"] = responsible,
            }
        );
    }

    private static FreeDocument Goods(int number)
    {
        var random = new Random(9500 + number * 104_729);
        var vessel = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)].Name;
        var all = HarbourVocabularies.All.First(v => v.Key == "dangerous-goods").Terms;
        var leaves = all.Where(t => !all.Any(o => o.Broader.Contains(t.Id!))).ToList();
        var (term, loaded) = (leaves[random.Next(leaves.Count)], new DateOnly(2024, 1, 1).AddDays(random.Next(350)));
        var un = $"UN{random.Next(1000, 3400)}";
        var boxes = Enumerable
            .Range(0, random.Next(1, 9))
            .Select(_ => (Number: Container(random), Packages: random.Next(1, 400), Mass: random.Next(200, 24_000)))
            .ToList();
        var (shipper, master, note) = (random.Next(2) == 0, random.Next(2) == 0, $"DG-2024-{number + 3000:0000}");
        void Draw(SKCanvas canvas)
        {
            var (pen, hand) = (new Pen(canvas), new Random(9500 + number * 104_729));
            pen.Write("Shippers of Merrowmouth", 48, 52, 10);
            pen.Write("Declaration of Dangerous Goods", 48, 84, 18);
            pen.Write($"Declaration No. {note}", 380, 110, 11);
            pen.Write($"To be shipped in {vessel}", 48, 140, 11);
            pen.Write($"Loaded: {loaded:dd.MM.yyyy}", 380, 140, 11);
            pen.Write($"{un}, {term.Label}", 48, 166, 11);
            pen.Write("Containers", 48, 204, 13);
            float[] x = [52, 220, 340];
            string[] heads = ["Container number", "Packages", "Mass kg"];
            for (var i = 0; i < 3; i++)
                pen.Write(heads[i], x[i], 226, 10);
            pen.Line(48, 231, 547, 231);
            var y = 231f;
            foreach (var box in boxes)
            {
                y += 20;
                pen.Write(box.Number, x[0], y, 11);
                pen.Write(box.Packages.ToString(CultureInfo.InvariantCulture), x[1], y, 11);
                pen.Write(box.Mass.ToString("#,##0", CultureInfo.InvariantCulture), x[2], y, 11);
            }
            pen.Write($"Total mass {boxes.Sum(b => b.Mass):#,##0}", x[0], y + 28, 11);
            pen.Line(52, 738, 270, 738);
            pen.Write("Signature of shipper", 52, 754, 9);
            pen.Line(324, 738, 540, 738);
            pen.Write("Signature of master", 324, 754, 9);
            if (shipper)
                pen.Sign(80, 725, hand);
            if (master)
                pen.Sign(350, 725, hand);
        }
        return new FreeDocument(
            [Draw],
            new Dictionary<string, string>
            {
                ["note-number"] = note,
                ["vessel"] = vessel,
                ["un-number"] = un,
                ["class"] = term.Label,
                ["loaded"] = Iso(loaded),
                ["containers"] = JsonSerializer.Serialize(
                    boxes.Select(b => new Dictionary<string, string>
                    {
                        ["container"] = b.Number,
                        ["packages"] = b.Packages.ToString(CultureInfo.InvariantCulture),
                        ["mass"] = b.Mass.ToString(CultureInfo.InvariantCulture),
                    })
                ),
                ["shipper-signed"] = shipper ? "yes" : "no",
                ["master-signed"] = master ? "yes" : "no",
            }
        );
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

    private static string Iso(DateOnly date) => date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    // What is printed and what a hand adds.
    private sealed class Pen(SKCanvas canvas)
    {
        public void Write(string text, float x, float y, float size) => PageDrawing.Plain(canvas, text, x, y, size);

        public void Line(float x1, float y1, float x2, float y2)
        {
            using var paint = Stroke(0.8f, new SKColor(0x33, 0x33, 0x33));
            canvas.DrawLine(x1, y1, x2, y2, paint);
        }

        public void Box(float x, float y, float side)
        {
            using var paint = Stroke(0.9f, new SKColor(0x22, 0x22, 0x22));
            canvas.DrawRect(x, y, side, side, paint);
        }

        // A cross, a tick or a blot.
        public void Mark(float x, float y, float side, Random random)
        {
            using var paint = Stroke(1.5f, new SKColor(0x1a, 0x2a, 0x6a));
            float At(float share) => side * share + (float)(random.NextDouble() - 0.5) * 2;
            switch (random.Next(3))
            {
                case 0:
                    canvas.DrawLine(x + At(0.05f), y + At(0.05f), x + At(0.95f), y + At(0.95f), paint);
                    canvas.DrawLine(x + At(0.95f), y + At(0.05f), x + At(0.05f), y + At(0.95f), paint);
                    break;
                case 1:
                    canvas.DrawLine(x + At(0.1f), y + At(0.5f), x + At(0.4f), y + At(0.9f), paint);
                    canvas.DrawLine(x + At(0.4f), y + At(0.9f), x + At(1.1f), y + At(-0.2f), paint);
                    break;
                default:
                    for (var i = 0; i < 6; i++)
                        canvas.DrawLine(x + At(0.2f), y + At(0.2f + i * 0.1f), x + At(0.8f), y + At(0.2f + i * 0.1f), paint);
                    break;
            }
        }

        public void Sign(float x, float y, Random random)
        {
            using var paint = Stroke(1.3f, new SKColor(0x1a, 0x2a, 0x6a));
            using var path = new SKPathBuilder();
            path.MoveTo(x, y);
            for (var i = 0; i < 9; i++)
                path.QuadTo(x + i * 14 + random.Next(4, 12), y + random.Next(-24, 14), x + (i + 1) * 14, y + random.Next(-10, 8));
            using var drawn = path.Detach();
            canvas.DrawPath(drawn, paint);
        }

        private static SKPaint Stroke(float width, SKColor colour) =>
            new()
            {
                Color = colour,
                IsStroke = true,
                StrokeWidth = width,
                StrokeCap = SKStrokeCap.Round,
                IsAntialias = true,
            };
    }
}
