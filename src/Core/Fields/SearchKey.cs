using System.Globalization;
using ClearLexicon.Core.Fields.CheckDigits;
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

    /// <summary>Most different cells of a column by which one document is found.</summary>
    public const int MostCells = 200;

    /// <summary>The form of an empty value.</summary>
    public static readonly object None = new byte[] { 0 };

    /// <summary>Whether values of a kind are numbers.</summary>
    public static bool IsNumber(FieldKind kind) => kind is FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.Amount;

    /// <summary>The key of a text as a record holds it, or as a person looks for it.</summary>
    /// <param name="kind">Kind of the field.</param>
    /// <param name="text">The text.</param>
    /// <returns>A <see cref="long"/> or <see cref="double"/> for a number, else a string; <see cref="None"/> for an empty text. Doubles
    /// tell about 15 digits apart.</returns>
    public static object Of(FieldKind kind, string text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return None;
        if (IsNumber(kind) && Number(text) is { } number)
            return number;
        var key = kind switch
        {
            FieldKind.Date or FieldKind.Time => text.Trim(),
            FieldKind.Identifier => CheckScheme.Compact(text).ToLowerInvariant(),
            _ => Folding.Fold(text),
        };
        // A text of nothing but marks is itself.
        if (key.Length == 0)
            key = text.Trim().ToLowerInvariant();
        return CodePoints.First(CodePoints.AreSound(key) ? key : CodePoints.Repaired(key), Longest);
    }

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
            if (field.Kind == FieldKind.Table)
            {
                foreach (var cell in Cells(field, value))
                    yield return cell;
                continue;
            }
            if (field.Kind == FieldKind.Terms)
            {
                foreach (var term in FieldParsing.Terms(value))
                    yield return (field.Key, Of(FieldKind.Term, term));
                yield return (Whole(field.Key), Of(FieldKind.Text, value));
            }
            else
                yield return (field.Key, Of(field.Kind, value));
            if (field.Kind == FieldKind.Amount && OfAmount(value) is { } amount)
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
        var shifted = Math.Clamp(number, -Beyond + 1, Beyond - 1) + Beyond + by * Step;
        var size = Math.Round(shifted, 9).ToString("0000000000000000000.000000000", CultureInfo.InvariantCulture);
        return $"{currency.ToLowerInvariant()} {size.Replace('.', ' ')}";
    }

    private const decimal Beyond = 1_000_000_000_000_000_000m;
    private const decimal Step = 0.000000001m;

    /// <summary>Whether a document can have several values of a field: several terms, cells of a column.</summary>
    public static bool IsMultiple(string field, FieldKind kind) => kind == FieldKind.Terms || field.Contains('.', StringComparison.Ordinal);

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
            if (column.Kind == FieldKind.Amount)
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

    private static object? Number(string text)
    {
        // An amount has its currency beside it.
        if (Numbers.Typed(Currencies.Divided(text).Number) is not { } number)
            return null;
        return decimal.IsInteger(number) && number is >= long.MinValue and <= long.MaxValue ? (long)number : (double)number;
    }
}
