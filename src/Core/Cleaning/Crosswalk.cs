using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Cleaning;

/// <summary>Carries one captured value or legacy column into a field.</summary>
/// <param name="Source">Key of the zone, or name of the inventory column.</param>
/// <param name="Field">Key of the field it fills.</param>
/// <param name="Steps">Repairs on the way, in order.</param>
public sealed record CrosswalkLine(string Source, string Field, IReadOnlyList<CleaningStep> Steps);
