using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Repository;

/// <summary>Vocabularies that grow with the documents that are filed.</summary>
internal static class GrowingTerms
{
    /// <summary>
    /// Adds labels that documents brought, as proposed or current terms; called in the transaction that keeps the documents.
    /// </summary>
    public static void Grow(SqliteConnection c, IEnumerable<(string Vocabulary, string Label)> labels, string who, TimeProvider clock)
    {
        foreach (var group in labels.Distinct().GroupBy(l => l.Vocabulary))
        {
            if (VocabularyStore.Find(c, group.Key) is not { Growth: not Growth.Fixed } vocabulary)
                continue;
            var index = new VocabularyIndex(vocabulary);
            var ids = vocabulary.Terms.Select(t => t.Id).ToHashSet(StringComparer.Ordinal);
            List<Term> fresh =
            [
                .. group
                    .Select(l => l.Label)
                    .DistinctBy(Folding.Letters)
                    .Where(l => index.IndexOf(l) < 0 && Folding.Letters(l).Length > 0)
                    .Select(l => new Term(l, [], null, vocabulary.Growth == Growth.Freely ? TermStatus.Current : TermStatus.Proposed)
                    {
                        Id = NewId(l, ids),
                    }),
            ];
            if (fresh.Count == 0)
                continue;
            VocabularyStore.Put(c, group.Key, fresh);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                vocabulary.Growth == Growth.Freely ? "a vocabulary grew" : "proposed terms",
                new LedgerSubject(SubjectKind.Vocabulary, group.Key),
                string.Join(" | ", fresh.Take(5).Select(t => t.Label))
            );
        }
    }

    /// <summary>An id for a new term, made from its label and not among those that are taken.</summary>
    public static string NewId(string label, HashSet<string> taken)
    {
        var stem = ShortName.From(label) is { Length: > 0 } key ? key : "term";
        var id = stem;
        for (var n = 2; !taken.Add(id); n++)
            id = $"{stem}-{n}";
        return id;
    }
}
