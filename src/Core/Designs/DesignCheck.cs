using System.Text.RegularExpressions;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Rules.Formulas;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>What a design check looks at.</summary>
/// <param name="Vocabularies">Vocabularies by key.</param>
/// <param name="Tables">Reference tables by key.</param>
/// <param name="Find">Gives the draft of a type or group by code, or null.</param>
/// <param name="Now">CheckContext for running examples.</param>
public sealed record DesignSurroundings(
    IReadOnlyDictionary<string, VocabularyIndex> Vocabularies,
    IReadOnlyDictionary<string, ReferenceTable> Tables,
    Func<string, DocumentType?> Find,
    CheckContext Now
)
{
    /// <summary>All readers.</summary>
    public IReadOnlyList<Reader> Readers { get; init; } = [];

    /// <summary>What is published, compiled; the type itself may be among it.</summary>
    public IReadOnlyCollection<CompiledType> Published { get; init; } = [];

    /// <summary>Codes of all types, published or not.</summary>
    public IReadOnlyCollection<string> Types { get; init; } = [];

    /// <summary>Languages in which people read messages.</summary>
    public IReadOnlyCollection<string> Languages { get; init; } = [];

    /// <summary>A type alone with its vocabularies.</summary>
    public static DesignSurroundings Alone(IReadOnlyDictionary<string, VocabularyIndex> vocabularies) =>
        new(vocabularies, RuleScope.NoTables, static _ => null, new CheckContext(new DateOnly(2024, 3, 5), EntryChannel.Desk));
}

/// <summary>Findings about a whole document type; must-findings block publishing.</summary>
public static partial class DesignCheck
{
    /// <summary>Longest key, label or message that is kept.</summary>
    public const int LongestName = 80;

    /// <summary>Most columns of a table.</summary>
    public const int MostColumns = 20;

    /// <summary>All findings: inheritance, fields, rules with their examples, then the convention.</summary>
    /// <param name="own">The type as its steward wrote it.</param>
    /// <param name="around">What it may refer to.</param>
    public static IEnumerable<Finding> Findings(DocumentType own, DesignSurroundings around)
    {
        foreach (var (place, text) in Inheritance.Findings(own, around.Find))
            yield return new Finding("inheritance", Level.Must, text, place);
        var type = Inheritance.Resolve(own, around.Find);
        if (type.Fields.Count == 0)
            yield return new Finding(
                "no-fields",
                Level.Must,
                $"The {(own.IsGroup ? "field group" : "document type")} has no fields yet.",
                "fields"
            );
        var compiled = new CompiledType(type, around.Vocabularies, around.Tables);
        for (var i = 0; i < type.Fields.Count; i++)
        {
            var field = type.Fields[i];
            foreach (var (code, text) in FieldFindings(field, type, around))
                yield return new Finding(code, Level.Must, $"{field.Label}: {text}", field.Key);
            foreach (var (code, text) in ValueFindings(field, i, compiled, around.Now))
                yield return new Finding(code, Level.Must, $"{field.Label}: {text}", field.Key);
            foreach (var (code, text) in RestrictedSources(field, type))
                yield return new Finding(code, Level.Must, $"{field.Label}: {text}", field.Key);
            foreach (var unknown in UnknownTerms(field.RequiredWhen, type, around))
                yield return unknown with
                {
                    Place = field.Key,
                };
            if (field is TextField { Pattern: { } nested } && NestedRepeat().IsMatch(nested))
                yield return new Finding(
                    "field-pattern-nested",
                    Level.Should,
                    $"{field.Label}: the pattern “{nested}” repeats a repetition. It is checked safely, but a simpler one says the same.",
                    field.Key
                );
        }
        foreach (var finding in RuleFindings(type, compiled, around))
            yield return finding;
        foreach (var finding in WholeDesignCheck.Of(compiled, around))
            yield return finding;
        foreach (var filling in type.Fillings)
            if (FillingFinding(filling, type, around.Tables) is { } finding)
                yield return new Finding("filling", Level.Must, finding, "fillings");
        if (own.IsGroup)
            yield break;
        foreach (var finding in ConventionCheck.Findings(type.Convention, type))
            yield return finding;
    }

