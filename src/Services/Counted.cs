using System.Globalization;

namespace ClearLexicon.Services;

/// <summary>Numbers with their word: 1 document, 2 documents.</summary>
public static class Counted
{
    /// <summary>A number and what it counts; the word takes an s unless it is one.</summary>
    public static string Of(long number, string word) =>
        number == 1 ? $"1 {word}" : string.Create(CultureInfo.InvariantCulture, $"{number:N0} {word}s");
}
