using ClearLexicon.Core.Fields;
using ClearLexicon.Services.Desk;

namespace ClearLexicon.Web.Pages;

/// <summary>What can be learned from a value that somebody corrected.</summary>
/// <param name="Page">The page of the document.</param>
/// <param name="Field">Whose value it is.</param>
public sealed record LearnPart(DeskDocumentModel Page, Field Field);

/// <summary>Filed documents that have the same value, beside the page.</summary>
/// <param name="Page">The page of the document.</param>
/// <param name="Field">Key of the field.</param>
/// <param name="Text">The value.</param>
/// <param name="Found">The documents.</param>
/// <param name="Open">The one that is looked at; null while none is.</param>
public sealed record BesidePart(DeskDocumentModel Page, string Field, string Text, List<FiledBeside> Found, FiledBeside? Open);

/// <summary>Rows of a reference table that a clerk may take.</summary>
/// <param name="Id">The document.</param>
/// <param name="Field">Key of the field that is typed into.</param>
/// <param name="Hits">The rows.</param>
public sealed record RowsPart(long Id, string Field, RowHits Hits);

/// <summary>The value of one field of one document among others.</summary>
/// <param name="Type">Code of the document type.</param>
/// <param name="Field">Key of the field.</param>
/// <param name="Value">The value.</param>
/// <param name="Problem">Why it was not taken; null when nothing is wrong.</param>
/// <param name="Typed">What was typed and not taken; null when nothing was.</param>
/// <param name="Taken">Whether it was taken just now.</param>
public sealed record FieldValuePart(string Type, string Field, DeskValue Value, string? Problem, string? Typed, bool Taken);
