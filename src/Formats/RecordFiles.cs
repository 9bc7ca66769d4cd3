using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Xml;
using ClearLexicon.Core.Fields;
using SpreadCheetah;
using SpreadCheetah.Styling;
using SpreadCheetah.Worksheets;

namespace ClearLexicon.Formats;

/// <summary>A format in which records leave.</summary>
public enum RecordFormat
{
    /// <summary>RFC 4180, UTF-8, with a heading.</summary>
    Csv,

    /// <summary>Office Open XML (ECMA-376) with typed cells and a heading that stays in view.</summary>
    Xlsx,

    /// <summary>One JSON object (RFC 8259) a line.</summary>
    JsonLines,

    /// <summary>XML 1.0, with a schema (<see cref="RecordSchema"/>) beside it.</summary>
    Xml,
}

/// <summary>A column of records that leave.</summary>
/// <param name="Heading">What it is called there.</param>
/// <param name="Key">Key of the field, or one that begins with <c>@</c> for what stands around a document.</param>
/// <param name="Kind">Kind of its values.</param>
/// <param name="Cells">Columns of a table.</param>
public sealed record RecordColumn(string Heading, string Key, FieldKind Kind, IReadOnlyList<RecordColumn>? Cells = null);

/// <summary>A record that leaves.</summary>
/// <param name="Id">Id of the document.</param>
/// <param name="Texts">Its texts, in the order of the columns; dates as ISO 8601, numbers with a point.</param>
public sealed record RecordRow(long Id, IReadOnlyList<string> Texts);

/// <summary>How values look in formats that hold texts.</summary>
/// <param name="Dates">One of <see cref="RecordFiles.DateShapes"/>.</param>
/// <param name="Comma">Whether numbers have a decimal comma.</param>
public sealed record RecordShape(string Dates = "yyyy-MM-dd", bool Comma = false);

/// <summary>Writes records of one type as files that other programs read.</summary>
public static class RecordFiles
{
    /// <summary>Most records of an XLSX file: its rows less the heading.</summary>
    public const int MostXlsx = 1_048_575;

    // The calendar of the format has a 29 February 1900, so that every earlier day would be shown as another one.
    private static readonly DateOnly FirstDay = new(1900, 3, 1);

    // Longest text of a cell there.
    private const int LongestCell = 32_767;

    /// <summary>Ways in which dates are written.</summary>
    public static IReadOnlyList<string> DateShapes { get; } =
    ["yyyy-MM-dd", "dd.MM.yyyy", "dd/MM/yyyy", "MM/dd/yyyy", "d MMMM yyyy", "yyyyMMdd"];

    /// <summary>File extension of a format, with its dot.</summary>
    public static string Extension(RecordFormat format) =>
        format switch
        {
            RecordFormat.Csv => ".csv",
            RecordFormat.Xlsx => ".xlsx",
            RecordFormat.JsonLines => ".jsonl",
            _ => ".xml",
        };

    /// <summary>Writes records to a file, as they come.</summary>
    /// <param name="path">The file; it is made or replaced.</param>
    /// <param name="format">The format.</param>
    /// <param name="type">Code of the document type.</param>
    /// <param name="columns">The columns; their headings differ.</param>
    /// <param name="shape">How values look where they are texts.</param>
    /// <param name="rows">The records.</param>
    /// <exception cref="InvalidDataException">The format cannot hold as many.</exception>
    public static void Write(
        string path,
        RecordFormat format,
        string type,
        IReadOnlyList<RecordColumn> columns,
        RecordShape shape,
        IEnumerable<RecordRow> rows
    )
    {
        using var file = new FileStream(path, FileMode.Create, FileAccess.ReadWrite, FileShare.None, 1 << 16);
        switch (format)
        {
            case RecordFormat.Csv:
                using (var writer = new StreamWriter(file, new UTF8Encoding(false), 1 << 16))
                {
                    SafeCsv.WriteLine(writer, columns.Select(c => c.Heading));
                    foreach (var row in rows)
                        SafeCsv.WriteLine(writer, columns.Select((c, i) => Shaped(c, row.Texts[i], shape)));
                }
                break;
            case RecordFormat.Xlsx:
                WriteXlsxAsync(file, columns, rows).GetAwaiter().GetResult();
                break;
            case RecordFormat.JsonLines:
                WriteJson(file, columns, rows);
                break;
            default:
                WriteXml(file, type, columns, rows);
                break;
        }
    }

