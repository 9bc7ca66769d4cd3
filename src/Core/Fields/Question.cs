using System.Globalization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>
/// What is asked of the fields of documents: conditions, of which all or any must hold. <see cref="QuestionText"/> writes and reads it.
/// </summary>
/// <param name="Any">Whether one of them is enough.</param>
/// <param name="Conditions">The conditions; without any, everything is found.</param>
public sealed record Question(bool Any, IReadOnlyList<FieldCondition> Conditions)
{
    /// <summary>Most conditions of a question.</summary>
    public const int Most = 30;

    /// <summary>Most values that one condition names, or branch that it spreads to.</summary>
    public const int MostValues = 5_000;

    /// <summary>A question that asks for nothing.</summary>
    public static Question Nothing { get; } = new(false, []);

    /// <summary>
    /// The question as it is put to the index: relative days are days, a branch is its terms, terms are called by their labels. A date that
    /// is only a year or a month means all of it.
    /// </summary>
    /// <param name="fields">Fields of the type.</param>
    /// <param name="vocabularies">Vocabularies by code.</param>
    /// <param name="today">Today.</param>
    public Question On(TypeFields fields, IReadOnlyDictionary<string, VocabularyIndex> vocabularies, DateOnly today) =>
        this with
        {
            Conditions =
            [
                .. Conditions.Select(c => c.Kind.On(c, vocabularies.GetValueOrDefault(fields.FindPart(c.Field)?.Vocabulary ?? ""), today)),
            ],
        };
}
