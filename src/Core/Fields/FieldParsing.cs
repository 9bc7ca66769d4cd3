using System.Globalization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>Reads a field's text as its kind.</summary>
public static class FieldParsing
{
    private static readonly string[] SpokenDates = ["d MMM yyyy", "d MMMM yyyy"];

    /// <summary>Reads one text of a plain kind; <see cref="FieldReader"/> reads all kinds. Blanks around it do not count.</summary>
    /// <param name="kind">The field's kind; a kind that needs its field (amount, several terms, identifier, table) is read as text.</param>
    /// <param name="text">What was captured, typed or imported; null is empty.</param>
    /// <param name="terms">The vocabulary of a term field.</param>
    public static FieldValue Parse(FieldKind kind, string? text, VocabularyIndex? terms)
    {
        if (string.IsNullOrEmpty(text))
            return FieldValue.Empty;
        if (char.IsWhiteSpace(text[0]) || char.IsWhiteSpace(text[^1]))
        {
            text = text.Trim();
            if (text.Length == 0)
                return FieldValue.Empty;
        }
        return kind switch
        {
            FieldKind.Text or FieldKind.Identifier or FieldKind.Amount or FieldKind.Terms or FieldKind.Table => new FieldValue
            {
                Text = text,
                State = ValueState.Good,
            },
            FieldKind.WholeNumber => decimal.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var whole)
                ? new FieldValue
                {
                    Text = text,
                    Number = whole,
                    State = ValueState.Good,
                }
                : Unreadable(text),
            FieldKind.Decimal => decimal.TryParse(
                text,
                NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint,
                CultureInfo.InvariantCulture,
                out var number
            )
                ? new FieldValue
                {
                    Text = text,
                    Number = number,
                    State = ValueState.Good,
                }
                : Unreadable(text),
            FieldKind.Date => TryDate(text, out var date)
                ? new FieldValue
                {
                    Text = IsIso(text) ? text : date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                    Date = date,
                    State = ValueState.Good,
                }
                : Unreadable(text),
            FieldKind.Time => TryTime(text, out var minutes)
                ? new FieldValue
                {
                    Text = $"{minutes / 60:00}:{minutes % 60:00}",
                    Number = minutes,
                    State = ValueState.Good,
                }
                : Unreadable(text),
            FieldKind.YesNo => ParseYesNo(text),
            FieldKind.Term => ParseTerm(text, terms),
            _ => Unreadable(text),
        };
    }

    /// <summary>The terms of a text that holds several, separated by semicolons.</summary>
    public static string[] Terms(string text) => text.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    /// <summary>Reads <c>yyyy-MM-dd</c> (ISO 8601), and <c>3 March 2024</c> as people type it.</summary>
    public static bool TryDate(string text, out DateOnly date)
    {
        date = default;
        if (IsIso(text))
        {
            int year = Two(text, 0) * 100 + Two(text, 2),
                month = Two(text, 5),
                day = Two(text, 8);
            if (year < 1 || month is < 1 or > 12 || day < 1 || day > DateTime.DaysInMonth(year, month))
                return false;
            date = new DateOnly(year, month, day);
            return true;
        }
        return DateOnly.TryParseExact(text, SpokenDates, CultureInfo.InvariantCulture, DateTimeStyles.AllowInnerWhite, out date);
    }

    /// <summary>Reads <c>HH:mm</c> (ISO 8601) or <c>H:mm</c>, also with full seconds of <c>:00</c>.</summary>
    /// <param name="text">The text.</param>
    /// <param name="minutes">Minutes since midnight, 0 to 1,439.</param>
    public static bool TryTime(string text, out int minutes)
    {
        minutes = 0;
        if (text.Length > 5 && text.EndsWith(":00", StringComparison.Ordinal))
            text = text[..^3];
        if (
            text.Length is not (4 or 5)
            || text[^3] != ':'
            // Numbers are read with what stands behind a NUL left out.
            || text.Contains('\0', StringComparison.Ordinal)
            || !int.TryParse(text.AsSpan(0, text.Length - 3), NumberStyles.None, CultureInfo.InvariantCulture, out var hour)
            || !int.TryParse(text.AsSpan(text.Length - 2), NumberStyles.None, CultureInfo.InvariantCulture, out var minute)
            || hour > 23
            || minute > 59
        )
            return false;
        minutes = hour * 60 + minute;
        return true;
    }

    /// <summary>
    /// Where a text stands in the order of its kind: a number or amount by its size, a date by its day (days since 0001-01-01), a time by
    /// its minutes since midnight. Null when it is none, and for kinds without an order.
    /// </summary>
    public static decimal? Order(FieldKind kind, string? text) =>
        kind switch
        {
            FieldKind.Date => TryDate(text ?? "", out var date) ? date.DayNumber : null,
            FieldKind.Time => TryTime(text ?? "", out var minutes) ? minutes : null,
            FieldKind.WholeNumber or FieldKind.Decimal => Numbers.Stored(text ?? ""),
            FieldKind.Amount => Numbers.Stored(Currencies.Divided(text ?? "").Number),
            _ => null,
        };

    /// <summary>Where a value that was understood stands in the same order; only of kinds that have one.</summary>
    public static decimal Order(FieldKind kind, in FieldValue value) => kind == FieldKind.Date ? value.Date.DayNumber : value.Number;

    private static bool IsIso(string text)
    {
        if (text.Length != 10 || text[4] != '-' || text[7] != '-')
            return false;
        for (var i = 0; i < 10; i++)
            if (i is not (4 or 7) && !char.IsAsciiDigit(text[i]))
                return false;
        return true;
    }

    private static int Two(string text, int at) => (text[at] - '0') * 10 + text[at + 1] - '0';

    private static FieldValue ParseYesNo(string text) =>
        text.ToUpperInvariant() switch
        {
            "YES" or "Y" or "TRUE" or "1" => new FieldValue
            {
                Text = "yes",
                Number = 1,
                State = ValueState.Good,
            },
            "NO" or "N" or "FALSE" or "0" => new FieldValue { Text = "no", State = ValueState.Good },
            _ => Unreadable(text),
        };

    private static FieldValue ParseTerm(string text, VocabularyIndex? terms)
    {
        var index = terms?.IndexOf(text) ?? -1;
        if (index < 0 && terms is { Vocabulary.Growth: not Growth.Fixed } && text.Length <= Vocabulary.LongestLabel)
            return new FieldValue
            {
                Text = text,
                Term = -1,
                State = ValueState.Good,
            };
        return index < 0
            ? Unreadable(text)
            : new FieldValue
            {
                Text = terms!.Vocabulary.Terms[index].Label,
                Term = index,
                State = ValueState.Good,
            };
    }

    private static FieldValue Unreadable(string text) => new() { Text = text, State = ValueState.Unreadable };
}
