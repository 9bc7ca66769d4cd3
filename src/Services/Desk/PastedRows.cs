using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading.Sheets;

namespace ClearLexicon.Services.Desk;

/// <summary>A list that was pasted from a table: a line of field names, then a line a sheet, divided by tabs or semicolons.</summary>
public static class PastedRows
{
    /// <summary>The rows by field key.</summary>
    /// <param name="text">What was pasted; empty for none.</param>
    /// <param name="type">The type whose fields the first line names, by label or key.</param>
    public static Result<IReadOnlyList<IReadOnlyDictionary<string, string>>> Read(string text, DocumentType? type)
    {
        var lines = text.Split('\n').Select(l => l.TrimEnd('\r')).Where(l => l.Trim().Length > 0).ToList();
        if (lines.Count == 0)
            return new([], null);
        if (type is null)
            return Not("A list can be used when the document type is chosen.");
        if (lines.Count - 1 > SheetPrint.MostRows)
            return Not($"The list has {lines.Count - 1:N0} lines; at most {SheetPrint.MostRows} sheets are printed at once.");
        if (lines.Count == 1)
            return Not("The list has a line of field names only; a line for each sheet follows it.");
        var divider = lines[0].Contains('\t', StringComparison.Ordinal) ? '\t' : ';';
        var fields = new List<Field>();
        foreach (var name in lines[0].Split(divider, StringSplitOptions.TrimEntries))
        {
            var field =
                type.Find(name) ?? type.Fields.FirstOrDefault(f => string.Equals(f.Label, name, StringComparison.OrdinalIgnoreCase));
            if (field is null)
                return Not($"{type.Name} has no field “{name}”; the first line of the list names fields.");
            if (fields.Contains(field))
                return Not($"The field “{name}” appears twice in the first line of the list.");
            fields.Add(field);
        }
        var rows = new List<IReadOnlyDictionary<string, string>>();
        foreach (var (line, number) in lines.Skip(1).Select((l, i) => (l, i + 2)))
        {
            var cells = line.Split(divider, StringSplitOptions.TrimEntries);
            if (cells.Length > fields.Count)
                return Not($"Line {number} of the list has {cells.Length} values for {fields.Count} fields.");
            rows.Add(cells.Select((c, i) => (fields[i].Key, c)).Where(v => v.c.Length > 0).ToDictionary(v => v.Key, v => v.c));
        }
        return new(rows, null);
    }

    private static Result<IReadOnlyList<IReadOnlyDictionary<string, string>>> Not(string problem) => new(null, problem);
}
