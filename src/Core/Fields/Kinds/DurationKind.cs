using System.Globalization;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds how long something lasts (ISO 8601), e.g. <c>P3DT4H30M</c>: 3 days, 4 hours and 30 minutes.</summary>
/// <inheritdoc cref="Field"/>
public sealed record DurationField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Duration;
}

/// <summary>
/// Durations in whole seconds, kept in one form: days, hours below 24, minutes and seconds below 60. Years and months are refused, because
/// none of them lasts as long as every other. What is typed may also say the units, in English, German or French.
/// </summary>
internal sealed partial class DurationKind : FieldKind
{
    private const int Day = 24 * 60 * 60;

    // The longest unit first, as durations are written.
    private static readonly (decimal Seconds, string[] Names)[] Units =
    [
        (7 * Day, ["w", "week", "weeks", "woche", "wochen", "semaine", "semaines"]),
        (Day, ["d", "day", "days", "tag", "tage", "tagen", "j", "jour", "jours"]),
        (60 * 60, ["h", "hr", "hrs", "hour", "hours", "std", "stunde", "stunden", "heure", "heures"]),
        (60, ["min", "mins", "minute", "minutes", "minuten"]),
        (1, ["s", "sec", "second", "seconds", "sek", "sekunde", "sekunden", "seconde", "secondes"]),
    ];

    public override string Name => "Duration";

    public override string Label => "duration";

    public override Measure Measure => Measure.Duration;

    public override bool IsWhole => true;

    public override bool IsMultiplied => true;

    public override decimal Unit => 60;

    public override string UnitName => "min";

    public override string? OfNumber(decimal number) =>
        number >= 0 && Exact.TryMultiply(number, Unit, out var seconds) && decimal.IsInteger(seconds) && seconds <= Longest
            ? Iso(seconds)
            : null;

    public override Field New(string key, string label) => new DurationField(key, label);

    protected override FieldValue Read(string text) =>
        Seconds(text) is { } seconds
            ? new FieldValue
            {
                Text = Iso(seconds),
                Number = seconds,
                State = ValueState.Good,
            }
            : Unreadable(text);

    public override string Canonical(string typed) => Parse(typed).Text;

    public override string? WhyNotCompared(string typed) => Parse(typed).State == ValueState.Unreadable ? UnreadableIn(typed, "en") : null;

