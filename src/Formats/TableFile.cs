using MiniExcelLibs;
using nietras.SeparatedValues;

namespace ClearLexicon.Formats;

/// <summary>Reads rows for a reference table from CSV or XLSX.</summary>
public static class TableFile
{
    /// <summary>Most rows.</summary>
    public const int MostRows = 1_000_000;

    /// <summary>Reads a file whose first row names the columns and whose first column is the key.</summary>
    /// <param name="path">Where it lies.</param>
    /// <param name="name">What the person called it, for messages and for its kind.</param>
    public static (IReadOnlyList<string>? Columns, List<string[]> Rows, string? Problem) Read(string path, string name)
    {
        if (new FileInfo(path).Length == 0)
            return (null, [], $"“{name}” is empty.");
        IEnumerable<(int Line, string[] Cells)> lines;
        switch (Path.GetExtension(name).ToLowerInvariant())
        {
            case ".csv":
                lines = Csv(path);
                break;
            case ".xlsx":
                if ((ZipLimits.Error(path) ?? SheetExtent.Error(path)) is { } error)
                    return (null, [], $"“{name}” {error}");
                lines = Xlsx(path);
                break;
            default:
                return (null, [], $"“{name}” is neither CSV nor XLSX.");
        }
        try
        {
            return Check(lines, name);
        }
        // The libraries throw many kinds on damaged files; all mean the same to the person.
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return (null, [], $"“{name}” is damaged and cannot be read as a table.");
        }
    }

    private static (IReadOnlyList<string>?, List<string[]>, string?) Check(IEnumerable<(int Line, string[] Cells)> lines, string name)
    {
        string[]? columns = null;
        var rows = new List<string[]>();
        var keys = new Dictionary<string, int>(StringComparer.OrdinalIgnoreCase);
        foreach (var (line, read) in lines)
        {
            var cells = read;
            if (cells.All(c => c.Length == 0))
                continue;
            if (columns is null)
            {
                columns = cells;
                if (Array.FindIndex(columns, c => c.Length == 0) is >= 0 and var nameless)
                    return (null, [], $"“{name}”, line {line}: column {nameless + 1} has no heading.");
                if (columns.GroupBy(c => c, StringComparer.OrdinalIgnoreCase).FirstOrDefault(g => g.Count() > 1) is { } twice)
                    return (null, [], $"“{name}”, line {line}: the heading “{twice.Key}” appears twice.");
                continue;
            }
            if (cells.Length > columns.Length)
                return (null, [], $"“{name}”, line {line}: it has {cells.Length} cells, the heading has {columns.Length}.");
            if (cells.Length < columns.Length)
                Array.Resize(ref cells, columns.Length);
            for (var i = 0; i < cells.Length; i++)
                cells[i] ??= "";
            if (cells[0].Length == 0)
                return (null, [], $"“{name}”, line {line}: the key {columns[0]} is empty.");
            if (!keys.TryAdd(cells[0], line))
                return (null, [], $"“{name}”, line {line}: the key “{cells[0]}” is in line {keys[cells[0]]} already.");
            rows.Add(cells);
            if (rows.Count > MostRows)
                return (null, [], $"“{name}” has more than {MostRows:N0} rows.");
        }
        return columns is null ? (null, [], $"“{name}” has no heading.")
            : rows.Count == 0 ? (null, [], $"“{name}” has a heading but no rows.")
            : (columns, rows, null);
    }

    private static IEnumerable<(int, string[])> Csv(string path)
    {
        var heading = File.ReadLines(path).FirstOrDefault() ?? "";
        var separator = new[] { ';', ',', '\t' }.MaxBy(s => heading.Count(c => c == s));
        using var reader = Sep.New(separator)
            .Reader(o => o with { HasHeader = false, Unescape = true, DisableColCountCheck = true })
            .FromFile(path);
        // A row of Sep is a ref struct, which cannot live across yield.
        var lines = new List<(int, string[])>();
        foreach (var row in reader)
        {
            var cells = new string[row.ColCount];
            for (var i = 0; i < cells.Length; i++)
                cells[i] = row[i].ToString().Trim();
            lines.Add((row.LineNumberFrom, cells));
        }
        return lines;
    }

    private static IEnumerable<(int, string[])> Xlsx(string path)
    {
        var line = 0;
        foreach (IDictionary<string, object?> row in MiniExcel.Query(path, useHeaderRow: false, excelType: ExcelType.XLSX))
            yield return (
                ++line,
                [
                    .. row.Values.Select(v =>
                        v switch
                        {
                            null => "",
                            DateTime d => d.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture),
                            IFormattable f => f.ToString(null, System.Globalization.CultureInfo.InvariantCulture).Trim(),
                            _ => v.ToString()!.Trim(),
                        }
                    ),
                ]
            );
    }
}
