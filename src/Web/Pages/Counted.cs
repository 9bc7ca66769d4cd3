namespace ClearLexicon.Web.Pages;

/// <summary>Numbers with their word: 1 document, 2 documents.</summary>
internal static class Counted
{
    public static string Of(long number, string word) => number == 1 ? $"1 {word}" : $"{number:N0} {word}s";
}
