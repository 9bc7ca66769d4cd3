using ClearLexicon.Services.Repository;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Pages;

/// <summary>A folder of the repository with those in it.</summary>
/// <param name="Page">The page of the repository.</param>
/// <param name="Node">The folder.</param>
public sealed record FolderPart(RepositoryIndexModel Page, CountedFolder Node);

/// <summary>What a question can be narrowed to.</summary>
/// <param name="Page">The page of the repository.</param>
/// <param name="Facets">The values with their counts; null when there are none.</param>
public sealed record FacetsPart(RepositoryIndexModel Page, FoundFacets? Facets);

/// <summary>What a bulk edit does to documents.</summary>
/// <param name="Values">The first of them.</param>
/// <param name="Number">How many they are.</param>
/// <param name="Heading">What has become of them; empty where that is said already.</param>
public sealed record BulkValuesPart(List<RunStep<ChangedValue>> Values, long Number, string Heading);
