using ClearLexicon.Core.Rules;

namespace ClearLexicon.Web.Forms;

/// <summary>What a reference table fills, as its form writes and reads it: a line for each column, with what it is used for and which
/// field goes with it.</summary>
public static class FillingForm
{
    /// <summary>The column finds the row: it must equal the field.</summary>
    public const string Finds = "finds";

    /// <summary>The column fills the field.</summary>
    public const string Fills = "fills";

    /// <summary>The blanks filled with a filling; the table's other columns stand behind those it uses.</summary>
    /// <param name="filling">The filling.</param>
    /// <param name="tables">The reference tables by key; columns that a table has lost are kept.</param>
    public static Form Write(Filling filling, IReadOnlyDictionary<string, ReferenceTable> tables)
    {
        var form = new Form();
        (string Column, string Use, string Field)[] used =
        [
            .. filling.Keys.Select(k => (k.Key, Finds, k.Value)),
            .. filling.Targets.Select(t => (t.Key, Fills, t.Value)),
        ];
        var others = (tables.GetValueOrDefault(filling.Table)?.Columns ?? [])
            .Where(c => used.All(u => u.Column != c))
            .Select(c => (c, "", ""));
        List<(string Column, string Use, string Field)> lines = [.. used, .. others];
        form.Put("table", filling.Table);
        form.Put("column", [.. lines.Select(l => l.Column)]);
        form.Put("use", [.. lines.Select(l => l.Use)]);
        form.Put("field", [.. lines.Select(l => l.Field)]);
        form.Tick("always", filling.Always);
        return form;
    }

    /// <summary>The lines of a form: a column, what it is used for, and the field that goes with it.</summary>
    public static IEnumerable<(string Column, string Use, string Field)> Lines(Form form) =>
        form.All("column").Zip(form.All("use"), form.All("field"));

    /// <summary>The filling that a form gives; what is missing is noted in it.</summary>
    public static Filling Read(Form form)
    {
        Dictionary<string, string> keys = [],
            targets = [];
        foreach (var (column, use, field) in Lines(form))
            if (use is Finds or Fills)
                if (field.Length == 0)
                    form.Refuse("field", $"Choose the field that goes with the column “{column}”.");
                else if (!(use == Finds ? keys : targets).TryAdd(column, field))
                    form.Refuse("column", $"The column “{column}” is used twice.");
        if (keys.Count == 0)
            form.Refuse("use", "Choose at least one column that finds the row.");
        if (targets.Count == 0)
            form.Refuse("use", "Choose at least one column that fills a field.");
        if (targets.Values.GroupBy(f => f).FirstOrDefault(g => g.Count() > 1) is { } twice)
            form.Refuse("field", $"Two columns fill “{twice.Key}”: choose one.");
        return new Filling(form["table"].Text, keys, targets, form.Ticked("always"));
    }
}
