using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>What values of a kind are measured by. Two kinds of one measure can be compared; those from numbers on have an order.</summary>
public enum Measure
{
    /// <summary>Nothing that another kind has.</summary>
    None,

    /// <summary>The words that are written.</summary>
    Words,

    /// <summary>Yes or no.</summary>
    Truth,

    /// <summary>A number; of an amount, beside its currency.</summary>
    Number,

    /// <summary>A day of the calendar, counted from 0001-01-01.</summary>
    Day,

    /// <summary>Minutes since midnight, 0 to 1,439.</summary>
    TimeOfDay,

    /// <summary>Seconds that something lasts.</summary>
    Duration,
}

/// <summary>
/// What an index field holds: how a text is read as it, compared, ordered, looked for, asked about, said, and given to other programs.
/// Each kind is one file in <c>Kinds</c>; outside of it nobody asks which kind a field is, but what the kind can do.
/// </summary>
[JsonConverter(typeof(FieldKindConverter))]
public abstract class FieldKind
{
    /// <summary>Any text.</summary>
    public static FieldKind Text { get; } = new TextKind();

    /// <summary>A whole number without separators, e.g. <c>-12</c>.</summary>
    public static FieldKind WholeNumber { get; } = new WholeNumberKind();

    /// <summary>A decimal number with a point, e.g. <c>1234.50</c>.</summary>
    public static FieldKind Decimal { get; } = new DecimalKind();

    /// <summary>A calendar date, ISO 8601 <c>yyyy-MM-dd</c>.</summary>
    public static FieldKind Date { get; } = new DateKind();

    /// <summary>A time of day to the minute, ISO 8601 <c>HH:mm</c>, from 00:00 to 23:59.</summary>
    public static FieldKind Time { get; } = new TimeKind();

    /// <summary>How long something lasts, ISO 8601, e.g. <c>P3DT4H30M</c>.</summary>
    public static FieldKind Duration { get; } = new DurationKind();

    /// <summary><c>yes</c> or <c>no</c>.</summary>
    public static FieldKind YesNo { get; } = new YesNoKind();

    /// <summary>One term of a vocabulary.</summary>
    public static FieldKind Term { get; } = new TermKind();

    /// <summary>Several terms of a vocabulary, separated by <c>;</c>.</summary>
    public static FieldKind Terms { get; } = new TermsKind();

    /// <summary>A decimal amount with its currency (ISO 4217), e.g. <c>1234.50 EUR</c>.</summary>
    public static FieldKind Amount { get; } = new AmountKind();

    /// <summary>A number with a check digit, e.g. an IBAN; its scheme says which.</summary>
    public static FieldKind Identifier { get; } = new IdentifierKind();

    /// <summary>The address of a page on the web, e.g. <c>https://harbour.example/tariffs</c>.</summary>
    public static FieldKind WebAddress { get; } = new WebAddressKind();

    /// <summary>Rows whose columns are fields; written as a JSON array of objects.</summary>
    public static FieldKind Table { get; } = new TableKind();

    /// <summary>All kinds, in the order in which they are offered.</summary>
    public static IReadOnlyList<FieldKind> All { get; } =
    [Text, WholeNumber, Decimal, Amount, Date, Time, Duration, YesNo, Term, Terms, Identifier, WebAddress, Table];

    /// <summary>The kind that a stored design names so; null when there is none.</summary>
    public static FieldKind? Find(string? name) => All.FirstOrDefault(k => k.Name == name);

    /// <summary>The kind of a name, as a form sends it; text when there is no such kind.</summary>
    public static FieldKind OrText(string? name) => Find(name) ?? Text;

    /// <summary>The word by which stored designs, files and the API name it; never changes.</summary>
    public abstract string Name { get; }

    /// <summary>What it is called on screens, e.g. <c>whole number</c>.</summary>
    public abstract string Label { get; }

    /// <summary>A field of this kind without options of its own yet.</summary>
    public abstract Field New(string key, string label);

    // What values are.

    /// <summary>What its values are measured by.</summary>
    public virtual Measure Measure => Measure.None;

    /// <summary>Whether values stand in an order, so that one can be below another.</summary>
    public bool IsOrdered => Measure >= Measure.Number;

    /// <summary>Whether there is such a thing as twice a value.</summary>
    public virtual bool IsMultiplied => Measure == Measure.Number;

    /// <summary>Whether it is text that people write, of which length, pattern and characters can be asked.</summary>
    public virtual bool IsWritten => false;

