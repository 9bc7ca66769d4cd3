using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;

namespace ClearLexicon.Core.Reading.Finders;

/// <summary>A value by its shape within a line.</summary>
/// <param name="Run">The words it lies in.</param>
/// <param name="Raw">Its text.</param>
internal readonly record struct Shaped(WordRun Run, string Raw);

/// <summary>The shapes that values have: what is recognised as a date, a number, an amount, an identifier, wherever it stands.</summary>
public static partial class Shapes
{
    /// <summary>Most words one value lies in: an account number in groups of four has nine.</summary>
    private const int MostWords = 10;

    private const int ShortestIdentifier = 5;

    /// <summary>All shapes with their names, in the order they are offered.</summary>
    public static IReadOnlyList<(string Code, string Title)> All { get; } =
    [
        ("", "what the field holds"),
        ("text", "any words"),
        ("date", "a date"),
        ("time", "a time of day"),
        ("number", "a number"),
        ("amount", "an amount with two decimals"),
        ("identifier", "a number whose check digit is right"),
        ("pattern", "a pattern"),
    ];

    /// <summary>Everything of a shape in a line, from the left.</summary>
    internal static IEnumerable<Shaped> In(TextLine line, Finder finder, Field field)
    {
        var shape = finder.Shape.Length > 0 ? finder.Shape : field.Kind.Shape(field);
        if (shape == "identifier")
            return Identifiers(line, (field as IdentifierField)?.Scheme);
        var regex = shape switch
        {
            "date" => Date(),
            "time" => Time(),
            "number" => Number(),
            "amount" => Amount(),
            "pattern" => Anywhere(finder.Pattern.Length > 0 ? finder.Pattern : (field as TextField)?.Pattern ?? ""),
            _ => null,
        };
        return regex is null ? [] : Matches(line, regex);
    }

    /// <summary>The parts of a line that a field may hold: terms of its vocabulary, or what has its shape.</summary>
    internal static IEnumerable<Shaped> Parts(TextLine line, Field field, FinderContext context) =>
        FromList.OfVocabulary(field, context) is { } terms
            ? terms.In([line]).Select(h => new Shaped(h.Run, h.Value))
            : In(line, new Finder("", ""), field);

    /// <summary>What a value is by size: a number, or a date as its day; null when it is neither.</summary>
    internal static decimal? SizeOf(string raw) =>
        Digits().Match(raw) is { Success: true }
        && Numbers.Kept(Currencies.Divided(TextCleaning.ReadNumber(raw, raw.LastIndexOf(',') > raw.LastIndexOf('.') ? ',' : '.')).Number)
            is { } number
            ? number
        : DateOnly.TryParse(raw, CultureInfo.InvariantCulture, out var date) ? date.DayNumber
        : null;

    private static Regex? Anywhere(string pattern) =>
        pattern.Length > 0 && SafePattern.TryAnywhere(pattern, out var regex, out _) ? regex : null;

    // The pattern of a field stands for a whole value; what is beside it on a line must not run into it.
    private static IEnumerable<Shaped> Matches(TextLine line, Regex regex)
    {
        var text = new StringBuilder();
        var starts = new int[line.Words.Count];
        for (var i = 0; i < starts.Length; i++)
        {
            if (i > 0)
                text.Append(' ');
            starts[i] = text.Length;
            text.Append(line.Words[i].Text);
            if (text.Length > SafePattern.LongestValue)
                break;
        }
        var whole = text.ToString();
        for (var match = regex.Match(whole); match.Success; match = match.NextMatch())
        {
            if (match.Length == 0 || IsGlued(whole, match.Index, match.Index + match.Length))
                continue;
            var from = WordAt(starts, match.Index);
            var to = WordAt(starts, match.Index + match.Length - 1) + 1;
            yield return new Shaped(new WordRun(line, from, to, 0), match.Value);
        }
    }

    private static bool IsGlued(string text, int from, int to) =>
        from > 0 && char.IsLetterOrDigit(text[from - 1]) && char.IsLetterOrDigit(text[from])
        || to < text.Length && char.IsLetterOrDigit(text[to]) && char.IsLetterOrDigit(text[to - 1]);

    private static int WordAt(int[] starts, int at)
    {
        var found = Array.BinarySearch(starts, at);
        return found >= 0 ? found : ~found - 1;
    }

    private static IEnumerable<Shaped> Identifiers(TextLine line, string? schemeCode)
    {
        if (CheckSchemes.Find(schemeCode) is not { } scheme)
            yield break;
        for (var at = 0; at < line.Words.Count; at++)
        for (var count = Math.Min(MostWords, line.Words.Count - at); count > 0; count--)
        {
            var raw = string.Join(' ', line.Words.Skip(at).Take(count).Select(w => w.Text)).Trim('.', ',', ':', ';', '(', ')');
            if (raw.Length > CheckScheme.Longest || !raw.Any(char.IsAsciiDigit))
                continue;
            var compact = CheckScheme.Compact(raw);
            if (compact.Length < ShortestIdentifier || !compact.All(char.IsAsciiLetterOrDigit) || scheme.Problem(compact) is not null)
                continue;
            yield return new Shaped(new WordRun(line, at, at + count, 0), raw);
            at += count - 1;
            break;
        }
    }

    [GeneratedRegex(
        @"(?:\d{4}-\d{1,2}-\d{1,2}|\d{1,2}\s?[./-]\s?\d{1,2}\s?[./-]\s?\d{2,4}|"
            + @"\d{1,2}(?:\.|st|nd|rd|th)?\s\p{L}{3,12}\.?,?\s\d{4}|\p{L}{3,12}\s\d{1,2},\s\d{4})",
        RegexOptions.NonBacktracking
    )]
    private static partial Regex Date();

    // With a point between, only what says that it is a time: 12.03 may be a day.
    [GeneratedRegex(
        @"(?:[01]?\d|2[0-3])(?:\s?[:h]\s?[0-5]\d(?:\s?[AaPp]\.?\s?[Mm]\.?)?" + @"|\.[0-5]\d\s?(?:[AaPp]\.?\s?[Mm]\.?|Uhr|hrs?|h))",
        RegexOptions.NonBacktracking
    )]
    private static partial Regex Time();

    [GeneratedRegex(@"[-+]?\d{1,3}(?:[ ,.']\d{3})+(?:[.,]\d+)?|[-+]?\d+(?:[.,]\d+)?", RegexOptions.NonBacktracking)]
    private static partial Regex Number();

    [GeneratedRegex(@"[-+]?(?:\d{1,3}(?:[ ,.']\d{3})+|\d+)[.,]\d{2}", RegexOptions.NonBacktracking)]
    private static partial Regex Amount();

    [GeneratedRegex(@"^[-+\d.,' ]+$", RegexOptions.NonBacktracking)]
    private static partial Regex Digits();
}
