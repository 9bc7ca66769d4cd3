using System.Globalization;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>What a parameter of a rule takes.</summary>
public enum ParameterKind
{
    /// <summary>One field.</summary>
    Field,

    /// <summary>One or more fields.</summary>
    Fields,

    /// <summary>One or more fields, or number columns of tables written <c>table.column</c>, which stand for their sum.</summary>
    Parts,

    /// <summary>A decimal number; may stay empty.</summary>
    Number,

    /// <summary>A text that may stay empty.</summary>
    OptionalText,

    /// <summary>A pattern of a whole value, see <see cref="SafePattern"/>.</summary>
    Pattern,

    /// <summary>A formula over fields in brackets.</summary>
    Formula,

    /// <summary>A date; may stay empty.</summary>
    Date,

    /// <summary>One of <see cref="RuleParameter.Options"/>.</summary>
    Choice,

    /// <summary>Key of a reference table.</summary>
    Table,

    /// <summary>Pairs <c>field=column</c>, separated by commas.</summary>
    Pairs,
}

/// <summary>
/// One blank of a rule's sentence, to be filled by the steward: what may stand in it and, in the kinds of blank below, what a rule has
/// there, typed.
/// </summary>
/// <param name="Name">Its name in <see cref="Rule.Parameters"/>.</param>
/// <param name="Label">What the editor line calls it.</param>
/// <param name="Kind">What may stand in it.</param>
public abstract record RuleParameter(string Name, string Label, ParameterKind Kind)
{
    /// <summary>Field kinds it accepts; empty for any.</summary>
    public IReadOnlyList<FieldKind> FieldKinds { get; init; } = [];

    /// <summary>Least number of fields; 0 when it may stay empty.</summary>
    public int Least { get; init; } = 1;

    /// <summary>What a choice offers: value and words.</summary>
    public IReadOnlyList<(string Value, string Words)> Options { get; init; } = [];

    /// <summary>What may stand in it, as an example; null when the label says enough.</summary>
    public string? Hint { get; init; }

    /// <summary>Whether it names several fields.</summary>
    public bool NamesSeveral => Kind is ParameterKind.Fields or ParameterKind.Parts;

    /// <summary>What the steward wrote in it; an empty text when nothing.</summary>
    public string Text(Rule rule) => rule[Name];

    /// <summary>Keys of the fields that a rule names in it; of a column of a table, the table.</summary>
    public virtual IEnumerable<string> FieldsOf(Rule rule, TypeFields type) => [];

    /// <summary>Why what stands in it cannot be, in one sentence; null when it can.</summary>
    public virtual string? Finding(Rule rule, TypeFields type) => null;
}

/// <summary>A blank for one or more fields.</summary>
public abstract record FieldNames(string Name, string Label, ParameterKind Kind) : RuleParameter(Name, Label, Kind)
{
    /// <inheritdoc/>
    public override IEnumerable<string> FieldsOf(Rule rule, TypeFields type) => rule.Keys(Name).Select(k => k.Split('.')[0]);

    /// <inheritdoc/>
    public override string? Finding(Rule rule, TypeFields type)
    {
        var keys = rule.Keys(Name);
        if (keys.Length < Least)
            return Least == 1 ? $"{Label}: choose a field." : $"{Label}: choose at least {Least} fields.";
        if (Kind == ParameterKind.Field && keys.Length > 1)
            return $"{Label}: choose one field.";
        foreach (var key in keys)
        {
            var field = Kind == ParameterKind.Parts ? type.FindPart(key) : type.Find(key);
            if (field is null)
                return $"{Label}: the field “{key}” is no longer in this document type.";
            if (FieldKinds.Count > 0 && !FieldKinds.Contains(field.Kind))
                return $"{Label}: {field.Label} is {field.Kind.Label}, but this rule needs "
                    + $"{string.Join(" or ", FieldKinds.Select(k => k.Label))}.";
        }
        return null;
    }
}

/// <summary>A blank for one field.</summary>
public sealed record FieldBlank(string Name, string Label) : FieldNames(Name, Label, ParameterKind.Field)
{
    /// <summary>A blank for one field of some kinds.</summary>
    public FieldBlank(string name, string label, IReadOnlyList<FieldKind> kinds)
        : this(name, label) => FieldKinds = kinds;

    /// <summary>Key of the field; empty when none is chosen.</summary>
    public string Of(Rule rule) => rule[Name];

    /// <summary>The field; null when none is chosen or it is gone.</summary>
    public Field? In(Rule rule, TypeFields type) => type.Find(Of(rule));

    /// <summary>Its place in a record; −1 when there is no such field.</summary>
    public int At(Rule rule, TypeFields type) => type.OrdinalOf(Of(rule));

    /// <summary>Its label.</summary>
    public string LabelIn(Rule rule, TypeFields type) => type.LabelOf(Of(rule));
}

/// <summary>A blank for several fields, or for parts of a sum.</summary>
public sealed record FieldsBlank(string Name, string Label, ParameterKind Kind = ParameterKind.Fields) : FieldNames(Name, Label, Kind)
{
    /// <summary>Keys of the fields in order.</summary>
    public string[] Of(Rule rule) => rule.Keys(Name);