    /// <summary>Whether it is a number and nothing beside it, which other programs take as a number.</summary>
    public virtual bool IsNumeric => false;

    /// <summary>Whether a currency stands beside the number.</summary>
    public virtual bool HasCurrency => false;

    /// <summary>Whether it is a whole number, written in digits.</summary>
    public bool IsDigits => IsNumeric && IsWhole;

    /// <summary>Whether there is nothing between one value and the next.</summary>
    public virtual bool IsWhole => false;

    /// <summary>Whether values are terms of a vocabulary.</summary>
    public virtual bool HasTerms => false;

    /// <summary>Whether one document can have several values, written with <c>;</c> between them.</summary>
    public virtual bool IsMultiple => false;

    /// <summary>Whether values are rows of columns.</summary>
    public virtual bool HasRows => false;

    /// <summary>How much of its measure one is, when people count in rules and formulas.</summary>
    public virtual decimal Unit => 1;

    /// <summary>What that is called; empty for plain numbers.</summary>
    public virtual string UnitName => "";

    /// <summary>A number that a formula gives, as values of this kind are written; null where that is its plain digits.</summary>
    /// <param name="number">The number, in its <see cref="Unit"/>.</param>
    public virtual string? OfNumber(decimal number) => null;

    // How values are read.

    /// <summary>Reads a text without knowing the field's own options.</summary>
    /// <param name="text">The text, neither empty nor with blanks around it.</param>
    protected abstract FieldValue Read(string text);

    /// <summary>Reads what was captured, typed or imported; blanks around it do not count.</summary>
    /// <param name="text">The text; null is empty.</param>
    public FieldValue Parse(string? text) => Trimmed(text) is { } some ? Read(some) : FieldValue.Empty;

    /// <summary>How texts of a field are read, with its own options; made once for any number of texts, and thread-safe.</summary>
    /// <param name="field">The field, of this kind.</param>
    /// <param name="terms">Its vocabulary; null when it has none, or when there is no such vocabulary.</param>
    /// <param name="columns">How cells are read, by column.</param>
    internal virtual Func<string, FieldValue> Reader(
        Field field,
        VocabularyIndex? terms,
        IReadOnlyList<Func<string?, FieldValue>> columns
    ) => Read;

    /// <summary>A value typed by a steward (a limit, what is compared with) as values of this kind are kept; else as it is.</summary>
    public virtual string Canonical(string typed) => typed;

    /// <summary>Why a value typed by a steward cannot be compared with, in one sentence; null when it can.</summary>
    public virtual string? WhyNotCompared(string typed) => null;

    /// <summary>A text without the blanks around it; null when nothing is left.</summary>
    internal static string? Trimmed(string? text)
    {
        if (string.IsNullOrEmpty(text))
            return null;
        if (!char.IsWhiteSpace(text[0]) && !char.IsWhiteSpace(text[^1]))
            return text;
        text = text.Trim();
        return text.Length == 0 ? null : text;
    }

    /// <summary>What a text is that cannot be read.</summary>
    protected static FieldValue Unreadable(string text) => new() { Text = text, State = ValueState.Unreadable };

    /// <summary>Stable machine code of the problem of a text that cannot be read.</summary>
    public virtual string UnreadableCode => "";

    /// <summary>What is said of a text that cannot be read.</summary>
    /// <param name="text">The text; of rows, the label of the field.</param>
    /// <param name="language">A language of the messages.</param>
    public virtual string UnreadableIn(string text, string language) => text;

    // How values compare.

    /// <summary>
    /// Where a text stands in the order of its kind, in the unit of its <see cref="Measure"/>. Null when it is none, and for kinds without
    /// an order.
    /// </summary>
    public virtual decimal? Order(string? text) => null;

    /// <summary>Where a value that was understood stands in the same order; only of kinds that have one.</summary>
    public virtual decimal Order(in FieldValue value) => value.Number;

    /// <summary>The one form by which a value that was understood is equal to another of its kind, see <see cref="ValueKey"/>.</summary>
    public virtual string Key(in FieldValue value) => ValueKey.Text(value.Text);

    /// <summary>Whether two values that were understood are equal.</summary>
    public virtual bool Same(in FieldValue a, in FieldValue b) =>
        string.Equals(a.Text, b.Text, StringComparison.OrdinalIgnoreCase)
        || !(ValueKey.IsPlain(a.Text) && ValueKey.IsPlain(b.Text)) && Key(a) == Key(b);

