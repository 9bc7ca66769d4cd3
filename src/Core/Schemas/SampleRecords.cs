using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Schemas;

/// <summary>Makes plausible records from a design alone, so that a convention can be seen before any document exists.</summary>
public static class SampleRecords
{
    /// <summary>One full record, one with only what must be filled. Texts by field ordinal.</summary>
    public static IReadOnlyList<string?[]> For(DocumentType type, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) =>
    [
        [.. type.Fields.Select(f => Plausible(f, vocabularies))],
        [.. type.Fields.Select(f => f.Required ? Plausible(f, vocabularies) : null)],
    ];

    private static string? Plausible(Field field, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) => field.Kind switch
    {
        FieldKind.Date => field.Min is { Length: > 0 } least && least.CompareTo("2024-03-05") > 0 ? least : "2024-03-05",
        FieldKind.WholeNumber or FieldKind.Decimal => field.Min is { Length: > 0 } least ? least : "42",
        FieldKind.YesNo => "yes",
        FieldKind.Term => field.Vocabulary is { } v && vocabularies.TryGetValue(v, out var index)
            ? index.Vocabulary.Terms.FirstOrDefault(t => t.Status == TermStatus.Current)?.Label : null,
        _ => Rules.PatternShape.Parse(field.Pattern) is { } shape ? shape.Example() : Cut(field.Label, field.MaxLength),
    };

    private static string Cut(string label, int? most) => most is { } m && label.Length > m ? label[..m] : label;
}
