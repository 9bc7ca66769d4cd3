using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds a time of day to the minute (ISO 8601), e.g. <c>14:30</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record TimeField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Time;
}

/// <summary>Times of day to the minute.</summary>
internal sealed class TimeKind : FieldKind
{
    public override string Name => "Time";

    public override string Label => "time of day";

    public override Measure Measure => Measure.TimeOfDay;

    public override bool IsWhole => true;

    public override string UnitName => "min";

    public override string? OfNumber(decimal number) =>
        decimal.IsInteger(number) && number is >= 0 and < 24 * 60 ? Clock((int)number) : null;

    private static string Clock(int minutes) => $"{minutes / 60:00}:{minutes % 60:00}";

    public override Field New(string key, string label) => new TimeField(key, label);

    protected override FieldValue Read(string text) =>
        FieldParsing.TryTime(text, out var minutes)
            ? new FieldValue
            {
                Text = Clock(minutes),
                Number = minutes,
                State = ValueState.Good,
            }
            : Unreadable(text);

    public override string UnreadableCode => "not-a-time";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"„{text}“ ist keine Uhrzeit; als 14:30 schreiben.",
            "fr" => $"« {text} » n’est pas une heure ; écrivez-la comme 14:30.",
            _ => $"“{text}” is not a time of day; write it as 14:30.",
        };

    public override decimal? Order(string? text) => FieldParsing.TryTime(text ?? "", out var minutes) ? minutes : null;

    internal override object FoundBy(string text) => text.Trim();

    public override IReadOnlyList<Look> Looks { get; } = [Look.Between, Look.Is, Look.Before, Look.After, Look.Empty, Look.Filled];

    public override string Before => "is before";

    public override string After => "is after";

    public override string? WhyNotAsked(Look how, string value) =>
        FieldParsing.TryTime(value, out _) ? null : $"“{value}” is not a time. Write 14:30.";

    internal override FieldCondition On(FieldCondition condition, VocabularyIndex? terms, DateOnly today) =>
        condition with
        {
            Text = Parse(condition.Text).Text,
            To = Parse(condition.To).Text,
        };

    public override string Shape(Field field) => "time";

    public override string XmlType => "xs:time";

    public override string? Xml(string text) => Parse(text) is { IsGood: true } time ? $"{time.Text}:00" : null;

    // Without seconds, which the recommendation has unless it is told.
    public override (string Base, string? Format) Csvw => ("time", "HH:mm");

    public override IEnumerable<(string Name, JsonNode? Value)> CsvwLimits(Field field)
    {
        yield return ("minimum", ((TimeField)field).Min);
        yield return ("maximum", ((TimeField)field).Max);
    }

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        part.Property["type"] = "string";
        if (!part.IsCleaned)
            part.Property["pattern"] = part.Given
                ? "^(?:[01][0-9]|2[0-3]):[0-5][0-9]$"
                : @"^\s*(?:[01]?[0-9]|2[0-3]):[0-5][0-9](?::00)?\s*$";
        part.LimitsUnsaid((TimeField)field);
    }

    internal override JsonObject? OneOfInJsonSchema(string[] values, VocabularyIndex? terms) =>
        new() { ["enum"] = JsonSchemaPart.Strings(values) };

    internal override string? Plausible(Field field, VocabularyIndex? terms) =>
        field is TimeField { Min: { Length: > 0 } least } ? least : "14:30";
}
