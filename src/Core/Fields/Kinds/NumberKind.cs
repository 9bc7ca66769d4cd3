using System.Globalization;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field whose values have an order, so that they can be bounded.</summary>
/// <inheritdoc cref="Field"/>
public abstract record RangedField(string Key, string Label) : Field(Key, Label)
{
    /// <summary>Least value, inclusive, written as the field's kind is written.</summary>
    public string? Min { get; init; }

    /// <summary>Greatest value, inclusive, written as the field's kind is written.</summary>
    public string? Max { get; init; }

    /// <summary>Limits in words, one of which may be empty.</summary>
    internal static string InWords(string least, string most) =>
        least.Length == 0 ? $"at {most} or below"
        : most.Length == 0 ? $"at {least} or above"
        : $"from {least} to {most}";
}

/// <summary>What all numbers have in common, with a currency beside them or without.</summary>
internal abstract class NumberKind : FieldKind
{
    public override Measure Measure => Measure.Number;

    public override bool IsNumeric => true;

    public override string Canonical(string typed) => Numbers.Canonical(typed);

    public override string? WhyNotCompared(string typed) => Numbers.Typed(typed, out var problem) is null ? problem : null;

    public override decimal? Order(string? text) => Numbers.Stored(text ?? "");

    public override string Key(in FieldValue value) => Plain(value.Number);

    public override bool Same(in FieldValue a, in FieldValue b) => a.Number == b.Number;

    public override bool IsFoundByNumber => true;

    // Doubles tell about 15 digits apart.
    internal override object FoundBy(string text) =>
        Numbers.Typed(Currencies.Divided(text).Number) is not { } number ? Folding.Fold(text)
        : decimal.IsInteger(number) && number is >= long.MinValue and <= long.MaxValue ? (long)number
        : (double)number;

    public override IReadOnlyList<Look> Looks { get; } =
    [Look.Is, Look.Between, Look.Before, Look.After, Look.OneOf, Look.IsNot, Look.Empty, Look.Filled];

    public override string? WhyNotAsked(Look how, string value) => Numbers.Typed(value, out var problem) is null ? problem : null;

    public override string Shape(Field field) => "number";

    public override object? Typed(string text) => Numbers.Kept(text);

    public override IEnumerable<(string Name, JsonNode? Value)> CsvwLimits(Field field)
    {
        var range = (RangedField)field;
        yield return ("minimum", range.Min is { } least ? Numbers.Canonical(least) : null);
        yield return ("maximum", range.Max is { } most ? Numbers.Canonical(most) : null);
    }

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        var (range, name) = ((RangedField)field, IsWhole ? "integer" : "number");
        part.Property["type"] = part.IsCleaned ? new JsonArray(name, "string") : name;
        if (Order(range.Min) is { } least)
            part.Property["minimum"] = least;
        if (Order(range.Max) is { } greatest)
            part.Property["maximum"] = greatest;
    }

    internal override JsonObject? OneOfInJsonSchema(string[] values, VocabularyIndex? terms) =>
        new() { ["enum"] = new JsonArray([.. values.Select(v => (JsonNode?)JsonValue.Create(Order(v)))]) };

    internal override string? Plausible(Field field, VocabularyIndex? terms) =>
        field is RangedField { Min: { Length: > 0 } least } ? least : "42";

    /// <summary>A number as it is equal to others: 1.50 is 1.5, and there is one zero.</summary>
    protected static string Plain(decimal number) =>
        number.ToString("0.#############################", CultureInfo.InvariantCulture) is var text && text == "-0" ? "0" : text;

    /// <summary>Reads a number in one of .NET's styles.</summary>
    protected static FieldValue Read(string text, NumberStyles styles) =>
        decimal.TryParse(text, styles, CultureInfo.InvariantCulture, out var number)
            ? new FieldValue
            {
                Text = text,
                Number = number,
                State = ValueState.Good,
            }
            : Unreadable(text);

    /// <summary>A number as XML has it, without what its style allows beside it.</summary>
    protected static string? Xml(string text, NumberStyles styles) =>
        decimal.TryParse(text, styles, CultureInfo.InvariantCulture, out var number) ? number.ToString(CultureInfo.InvariantCulture) : null;
}
