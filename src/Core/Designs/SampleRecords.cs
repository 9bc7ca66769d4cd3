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

    private static string? Plausible(Field field, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) => field.Example is { Length: > 0 } example ? example : field.Kind switch
    {
        FieldKind.Date => field.Min is { Length: > 0 } least && least.CompareTo("2024-03-05") > 0 ? least : "2024-03-05",
        FieldKind.WholeNumber or FieldKind.Decimal => field.Min is { Length: > 0 } least ? least : "42",
        FieldKind.Amount => $"{(field.Min is { Length: > 0 } least ? least : "42")} {(field.Currencies is [var currency, ..] ? currency : "EUR")}",
        FieldKind.YesNo => "yes",
        FieldKind.Term or FieldKind.Terms => field.Vocabulary is { } v && vocabularies.TryGetValue(v, out var index) ? Term(field, index) : null,
        FieldKind.Identifier => CheckSchemes.Find(field.Scheme)?.Example,
        FieldKind.Table => JsonSerializer.Serialize(new[] { (field.Columns ?? []).ToDictionary(c => c.Key, c => Plausible(c, vocabularies) ?? "") }),
        _ => PatternShape.Parse(field.Pattern) is { } shape ? shape.Example() : PatternPieces.Read(field.Pattern) is { Count: > 0 } pieces ? PatternPieces.Example(pieces) : Cut(field.Label, field.MaxLength),
    };

    private static string? Term(Field field, VocabularyIndex index)
    {
        var branch = field.Branch is { } b ? index.IndexOfAny(b) : -1;
        for (var i = 0; i < index.Vocabulary.Terms.Count; i++)
            if (index.Vocabulary.Terms[i].Status == TermStatus.Current && (field.OnlyLevel is null || index.Level(i) == field.OnlyLevel) && (!field.LeavesOnly || index.Narrower(i).Length == 0) && (branch < 0 || i != branch && index.IsWithin(i, branch)))
                return index.Vocabulary.Terms[i].Label;
        return null;
    }

    private static string Cut(string label, int? most) => most is { } m && label.Length > m ? label[..m] : label;
}
