using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Xml;
using System.Xml.Linq;
using System.Xml.Schema;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.TestSupport;
using Microsoft.VisualBasic.FileIO;
using MiniExcelLibs;

namespace ClearLexicon.Formats.Tests;

/// <summary>Records that leave, read back by other programs' means: what was in a cell is in the cell, whatever it was.</summary>
public sealed class RecordFilesTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("records").FullName;

    private static readonly RecordColumn[] Columns =
    [
        new("Document", "@name", FieldKind.Text),
        new("Agent; or \"broker\"", "agent", FieldKind.Text),
        new("Arrived", "arrived", FieldKind.Date),
        new("Crew", "crew", FieldKind.WholeNumber),
        new("Draught", "draught", FieldKind.Decimal),
        new("Fee", "fee", FieldKind.Amount),
        new("At", "at", FieldKind.Time),
        new("Pilot", "pilot", FieldKind.YesNo),
        new("Stay", "stay", FieldKind.Duration),
        new("Page", "page", FieldKind.WebAddress),
        new("Cargo", "cargo", FieldKind.Terms),
        new("Services", "services", FieldKind.Table, [new("What", "what", FieldKind.Text), new("Rate", "rate", FieldKind.Decimal)]),
    ];

    // What breaks files elsewhere: quotes, separators, line ends, formulas, controls, half characters, markup, letters beyond the first
    // plane.
    private static readonly string[] Pieces =
    [
        "Grey Heron",
        "\"",
        ",",
        ";",
        "\n",
        "\r\n",
        "\t",
        "=1+1",
        "@SUM(A1)",
        "-cmd",
        "+",
        "'",
        "<b>",
        "&amp;",
        "]]>",
        "\u0001",
        "\ud83d",
        "\U0001F6A2",
        "Größe",
        " ",
        "\u2028",
        "\ufffe",
        "0",
        "NULL",
        "\\",
        "{}",
        "%",
    ];

    private static string AnyText(Random random) =>
        string.Concat(Enumerable.Range(0, random.Next(0, 6)).Select(_ => Pieces[random.Next(Pieces.Length)]));

    private static RecordRow AnyRow(int id, Random random)
    {
        string Sometimes(string text) => random.Next(5) == 0 ? "" : text;
        // A value that breaks its kind leaves as it was written.
        string Or(string text) => random.Next(8) == 0 ? AnyText(random) : Sometimes(text);
        var lines = Enumerable
            .Range(0, random.Next(0, 4))
            .Select(i => $"{{\"what\":{JsonSerializer.Serialize(CodePoints.Repaired(AnyText(random)))},\"rate\":\"{i}.5\"}}");
        return new RecordRow(
            id,
            [
                $"{id}.pdf",
                AnyText(random),
                Or(new DateOnly(1890 + random.Next(200), 1 + random.Next(12), 1 + random.Next(28)).ToString("yyyy-MM-dd")),
                Or($"{random.Next(-50, 5_000)}"),
                Or($"{random.Next(0, 99)}.{random.Next(10, 99)}"),
                Or($"{random.Next(1, 999)}.50 EUR"),
                Or($"{random.Next(24):00}:{random.Next(60):00}"),
                Or(random.Next(2) == 0 ? "yes" : "no"),
                Or(FieldKind.Duration.Parse($"{random.Next(40)} d {random.Next(99)} min").Text),
                Or($"https://größe.example/rufe/{random.Next(99)}?q=ä"),
                Sometimes("Coal; Timber, sawn;  Salt"),
                $"[{string.Join(',', lines)}]",
            ]
        );
    }

    private static readonly List<RecordRow> Rows = [.. Enumerable.Range(1, 400 * Larger.By).Select(i => AnyRow(i, new Random(i)))];

    private string Written(RecordFormat format, RecordShape? shape = null)
    {
        var path = Path.Combine(_folder, $"records{RecordFiles.Extension(format)}");
        RecordFiles.Write(path, format, "call", Columns, shape ?? new RecordShape(), Rows);
        return path;
    }

    [Theory]
    [InlineData("yyyy-MM-dd", false)]
    [InlineData("d MMMM yyyy", true)]
    public void A_spreadsheet_reads_every_cell_of_the_csv_as_text_and_runs_none(string dates, bool comma)
    {
        var shape = new RecordShape(dates, comma);
        using var parser = new TextFieldParser(Written(RecordFormat.Csv, shape), Encoding.UTF8)
        {
            Delimiters = [","],
            HasFieldsEnclosedInQuotes = true,
            TrimWhiteSpace = false,
        };
        Assert.Equal(Columns.Select(c => c.Heading), parser.ReadFields());
        foreach (var row in Rows)
        {
            var cells = parser.ReadFields()!;
            Assert.Equal(Columns.Length, cells.Length);
            for (var i = 0; i < cells.Length; i++)
            {
                var cell = cells[i];
                Assert.False(
                    cell.Length > 0 && "=+-@\t\r".Contains(cell[0]) && !decimal.TryParse(cell, CultureInfo.InvariantCulture, out _),
                    $"{Columns[i].Heading}: {cell}"
                );
                var wanted = RecordFiles.Shaped(Columns[i], row.Texts[i], shape);
                if (cell.StartsWith('\'') && !wanted.StartsWith('\''))
                    cell = cell[1..];
                // The parser drops empty lines inside a cell, and a file has no half characters.
                Assert.Equal(Plain(wanted), Plain(cell));
            }
        }
        Assert.True(parser.EndOfData);

        static string Plain(string text) => CodePoints.Repaired(text).ReplaceLineEndings("\n").Replace("\n", "", StringComparison.Ordinal);
    }

    [Fact]
    public void Every_line_of_the_json_lines_is_an_object_with_values_of_their_kinds()
    {
        var lines = File.ReadAllLines(Written(RecordFormat.JsonLines));
        Assert.Equal(Rows.Count, lines.Length);
        foreach (var (row, line) in Rows.Zip(lines))
        {
            using var json = JsonDocument.Parse(line);
            foreach (var (column, text) in Columns.Zip(row.Texts))
            {
                var value = json.RootElement.GetProperty(column.Heading);
                switch (column.Kind)
                {
                    case var _ when text.Length == 0:
                        Assert.Equal(JsonValueKind.Null, value.ValueKind);
                        break;
                    case { IsNumeric: true } when value.ValueKind == JsonValueKind.Number:
                        Assert.Equal(decimal.Parse(text, CultureInfo.InvariantCulture), value.GetDecimal());
                        break;
                    case { Measure: Measure.Truth } when text is "yes" or "no":
                        Assert.Equal(text == "yes", value.GetBoolean());
                        break;
                    case { IsMultiple: true }:
                        Assert.Equal(["Coal", "Timber, sawn", "Salt"], value.EnumerateArray().Select(v => v.GetString()));
                        break;
                    case { HasRows: true }:
                        Assert.Equal(
                            TableText.Rows(text)!.Select(r => (r.GetValueOrDefault("what", ""), r["rate"])),
                            value
                                .EnumerateArray()
                                .Select(r =>
                                    (r.TryGetProperty("what", out var w) ? w.GetString()! : "", r.GetProperty("rate").GetString()!)
                                )
                        );
                        break;
                    default:
                        Assert.Equal(CodePoints.Repaired(text), value.GetString());
                        break;
                }
            }
        }
    }

    [Fact]
    public void The_xml_follows_the_schema_that_is_written_beside_it_and_keeps_what_is_of_another_kind_apart()
    {
        var xsd = Path.Combine(_folder, "records.xsd");
        RecordSchema.Write(xsd, "call", Columns);
        var schemas = new XmlSchemaSet();
        schemas.Add(RecordSchema.Namespace("call"), xsd);
        var xml = XDocument.Load(Written(RecordFormat.Xml), LoadOptions.PreserveWhitespace);
        var faults = new List<string>();
        xml.Validate(schemas, (_, e) => faults.Add(e.Message));
        Assert.Empty(faults.Take(3));
        XNamespace ns = RecordSchema.Namespace("call");
        Assert.Equal(Rows.Select(r => r.Id), xml.Root!.Elements(ns + "document").Select(e => (long)e.Attribute("id")!));
        var written = 0;
        foreach (var (row, element) in Rows.Zip(xml.Root.Elements(ns + "document")))
        {
            Assert.Equal(row.Texts[0], element.Attribute("name")!.Value);
            foreach (var (column, text) in Columns.Zip(row.Texts).Skip(1).Where(c => c.First.Kind is { IsMultiple: false, HasRows: false }))
            {
                var one = element.Element(ns + column.Key);
                Assert.Equal(text.Length == 0, one is null);
                if (one?.Attribute("as-written") is { } apart)
                {
                    written++;
                    Assert.Equal("", one.Value);
                    Assert.Equal(Sound(text), Sound(apart.Value));
                }
                else if (one is not null && column.Kind == FieldKind.Text)
                    Assert.Equal(Sound(text), Sound(one.Value));
            }
            Assert.Equal(TableText.Rows(row.Texts[^1])!.Count, element.Element(ns + "services")?.Elements(ns + "row").Count() ?? 0);
        }
        Assert.InRange(written / Larger.By, 50, 800);

        // As XML reads it: line ends are one sign, and what it has no sign for is marked.
        static string Sound(string text) =>
            string.Concat(
                    CodePoints
                        .Repaired(text)
                        .ReplaceLineEndings("\n")
                        .Select(c => XmlConvert.IsXmlChar(c) || char.IsSurrogate(c) ? c : '\ufffd')
                )
                .Replace("\t", " ", StringComparison.Ordinal)
                .Replace("\n", " ", StringComparison.Ordinal);
    }

    [Fact]
    public void The_xlsx_has_numbers_and_days_where_they_are_some_and_texts_everywhere_else()
    {
        var sheet = MiniExcel.Query(Written(RecordFormat.Xlsx), useHeaderRow: true).Cast<IDictionary<string, object?>>().ToList();
        Assert.Equal(Rows.Count, sheet.Count);
        Assert.Equal(Columns.Select(c => c.Heading), sheet[0].Keys);
        var (numbers, days) = (0, 0);
        foreach (var (row, cells) in Rows.Zip(sheet))
        foreach (var (column, text) in Columns.Zip(row.Texts))
        {
            var value = cells[column.Heading];
            switch (value)
            {
                case double or int or long or decimal:
                    numbers++;
                    Assert.Equal(decimal.Parse(text, CultureInfo.InvariantCulture), Convert.ToDecimal(value, CultureInfo.InvariantCulture));
                    break;
                // A text in a column of days may look like one to the program that reads it here.
                case DateTime day when FieldParsing.TryDate(text, out _):
                    days++;
                    Assert.Equal(text, day.ToString("yyyy-MM-dd"));
                    Assert.True(day >= new DateTime(1900, 3, 1), text);
                    break;
                case DateTime:
                    break;
                default:
                    // A cell keeps its text but for what XML cannot hold.
                    var wanted = RecordFiles.Shaped(column, text, new RecordShape());
                    Assert.Equal(Letters(wanted), Letters(value as string ?? ""));
                    break;
            }
        }
        Assert.InRange(numbers / Larger.By, 400, 800);
        Assert.InRange(days / Larger.By, 150, 400);

        // Pictures of letters beyond the first plane among them.
        static string Letters(string text) => string.Concat(text.EnumerateRunes().Where(r => Rune.IsLetterOrDigit(r) || r.Value > 0xFFFF));
    }

    [Fact]
    public void A_table_is_a_line_a_row_where_people_read_it_and_sixteen_digits_stay()
    {
        RecordColumn[] columns =
        [
            new("Rate", "rate", FieldKind.Decimal),
            new("Services", "services", FieldKind.Table, [new("What", "what", FieldKind.Text), new("From", "from", FieldKind.Date)]),
        ];
        const string Table = """[{"what":"Towage, \ud83d\udea2","from":"2024-05-01"},{"what":"Pilot"}]""";
        List<RecordRow> rows = [new(1, ["1234567890.123456", Table]), new(2, ["", "no table"])];
        var (csv, xlsx) = (Path.Combine(_folder, "t.csv"), Path.Combine(_folder, "t.xlsx"));
        RecordFiles.Write(csv, RecordFormat.Csv, "call", columns, new RecordShape("d MMMM yyyy"), rows);
        Assert.Equal(
            "Rate,Services\r\n1234567890.123456,\"What: Towage, \U0001F6A2; From: 1 May 2024\nWhat: Pilot\"\r\n,no table\r\n".ReplaceLineEndings(),
            File.ReadAllText(csv).ReplaceLineEndings()
        );
        RecordFiles.Write(xlsx, RecordFormat.Xlsx, "call", columns, new RecordShape(), rows);
        var read = MiniExcel.Query(xlsx).Cast<IDictionary<string, object?>>().ToList();
        Assert.Equal("1234567890.123456", read[1]["A"]);
        Assert.Equal("What: Towage, \U0001F6A2; From: 2024-05-01\nWhat: Pilot", ((string)read[1]["B"]!).ReplaceLineEndings("\n"));
        Assert.Equal("no table", read[2]["B"]);
    }

    public void Dispose() => Directory.Delete(_folder, recursive: true);
}
