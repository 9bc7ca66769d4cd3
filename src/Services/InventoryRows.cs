using ClearLexicon.Formats;
using ClearLexicon.Storage;
using nietras.SeparatedValues;

namespace ClearLexicon.Services;

/// <summary>Walks the rows of an inventory.</summary>
internal static class InventoryRows
{
    /// <summary>Cells by column position and the row's number, from 1. One array is reused for all rows.</summary>
    public static IEnumerable<(string[] Cells, int Number)> Of(Inventory inventory, DataFolder folder)
    {
        var cells = new string[inventory.Shape.Columns.Count];
        var number = 0;
        using var reader = InventoryCsv.Open(folder.Absolute(inventory.File), inventory.Shape.Separator);
        while (reader.MoveNext())
        {
            Read(reader, cells);
            yield return (cells, ++number);
        }
    }

    private static void Read(SepReader reader, string[] cells)
    {
        var row = reader.Current;
        for (var i = 0; i < cells.Length; i++)
            cells[i] = row[i].ToString();
    }
}
