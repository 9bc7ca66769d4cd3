using ClearLexicon.Core.Reading;

namespace ClearLexicon.Web.Pages;

/// <summary>How the places of a field are joined to one value.</summary>
/// <param name="Field">Key of the field.</param>
/// <param name="At">What ids on the page end with.</param>
/// <param name="Sample">The sample that is looked at.</param>
/// <param name="Joined">How they are joined; null while they are not.</param>
public sealed record JoinPart(string Field, string At, long Sample, JoinedPlaces? Joined);
