using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Web.Pages;

/// <summary>A field in its row, or in its form.</summary>
/// <param name="Page">The page of its type.</param>
/// <param name="Of">The type, or the rows of a table as a type, that it belongs to.</param>
/// <param name="Table">Key of that table; null for the type itself.</param>
/// <param name="Field">The field; null for one that is added.</param>
/// <param name="At">Its place, from 0; -1 for one that is added.</param>
public sealed record FieldPart(TypeModel Page, DocumentType Of, string? Table, Field? Field, int At);

/// <summary>A rule in its row, or in its form.</summary>
/// <param name="Page">The page of its type.</param>
/// <param name="Of">The type, or the rows of a table as a type, that it belongs to.</param>
/// <param name="Table">Key of that table; null for the type itself.</param>
/// <param name="Rule">The rule; null for one that is added.</param>
public sealed record RulePart(TypeModel Page, DocumentType Of, string? Table, Rule? Rule);

/// <summary>A field that comes from elsewhere, in its row or in its form.</summary>
/// <param name="Page">The page of the type that has it.</param>
/// <param name="Field">The field.</param>
/// <param name="At">Its place, from 0.</param>
public sealed record InheritedPart(TypeModel Page, Field Field, int At);

/// <summary>A condition, row by row.</summary>
/// <param name="Page">The page of its type.</param>
/// <param name="Of">The type whose fields it asks of.</param>
/// <param name="Id">What ids on the page begin with.</param>
/// <param name="When">The condition; null for none.</param>
public sealed record ConditionPart(TypeModel Page, DocumentType Of, string Id, Condition? When);

/// <summary>The cleaning steps of a field.</summary>
/// <param name="Page">The page of its type.</param>
/// <param name="Id">What ids on the page begin with.</param>
/// <param name="Field">The field; null for one that is added.</param>
/// <param name="Steps">Its steps.</param>
public sealed record StepsPart(TypeModel Page, string Id, Field? Field, List<CleaningStep> Steps);

/// <summary>Terms below a term, or at the top.</summary>
/// <param name="Page">The page of the vocabulary.</param>
/// <param name="Terms">The terms, by their places in the index.</param>
/// <param name="Above">The terms above them, the broadest first.</param>
public sealed record BranchPart(VocabularyModel Page, int[] Terms, IReadOnlyList<int> Above);

/// <summary>A line of a convention.</summary>
/// <param name="Page">The page of the convention.</param>
/// <param name="Line">folder or name.</param>
public sealed record LinePart(ConventionModel Page, string Line);

/// <summary>What can be said of a piece of a convention.</summary>
/// <param name="Page">The page of the convention.</param>
/// <param name="Line">folder or name.</param>
/// <param name="At">Its place in the line, from 0.</param>
/// <param name="Piece">The piece.</param>
public sealed record PiecePart(ConventionModel Page, string Line, int At, Piece Piece);

/// <summary>A piece that was worked out from paths.</summary>
/// <param name="Page">The page on which the paths are.</param>
/// <param name="Proposed">The piece.</param>
public sealed record ProposedPart(PathsModel Page, Core.Conventions.Inference.ProposedPiece Proposed);
