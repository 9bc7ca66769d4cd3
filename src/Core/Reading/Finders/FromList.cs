using System.Runtime.CompilerServices;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>An entry of a list that stands anywhere on the page: the longest first.</summary>
internal static class FromList
{
    private const double Misread = 0.85;
    private const double OneOfSeveral = 0.8;

    private static readonly ConditionalWeakTable<VocabularyIndex, ListIndex> OfTerms = [];
    private static readonly ConditionalWeakTable<ReferenceTable, Dictionary<string, ListIndex>> OfTables = [];

    public static Found? Find(Search search)
    {
        if (Index(search) is not { } index)
            return null;
        var all = new List<(PageLines Page, ListHit Hit)>();
        foreach (var page in search.Looked)
            all.AddRange(index.In(page.Lines).Where(h => search.Allows(h.Run.Box)).Select(h => (page, h)));
        if (all.Count == 0)
            return null;
        var several = search.Field.Kind.IsMultiple;
        var values = all.Select(a => a.Hit.Value).Distinct(StringComparer.Ordinal).ToList();
        if (search.Finder.Which == Which.Only && values.Count > 1 && !several)
            return null;
        // The longest says most; of equally long ones the one asked for.
        var chosen = search.Finder.Which == Which.Last ? all[^1] : all.MaxBy(a => (a.Hit.Letters, !a.Hit.Misread));
        var (words, value) = ((IEnumerable<Word>)chosen.Hit.Run.Words, chosen.Hit.Value);
        if (several)
        {
            words = all.Where(a => a.Page == chosen.Page).SelectMany(a => a.Hit.Run.Words);
            value = string.Join("; ", values);
        }
        var sure = (chosen.Hit.Misread ? Misread : 1) * (values.Count > 1 && !several ? OneOfSeveral : 1);
        return new Found(
            Search.EvidenceOf(chosen.Page, [.. words], null, sure),
            values.Count == 1 ? "the only one of the list on the page"
                : several ? $"{values.Count} of the list"
                : $"the longest of {values.Count} of the list",
            value
        );
    }

    /// <summary>The spellings of a field's vocabulary; null when it has none.</summary>
    internal static ListIndex? OfVocabulary(Field field, FinderContext context) =>
        field.Vocabulary is { } key && context.Vocabularies.TryGetValue(key, out var terms)
            ? OfTerms.GetValue(
                terms,
                static t => new ListIndex(
                    t.Vocabulary.Terms.SelectMany(term =>
                        term.Variants.Concat(term.Words.Values.SelectMany(w => w.Variants.Prepend(w.Label)))
                            .Prepend(term.Label)
                            .Select(spelling => (spelling, term.Label))
                    )
                )
            )
            : null;

    private static ListIndex? Index(Search search)
    {
        if (search.Finder.List.Length == 0)
            return OfVocabulary(search.Field, search.Context);
        var slash = search.Finder.List.IndexOf('/', StringComparison.Ordinal);
        if (slash < 0 || search.Context.Tables(search.Finder.List[..slash]) is not { } table)
            return null;
        var column = table.ColumnOf(search.Finder.List[(slash + 1)..]);
        if (column < 0)
            return null;
        var indexes = OfTables.GetOrCreateValue(table);
        lock (indexes)
        {
            if (!indexes.TryGetValue(search.Finder.List, out var index))
                indexes[search.Finder.List] = index = new ListIndex(table.Rows.Select(r => (r[column], r[column])));
            return index;
        }
    }
}
