using System.Globalization;
using BitMiracle.LibTiff.Classic;
using SkiaSharp;

namespace ClearLexicon.Demo;

/// <summary>An incoming page with what is true of it.</summary>
/// <param name="FileName">File name.</param>
/// <param name="Design">Its page design.</param>
/// <param name="Scan">Whether it is a scan.</param>
/// <param name="Printed">Values as printed.</param>
/// <param name="Truth">Values as they should be read, by field key.</param>
public sealed record HarbourPage(
    string FileName,
    PageDesign Design,
    bool Scan,
    IReadOnlyDictionary<string, string> Printed,
    IReadOnlyDictionary<string, string> Truth
);

/// <summary>
/// The incoming pages: 24 PDFs with text and 16 scans, among them a wrong check digit, sailed before arrived, a sum that
/// does not add up, an unknown berth, a repeated number and a page of no known design. The same in every run.
/// </summary>
public static class HarbourDocuments
{
    private const int Seed = 1986;

    /// <summary>The 40 pages that come in.</summary>
    public static IReadOnlyList<HarbourPage> Incoming()
    {
        var random = new Random(Seed);
        var pages = new List<HarbourPage>();
        for (var i = 0; i < 39; i++)
        {
            // 16 scans; the 23 PDFs and the page of no known design make 24.
            var scan = i % 5 is 1 or 3;
            var design = PageDesigns.Known[i % 2 * 2 + i / 2 % 2];
            pages.Add(i % 2 == 0 ? Call(random, i + 1, design, scan, 2024) : Dues(random, i + 1, design, scan, 2024));
        }
        pages.Add(
            new HarbourPage(
                "040 weather bulletin.pdf",
                PageDesigns.Unknown,
                false,
                new Dictionary<string, string>
                {
                    ["area"] = "Merrow Deeps",
                    ["wind"] = "South-west 5",
                    ["sea"] = "Moderate",
                    ["outlook"] = "Rain later",
                },
                new Dictionary<string, string>()
            )
        );
        Spoil(pages);
        return pages;
    }

    /// <summary>Twelve sound pages of the year before, which the demo files at once.</summary>
    public static IReadOnlyList<HarbourPage> AlreadyFiled()
    {
        var random = new Random(Seed + 1);
        return
        [
            .. Enumerable
                .Range(0, 12)
                .Select(i =>
                    i % 2 == 0
                        ? Call(random, 500 + i, PageDesigns.Known[i / 2 % 2], false, 2023)
                        : Dues(random, 500 + i, PageDesigns.Known[2 + i / 2 % 2], false, 2023)
                ),
        ];
    }

    /// <summary>Samples for teaching a reader: PDFs and scans of its design that are not among the incoming.</summary>
    public static IReadOnlyList<HarbourPage> Samples(PageDesign design, int pdfs, int scans)
    {
        var random = new Random(Seed + 2 + PageDesigns.Known.ToList().IndexOf(design));
        return
        [
            .. Enumerable
                .Range(0, pdfs + scans)
                .Select(i =>
                    design.TypeCode == "vessel-call-record"
                        ? Call(random, 800 + i, design, i >= pdfs, 2022)
                        : Dues(random, 800 + i, design, i >= pdfs, 2022)
                ),
        ];
    }

    /// <summary>Draws a page into a folder.</summary>
    public static void Draw(HarbourPage page, string folder)
    {
        var path = Path.Combine(folder, page.FileName);
        if (!page.Scan)
        {
            PageDrawing.Pdf(path, page.Design, page.Printed);
            return;
        }
        var random = new Random(StableSeed(page.FileName));
        var faint = random.Next(4) == 0;
        using var bitmap = PageDrawing.Scan(
            page.Design,
            page.Printed,
            (float)(random.NextDouble() * 4 - 2),
            faint ? (byte)120 : (byte)40,
            random.Next(150, 500),
            random
        );
        if (path.EndsWith(".tif", StringComparison.Ordinal))
        {
            Tiff(path, bitmap);
            return;
        }
        using var data = bitmap.Encode(
            path.EndsWith(".jpg", StringComparison.Ordinal) ? SKEncodedImageFormat.Jpeg : SKEncodedImageFormat.Png,
            82
        );
        using var file = File.Create(path);
        data.SaveTo(file);
    }

