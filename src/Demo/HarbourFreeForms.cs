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
    internal static readonly CleaningStep[] DottedDate = [new("squeeze-blanks"), new("read-date", "dd.MM.yyyy|d.M.yyyy")];
    internal static readonly CleaningStep[] None = [];
    private static readonly CleaningStep[] Number = [new("read-number", ".")];

    /// <summary>All of them: two of soundings, two of certificates, one permit with boxes, two notes of goods.</summary>
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
        HarbourGoodsForms.Signed,
        HarbourGoodsForms.Groups,
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

    internal static Finder Beside(string key, params string[] labels) => new(key, "beside") { Words = labels };

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

    internal static string Iso(DateOnly date) => date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
}
