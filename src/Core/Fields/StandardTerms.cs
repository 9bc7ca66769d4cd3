namespace ClearLexicon.Core.Fields;

/// <summary>A term of an open metadata standard that a field may stand for.</summary>
/// <param name="Name">Its name, e.g. <c>dcterms:creator</c>.</param>
/// <param name="Means">What it means, in a few words.</param>
/// <param name="Uri">Its address as a property.</param>
public sealed record StandardTerm(string Name, string Means, string Uri);

/// <summary>DCMI Metadata Terms (Dublin Core) that index fields are commonly mapped to.</summary>
public static class StandardTerms
{
    private const string Terms = "http://purl.org/dc/terms/";

    /// <summary>All, by name.</summary>
    public static IReadOnlyList<StandardTerm> All { get; } =
    [
        .. new (string Name, string Means)[]
        {
            ("abstract", "summary of the resource"),
            ("accessRights", "who may see it"),
            ("alternative", "another title"),
            ("audience", "for whom it is meant"),
            ("available", "date it became available"),
            ("bibliographicCitation", "how to cite it"),
            ("conformsTo", "standard it follows"),
            ("contributor", "who contributed"),
            ("coverage", "place or time it is about"),
            ("created", "date it was made"),
            ("creator", "who made it"),
            ("date", "a date in its life"),
            ("dateAccepted", "date it was accepted"),
            ("dateCopyrighted", "date of copyright"),
            ("dateSubmitted", "date it was submitted"),
            ("description", "account of it"),
            ("educationLevel", "level of the audience"),
            ("extent", "size or duration"),
            ("format", "file format or medium"),
            ("hasFormat", "same content in another format"),
            ("hasPart", "part of it"),
            ("hasVersion", "version of it"),
            ("identifier", "unambiguous reference"),
            ("isFormatOf", "content it has another format of"),
            ("isPartOf", "whole it belongs to"),
            ("isReferencedBy", "what points to it"),
            ("isReplacedBy", "what takes its place"),
            ("isRequiredBy", "what needs it"),
            ("issued", "date it was issued"),
            ("isVersionOf", "what it is a version of"),
            ("language", "language"),
            ("license", "licence"),
            ("mediator", "who mediates access"),
            ("medium", "material or carrier"),
            ("modified", "date it was changed"),
            ("provenance", "changes of ownership"),
            ("publisher", "who made it available"),
            ("references", "what it points to"),
            ("relation", "related resource"),
            ("replaces", "what it takes the place of"),
            ("requires", "what it needs"),
            ("rights", "rights in it"),
            ("rightsHolder", "who holds the rights"),
            ("source", "what it is derived from"),
            ("spatial", "place it is about"),
            ("subject", "topic"),
            ("tableOfContents", "list of its parts"),
            ("temporal", "time it is about"),
            ("title", "name given to it"),
            ("type", "nature or genre"),
            ("valid", "date range of validity"),
        }.Select(t => new StandardTerm("dcterms:" + t.Name, t.Means, Terms + t.Name)),
    ];

    /// <summary>The term with a name, or null.</summary>
    public static StandardTerm? Find(string? name) => All.FirstOrDefault(t => t.Name == name);
}
