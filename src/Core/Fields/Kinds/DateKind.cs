using System.Globalization;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds a calendar date (ISO 8601), e.g. <c>2024-03-05</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record DateField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Date;
}

/// <summary>Days of the calendar.</summary>
internal sealed class DateKind : FieldKind
{
    public override string Name => "Date";

    public override string Label => "date";

    public override Measure Measure => Measure.Day;

    public override bool IsWhole => true;

    public override Field New(string key, string label) => new DateField(key, label);

    protected override FieldValue Read(string text) =>
        FieldParsing.TryDate(text, out var date)
            ? new FieldValue
            {
                Text = FieldParsing.IsIso(text) ? text : date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                Date = date,
                State = ValueState.Good,
            }
            : Unreadable(text);

    public override string UnreadableCode => "not-a-date";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"„{text}“ ist kein Datum; als 2024-03-31 schreiben.",
            "fr" => $"« {text} » n’est pas une date ; écrivez-la comme 2024-03-31.",
            _ => $"“{text}” is not a date; write it as 2024-03-31.",
        };

    public override decimal? Order(string? text) => FieldParsing.TryDate(text ?? "", out var date) ? date.DayNumber : null;

    public override decimal Order(in FieldValue value) => value.Date.DayNumber;

    public override string Key(in FieldValue value) => value.Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    public override bool Same(in FieldValue a, in FieldValue b) => a.Date == b.Date;

    internal override object FoundBy(string text) => text.Trim();

    // Up to a month or a year is up to its end.
    public override string UpTo(string key) => key + SearchKey.Beyond;

    public override IReadOnlyList<Look> Looks { get; } = [Look.Between, Look.Is, Look.Before, Look.After, Look.Empty, Look.Filled];

    public override string Before => "is before";

    public override string After => "is after";

    public override string? WhyNotAsked(Look how, string value) =>
        how is Look.Holds or Look.Starts || IsAsked(value)
            ? null
            : $"“{value}” is not a day. Write 2024-03-05, 2024-03, 2024, today, or 30 days ago.";

    internal override FieldCondition On(FieldCondition condition, VocabularyIndex? terms, DateOnly today)
    {
        var dated = condition with { Text = Day(condition.Text, today), To = Day(condition.To, today) };
        return dated.How == Look.Is && dated.Text.Length < 10 ? dated with { How = Look.Between, To = dated.Text } : dated;
    }

    public override string Shape(Field field) => "date";

    public override object? Typed(string text) => FieldParsing.TryDate(text, out var date) ? date : null;

    public override string XmlType => "xs:date";

    public override string? Xml(string text) =>
        FieldParsing.TryDate(text, out var date) ? date.ToString("O", CultureInfo.InvariantCulture) : null;

    public override (string Base, string? Format) Csvw => ("date", "yyyy-MM-dd");

    public override IEnumerable<(string Name, JsonNode? Value)> CsvwLimits(Field field)
    {
        yield return ("minimum", ((DateField)field).Min);
        yield return ("maximum", ((DateField)field).Max);
    }

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        part.Property["type"] = "string";
        if (!part.IsCleaned)
            part.Property["format"] = "date";
        part.LimitsUnsaid((DateField)field);
    }

    internal override JsonObject? OneOfInJsonSchema(string[] values, VocabularyIndex? terms) =>
        new() { ["enum"] = JsonSchemaPart.Strings(values) };

    internal override string? Plausible(Field field, VocabularyIndex? terms) =>
        field is DateField { Min: { Length: > 0 } least } && string.CompareOrdinal(least, "2024-03-05") > 0 ? least : "2024-03-05";

    // A day, a month, a year, or a day said from today on.
    private static bool IsAsked(string value) =>
        RelativeDate.On(value, new DateOnly(2000, 1, 1)) is not null
        || FieldParsing.TryDate(value, out _)
        || DateOnly.TryParseExact(value, ["yyyy", "yyyy-MM"], CultureInfo.InvariantCulture, DateTimeStyles.None, out _);

    private static string Day(string text, DateOnly today) =>
        RelativeDate.On(text, today)?.ToString("O", CultureInfo.InvariantCulture)
        ?? (FieldParsing.TryDate(text.Trim(), out var date) ? date.ToString("O", CultureInfo.InvariantCulture) : text.Trim());
}
