namespace ClearLexicon.Services;

/// <summary>A file that somebody brings.</summary>
/// <param name="Name">What they call it.</param>
/// <param name="Open">Opens its content.</param>
public sealed record BroughtFile(string Name, Func<Stream> Open);
