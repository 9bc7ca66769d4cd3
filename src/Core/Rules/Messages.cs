namespace ClearLexicon.Core.Rules;

/// <summary>The languages in which problems are told; each <see cref="ProblemKind"/> says itself in all of them.</summary>
public static class Messages
{
    /// <summary>The language that always has a text.</summary>
    public const string English = "en";

    /// <summary>Languages and their own names.</summary>
    public static IReadOnlyList<(string Code, string Name)> Languages { get; } =
    [(English, "English"), ("de", "Deutsch"), ("fr", "Français")];

    /// <summary>The language of these that a tag such as <c>de-AT</c> asks for; English when none.</summary>
    public static string Nearest(string? tag) =>
        Languages.FirstOrDefault(l => tag?.StartsWith(l.Code, StringComparison.OrdinalIgnoreCase) == true).Code ?? English;

    // A message about one row of a table.
    internal static string InRow(int row, string message, string language) =>
        language switch
        {
            "de" => $"Zeile {row}: {message}",
            "fr" => $"Ligne {row} : {message}",
            _ => $"Row {row}: {message}",
        };
}
