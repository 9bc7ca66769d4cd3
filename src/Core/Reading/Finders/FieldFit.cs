using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>Whether a text that was read can be a field's value, looking at that field alone.</summary>
internal static class FieldFit
{
    /// <summary>Whether it fits: it can be read as the field's kind, has its pattern or length, and its check digit is right.</summary>
    public static bool Fits(Field field, string text, FinderContext context)
    {
        if (text.Length == 0)
            return false;
        // Without its vocabulary nothing can be said against a term.
        if (field is VocabularyField { Vocabulary: { } key } && !context.Vocabularies.ContainsKey(key))
            return true;
        var value = new FieldReader(field, context.Vocabularies).Read(text);
        if (!value.IsGood)
            return false;
        return field switch
        {
            TextField t => (t.MinLength ?? 0) <= value.Text!.Length
                && value.Text.Length <= (t.MaxLength ?? int.MaxValue)
                && (
                    t.Pattern is not { } pattern
                    || !SafePattern.TryWhole(pattern, out var regex, out _)
                    || SafePattern.Matches(regex!, value.Text) == true
                ),
            IdentifierField i => CheckSchemes.Find(i.Scheme) is not { } scheme || scheme.Problem(value.Text!) is null,
            RangedField { Kind.Measure: not Measure.Day } r => Within(value.Number, r),
            _ => true,
        };
    }

    private static bool Within(decimal number, RangedField field) =>
        !(field.Kind.Order(field.Min) is { } least && number < least) && !(field.Kind.Order(field.Max) is { } most && number > most);
}
