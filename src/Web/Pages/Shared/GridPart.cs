using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Web.Pages;

/// <summary>The rows of a field that is a table, as a grid.</summary>
/// <param name="Field">The field.</param>
/// <param name="Value">Its rows as they are kept.</param>
/// <param name="Id">What ids on the page begin with.</param>
/// <param name="Vocabularies">The vocabularies that its cells may come from, by key.</param>
public sealed record GridPart(Field Field, string Value, string Id, IReadOnlyDictionary<string, VocabularyIndex> Vocabularies);
