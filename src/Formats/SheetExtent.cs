using System.IO.Compression;
using System.Xml;

namespace ClearLexicon.Formats;

/// <summary>
/// Looks how far the cells of an XLSX file (ECMA-376) reach before it is read: the library that reads it makes every cell up to the last
/// one that the file names, so that a few bytes could name thousands of millions.
/// </summary>
internal static class SheetExtent
{
    private const int MostRows = 1_048_576,
        MostColumns = 1_000;
    private const long MostCells = 100_000_000;

    /// <summary>What is wrong with it, as the end of a sentence; null when nothing is.</summary>
    /// <param name="path">A file that <see cref="ZipLimits"/> let through.</param>
    public static string? Error(string path)
    {
        try
        {
            using var zip = ZipFile.OpenRead(path);
            return zip
                .Entries.Where(e => e.FullName.Contains("worksheets/", StringComparison.OrdinalIgnoreCase))
                .Where(e => e.FullName.EndsWith(".xml", StringComparison.OrdinalIgnoreCase))
                .Select(Error)
                .FirstOrDefault(e => e is not null);
        }
        catch (Exception e) when (e is XmlException or InvalidDataException)
        {
            return "is damaged and cannot be read as a table.";
        }
    }

    private static string? Error(ZipArchiveEntry sheet)
    {
        using var content = sheet.Open();
        using var xml = XmlReader.Create(content, new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit });
        var (rows, columns, row) = (0L, 0L, 0L);
        while (xml.Read())
        {
            if (xml.NodeType != XmlNodeType.Element)
                continue;
            switch (xml.LocalName)
            {
                case "row":
                    row = long.TryParse(xml.GetAttribute("r"), out var number) ? number : row + 1;
                    rows = Math.Max(rows, row);
                    break;
                case "c" when xml.GetAttribute("r") is { } at:
                    columns = Math.Max(columns, ColumnOf(at));
                    break;
                case "dimension" when xml.GetAttribute("ref") is { } reach:
                    columns = Math.Max(columns, ColumnOf(reach[(reach.IndexOf(':', StringComparison.Ordinal) + 1)..]));
                    break;
            }
            if (rows > MostRows)
                return $"numbers a row {rows}; a sheet has {MostRows:N0} at most.";
            if (columns > MostColumns || rows * columns > MostCells)
                return $"reaches over {columns:N0} columns and {rows:N0} rows; copy what is filled into a file of its own.";
        }
        return null;
    }

    private static long ColumnOf(string cell) =>
        cell.TakeWhile(char.IsAsciiLetter).Take(8).Aggregate(0L, (n, letter) => n * 26 + char.ToUpperInvariant(letter) - 'A' + 1);
}