    /// <summary>Draws a page on a canvas of A4 in points.</summary>
    public static void Draw(SKCanvas canvas, HarbourPage page) =>
        PageDrawing.Draw(canvas, page.Design, page.Printed, new SKColor(0x11, 0x11, 0x11));

    /// <summary>A day's post: sound pages of the days before it, the same in every run but for their dates.</summary>
    /// <param name="post">Which post, from 0.</param>
    /// <param name="day">The day on which it comes.</param>
    /// <param name="pages">How many pages, 10 at most.</param>
    public static IReadOnlyList<HarbourPage> Post(int post, DateOnly day, int pages)
    {
        var random = new Random(Seed + 100 + post);
        return
        [
            .. Enumerable
                .Range(0, pages)
                .Select(i =>
                {
                    var number = 1_000 + post * 10 + i;
                    var design = PageDesigns.Known[random.Next(5) < 3 ? i % 2 : 2 + i % 2];
                    return design.TypeCode == "vessel-call-record"
                        ? Call(random, number, design, false, day.Year, day.AddDays(-10 - random.Next(6)))
                        : Dues(random, number, design, false, day.Year, day.AddDays(-1 - random.Next(6)));
                }),
        ];
    }

    /// <summary>A page with another value, printed so.</summary>
    internal static HarbourPage With(HarbourPage page, string field, string value)
    {
        var truth = page.Truth.ToDictionary(v => v.Key, v => v.Value);
        truth[field] = value;
        return page with { Truth = truth, Printed = truth.ToDictionary(v => v.Key, v => Print(v.Key, v.Value, page.Design)) };
    }