    /// <summary>
    /// A value as text in a shape; what is no date or number stays as it is. A table has a line a row, a cell behind the heading of its
    /// column: <c>What: Towage; Rate: 12.5</c>.
    /// </summary>
    public static string Shaped(RecordColumn column, string text, RecordShape shape) =>
        column.Kind.HasRows ? Lines(column, text, shape)
        : column.Kind.Typed(text) is DateOnly date ? date.ToString(shape.Dates, CultureInfo.InvariantCulture)
        : column.Kind.Measure == Measure.Number && shape.Comma ? text.Replace('.', ',')
        : text;

    private static string Lines(RecordColumn column, string text, RecordShape? shape = null) =>
        TableText.Rows(text) is not { } rows
            ? text
            : string.Join(
                '\n',
                rows.Select(row =>
                    string.Join(
                        "; ",
                        (column.Cells ?? [])
                            .Where(c => row.GetValueOrDefault(c.Key, "").Length > 0)
                            .Select(c => $"{c.Heading}: {Shaped(c, row[c.Key], shape ?? new RecordShape()).ReplaceLineEndings(" ")}")
                    )
                )
            );

    // A spreadsheet keeps numbers with fifteen digits; longer ones are written as texts, so that none is cut.
    private const int DigitsOfSpreadsheets = 15;

    private static async Task WriteXlsxAsync(Stream file, IReadOnlyList<RecordColumn> columns, IEnumerable<RecordRow> rows)
    {
        await using var book = await Spreadsheet.CreateNewAsync(file, new SpreadCheetahOptions { BufferSize = 1 << 16 });
        var sheet = new WorksheetOptions
        {
            FrozenRows = 1,
            AutoFilter = new AutoFilterOptions($"A1:{SpreadsheetUtility.GetColumnName(columns.Count)}{MostXlsx + 1}"),
        };
        for (var i = 0; i < columns.Count; i++)
            sheet.Column(i + 1).Width = columns[i].Kind.IsNumeric || columns[i].Kind.Measure == Measure.Day ? 14 : 24;
        await book.StartWorksheetAsync("Records", sheet);
        var heading = book.AddStyle(new Style { Font = { Bold = true } });
        var day = book.AddStyle(new Style { Format = NumberFormat.Custom("yyyy-mm-dd") });
        var lines = book.AddStyle(new Style { Alignment = { WrapText = true } });
        await book.AddHeaderRowAsync([.. columns.Select(c => XmlSound(Cut(c.Heading)))], heading);
        var cells = new StyledCell[columns.Count];
        var number = 0;
        foreach (var row in rows)
        {
            if (++number > MostXlsx)
                throw new InvalidDataException($"XLSX holds {MostXlsx:N0} records; choose CSV for more.");
            for (var i = 0; i < cells.Length; i++)
                cells[i] = Cell(columns[i], row.Texts[i], day, lines);
            await book.AddRowAsync(cells);
        }
        await book.FinishAsync();
    }

    private static StyledCell Cell(RecordColumn column, string text, StyleId day, StyleId lines)
    {
        if (text.Length == 0)
            return default;
        var typed = column.Kind.Typed(text);
        if (typed is decimal number && text.Count(char.IsAsciiDigit) <= DigitsOfSpreadsheets)
            return new StyledCell(number, null);
        if (typed is DateOnly date && date >= FirstDay)
            return new StyledCell(date.ToDateTime(TimeOnly.MinValue), day);
        var shown = XmlSound(Cut(column.Kind.HasRows ? Lines(column, text) : text));
        return new StyledCell(shown, shown.Contains('\n', StringComparison.Ordinal) ? lines : null);
    }

    private static string Cut(string text) =>
        text.Length <= LongestCell ? text : Core.Vocabularies.CodePoints.First(text, LongestCell - 1) + "…";

