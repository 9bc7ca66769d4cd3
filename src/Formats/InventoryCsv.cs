using System.Text;
using nietras.SeparatedValues;
using UtfUnknown;

namespace ClearLexicon.Formats;

/// <summary>An inventory as it was found and stored.</summary>
/// <param name="Encoding">Its encoding by its name at IANA, as detected, e.g. <c>UTF-8</c> or <c>Windows-1252</c>.</param>
/// <param name="Separator">Comma, semicolon or tab, as detected.</param>
/// <param name="Columns">Headings.</param>
/// <param name="Rows">Number of rows below the heading.</param>
public sealed record InventoryShape(string Encoding, char Separator, IReadOnlyList<string> Columns, long Rows);

/// <summary>Takes in CSV (RFC 4180) inventories of any size: detects, checks every line, stores as UTF-8, streams.</summary>
public static class InventoryCsv
{
    private const int NamedLines = 5;
    private const int TellingBytes = 1 << 18;
    private const float LeastConfidence = 0.75f;

    /// <summary>
    /// Checks a CSV completely and stores it as UTF-8. Nothing is stored when there is a problem.
    /// </summary>
    /// <param name="source">The uploaded file.</param>
    /// <param name="name">What the person called it, for messages.</param>
    /// <param name="target">Where the UTF-8 copy goes.</param>
    /// <returns>Its shape, or one sentence saying what is wrong and on which line.</returns>
    public static (InventoryShape? Shape, string? Problem) Import(
        string source,
        string name,
        string target,
        CancellationToken cancel = default
    )
    {
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        if (new FileInfo(source).Length == 0)
            return (null, $"“{name}” is empty.");
        var (encoding, encodingName) = Detect(source);
        using (var probe = File.OpenRead(source))
        {
            var head = new byte[Math.Min(4096, probe.Length)];
            probe.ReadExactly(head);
            if (head.AsSpan().IndexOf((byte)0) >= 0 && encodingName is not ("UTF-16LE" or "UTF-16BE"))
                return (null, $"“{name}” is not a text file, so it cannot be a CSV.");
        }
        var copy = target + ".part";
        var (shape, problem) = Scan(source, name, copy, encoding, encodingName, cancel);
        if (problem is not null)
            File.Delete(copy);
        else
            File.Move(copy, target, overwrite: true);
        return (shape, problem);
    }

    /// <summary>Streams a stored inventory. Every row has as many cells as there are columns.</summary>
    public static SepReader Open(string path, char separator) =>
        Sep.New(separator)
            .Reader(o => o with { HasHeader = true, Unescape = true, CreateToString = SepToString.PoolPerCol(maximumStringLength: 64) })
            .FromFile(path);

    private static (InventoryShape?, string?) Scan(
        string source,
        string name,
        string copy,
        Encoding encoding,
        string encodingName,
        CancellationToken cancel
    )
    {
        using var reader = new StreamReader(source, encoding, detectEncodingFromByteOrderMarks: true, 1 << 16);
        using var writer = new StreamWriter(copy, append: false, new UTF8Encoding(false), 1 << 16);
        var heading = reader.ReadLine() ?? "";
        var separator = new[] { ';', ',', '\t' }.MaxBy(s => Unquoted(heading, s));
        var columns = Cells(heading, separator);
        if (columns.Count < 2)
            return (
                null,
                $"“{name}” has one column only; an inventory needs at least a path and a file name, separated by comma or semicolon."
            );
        if (columns.FirstOrDefault(string.IsNullOrWhiteSpace) is not null)
            return (null, $"“{name}”, line 1: column {columns.ToList().FindIndex(string.IsNullOrWhiteSpace) + 1} has no heading.");
        if (columns.GroupBy(c => c, StringComparer.OrdinalIgnoreCase).FirstOrDefault(g => g.Count() > 1) is { } twice)
            return (null, $"“{name}”, line 1: the heading “{twice.Key}” appears twice.");
        writer.Write(heading);
        writer.Write('\n');

        long line = 1,
            rows = 0,
            uneven = 0;
        var named = new List<string>();
        while (reader.ReadLine() is { } text)
        {
            line++;
            if (line % 10_000 == 0)
                cancel.ThrowIfCancellationRequested();
            if (text.Length == 0)
                continue;
            var start = line;
            while (text.AsSpan().Count('"') % 2 == 1)
            {
                // A quote opened here must close within a few lines: a cell with line breaks, not the rest of the file.
                if (line - start > 50 || reader.ReadLine() is not { } more)
                    return (null, $"“{name}”, line {start}: a quote is opened and never closed.");
                line++;
                text += "\n" + more;
            }
            rows++;
            var cells = Unquoted(text, separator) + 1;
            if (cells != columns.Count)
            {
                uneven++;
                if (named.Count < NamedLines)
                    named.Add($"line {start} has {cells}");
                continue;
            }
            writer.Write(text);
            writer.Write('\n');
        }
        if (uneven > 0)
            return (
                null,
                $"“{name}”: the heading has {columns.Count} cells, but "
                    + $"{string.Join(", ", named)}{(uneven > named.Count ? $" and {uneven - named.Count} more lines differ" : "")}."
            );
        if (rows == 0)
            return (null, $"“{name}” has a heading but no rows.");
        return (new InventoryShape(encodingName, separator, columns, rows), null);
    }

