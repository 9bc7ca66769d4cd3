using System.Globalization;

namespace ClearLexicon.Core.Reading.Codes;

/// <summary>How one code becomes several values.</summary>
/// <param name="Way">whole, separator, widths or elements (GS1 element strings).</param>
/// <param name="With">The separator, or the widths in characters divided by commas, e.g. <c>4,3,5</c>.</param>
public sealed record CodeDivision(string Way, string With = "")
{
    /// <summary>Most pieces of one code.</summary>
    public const int Most = 60;

    /// <summary>One code, one value.</summary>
    public static CodeDivision Whole { get; } = new("whole");

    /// <summary>Ways by code, with what they are called.</summary>
    public static IReadOnlyList<(string Code, string Title)> Ways { get; } =
    [
        ("whole", "as one value"),
        ("separator", "divided at a separator"),
        ("widths", "divided by widths"),
        ("elements", "divided by application identifiers"),
    ];

    /// <summary>What is wrong with the division itself; null when it can be used.</summary>
    public string? Finding =>
        Way switch
        {
            "whole" or "elements" => null,
            "separator" => With.Length == 0 ? "Write the separator between the values of the code."
            : With.Contains('"', StringComparison.Ordinal) ? "A quotation mark cannot separate, because it quotes."
            : null,
            "widths" => Widths is null ? $"Write the widths as numbers from 1 with commas between, such as 4,3,5; at most {Most}." : null,
            _ => $"There is no division “{Way}”.",
        };

    private int[]? Widths
    {
        get
        {
            var parts = With.Split(',', StringSplitOptions.TrimEntries);
            var widths = parts.Select(p => int.TryParse(p, NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : 0).ToArray();
            return parts.Length <= Most && widths.All(w => w is > 0 and <= 10_000) ? widths : null;
        }
    }

    /// <summary>
    /// The pieces of a text by their names: <c>1</c>, <c>2</c> … in order, or application identifiers; the whole has the name
    /// <c>whole</c>, and is among them always. A separator within quotation marks does not divide; two of them are one.
    /// </summary>
    /// <returns>The pieces, and why it could not be divided as asked, in one clause.</returns>
    public (IReadOnlyList<(string Name, string Text)> Pieces, string? Problem) Divide(string text)
    {
        List<(string, string)> pieces = [("whole", text)];
        if (Finding is { } finding)
            return (pieces, finding);
        switch (Way)
        {
            case "separator":
                pieces.AddRange(Separated(text, With).Take(Most).Select((p, i) => (Name(i), p)));
                return (pieces, null);
            case "widths":
                var at = 0;
                foreach (var (width, i) in Widths!.Select((w, i) => (w, i)))
                {
                    var taken = Math.Min(width, text.Length - at);
                    pieces.Add((Name(i), text.Substring(at, taken)));
                    at += taken;
                }
                var asked = Widths!.Sum();
                return (pieces, text.Length == asked ? null : $"it has {text.Length} characters, and the widths ask for {asked}");
            case "elements":
                var (elements, problem) = ElementStrings.Divide(text);
                // Of one identifier twice, the first.
                pieces.AddRange(elements.DistinctBy(e => e.Identifier).Take(Most).Select(e => (e.Identifier, e.Text)));
                return (pieces, problem);
            default:
                return (pieces, null);
        }
    }

    private static string Name(int index) => (index + 1).ToString(CultureInfo.InvariantCulture);

    private static IEnumerable<string> Separated(string text, string separator)
    {
        var piece = new System.Text.StringBuilder();
        var quoted = false;
        for (var at = 0; at < text.Length; at++)
        {
            if (text[at] == '"' && quoted && at + 1 < text.Length && text[at + 1] == '"')
                piece.Append(text[at++]);
            // A quotation mark in the middle of a piece is one of its characters.
            else if (text[at] == '"' && (quoted || piece.Length == 0))
                quoted = !quoted;
            else if (!quoted && string.CompareOrdinal(text, at, separator, 0, separator.Length) == 0)
            {
                yield return piece.ToString();
                piece.Clear();
                at += separator.Length - 1;
            }
            else
                piece.Append(text[at]);
        }
        yield return piece.ToString();
    }
}
