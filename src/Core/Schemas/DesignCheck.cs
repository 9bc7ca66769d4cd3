using System.Globalization;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Schemas;

/// <summary>Findings about a whole document type; must-findings block publishing.</summary>
public static partial class DesignCheck
{
    /// <summary>Longest key, label or message that is kept.</summary>
    public const int LongestName = 80;

    /// <summary>All findings, fields first, then rules, then the convention.</summary>
    public static IEnumerable<Finding> Findings(DocumentType type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        if (type.Fields.Count == 0) yield return new Finding("no-fields", Level.Must, "The document type has no fields yet.", "fields");
        foreach (var field in type.Fields)
        {
            foreach (var (code, text) in FieldFaults(field, type, vocabularies)) yield return new Finding(code, Level.Must, $"{field.Label}: {text}", field.Key);
            if (field.Kind == FieldKind.Text && NestedRepeat().IsMatch(field.Pattern ?? ""))
                yield return new Finding("field-pattern-nested", Level.Should, $"{field.Label}: the pattern “{field.Pattern}” repeats a repetition. It is checked safely, but a simpler one says the same.", field.Key);
        }
        foreach (var rule in type.Rules)
            if (RuleKinds.Fault(rule, type) is { } fault) yield return new Finding("rule-fault", Level.Must, fault, rule.Id);
        foreach (var finding in ConventionCheck.Findings(type)) yield return finding;
    }

    /// <summary>What is wrong with one field, each as a code and a sentence.</summary>
    public static IEnumerable<(string Code, string Text)> FieldFaults(Field field, DocumentType type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        if (!KeyForm().IsMatch(field.Key)) yield return ("field-key", $"the key “{field.Key}” must be lower-case letters, digits and dashes, beginning with a letter.");
        if (type.Fields.Count(f => f.Key == field.Key) > 1) yield return ("field-key-twice", $"the key “{field.Key}” stands twice.");
        if (string.IsNullOrWhiteSpace(field.Label)) yield return ("field-label", "the label is missing.");
        if (field.Kind == FieldKind.Term && (field.Vocabulary is null || !vocabularies.ContainsKey(field.Vocabulary)))
            yield return ("field-vocabulary", "choose the vocabulary its terms come from.");
        if (field.Kind == FieldKind.Text && field.Pattern is { Length: > 0 } pattern && !SafePattern.TryWhole(pattern, out _, out var problem))
            yield return ("field-pattern", problem!);
        if (field.MinLength > field.MaxLength) yield return ("field-lengths", $"no text has at least {field.MinLength} and at most {field.MaxLength} characters.");
        foreach (var fault in RangeFaults(field)) yield return fault;
        if (field.Default is { Length: > 0 } given && DefaultFault(field, type, vocabularies, given) is { } wrong)
            yield return ("field-default", $"the default is refused: {wrong}");
    }

    private static IEnumerable<(string, string)> RangeFaults(Field field)
    {
        if (field.Kind is not (FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.Date)) yield break;
        FieldValue least = FieldParsing.Parse(field.Kind, field.Min, null), most = FieldParsing.Parse(field.Kind, field.Max, null);
        foreach (var (end, name) in new[] { (least, "least"), (most, "greatest") })
            if (end.State == ValueState.Unreadable) yield return ("field-range", $"the {name} value “{end.Text}” is not a {FieldKindNames.Of(field.Kind)}.");
        if (least.IsGood && most.IsGood && (least.Number > most.Number || least.Date > most.Date))
            yield return ("field-range", $"nothing lies from {field.Min} to {field.Max}.");
    }

    private static string? DefaultFault(Field field, DocumentType type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies, string given)
    {
        var terms = field.Vocabulary is { } v ? vocabularies.GetValueOrDefault(v) : null;
        var record = new FieldValue[type.Fields.Count];
        Array.Fill(record, FieldValue.Empty);
        var ordinal = type.OrdinalOf(field.Key);
        if (ordinal < 0) return null;
        record[ordinal] = FieldParsing.Parse(field.Kind, given, terms);
        return FieldChecks.Of(field, ordinal, terms).Select(check => check(record)).FirstOrDefault(p => p is not null)?.Message;
    }

    /// <summary>Makes a key from a label: <c>"Gross tonnage (GT)"</c> → <c>gross-tonnage-gt</c>.</summary>
    public static string KeyFrom(string label)
    {
        var key = string.Concat(Folding.Fold(label).Select(c => char.IsAsciiLetterOrDigit(c) ? c : '-')).Trim('-');
        if (key.Length > 0 && char.IsAsciiDigit(key[0])) key = "n-" + key;
        return key.Length > 40 ? key[..40].Trim('-') : key;
    }

    [GeneratedRegex(@"\([^()]*[+*][^()]*\)[+*]", RegexOptions.CultureInvariant)]
    private static partial Regex NestedRepeat();

    [GeneratedRegex("^[a-z][a-z0-9-]{0,39}$", RegexOptions.CultureInvariant)]
    private static partial Regex KeyForm();
}
