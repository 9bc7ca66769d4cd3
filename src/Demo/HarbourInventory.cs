using System.Globalization;
using System.Text;

namespace ClearLexicon.Demo;

/// <summary>
/// The legacy share of 1986–2014 as a list: semicolons, Windows-1252, and thirty years of naming habits. The same in every
/// run for a given number of rows.
/// </summary>
public static class HarbourInventory
{
    /// <summary>The headings.</summary>
    public static readonly string[] Columns =
    [
        "Path",
        "File name",
        "Modified",
        "Size",
        "Vessel",
        "LR no",
        "Berth",
        "Date in",
        "Date out",
        "Ref",
        "GT",
        "Remarks",
    ];

    /// <summary>Writes an inventory.</summary>
    public static void Write(string path, int rows)
    {
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        using var writer = new StreamWriter(path, append: false, Encoding.GetEncoding(1252), 1 << 16);
        foreach (var line in Lines(rows))
            writer.WriteLine(line);
    }

    /// <summary>The lines, heading first.</summary>
    public static IEnumerable<string> Lines(int rows)
    {
        var random = new Random(1914);
        yield return string.Join(';', Columns);
        var previous = "";
        for (var number = 1; number <= rows; number++)
        {
            // The same document registered twice, or copied to another drive.
            if (previous.Length > 0 && random.Next(60) == 0)
            {
                yield return random.Next(2) == 0 ? previous : previous.Replace(@"R:\", @"S:\Backup of R\", StringComparison.Ordinal);
                continue;
            }
            previous = Line(random, number, rows);
            yield return previous;
        }
    }

    private static string Line(Random random, int number, int rows)
    {
        var arrived = new DateOnly(1986, 1, 1).AddDays((int)((long)number * 10_500 / (rows + 1)));
        var vessel = HarbourNames.Fleet[random.Next(HarbourNames.Fleet.Count)];
        var berth = HarbourNames.Berths[random.Next(HarbourNames.Berths.Length)];
        var spelling = random.Next(3) > 0 ? berth.Variants[random.Next(berth.Variants.Length)] : berth.Label;
        var name = Misspell(random, vessel.Name);
        var reference = random.Next(100) switch
        {
            < 86 => $"VC-{arrived.Year}-{number % 100_000:00000}",
            < 93 => $"VC{arrived.Year % 100:00}/{number % 100_000}",
            _ => "",
        };
        var (path, file) = PathOf(random, arrived, name, spelling, reference);
        string[] cells =
        [
            path,
            file,
            arrived.AddDays(random.Next(40)).ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            random.Next(8_000, 900_000).ToString(),
            random.Next(20) == 0 ? "" : name,
            random.Next(100) switch
            {
                < 90 => vessel.Imo,
                < 92 => vessel.Imo[..5] + vessel.Imo[6] + vessel.Imo[5],
                _ => "",
            },
            random.Next(100) switch
            {
                < 76 => spelling,
                < 78 => "roads",
                _ => "",
            },
            random.Next(25) == 0 ? "" : Date(arrived),
            random.Next(100) switch
            {
                < 70 => Date(arrived.AddDays(random.Next(1, 8))),
                < 72 => Date(arrived.AddDays(-2)),
                _ => "",
            },
            reference,
            random.Next(4) == 0 ? ""
            : random.Next(3) == 0 ? vessel.Tonnage.ToString("#,##0", CultureInfo.InvariantCulture)
            : vessel.Tonnage.ToString(CultureInfo.InvariantCulture),
            random.Next(8) == 0 ? "see also dues; microfilmed" : "",
        ];
        return string.Join(';', cells.Select(c => c.Contains(';') ? $"\"{c}\"" : c));
    }

    private static (string Path, string File) PathOf(Random random, DateOnly arrived, string vessel, string berth, string reference)
    {
        string Day(string form) => arrived.ToString(form, CultureInfo.InvariantCulture);
        var (folder, file) = arrived.Year switch
        {
            < 1994 => (
                $@"R:\OLD\CALLS\{Day("yy")}",
                $"{string.Concat(vessel.ToUpperInvariant().Where(char.IsLetter)).PadRight(8)[..8].Trim()} {Day("yyMMdd")} {berth}.TIF"
            ),
            < 2004 => ($@"R:\Harbour\Vessel calls\{arrived.Year}\{Day("MMM")}", $"{vessel} {Day("d-MMM-yy")} {berth}.tif"),
            _ => (
                $@"R:\Shared\Port Ops\Ship visits\{arrived.Year}\{Day("MM")}",
                $"{(reference.Length > 0 ? reference.Replace('/', '_') : "no ref")} {vessel} {Day("yyyy-MM-dd")} {berth}.pdf"
            ),
        };
        if (random.Next(100) == 0)
            folder += string.Concat(Enumerable.Repeat(@"\copied from the old harbour office, do not delete, ask the registrar first", 4));
        return ($@"{folder}\{file}", file);
    }

    /// <summary>As the years wrote dates: <c>980403</c>, <c>3-Apr-98</c>, <c>2004-04-03</c>.</summary>
    private static string Date(DateOnly date) =>
        date.ToString(
            date.Year < 1994 ? "yyMMdd"
                : date.Year < 2004 ? "d-MMM-yy"
                : "yyyy-MM-dd",
            CultureInfo.InvariantCulture
        );

    private static string Misspell(Random random, string name)
    {
        switch (random.Next(12))
        {
            case 0:
                var at = random.Next(1, name.Length - 1);
                return name.Remove(at, 1);
            case 1:
                var words = name.Split(' ');
                return words.Length > 1 ? $"{words[0][..1]}. {string.Join(' ', words[1..])}" : name;
            case 2:
                return name.ToUpperInvariant();
            default:
                return name;
        }
    }
}
