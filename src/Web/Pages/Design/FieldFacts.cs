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
    public static string Holds(Field f, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) => FieldKindNames.Of(f.Kind) + f.Kind switch
    {
        FieldKind.Term or FieldKind.Terms => $", {vocabularies.GetValueOrDefault(f.Vocabulary ?? "")?.Vocabulary.Name ?? "no vocabulary"}{(f.Branch is { } b ? $" below {b}" : "")}{(f.LeavesOnly ? ", leaves" : "")}",
        FieldKind.Identifier => $", {CheckSchemes.Find(f.Scheme)?.Name ?? "no scheme"}",
        FieldKind.Amount when f.Currencies is { Count: > 0 } c => $", {string.Join(" ", c)}",
        FieldKind.Table => $", {f.Columns?.Count ?? 0} columns",
        FieldKind.Text when f.Pattern is { } p => $": {PatternPieces.InWords(p)}",
        FieldKind.Text when f.MaxLength is { } m => $", up to {m}",
        _ when f.Min is { } a && f.Max is { } b => $", {a} to {b}",
        _ when f.Min is { } a => $", from {a}",
        _ when f.Max is { } b => $", up to {b}",
        _ => "",
    };

    /// <summary>Where its value comes from when no reader reads it.</summary>
    public static string ComesFrom(Field f, DocumentType? type) =>
        type?.Fillings.FirstOrDefault(x => x.Targets.Values.Contains(f.Key)) is { } filling ? filling.Table
        : f.DefaultFrom != DefaultSource.Constant ? FieldKindNames.Of(f.DefaultFrom) : f.Default is { } d ? $"default {d}" : "typed";

    /// <summary>What it is used for.</summary>
    public static string GoesTo(DocumentType type, string key, bool column)
    {
        var parts = new List<string>();
        if (type.Convention.Folder.Any(p => p.Field == key)) parts.Add("folder");
        if (type.Convention.Name.Any(p => p.Field == key)) parts.Add("name");
        var rules = type.Rules.Count(r => RuleExamples.Fields(r, type).Contains(key));
        if (rules > 0) parts.Add(rules == 1 ? "1 rule" : $"{rules} rules");
        return parts.Count == 0 ? column ? "" : "search" : string.Join(", ", parts);
    }

    /// <summary>An example that fits a cell: a table shows its number of rows.</summary>
    public static string? Short(Field f, string? text) => f.Kind == FieldKind.Table && text is not null ? $"{FieldReader.ParseRows(text)?.Count} rows" : text;
}