    // What follows from a restricted value tells it.
    private static IEnumerable<(string, string)> RestrictedSources(Field field, DocumentType type)
    {
        if (field.Restricted)
            yield break;
        if (
            field is { DefaultFrom: DefaultSource.Formula, Default: { } formula }
            && CompiledFormula.TryCompile(formula, type, out var compiled, out _)
        )
            foreach (var source in compiled!.Fields.Select(type.Find).OfType<Field>().Where(f => f.Restricted))
                yield return (
                    "restricted-formula",
                    $"it is computed from {source.Label}, which is restricted, so it must be restricted too."
                );
        foreach (var filling in type.Fillings.Where(f => f.Targets.Values.Contains(field.Key)))
        foreach (var source in filling.Keys.Values.Select(type.Find).OfType<Field>().Where(f => f.Restricted))
            yield return ("restricted-filling", $"it is looked up by {source.Label}, which is restricted, so it must be restricted too.");
    }

    private static IEnumerable<Finding> RuleFindings(DocumentType type, CompiledType compiled, DesignSurroundings around)
    {
        foreach (var rule in type.Rules)
        {
            if (RuleKinds.Finding(rule, type) is { } finding)
            {
                yield return new Finding("rule-fault", Level.Must, finding, rule.Id);
                continue;
            }
            if (
                rule.Kind == InTable.Kind
                && TableFinding(
                    InTable.Table.Of(rule),
                    [.. InTable.By.Of(rule).Concat(InTable.Agreeing.Of(rule)).Select(p => p.Column)],
                    around.Tables
                )
                    is { } lacks
            )
                yield return new Finding("rule-fault", Level.Must, lacks, rule.Id);
            if (
                rule.Kind == TermIn.Kind
                && TermIn.Branch.Of(rule) is { Length: > 0 } branch
                && TermIn.Subject.In(rule, type)?.Vocabulary is { } v
                && around.Vocabularies.GetValueOrDefault(v)?.IndexOfAny(branch) is null or < 0
            )
                yield return new Finding("rule-fault", Level.Must, $"The vocabulary has no term “{branch}” for the branch.", rule.Id);
            foreach (var unknown in UnknownTerms(rule.When, type, around))
                yield return unknown with
                {
                    Place = rule.Id,
                };
            foreach (var outcome in RuleExamples.Run(rule, compiled, around.Now).Where(o => !o.Holds))
                yield return new Finding(
                    "rule-example",
                    Level.Must,
                    $"{RuleKinds.Sentence(rule, type)}: the example {Shown(outcome.Example, type)} should "
                        + $"{(outcome.Example.Passes ? "pass but does not: " + outcome.Found!.Message : "fail but passes.")}",
                    rule.Id
                );
        }
    }

    // A condition on a word that no document can carry never holds; in a growing vocabulary the word may still come.
    private static IEnumerable<Finding> UnknownTerms(Condition? when, DocumentType type, DesignSurroundings around)
    {
        foreach (var c in when?.Comparisons ?? [])
        {
            if (
                c.Operator is not (Operator.Is or Operator.IsNot or Operator.OneOf or Operator.Within)
                || type.Find(c.Subject) is not { Kind.HasTerms: true } field
            )
                continue;
            if (around.Vocabularies.GetValueOrDefault(field.Vocabulary ?? "") is not { } terms)
                continue;
            foreach (var value in c.Value.Split('|', StringSplitOptions.TrimEntries).Where(v => v.Length > 0 && terms.IndexOfAny(v) < 0))
                yield return new Finding(
                    "condition-term",
                    terms.Vocabulary.Growth == Growth.Fixed ? Level.Must : Level.Should,
                    $"A condition on {field.Label} names “{value}”, which is not a term of {terms.Vocabulary.Name}.",
                    c.Subject
                );
        }
    }