    private static HarbourPage Call(Random random, int number, PageDesign design, bool scan, int year, DateOnly? on = null)
    {
        var vessel = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)];
        var arrived = on ?? new DateOnly(year, 1, 1).AddDays(random.Next(360));
        var pilot = random.Next(2) == 0;
        var truth = new Dictionary<string, string>
        {
            ["call-number"] = $"VC-{year}-{number:00000}",
            ["vessel"] = vessel.Name,
            ["imo"] = vessel.Imo,
            ["vessel-type"] = vessel.Type,
            ["berth"] = HarbourNames.Berths[random.Next(HarbourNames.Berths.Length)].Label,
            ["arrived"] = Iso(arrived),
            ["sailed"] = Iso(arrived.AddDays(random.Next(1, 9))),
            ["gross-tonnage"] = vessel.Tonnage.ToString(CultureInfo.InvariantCulture),
            ["agent"] = HarbourNames.Agents[random.Next(HarbourNames.Agents.Length)],
            ["master"] = HarbourNames.Masters[random.Next(HarbourNames.Masters.Length)],
            ["pilot-used"] = pilot ? "yes" : "no",
        };
        if (pilot)
            truth["pilot-certificate"] = $"PC-{random.Next(1000, 9999)}";
        return Page(number, "call record", design, scan, truth);
    }

    private static HarbourPage Dues(Random random, int number, PageDesign design, bool scan, int year, DateOnly? on = null)
    {
        var issued = on ?? new DateOnly(year, 1, 1).AddDays(random.Next(330));
        decimal berth = random.Next(200, 9000) + random.Next(100) / 100m,
            pilotage = random.Next(100, 2500) + random.Next(100) / 100m,
            waste = random.Next(20, 400) + random.Next(100) / 100m;
        var tax = Math.Round((berth + pilotage + waste) * 0.2m, 2);
        return Page(
            number,
            "dues",
            design,
            scan,
            new Dictionary<string, string>
            {
                ["statement-number"] = $"HD-{year % 100}{number:0000}",
                ["payer"] = HarbourNames.Payers[random.Next(HarbourNames.Payers.Length)],
                ["vessel"] = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)].Name,
                ["issued"] = Iso(issued),
                ["due"] = Iso(issued.AddDays(30)),
                ["berth-dues"] = Amount(berth),
                ["pilotage"] = Amount(pilotage),
                ["waste"] = Amount(waste),
                ["tax"] = Amount(tax),
                ["total"] = Amount(berth + pilotage + waste + tax),
                ["account"] = HarbourNames.Account(random),
            }
        );
    }

    private static HarbourPage Page(int number, string what, PageDesign design, bool scan, Dictionary<string, string> truth)
    {
        var extension = !scan
            ? "pdf"
            : (number % 4) switch
            {
                0 => "tif",
                1 => "jpg",
                _ => "png",
            };
        return new HarbourPage(
            $"{number:000} {what}.{extension}",
            design,
            scan,
            truth.ToDictionary(v => v.Key, v => Print(v.Key, v.Value, design)),
            truth
        );
    }

    /// <summary>
    /// How a value stands on paper: dates in the design's form, amounts with thousands, the ship number behind its letters.
    /// </summary>
    private static string Print(string field, string value, PageDesign design) =>
        field switch
        {
            "arrived" or "sailed" or "issued" or "due" => DateOnly
                .ParseExact(value, "yyyy-MM-dd", CultureInfo.InvariantCulture)
                .ToString(design.DateForm, CultureInfo.InvariantCulture),
            "imo" => design.Boxed ? value : $"IMO {value}",
            "gross-tonnage" => design.Boxed ? value : $"{value} GT",
            "berth-dues" or "pilotage" or "waste" or "tax" or "total" => decimal.Parse(value, CultureInfo.InvariantCulture)
                .ToString("#,##0.00", CultureInfo.InvariantCulture),
            _ => value,
        };

    /// <summary>Puts in the mistakes that the rules must find; what is printed stays the truth of what should be read.</summary>
    private static void Spoil(List<HarbourPage> pages)
    {
        var calls = pages.Where(p => p.Design.TypeCode == "vessel-call-record" && !p.Scan).ToList();
        var dues = pages.Where(p => p.Design.TypeCode == "harbour-dues-statement" && !p.Scan).ToList();
        Replace(
            calls[1],
            "imo",
            calls[1].Truth["imo"][..6] + (calls[1].Truth["imo"][6] == '9' ? '0' : (char)(calls[1].Truth["imo"][6] + 1))
        );
        Replace(
            calls[2],
            "sailed",
            Iso(DateOnly.ParseExact(calls[2].Truth["arrived"], "yyyy-MM-dd", CultureInfo.InvariantCulture).AddDays(-3))
        );
        Replace(calls[3], "berth", "West Basin 9");
        Replace(dues[1], "total", Amount(decimal.Parse(dues[1].Truth["total"], CultureInfo.InvariantCulture) + 90));
        Replace(dues[3], "statement-number", dues[2].Truth["statement-number"]);
        Replace(dues[3], "payer", dues[2].Truth["payer"]);

        void Replace(HarbourPage page, string field, string value)
        {
            var at = pages.FindIndex(p => p.FileName == page.FileName);
            pages[at] = With(pages[at], field, value);
        }
    }

    private static void Tiff(string path, SKBitmap bitmap)
    {
        using var tiff = BitMiracle.LibTiff.Classic.Tiff.Open(path, "w");
        tiff.SetField(TiffTag.IMAGEWIDTH, bitmap.Width);
        tiff.SetField(TiffTag.IMAGELENGTH, bitmap.Height);
        tiff.SetField(TiffTag.BITSPERSAMPLE, 8);
        tiff.SetField(TiffTag.SAMPLESPERPIXEL, 1);
        tiff.SetField(TiffTag.PHOTOMETRIC, Photometric.MINISBLACK);
        tiff.SetField(TiffTag.COMPRESSION, Compression.LZW);
        tiff.SetField(TiffTag.ROWSPERSTRIP, 64);
        tiff.SetField(TiffTag.XRESOLUTION, 200.0);
        tiff.SetField(TiffTag.YRESOLUTION, 200.0);
        tiff.SetField(TiffTag.RESOLUTIONUNIT, ResUnit.INCH);
        var row = new byte[bitmap.Width];
        var pixels = bitmap.GetPixelSpan();
        for (var y = 0; y < bitmap.Height; y++)
        {
            for (var x = 0; x < row.Length; x++)
                row[x] = pixels[y * bitmap.RowBytes + x * 4];
            tiff.WriteScanline(row, y);
        }
    }

    private static int StableSeed(string text) => text.Aggregate(Seed, (seed, c) => unchecked(seed * 31 + c));

    private static string Iso(DateOnly date) => date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    private static string Amount(decimal amount) => amount.ToString("0.00", CultureInfo.InvariantCulture);
}
