using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Services.Design;

/// <summary>A field that is to be added.</summary>
/// <param name="Field">The field.</param>
/// <param name="Vocabulary">Name of the vocabulary that is made for it; null when it needs none, or has one.</param>
/// <param name="Terms">What stands in that; of words that differ by accents or case only the first.</param>
public sealed record NewField(Field Field, string? Vocabulary, IReadOnlyList<string> Terms);

/// <summary>Puts fields into the draft of a document type, in one act with the vocabularies that they need.</summary>
public sealed class NewFields(Drafts drafts, Vocabularies vocabularies)
{
    /// <summary>Changes the draft of a type by fields.</summary>
    /// <param name="code">The type.</param>
    /// <param name="fields">The fields.</param>
    /// <param name="change">What is done, for the type's history.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="into">The type with the fields.</param>
    /// <returns>The fields as they stand in the type; when a vocabulary cannot be made, nothing is changed.</returns>
    public Result<List<Field>> Put(
        string code,
        IReadOnlyList<NewField> fields,
        string change,
        string who,
        Func<DocumentType, List<Field>, Result<DocumentType>> into
    )
    {
        var wanted = fields
            .Select(f =>
                f is { Field: VocabularyField v, Vocabulary: { } name } ? v with { Vocabulary = ShortName.From(name.Trim()) } : f.Field
            )
            .ToList();
        var changed = drafts.Change(
            code,
            change,
            who,
            type => into(type, wanted),
            c =>
                fields
                    .Where(f => f.Vocabulary is not null)
                    .Select(f => (f.Field, Made: vocabularies.Make(c, f.Vocabulary!, string.Join('\n', Words(f)), who, Growth.WithReview)))
                    .FirstOrDefault(r => !r.Made.Ok)
                    is { Made.Problem: { } problem } not
                    ? $"{not.Field.Label}: {problem}"
                    : Result.Done
        );
        return changed.Ok ? wanted : Result<List<Field>>.Not(changed.Problem!);
    }

    // What a vocabulary cannot tell apart is one term of it.
    private static IEnumerable<string> Words(NewField field) => field.Terms.Where(t => Folding.Fold(t).Length > 0).DistinctBy(Folding.Fold);
}
