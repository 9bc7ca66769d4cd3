using System.Text.Json;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>
/// Values that recognition was not sure of, or that do not fit their field, are recognised once more, larger and smaller; what several of
/// these readings agree on, and what fits the field, is taken instead. Only fields that say what a value looks like are helped: of a free
/// text nobody knows which reading is right.
/// </summary>
internal static class SecondLook
{
    /// <summary>
    /// Most places of one document that are looked at again; a page that is unreadable as a whole is not read a hundred times.
    /// </summary>
    private const int Most = 60;

    /// <summary>Readings that must agree.</summary>
    private const int Agree = 2;
    private const double Agreed = 0.72;
    private const double More = 0.05;
    private const double Surest = 0.93;

    private sealed record Doubt(
        int Value,
        int Cell,
        int Page,
        Box Box,
        Field Field,
        string Text,
        Func<string, bool> Fits,
        Func<string, string> Clean
    );

    public static IReadOnlyList<CapturedValue> At(
        List<CapturedValue> values,
        TypeFields type,
        FinderContext context,
        Func<CapturedValue, CrosswalkLine> lineOf
    )
    {
        if (context.Pictures is not { } pictures)
            return values;
        var doubts = values
            .SelectMany((v, i) => Doubts(v, i, type.Find(v.Field), context, lineOf))
            .Where(d => !d.Box.Equals(default))
            .Take(Most)
            .ToList();
        if (doubts.Count == 0)
            return values;
        var read = pictures.ReadAgain([.. doubts.Select(d => (d.Page, d.Box, CharactersOf(d.Field)))]);
        var better = doubts.Select((d, i) => (Doubt: d, Better: Vote(d, read[i], context))).Where(b => b.Better is not null).ToList();
        foreach (var each in better.GroupBy(b => b.Doubt.Value))
            values[each.Key] =
                each.First().Doubt.Cell < 0
                    ? Taken(values[each.Key], each.First().Better!.Value)
                    : Taken(values[each.Key], type.Find(values[each.Key].Field)!, [.. each.Select(e => (e.Doubt.Cell, e.Better!.Value))]);
        return values;
    }

    private static IEnumerable<Doubt> Doubts(
        CapturedValue value,
        int at,
        Field? field,
        FinderContext context,
        Func<CapturedValue, CrosswalkLine> lineOf
    )
    {
        if (field is null || value.Evidence is not { Method: "recognised" } evidence)
            yield break;
        if (field.Kind.HasRows)
        {
            foreach (var cells in evidence.Cells.Select((c, i) => (Cell: c, At: i)).GroupBy(c => c.Cell.Column))
            {
                if (field.Columns.FirstOrDefault(c => c.Key == cells.Key) is not { } column)
                    continue;
                var shape = new ColumnShape([.. cells.Select(c => Rows.Text(column, c.Cell.Raw))]);
                if (!SaysHow(column, context) && !shape.Says)
                    continue;
                bool Fits(string text) => FieldFit.Fits(column, text, context) && shape.Fits(text);
                string Clean(string raw) => Rows.Text(column, raw) is var read && shape.Repaired(read) is { } repaired ? repaired : read;
                foreach (var (cell, i) in cells)
                    if (Rows.Text(column, cell.Raw) is var text && (!Fits(text) || !evidence.Suffices(cell.Confidence)))
                        yield return new Doubt(at, i, cell.Page, cell.Box, column, text, Fits, Clean);
            }
            yield break;
        }
        if (!SaysHow(field, context))
            yield break;
        bool FitsField(string text) => FieldFit.Fits(field, text, context);
        if (!FitsField(value.Text) || !evidence.IsSure)
            yield return new Doubt(
                at,
                -1,
                evidence.Page,
                evidence.Box,
                field,
                value.Text,
                FitsField,
                CleaningSteps.Compile(lineOf(value).Steps, field)
            );
    }

    private static string CharactersOf(Field field) =>
        field.Kind.IsNumeric ? "0123456789.,-"
        : field.Kind.Measure == Measure.TimeOfDay ? "0123456789:"
        : "";

    // Whether a wrong reading can be told from a right one.
    private static bool SaysHow(Field field, FinderContext context) =>
        field.Kind.Shape(field) != "text" || field is VocabularyField { Vocabulary: { } key } && context.Vocabularies.ContainsKey(key);

    private static (string Text, string Raw, double Confidence)? Vote(Doubt doubt, IReadOnlyList<string> readings, FinderContext context)
    {
        var votes = readings
            .SelectMany(r => Readings(doubt, r, context))
            .GroupBy(v => v.Text, StringComparer.Ordinal)
            .OrderByDescending(g => g.Count())
            .ToList();
        // What was misread in one and the same way every time is told by the other cells of its column.
        if (votes.Count == 0)
            return doubt.Clean(doubt.Text) is var repaired && repaired != doubt.Text && doubt.Fits(repaired)
                ? (repaired, doubt.Text, Agreed)
                : null;
        var (most, count) = (votes[0], votes[0].Count());
        // What was read first is one more reading, when it fits.
        if (doubt.Fits(doubt.Text) && votes.Find(v => v.Key == doubt.Text) is { } same && same.Count() + 1 >= count)
            (most, count) = (same, same.Count() + 1);
        if (count < Agree || votes.Any(v => v.Key != most.Key && v.Count() == count))
            return null;
        return (most.Key, most.First().Raw, Math.Min(Surest, Agreed + More * count));
    }

    // A reading as it stands, or the one part of it that fits: what recognition makes of the edge of a line is not the value.
    private static IEnumerable<(string Text, string Raw)> Readings(Doubt doubt, string reading, FinderContext context)
    {
        var raw = reading.Trim().Trim('.', ',', ';', ':', '_', '-', '|', '\'', '‘', '’', '“', '”');
        if (raw.Length is 0 or > SafePattern.LongestValue)
            return [];
        if (doubt.Clean(raw) is var whole && doubt.Fits(whole))
            return [(whole, raw)];
        var words = raw.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(w => new Word(w, default)).ToList();
        return words.Count == 0 ? []
            : Shapes
                .Parts(new TextLine(words), doubt.Field, context)
                .Select(p => (doubt.Clean(p.Raw), p.Raw))
                .Where(p => doubt.Fits(p.Item1))
                .ToList()
                is [var only]
                ? [only]
            : [];
    }

    private static CapturedValue Taken(CapturedValue value, (string Text, string Raw, double Confidence) better) =>
        value with
        {
            Text = better.Text,
            Evidence = value.Evidence! with { Raw = better.Raw, Confidence = Math.Max(value.Evidence.Confidence, better.Confidence) },
            How = value.How.Length == 0 ? "read once more" : $"{value.How}, read once more",
        };

    private static CapturedValue Taken(
        CapturedValue value,
        Field table,
        List<(int Cell, (string Text, string Raw, double Confidence) Better)> cells
    )
    {
        if (TableText.Rows(value.Text) is not { } rows)
            return value;
        var places = value.Evidence!.Cells.ToList();
        foreach (var (at, better) in cells)
        {
            var cell = places[at];
            places[at] = cell with { Raw = better.Raw, Confidence = Math.Max(cell.Confidence, better.Confidence) };
            rows[cell.Row - 1][cell.Column] = better.Text;
        }
        var json = JsonSerializer.Serialize(rows, Rows.Written);
        return value with
        {
            Text = json,
            Evidence = value.Evidence with { Raw = json, Cells = places, Confidence = places.Min(c => c.Confidence) },
            How = $"{value.How}, {(cells.Count == 1 ? "a cell" : $"{cells.Count} cells")} of {table.Label} read once more",
        };
    }
}
