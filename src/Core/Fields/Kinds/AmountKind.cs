using System.Globalization;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds an amount with its currency, e.g. <c>1234.50 EUR</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record AmountField(string Key, string Label) : RangedField(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.Amount;

    /// <summary>Currencies accepted, ISO 4217 codes; the first is taken when none is written. Empty accepts all.</summary>
    public IReadOnlyList<string>? Currencies { get; init; }
}

/// <summary>Amounts: a number and its currency, which is never left out of sight.</summary>
internal sealed class AmountKind : NumberKind
{
    public override string Name => "Amount";

    public override string Label => "amount";

    public override bool IsNumeric => false;

    public override bool HasCurrency => true;

    public override Field New(string key, string label) => new AmountField(key, label);

    // Which currency is meant by none, only a field knows.
    protected override FieldValue Read(string text) => new() { Text = text, State = ValueState.Good };

    internal override Func<string, FieldValue> Reader(Field field, VocabularyIndex? terms, IReadOnlyList<Func<string?, FieldValue>> columns)
    {
        var usual = field is AmountField { Currencies: [var first, ..] } ? first : null;
        return text => Read(text, usual);
    }

    private static FieldValue Read(string text, string? currency)
    {
        var number = text;
        if (text.Length > 3 && char.IsAsciiLetter(text[^1]))
            (number, currency) = (text[..^3], text[^3..].ToUpperInvariant());
        else if (char.IsAsciiLetter(text[0]) && text.Length > 3)
            (number, currency) = (text[3..], text[..3].ToUpperInvariant());
        const NumberStyles styles = NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint;
        if (currency is null || !decimal.TryParse(number.Trim(), styles, CultureInfo.InvariantCulture, out var value))
            return Unreadable(text);
        return new FieldValue
        {
            Text = string.Create(CultureInfo.InvariantCulture, $"{value} {currency}"),
            Number = value,
            Part = currency,
            State = ValueState.Good,
        };
    }

    public override string Canonical(string typed)
    {
        var (number, currency) = Currencies.Divided(typed);
        return currency is null ? Numbers.Canonical(typed) : $"{Numbers.Canonical(number)} {currency}";
    }

    public override string? WhyNotCompared(string typed) => base.WhyNotCompared(Currencies.Divided(typed).Number);

    public override string UnreadableCode => "not-an-amount";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"„{text}“ ist kein Betrag; Zahl mit Punkt und Währung schreiben, etwa 1250.50 EUR.",
            "fr" => $"« {text} » n’est pas un montant ; écrivez un nombre avec un point et une devise, par exemple 1250.50 EUR.",
            _ => $"“{text}” is not an amount; write a number with a point and a currency, such as 1250.50 EUR.",
        };

    public override decimal? Order(string? text) => Numbers.Stored(Currencies.Divided(text ?? "").Number);

    public override string Key(in FieldValue value) => $"{Plain(value.Number)} {value.Currency}";

    public override bool Same(in FieldValue a, in FieldValue b) => a.Number == b.Number && a.Currency == b.Currency;

    public override string? WhyNotAsked(Look how, string value)
    {
        var (number, currency) = Currencies.Divided(value);
        return currency is { } code && Currencies.PlacesOf(code) is null ? $"“{code}” is not a currency." : base.WhyNotAsked(how, number);
    }

    public override string? WhyNotTogether(IReadOnlyList<string> values) =>
        values.Select(v => Currencies.Divided(v).Currency is null).Distinct().Count() > 1
            ? "Write a currency behind each amount, or behind none."
            : null;

    // An amount with a currency is asked among the amounts of that currency.
    internal override FieldCondition On(FieldCondition condition, VocabularyIndex? terms, DateOnly today)
    {
        string[] given = [condition.Text, condition.To, .. condition.Values];
        if (given.Select(g => Currencies.Divided(g).Currency).FirstOrDefault(c => c is not null) is not { } currency)
            return condition;
        var asked = condition with { Field = SearchKey.InCurrency(condition.Field), Kind = Text };
        string In(string text, int by = 0) =>
            SearchKey.OfAmount(Currencies.Divided(text).Currency is null ? $"{text} {currency}" : text, by) ?? "";
        var (least, most) = (In($"-1{Zeros} {currency}"), In($"1{Zeros} {currency}"));
        return condition.How switch
        {
            Look.OneOf => asked with { Values = [.. condition.Values.Select(v => In(v))] },
            Look.Between => asked with
            {
                Text = condition.Text.Length > 0 ? In(condition.Text) : least,
                To = condition.To.Length > 0 ? In(condition.To) : most,
            },
            Look.Before => asked with { How = Look.Between, Text = least, To = In(condition.Text, -1) },
            Look.After => asked with { How = Look.Between, Text = In(condition.Text, 1), To = most },
            Look.IsNot => asked with { Text = In(condition.Text) },
            _ => asked with { How = Look.Is, Text = In(condition.Text) },
        };
    }

    // Beyond every amount.
    private const string Zeros = "000000000000000000";

    public override string Shape(Field field) => "amount";

    // To other programs it is a text: none of them holds a currency beside a number.
    public override object? Typed(string text) => null;

    public override IEnumerable<(string Name, JsonNode? Value)> CsvwLimits(Field field) => [];

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        var amount = (AmountField)field;
        part.Property["type"] = "string";
        if (!part.IsCleaned)
            part.Property["pattern"] = Pattern(amount, part.Given);
        if ((amount.Currencies is { Count: > 0 } own ? own : Currencies.All).Select(Currencies.PlacesOf).Distinct().Count() > 1)
            part.Unsaid.Add($"{field.Label} has as many decimal places as its currency");
        part.LimitsUnsaid(amount);
    }

    internal override JsonObject? OneOfInJsonSchema(string[] values, VocabularyIndex? terms) => null;

    internal override string? Plausible(Field field, VocabularyIndex? terms) =>
        $"{base.Plausible(field, terms)} {(field is AmountField { Currencies: [var first, ..] } ? first : "EUR")}";

    // Digits after the point as the currencies have them; the code may be left out where the field has one of its own.
    private static string Pattern(AmountField field, bool given)
    {
        var codes = field.Currencies is { Count: > 0 } some ? some : [.. Currencies.All];
        var places = codes.Select(c => Currencies.PlacesOf(c) ?? 0).DefaultIfEmpty(0).Max();
        var number = places == 0 ? "-?[0-9]+(?:\\.0+)?" : $"-?[0-9]+(?:\\.[0-9]{{1,{places}}}0*)?";
        return $"^{number} ?(?:{string.Join('|', codes)}){(field.Currencies is { Count: > 0 } && !given ? "?" : "")}$";
    }
}
