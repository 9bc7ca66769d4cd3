using System.Globalization;
using System.Text.RegularExpressions;

namespace ClearLexicon.Core.Reading.Sheets;

/// <summary>What the code of a sheet made here says: which print it belongs to and which of its sheets it is.</summary>
/// <param name="Token">The print's own word, eight letters and digits.</param>
/// <param name="Row">Which of its sheets, from 1.</param>
public sealed partial record SheetToken(string Token, int Row)
{
    /// <summary>The text that the code of the sheet holds.</summary>
    public string Text => $"clear-lexicon:sheet:{Token}:{Row.ToString(CultureInfo.InvariantCulture)}";

    /// <summary>Reads the text of a code; null when it is no sheet's.</summary>
    public static SheetToken? Read(string text) =>
        Form().Match(text) is { Success: true } match
        && int.TryParse(match.Groups["row"].Value, NumberStyles.None, CultureInfo.InvariantCulture, out var row)
        && row > 0
            ? new SheetToken(match.Groups["token"].Value, row)
            : null;

    [GeneratedRegex(
        "^clear-lexicon:sheet:(?<token>[a-z0-9]{8}):(?<row>[0-9]{1,6})$",
        RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture
    )]
    private static partial Regex Form();
}

/// <summary>A sheet made here that came back in a stack.</summary>
/// <param name="Name">What it is called, e.g. “separator sheet”.</param>
/// <param name="Doubt">What is wrong with it; null for nothing.</param>
public sealed record SheetCode(string Name, string? Doubt);
