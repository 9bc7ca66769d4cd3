using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>Which terms of its vocabulary a field takes.</summary>
internal static class VocabularyTerms
{
    /// <summary>Positions of the terms that are in use, below its branch, on its level, and leaves where it asks for leaves.</summary>
    public static IEnumerable<int> Fitting(VocabularyField field, VocabularyIndex terms)
    {
        var branch = field.Branch is { Length: > 0 } b ? terms.IndexOfAny(b) : -1;
        return Enumerable
            .Range(0, terms.Vocabulary.Terms.Count)
            .Where(i =>
                terms.Vocabulary.Terms[i].Status != TermStatus.Retired
                && (branch < 0 || i != branch && terms.IsWithin(i, branch))
                && (field.OnlyLevel is null || terms.Level(i) == field.OnlyLevel)
                && (!field.LeavesOnly || terms.Narrower(i).Length == 0)
            );
    }
}
