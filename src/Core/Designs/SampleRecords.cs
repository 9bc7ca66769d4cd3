using System.Text.Json;
using ClearLexicon.Core.Fields;
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
        field.Example is { Length: > 0 } example ? example
        : field is TableField table
            ? JsonSerializer.Serialize(new[] { table.Columns.ToDictionary(c => c.Key, c => Plausible(c, vocabularies) ?? "") })
        : field.Kind.Plausible(field, field.Vocabulary is { } v ? vocabularies.GetValueOrDefault(v) : null);
}