    public override string UnreadableCode => "not-a-duration";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"„{text}“ ist keine Dauer aus Tagen, Stunden und Minuten; als P3DT4H30M oder 3 Tage 4 Std 30 min schreiben.",
            "fr" => $"« {text} » n’est pas une durée en jours, heures et minutes ; écrivez P3DT4H30M ou 3 jours 4 h 30 min.",
            _ => $"“{text}” is not a duration of days, hours and minutes; write it as P3DT4H30M or 3 days 4 h 30 min.",
        };

    public override decimal? Order(string? text) => Trimmed(text) is { } some ? Seconds(some) : null;

    public override string Key(in FieldValue value) => Iso(value.Number);

    public override bool Same(in FieldValue a, in FieldValue b) => a.Number == b.Number;

    public override bool IsFoundByNumber => true;

    internal override object FoundBy(string text) => Order(text) is { } seconds ? (long)seconds : Folding.Fold(text);

    public override IReadOnlyList<Look> Looks { get; } =
    [Look.Between, Look.Is, Look.Before, Look.After, Look.OneOf, Look.IsNot, Look.Empty, Look.Filled];

    public override string? WhyNotAsked(Look how, string value) => WhyNotCompared(value);

    // The symbols are those of the International System of Units, which every language writes.
    public override string? InWords(string text)
    {
        if (Order(text) is not { } seconds)
            return null;
        (decimal Number, string Symbol)[] parts =
        [
            (decimal.Floor(seconds / Day), "d"),
            (decimal.Floor(seconds / 3600) % 24, "h"),
            (decimal.Floor(seconds / 60) % 60, "min"),
            (seconds % 60, "s"),
        ];
        var said = string.Join(' ', parts.Where(p => p.Number != 0).Select(p => $"{Numbers.Text(p.Number)} {p.Symbol}"));
        return said.Length == 0 ? "0 s" : said;
    }

    public override string XmlType => "xs:duration";

    public override string? Xml(string text) => Parse(text) is { IsGood: true } value ? value.Text : null;

    public override (string Base, string? Format) Csvw => ("dayTimeDuration", null);

    public override IEnumerable<(string Name, JsonNode? Value)> CsvwLimits(Field field)
    {
        var range = (DurationField)field;
        yield return ("minimum", range.Min is { } least ? Canonical(least) : null);
        yield return ("maximum", range.Max is { } most ? Canonical(most) : null);
    }

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        part.Property["type"] = "string";
        // What is sent may say its units in words.
        if (part.Given)
            part.Property["format"] = "duration";
        else if (field.Required)
            part.NotBlank();
        part.LimitsUnsaid((DurationField)field);
    }

    internal override string? Plausible(Field field, VocabularyIndex? terms) =>
        field is DurationField { Min: { Length: > 0 } least } ? Canonical(least) : "P1DT6H";

    // A million days.
    private const decimal Longest = 1_000_000m * Day;

    private static string Iso(decimal seconds)
    {
        if (seconds == 0)
            return "PT0S";
        var (days, rest) = ((long)(seconds / Day), (int)(seconds % Day));
        string Part(int number, char unit) => number == 0 ? "" : string.Create(CultureInfo.InvariantCulture, $"{number}{unit}");
        var time = Part(rest / 3600, 'H') + Part(rest / 60 % 60, 'M') + Part(rest % 60, 'S');
        return string.Create(CultureInfo.InvariantCulture, $"P{(days == 0 ? "" : $"{days}D")}{(time.Length == 0 ? "" : "T" + time)}");
    }

    private static decimal? Seconds(string text)
    {
        var seconds = IsoForm().Match(text) is { Success: true } iso ? OfIso(iso) : OfWords(text);
        return seconds is { } some && decimal.IsInteger(some) && some <= Longest ? some : null;
    }

    private static decimal? OfIso(Match iso)
    {
        var (sum, any) = (0m, false);
        for (var i = 0; i < Units.Length; i++)
            if (iso.Groups[i + 1] is { Success: true } group)
                (sum, any) = (
                    sum + Units[i].Seconds * decimal.Parse(group.ValueSpan, NumberStyles.None, CultureInfo.InvariantCulture),
                    true
                );
        return any ? sum : null;
    }

    private static decimal? OfWords(string text)
    {
        if (!WordForm().IsMatch(text))
            return null;
        var (sum, last) = (0m, -1);
        var parts = WordPart().Matches(text);
        for (var i = 0; i < parts.Count; i++)
        {
            var number = parts[i].Groups[1].Value;
            // Half an hour is written only at the end; a comma of two digits at most, so that it is not one of thousands.
            if (number.AsSpan().IndexOfAny('.', ',') >= 0 && i < parts.Count - 1)
                return null;
            var name = parts[i].Groups[2].Value.ToLowerInvariant();
            var unit = Array.FindIndex(Units, u => u.Names.Contains(name));
            // From the longest to the shortest, each once.
            if (unit <= last)
                return null;
            last = unit;
            sum +=
                Units[unit].Seconds * decimal.Parse(number.Replace(',', '.'), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture);
        }
        return sum;
    }

    [GeneratedRegex(
        @"^P(?:([0-9]{1,7})W|(?:([0-9]{1,7})D)?(?:T(?=[0-9])(?:([0-9]{1,9})H)?(?:([0-9]{1,9})M)?(?:([0-9]{1,9})S)?)?)\z",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex IsoForm();

    [GeneratedRegex(
        @"^(?:[0-9]{1,9}(?:[.,][0-9]{1,2})?\s*\p{L}+\.?(?:\z|(?:\s*,\s*|\s+(?:and|und|et)\s+|\s*)(?=[0-9])))+\z",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex WordForm();

    [GeneratedRegex(@"([0-9]{1,9}(?:[.,][0-9]{1,2})?)\s*(\p{L}+)", RegexOptions.CultureInvariant)]
    private static partial Regex WordPart();
}