    /// <summary>An example in one line.</summary>
    public static string Shown(RuleExample example, DocumentType type) =>
        example.Record.Count == 0
            ? "with nothing filled"
            : string.Join(", ", example.Record.Select(p => $"{type.LabelOf(p.Key)} “{p.Value}”"));

    /// <summary>What is wrong with one field, each as a code and a sentence.</summary>
    public static IEnumerable<(string Code, string Text)> FieldFindings(Field field, DocumentType type, DesignSurroundings around)
    {
        if (!KeyForm().IsMatch(field.Key))
            yield return ("field-key", $"the key “{field.Key}” must be lower-case letters, digits and dashes, beginning with a letter.");
        if (type.Fields.Count(f => f.Key == field.Key) > 1)
            yield return ("field-key-twice", $"the key “{field.Key}” is used twice.");
        if (string.IsNullOrWhiteSpace(field.Label))
            yield return ("field-label", "the label is missing.");
        foreach (var finding in KindFindings(field, around))
            yield return finding;
        if (field.RequiredWhen?.Finding(type) is { } wrong)
            yield return ("field-condition", wrong);
        foreach (var step in field.Cleaning ?? [])
            if (CleaningSteps.Finding(step) is { } stepFinding)
                yield return ("field-cleaning", stepFinding);
        if (field.Standard is { } standard && StandardTerms.Find(standard) is null)
            yield return ("field-standard", $"“{standard}” is not a Dublin Core term.");
    }

    private static IEnumerable<(string, string)> KindFindings(Field field, DesignSurroundings around) =>
        field switch
        {
            TextField text => TextFindings(text),
            RangedField ranged => [.. RangeFindings(ranged), .. ranged is AmountField amount ? CurrencyFindings(amount) : []],
            VocabularyField terms => VocabularyFindings(terms, around),
            IdentifierField identifier => SchemeFindings(identifier),
            TableField table => TableFindings(table, around),
            _ => [],
        };

    private static IEnumerable<(string, string)> TextFindings(TextField field)
    {
        if (field.Pattern is { Length: > 0 } pattern && !SafePattern.TryWhole(pattern, out _, out var problem))
            yield return ("field-pattern", problem!);
        if (field.MinLength > field.MaxLength)
            yield return ("field-lengths", $"no text has at least {field.MinLength} and at most {field.MaxLength} characters.");
    }

    private static IEnumerable<(string, string)> VocabularyFindings(VocabularyField field, DesignSurroundings around)
    {
        if (around.Vocabularies.GetValueOrDefault(field.Vocabulary ?? "") is not { } terms)
            yield return ("field-vocabulary", "choose the vocabulary its terms come from.");
        else if (field.Branch is { Length: > 0 } branch && terms.IndexOfAny(branch) < 0)
            yield return ("field-branch", $"its vocabulary has no term “{branch}”.");
        else if (
            (field.OnlyLevel is not null || field.LeavesOnly || field.Branch is { Length: > 0 })
            && terms.Vocabulary.Growth == Growth.Fixed
            && !field.Fitting(terms).Any()
        )
            yield return ("field-terms", "no term of its vocabulary is on that level and branch, so nothing could ever stand in it.");
    }

    private static IEnumerable<(string, string)> SchemeFindings(IdentifierField field)
    {
        if (CheckSchemes.Find(field.Scheme) is not null)
            yield break;
        var house = field.Scheme?.StartsWith(CheckSchemes.House, StringComparison.Ordinal) == true;
        if (house && !HouseScheme.TryParse(field.Scheme![CheckSchemes.House.Length..], out _, out var why))
            yield return ("field-scheme", why!);
        else
            yield return ("field-scheme", "choose the check-digit scheme.");
    }

    private static IEnumerable<(string, string)> CurrencyFindings(AmountField field) =>
        from currency in field.Currencies ?? []
        where Currencies.PlacesOf(currency) is null
        select ("field-currency", $"“{currency}” is not a currency code of ISO 4217.");

