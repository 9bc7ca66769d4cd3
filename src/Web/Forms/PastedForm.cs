using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Services.Design;

namespace ClearLexicon.Web.Forms;

/// <summary>What a person decides about fields that were guessed from a paste.</summary>
/// <param name="form">What stands in the blanks.</param>
public sealed class PastedForm(Form form)
{
    /// <summary>The fields that are ticked, as corrected; one that holds terms has them from a vocabulary of its name.</summary>
    /// <param name="guesses">What was guessed.</param>
    /// <param name="vocabularies">The vocabularies that are there.</param>
    public List<NewField> Chosen(IEnumerable<GuessedField> guesses, IReadOnlyDictionary<string, VocabularyIndex> vocabularies) =>
        [.. guesses.Where(g => form.Ticked($"take-{g.Field.Key}")).Select(g => Corrected(g, vocabularies))];

    private NewField Corrected(GuessedField guess, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        var kind = FieldKind.Find(form[$"kind-{guess.Field.Key}"].Text) ?? guess.Field.Kind;
        var field = guess.Field with { Required = form.Ticked($"must-{guess.Field.Key}") };
        if (kind != guess.Field.Kind)
        {
            var dates = kind.Measure == Measure.Day ? PastedFields.Guess(field.Label, guess.Values, vocabularies).Field.Cleaning : null;
            field = kind.New(field.Key, field.Label) with { Required = field.Required, Cleaning = dates };
        }
        if (field is not VocabularyField { Vocabulary: null } terms)
            return new NewField(field, null, []);
        if (vocabularies.ContainsKey(ShortName.From(field.Label)))
            return new NewField(terms with { Vocabulary = ShortName.From(field.Label) }, null, []);
        return new NewField(
            field,
            field.Label,
            guess.NewTerms.Count > 0 ? guess.NewTerms : [.. guess.Values.Distinct(StringComparer.OrdinalIgnoreCase)]
        );
    }
}
