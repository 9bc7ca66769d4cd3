namespace ClearLexicon.Core.Fields;

/// <summary>A small named repair as stored in a crosswalk line.</summary>
/// <param name="Kind">Code of its <see cref="CleaningKind"/>.</param>
/// <param name="Argument">What the step needs, e.g. the words to drop.</param>
public sealed record CleaningStep(string Kind, string Argument = "");