    private static IEnumerable<(string, string)> TableFindings(TableField field, DesignSurroundings around)
    {
        if (field.Columns is not { Count: > 0 } columns)
        {
            yield return ("field-columns", "a table needs at least one column.");
            yield break;
        }
        if (columns.Count > MostColumns)
            yield return ("field-columns", $"a table has {MostColumns} columns at most.");
        var row = DocumentType.OfRows(field);
        foreach (var column in columns)
        {
            if (column.Restricted)
                yield return ("field-columns", $"{column.Label}: restrict the whole table, not one of its columns.");
            if (column.Kind.HasRows)
                yield return ("field-columns", $"{column.Label}: a column cannot be a table itself.");
            foreach (var (code, text) in FieldFindings(column, row, around))
                yield return (code, $"column {column.Label}: {text}");
        }
        foreach (var rule in row.Rules)
            if (RuleKinds.Finding(rule, row) is { } finding)
                yield return ("rule-fault", finding);
    }

    private static IEnumerable<(string, string)> RangeFindings(RangedField field)
    {
        var kind = field.Kind.HasCurrency ? FieldKind.Decimal : field.Kind;
        FieldValue least = kind.Parse(field.Min),
            most = kind.Parse(field.Max);
        foreach (var (end, name) in new[] { (least, "least"), (most, "greatest") })
            if (end.State == ValueState.Unreadable)
                yield return ("field-range", $"the {name} value “{end.Text}” is not a {kind.Label}.");
        if (least.IsGood && most.IsGood && (least.Number > most.Number || least.Date > most.Date))
            yield return ("field-range", $"nothing lies from {field.Min} to {field.Max}.");
    }

    // The field's own checks are the judge of its default and its example.
    private static IEnumerable<(string, string)> ValueFindings(Field field, int ordinal, CompiledType compiled, CheckContext now)
    {
        if (
            field.DefaultFrom == DefaultSource.Formula
            && field.Default is { Length: > 0 } formula
            && !CompiledFormula.TryCompile(formula, compiled.Type, out _, out var problem)
        )
            yield return ("field-default", problem!);
        if (field.DefaultFrom is DefaultSource.Today && field.Kind.Measure != Measure.Day)
            yield return ("field-default", "only a date can be filled with the current date.");
        foreach (
            var (text, code, name) in new[]
            {
                (field.DefaultFrom == DefaultSource.Constant ? field.Default : null, "field-default", "default"),
                (field.Example, "field-example", "example"),
            }
        )
        {
            if (string.IsNullOrEmpty(text))
                continue;
            if (compiled.Alone(ordinal, now)(text) is { } refused)
                yield return (code, $"the {name} is refused: {refused.Message}");
        }
    }

    private static string? FillingFinding(Filling filling, DocumentType type, IReadOnlyDictionary<string, ReferenceTable> tables)
    {
        foreach (var key in filling.Keys.Values.Concat(filling.Targets.Values))
            if (type.Find(key) is null)
                return $"Filling from {filling.Table}: the field “{key}” is no longer in this document type.";
        if (filling.Keys.Count == 0 || filling.Targets.Count == 0)
            return $"Filling from {filling.Table}: choose at least one key and one field to fill.";
        return TableFinding(filling.Table, [.. filling.Keys.Keys.Concat(filling.Targets.Keys)], tables);
    }

    private static string? TableFinding(string key, string[] columns, IReadOnlyDictionary<string, ReferenceTable> tables)
    {
        if (tables.GetValueOrDefault(key) is not { } table)
            return $"There is no reference table “{key}”.";
        return columns.FirstOrDefault(c => table.ColumnOf(c) < 0) is { } missing
            ? $"The reference table {table.Name} has no column “{missing}”; it has {string.Join(", ", table.Columns)}."
            : null;
    }

    [GeneratedRegex(@"\([^()]*[+*][^()]*\)[+*]", RegexOptions.CultureInvariant)]
    private static partial Regex NestedRepeat();

    [GeneratedRegex("^[a-z][a-z0-9-]{0,39}$", RegexOptions.CultureInvariant)]
    private static partial Regex KeyForm();
}