    /// <summary>The form by which a text is found and sorted: a <see cref="long"/> or <see cref="double"/>, or a text; see <see
    /// cref="SearchKey"/>.</summary>
    /// <param name="text">A text as a record holds it, or as a person looks for it; not blank.</param>
    internal virtual object FoundBy(string text) => Folding.Fold(text);

    /// <summary>The greatest key that still counts as up to a given one: of texts, those that go on with a further word.</summary>
    public virtual string UpTo(string key) => $"{key} {SearchKey.Beyond}";

    /// <summary>Whether documents are found by numbers.</summary>
    public virtual bool IsFoundByNumber => false;

    // How fields are asked.

    /// <summary>Ways of asking, in the order they are offered.</summary>
    public virtual IReadOnlyList<Look> Looks { get; } =
    [Look.Holds, Look.Is, Look.Starts, Look.OneOf, Look.Between, Look.IsNot, Look.Empty, Look.Filled];

    /// <summary>A way of asking in words, where kinds differ.</summary>
    public virtual string Before => "is below";

    /// <inheritdoc cref="Before"/>
    public virtual string After => "is above";

    /// <summary>Why a value cannot be asked for, in one sentence; null when it can.</summary>
    public virtual string? WhyNotAsked(Look how, string value) => null;

    /// <summary>Why several values cannot be asked for at once, in one sentence; null when they can.</summary>
    public virtual string? WhyNotTogether(IReadOnlyList<string> values) => null;

    /// <summary>A condition as it is looked for today.</summary>
    /// <param name="condition">The condition.</param>
    /// <param name="terms">Vocabulary of the field; null when there is none.</param>
    /// <param name="today">Today.</param>
    internal virtual FieldCondition On(FieldCondition condition, VocabularyIndex? terms, DateOnly today) =>
        condition.How == Look.Within ? condition with { How = Look.Is } : condition;

    // How values leave.

    /// <summary>A value, as a record holds it, as programs with types of their own hold it: a <see cref="decimal"/>, <see
    /// cref="bool"/> or <see cref="DateOnly"/>; null when it is a text to them.</summary>
    public virtual object? Typed(string text) => null;

    /// <summary>Its type in an XML Schema (W3C XML Schema 1.0).</summary>
    public virtual string XmlType => "xs:string";

    /// <summary>A text as an XML element of its type holds it; null when it is not of that kind.</summary>
    public virtual string? Xml(string text) => text;

    /// <summary>Its base datatype in CSVW (W3C “Metadata Vocabulary for Tabular Data”), and the format of it, if it needs one.</summary>
    public virtual (string Base, string? Format) Csvw => ("string", null);

    /// <summary>What CSVW says of a field's values beside that.</summary>
    public virtual IEnumerable<(string Name, JsonNode? Value)> CsvwLimits(Field field) => [];

    /// <summary>Says a field in JSON Schema (2020-12).</summary>
    internal virtual void ToJsonSchema(Field field, JsonSchemaPart part) => part.Property["type"] = "string";

    /// <summary>Says in JSON Schema that a field is one of some values, exactly when the engine finds it equal to one of them; null when it
    /// cannot be said.</summary>
    internal virtual JsonObject? OneOfInJsonSchema(string[] values, VocabularyIndex? terms) => null;

    /// <summary>A value in JSON; null when it is not of its kind there, or more than one value.</summary>
    internal JsonNode? Json(string text) =>
        Typed(Parse(text).Text) switch
        {
            decimal number => JsonValue.Create(number),
            bool yes => JsonValue.Create(yes),
            _ => IsNumeric || Measure == Measure.Truth || HasRows || IsMultiple ? null : JsonValue.Create(text),
        };

    // How values look.

    /// <summary>A value as people say it, where it is kept in a form that only programs like; else null.</summary>
    public virtual string? InWords(string text) => null;

    /// <summary>Where a value leads on the web; null when it leads nowhere.</summary>
    public virtual Uri? Link(string text) => null;

    /// <summary>The shape by which a finder knows a value on a page, see <c>Shapes</c>.</summary>
    public virtual string Shape(Field field) => "text";

    /// <summary>A value that a field could have; null when none can be thought up.</summary>
    /// <param name="field">The field.</param>
    /// <param name="terms">Its vocabulary.</param>
    internal virtual string? Plausible(Field field, VocabularyIndex? terms) => null;

    /// <inheritdoc/>
    public override string ToString() => Name;
}
