using System.Globalization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>
/// The form of a value by which documents are found and sorted. Numbers and amounts are numbers (an amount without its currency, and under
/// another name with it), dates ISO 8601, identifiers without their separators, everything else folded as for every look-up (<see
/// cref="Folding"/>: no case, no accents,
/// punctuation as blanks). It sorts nothing before numbers before texts, and what is empty last.
/// </summary>
public static class SearchKey
{
    /// <summary>Longest text that is kept, in characters; of longer ones, the beginning.</summary>
    public const int Longest = 200;

    /// <summary>A text that stands behind every other.</summary>
    public static readonly string Beyond = char.ConvertFromUtf32(0x10FFFF);

    /// <summary>Most different cells of a column by which one document is found.</summary>
    public const int MostCells = 200;

    /// <summary>The form of an empty value.</summary>
    public static readonly object None = new byte[] { 0 };

    /// <summary>The key of a text as a record holds it, or as a person looks for it.</summary>
    /// <param name="kind">Kind of the field.</param>
    /// <param name="text">The text.</param>
    /// <returns>A <see cref="long"/> or <see cref="double"/> for a number, else a string; <see cref="None"/> for an empty text. Doubles
    /// tell about 15 digits apart.</returns>
    public static object Of(FieldKind kind, string text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return None;
        var found = kind.FoundBy(text);
        if (found is not string key)
            return found;
        // A text of nothing but marks is itself.
        if (key.Length == 0)
            key = text.Trim().ToLowerInvariant();
        return CodePoints.First(CodePoints.AreSound(key) ? key : CodePoints.Repaired(key), Longest);
    }

    /// <summary>The key of one term of a field of terms.</summary>
    public static object OfTerm(string label) => Of(FieldKind.Term, label);

    /// <summary>
    /// All keys of a record, with the keys of their fields: of several terms each one and, under the field's <see cref="Whole"/> name, all
    /// of them, by which they are sorted; of a table each cell under <c>table.column</c>, up to <see cref="MostCells"/> different ones a
    /// column, and whether there is any under the column's <see cref="Whole"/> name.
    /// </summary>
    public static IEnumerable<(string Field, object Key)> Of(TypeFields type, Func<string, string?> text)
    {
        foreach (var field in type.Fields)
        {
            var value = text(field.Key) ?? "";
            if (field.Kind.HasRows)
            {
                foreach (var cell in Cells(field, value))
                    yield return cell;
                continue;
            }
            if (field.Kind.IsMultiple)
            {
                foreach (var term in FieldParsing.Terms(value))
                    yield return (field.Key, OfTerm(term));
                yield return (Whole(field.Key), Of(FieldKind.Text, value));
            }
            else
                yield return (field.Key, Of(field.Kind, value));
            if (field is AmountField && OfAmount(value) is { } amount)
                yield return (InCurrency(field.Key), amount);
        }
    }

    /// <summary>The name under which the amounts of a field stand with their currencies.</summary>
    public static string InCurrency(string field) => field + "\u001d";

    /// <summary>
    /// An amount with its currency as a text that stands among those of its currency by its size; null for one without a currency. Amounts
    /// beyond ±10¹⁸ and places beyond the ninth are not told apart.
    /// </summary>
    /// <param name="text">The amount.</param>
    /// <param name="by">How many of the smallest steps to add, so that “more than” begins behind it.</param>
    public static string? OfAmount(string text, int by = 0)
    {
        var (written, currency) = Currencies.Divided(text);
        if (currency is null || Numbers.Typed(written) is not { } number)
            return null;
        // All of one length and none negative, so that they stand in order as texts.
        var shifted = Math.Clamp(number, -Largest + 1, Largest - 1) + Largest + by * Step;
        var size = Math.Round(shifted, 9).ToString("0000000000000000000.000000000", CultureInfo.InvariantCulture);
        return $"{currency.ToLowerInvariant()} {size.Replace('.', ' ')}";
    }

    private const decimal Largest = 1_000_000_000_000_000_000m;
    private const decimal Step = 0.000000001m;

    /// <summary>Whether a document can have several values of a field: several terms, cells of a column.</summary>
    public static bool IsMultiple(string field, FieldKind kind) => kind.IsMultiple || field.Contains('.', StringComparison.Ordinal);

    /// <summary>The name under which all terms of a field stand together, and whether a column has cells.</summary>
    public static string Whole(string field) => field + "\u001f";

    private static IEnumerable<(string Field, object Key)> Cells(Field table, string text)
    {
        var rows = TableText.Rows(text) ?? [];
        foreach (var column in table.Columns)
        {
            var name = $"{table.Key}.{column.Key}";
            var keys = rows.Select(r => r.GetValueOrDefault(column.Key, ""))
                .Where(cell => !string.IsNullOrWhiteSpace(cell))
                .Select(cell => Of(column.Kind, cell))
                .Distinct()
                .Take(MostCells)
                .ToList();
            foreach (var key in keys)
                yield return (name, key);
            if (column is AmountField)
            {
                var amounts = rows.Select(r => OfAmount(r.GetValueOrDefault(column.Key, "")))
                    .OfType<string>()
                    .Distinct()
                    .Take(MostCells)
                    .ToList();
                foreach (var amount in amounts)
                    yield return (InCurrency(name), amount);
                yield return (Whole(InCurrency(name)), amounts.Count > 0 ? 1L : None);
            }
            yield return (Whole(name), keys.Count > 0 ? 1L : None);
        }
    }
}