    private static void WriteJson(Stream file, IReadOnlyList<RecordColumn> columns, IEnumerable<RecordRow> rows)
    {
        var options = new JsonWriterOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
        foreach (var row in rows)
        {
            using (var writer = new Utf8JsonWriter(file, options))
            {
                writer.WriteStartObject();
                foreach (var (column, text) in columns.Zip(row.Texts))
                {
                    writer.WritePropertyName(column.Heading);
                    if (text.Length == 0)
                        writer.WriteNullValue();
                    else if (column.Kind.Typed(text) is var typed && typed is decimal number)
                        writer.WriteNumberValue(number);
                    else if (typed is bool yes)
                        writer.WriteBooleanValue(yes);
                    else if (column.Kind.IsMultiple)
                    {
                        writer.WriteStartArray();
                        foreach (var term in FieldParsing.Terms(text))
                            writer.WriteStringValue(Sound(term));
                        writer.WriteEndArray();
                    }
                    else if (column.Kind.HasRows && TableText.Rows(text) is { } lines)
                    {
                        writer.WriteStartArray();
                        foreach (var line in lines)
                        {
                            writer.WriteStartObject();
                            foreach (var cell in column.Cells ?? [])
                                if (line.TryGetValue(cell.Key, out var value))
                                    writer.WriteString(cell.Key, Sound(value));
                            writer.WriteEndObject();
                        }
                        writer.WriteEndArray();
                    }
                    else
                        writer.WriteStringValue(Sound(text));
                }
                writer.WriteEndObject();
            }
            file.WriteByte((byte)'\n');
        }
    }

    private static void WriteXml(Stream file, string type, IReadOnlyList<RecordColumn> columns, IEnumerable<RecordRow> rows)
    {
        using var writer = XmlWriter.Create(file, new XmlWriterSettings { Indent = true, Encoding = new UTF8Encoding(false) });
        writer.WriteStartElement("documents", RecordSchema.Namespace(type));
        writer.WriteAttributeString("xmlns", "xsi", null, RecordSchema.Instance);
        foreach (var row in rows)
        {
            writer.WriteStartElement("document");
            writer.WriteAttributeString("id", row.Id.ToString(CultureInfo.InvariantCulture));
            foreach (var (column, text) in columns.Zip(row.Texts))
                // Every document has its id already.
                if (column.Key.StartsWith('@') && column.Key != "@id")
                    writer.WriteAttributeString(column.Key[1..], XmlSound(text));
            foreach (var (column, text) in columns.Zip(row.Texts))
                if (!column.Key.StartsWith('@') && text.Length > 0)
                    Element(writer, column, text);
            writer.WriteEndElement();
        }
        writer.WriteEndElement();
    }

    private static void Element(XmlWriter writer, RecordColumn column, string text)
    {
        if (column.Kind.HasRows && TableText.Rows(text) is { } lines)
        {
            writer.WriteStartElement(column.Key);
            foreach (var line in lines)
            {
                writer.WriteStartElement("row");
                foreach (var cell in column.Cells ?? [])
                    if (line.GetValueOrDefault(cell.Key, "") is { Length: > 0 } value)
                        Element(writer, cell, value);
                writer.WriteEndElement();
            }
            writer.WriteEndElement();
            return;
        }
        foreach (var one in column.Kind.IsMultiple ? FieldParsing.Terms(text) : [text])
        {
            writer.WriteStartElement(column.Key);
            if (column.Kind.Xml(one) is { } value)
                writer.WriteString(XmlSound(value));
            else
            {
                // What is not of its kind is kept as it was written, and says so.
                writer.WriteAttributeString("nil", RecordSchema.Instance, "true");
                writer.WriteAttributeString("as-written", XmlSound(one));
            }
            writer.WriteEndElement();
        }
    }

    private static string Sound(string text) =>
        Core.Vocabularies.CodePoints.AreSound(text) ? text : Core.Vocabularies.CodePoints.Repaired(text);

    // XML 1.0 has no control characters and no halves of characters.
    private static string XmlSound(string text) =>
        text.All(c => XmlConvert.IsXmlChar(c))
            ? text
            : string.Concat(
                Sound(text).EnumerateRunes().Select(r => r.IsBmp && !XmlConvert.IsXmlChar((char)r.Value) ? "\uFFFD" : r.ToString())
            );
}