    /// <summary>Their labels, separated by commas.</summary>
    public string LabelsIn(Rule rule, TypeFields type) => type.LabelsOf(Of(rule));
}

/// <summary>A blank for a decimal number; may stay empty.</summary>
public sealed record NumberBlank(string Name, string Label) : RuleParameter(Name, Label, ParameterKind.Number)
{
    /// <summary>The number; null when there is none.</summary>
    public decimal? Of(Rule rule) => Numbers.Stored(rule[Name]);

    /// <summary>The number as a whole one; null when it is none or beyond 32 bits.</summary>
    public int? Count(Rule rule) => Exact.Count(Of(rule));

    /// <inheritdoc/>
    public override string? Finding(Rule rule, TypeFields type) =>
        Text(rule).Length == 0 || Numbers.Typed(Text(rule), out var problem) is not null ? null : $"{Label}: {problem}";
}

/// <summary>A blank for a date; may stay empty.</summary>
public sealed record DateBlank(string Name, string Label) : RuleParameter(Name, Label, ParameterKind.Date)
{
    /// <summary>The date; null when there is none.</summary>
    public DateOnly? Of(Rule rule) => FieldParsing.TryDate(rule[Name], out var date) ? date : null;

    /// <inheritdoc/>
    public override string? Finding(Rule rule, TypeFields type) =>
        Text(rule).Length == 0 || Of(rule) is not null ? null : $"{Label}: “{Text(rule)}” is not a date.";
}

/// <summary>A blank for one of several choices.</summary>
/// <typeparam name="T">The choices; what stands in rules is the word beside each.</typeparam>
public sealed record ChoiceBlank<T> : RuleParameter
    where T : struct, Enum
{
    private readonly (T Is, string Value, string Words)[] _choices;

    /// <summary>A blank with its choices: what each is, its word in stored rules, and what the editor shows.</summary>
    public ChoiceBlank(string name, string label, params (T Is, string Value, string Words)[] choices)
        : base(name, label, ParameterKind.Choice)
    {
        _choices = choices;
        Options = [.. choices.Select(c => (c.Value, c.Words))];
    }

    /// <summary>What is chosen; the first choice when nothing is.</summary>
    public T Of(Rule rule) => Chosen(rule).Is;

    /// <summary>What is chosen, in words.</summary>
    public string Words(Rule rule) => Chosen(rule).Words;

    /// <inheritdoc/>
    public override string? Finding(Rule rule, TypeFields type) =>
        _choices.Any(c => c.Value == Text(rule)) ? null : $"{Label}: choose one.";

    private (T Is, string Value, string Words) Chosen(Rule rule) =>
        Array.Find(_choices, c => c.Value == Text(rule)) is { Value: not null } chosen ? chosen : _choices[0];
}

/// <summary>A blank for a text: free, a pattern, a formula, the key of a table, or the code of one of <see
/// cref="RuleParameter.Options"/>.</summary>
public sealed record TextBlank(string Name, string Label, ParameterKind Kind = ParameterKind.OptionalText)
    : RuleParameter(Name, Label, Kind)
{
    /// <summary>The text; empty when nothing was written.</summary>
    public string Of(Rule rule) => rule[Name];

    /// <inheritdoc/>
    public override IEnumerable<string> FieldsOf(Rule rule, TypeFields type) =>
        Kind == ParameterKind.Formula && Formulas.CompiledFormula.TryCompile(Of(rule), type, out var formula, out _) ? formula!.Fields : [];

    /// <inheritdoc/>
    public override string? Finding(Rule rule, TypeFields type) =>
        Kind switch
        {
            ParameterKind.OptionalText => null,
            ParameterKind.Choice => Options.Any(o => o.Value == Of(rule)) ? null : $"{Label}: choose one.",
            _ => Of(rule).Length > 0 || Least == 0 ? null : $"{Label} is missing.",
        };
}

/// <summary>A blank for pairs <c>field=column</c>, separated by commas.</summary>
public sealed record PairsBlank(string Name, string Label) : RuleParameter(Name, Label, ParameterKind.Pairs)
{
    /// <summary>The pairs; what is no pair is left out.</summary>
    public List<(string Field, string Column)> Of(Rule rule) =>
        [
            .. rule.Keys(Name)
                .Select(p => p.Split('=', 2, StringSplitOptions.TrimEntries))
                .Where(p => p.Length == 2 && p[0].Length > 0 && p[1].Length > 0)
                .Select(p => (p[0], p[1])),
        ];

    /// <inheritdoc/>
    public override IEnumerable<string> FieldsOf(Rule rule, TypeFields type) => Of(rule).Select(p => p.Field);

    /// <inheritdoc/>
    public override string? Finding(Rule rule, TypeFields type)
    {
        if (Text(rule).Length == 0)
            return Least == 0 ? null : $"{Label} is missing.";
        var pairs = Of(rule);
        if (Text(rule).Split(',', StringSplitOptions.RemoveEmptyEntries).Length != pairs.Count)
            return $"Write pairs such as imo=IMO number, separated by commas; “{Text(rule)}” is not that.";
        foreach (var (field, _) in pairs)
            if (type.Find(field) is null)
                return $"The field “{field}” is no longer in this document type.";
        return null;
    }
}