    /// <summary>
    /// A byte order mark tells it; else it is UTF-8 when every byte fits, which text in another encoding practically never does by
    /// chance; else what the letters beyond ASCII make likely, and Windows-1252 when they make nothing so.
    /// </summary>
    private static (Encoding, string) Detect(string path)
    {
        if (Mark(path) is { } marked)
            return marked;
        var strict = new UTF8Encoding(false, throwOnInvalidBytes: true);
        try
        {
            using var reader = new StreamReader(path, strict, detectEncodingFromByteOrderMarks: true, 1 << 16);
            Span<char> buffer = new char[1 << 15];
            while (reader.Read(buffer) > 0) { }
            return (new UTF8Encoding(false), "UTF-8");
        }
        catch (DecoderFallbackException)
        {
            return Likely(path);
        }
    }

    private static (Encoding, string)? Mark(string path)
    {
        using var file = File.OpenRead(path);
        Span<byte> head = stackalloc byte[2];
        if (file.Read(head) < 2)
            return null;
        return head switch
        {
            [0xFF, 0xFE] => (Encoding.Unicode, "UTF-16LE"),
            [0xFE, 0xFF] => (Encoding.BigEndianUnicode, "UTF-16BE"),
            _ => null,
        };
    }

    // Only lines that tell something are looked at: in a large file most are plain ASCII.
    private static (Encoding, string) Likely(string path)
    {
        using var telling = new MemoryStream();
        using var file = new StreamReader(path, Encoding.Latin1, false, 1 << 16);
        while (telling.Length < TellingBytes && file.ReadLine() is { } line)
            if (!Ascii.IsValid(line))
                telling.Write(Encoding.Latin1.GetBytes(line + "\n"));
        // ISO 8859-1 is what Windows-1252 is without its quotes and dashes: it is read as the wider one, as browsers do.
        return
            CharsetDetector.DetectFromBytes(telling.ToArray()).Detected is { Encoding: { } encoding, Confidence: > LeastConfidence }
            && encoding.CodePage is not (20127 or 28591 or 65001)
            ? (encoding, encoding.WebName)
            : (Encoding.GetEncoding(1252), "Windows-1252");
    }

    private static int Unquoted(ReadOnlySpan<char> line, char separator)
    {
        if (!line.Contains('"'))
            return line.Count(separator);
        int count = 0;
        var quoted = false;
        foreach (var c in line)
        {
            if (c == '"')
                quoted = !quoted;
            else if (c == separator && !quoted)
                count++;
        }
        return count;
    }

    private static IReadOnlyList<string> Cells(string heading, char separator)
    {
        // Read as a plain row: as a heading, Sep would refuse equal names before we can say which.
        using var reader = Sep.New(separator)
            .Reader(o => o with { HasHeader = false, Unescape = true, DisableColCountCheck = true })
            .FromText(heading + "\n");
        foreach (var row in reader)
        {
            var cells = new List<string>();
            for (var i = 0; i < row.ColCount; i++)
                cells.Add(row[i].ToString().Trim());
            return cells;
        }
        return [];
    }
}
