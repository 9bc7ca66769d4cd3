using System.Text.Json;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>Makes plausible records from a design alone, so that a convention can be seen before any document exists.</summary>
public static class SampleRecords
{
    /// <summary>One full record, one with only what must be filled. Texts by field ordinal.</summary>
    public static IReadOnlyList<string?[]> For(DocumentType type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) =>
        [
            [.. type.Fields.Select(f => Plausible(f, vocabularies))],
            [.. type.Fields.Select(f => f.Required ? Plausible(f, vocabularies) : null)],
        ];

    private static string? Plausible(Field field, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) =>
        field.Example is { Length: > 0 } example
            ? example
            : field switch
            {
                DateField { Min: { Length: > 0 } least } when string.CompareOrdinal(least, "2024-03-05") > 0 => least,
                DateField => "2024-03-05",
                TimeField time => time.Min is { Length: > 0 } least ? least : "14:30",
                AmountField amount => $"{Least(amount)} {(amount.Currencies is [var currency, ..] ? currency : "EUR")}",
                RangedField number => Least(number),
                YesNoField => "yes",
                VocabularyField terms => terms.Vocabulary is { } v && vocabularies.TryGetValue(v, out var index)
                    ? Term(terms, index)
                    : null,
                IdentifierField identifier => CheckSchemes.Find(identifier.Scheme)?.Example,
                TableField table => JsonSerializer.Serialize(
                    new[] { table.Columns.ToDictionary(c => c.Key, c => Plausible(c, vocabularies) ?? "") }
                ),
                TextField text when PatternShape.Parse(text.Pattern) is { } shape => shape.Example(),
                TextField text when PatternPieces.Read(text.Pattern) is { Count: > 0 } pieces => PatternPieces.Example(pieces),
                TextField text => Cut(field.Label, text.MaxLength),
                _ => null,
            };

    private static string Least(RangedField field) => field.Min is { Length: > 0 } least ? least : "42";

    private static string? Term(VocabularyField field, VocabularyIndex index)
    {
        foreach (var i in VocabularyTerms.Fitting(field, index))
            if (index.Vocabulary.Terms[i].Status == TermStatus.Current)
                return index.Vocabulary.Terms[i].Label;
        return null;
    }

    private static string Cut(string label, int? most) => most is { } m && label.Length > m ? label[..m] : label;
}
