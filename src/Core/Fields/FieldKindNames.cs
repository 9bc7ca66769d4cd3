using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Fields;

/// <summary>Field kinds in words.</summary>
public static class FieldKindNames
{
    /// <summary>The word for a kind.</summary>
    public static string Of(FieldKind kind) =>
        kind switch
        {
            FieldKind.Text => "text",
            FieldKind.WholeNumber => "whole number",
            FieldKind.Decimal => "decimal",
            FieldKind.Date => "date",
            FieldKind.Time => "time of day",
            FieldKind.YesNo => "yes/no",
            FieldKind.Amount => "amount",
            FieldKind.Terms => "several terms",
            FieldKind.Identifier => "identifier",
            FieldKind.Table => "table",
            _ => "term",
        };

    /// <summary>The words for a default's source.</summary>
    public static string Of(DefaultSource source) =>
        source switch
        {
            DefaultSource.Today => "the current date",
            DefaultSource.Person => "the person",
            DefaultSource.Batch => "the batch",
            DefaultSource.Formula => "a formula",
            DefaultSource.Previous => "the document before",
            _ => "a constant",
        };
}
