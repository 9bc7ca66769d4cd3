using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Web.Pages;

/// <summary>What the columns of the field ledger say.</summary>
internal static class FieldFacts
{
    /// <summary>What a field holds, in one cell.</summary>
    public static string Holds(Field f, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) =>
        f.Kind.Label
        + f switch
        {
            VocabularyField terms => $", {Terms(terms, vocabularies.GetValueOrDefault(terms.Vocabulary ?? ""))}",
            IdentifierField identifier => $", {CheckSchemes.Find(identifier.Scheme)?.Name ?? "no scheme"}",
            AmountField { Currencies: { Count: > 0 } currencies } => $", {string.Join(" ", currencies)}",
            TableField table => $", {table.Columns.Count} columns",
            TextField { Pattern: { } pattern } => $": {PatternPieces.InWords(pattern)}",
            TextField { MaxLength: { } most } => $", up to {most}",
            RangedField { Min: { } least, Max: { } most } => $", {Said(f, least)} to {Said(f, most)}",
            RangedField { Min: { } least } => $", from {Said(f, least)}",
            RangedField { Max: { } most } => $", up to {Said(f, most)}",
            _ => "",
        };

    private static string Said(Field field, string limit) => field.Kind.InWords(limit) ?? limit;

    private static string Terms(VocabularyField field, VocabularyIndex? index) =>
        (index?.Vocabulary.Name ?? "no vocabulary")
        + (field.Branch is { } branch ? $" below {branch}" : "")
        + (field.LeavesOnly ? ", leaves" : "");

    /// <summary>Where its value comes from when no reader reads it.</summary>
    public static string ComesFrom(Field f, DocumentType? type) =>
        type?.Fillings.FirstOrDefault(x => x.Targets.Values.Contains(f.Key)) is { } filling ? filling.Table
        : f.DefaultFrom != DefaultSource.Constant ? f.DefaultFrom.InWords()
        : f.Default is { } d ? $"default {d}"
        : "typed";

    /// <summary>What it is used for.</summary>
    public static string GoesTo(DocumentType type, string key, bool column)
    {
        var parts = new List<string>();
        if (type.Convention.Folder.Any(p => p.Field == key))
            parts.Add("folder");
        if (type.Convention.Name.Any(p => p.Field == key))
            parts.Add("name");
        var rules = type.Rules.Count(r => RuleExamples.Fields(r, type).Contains(key));
        if (rules > 0)
            parts.Add(rules == 1 ? "1 rule" : $"{rules} rules");
        return parts.Count == 0
            ? column
                ? ""
                : "search"
            : string.Join(", ", parts);
    }

    /// <summary>An example that fits a cell: a table shows its number of rows.</summary>
    public static string? Short(Field f, string? text) => f.Kind.HasRows && text is not null ? $"{TableText.Rows(text)?.Count} rows" : text;
}
