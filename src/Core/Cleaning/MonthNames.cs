using System.Collections.Concurrent;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace ClearLexicon.Core.Cleaning;

/// <summary>
/// Months as people print them: whole or shortened, with a full stop or without, with accents or without, composed or not; days as
/// ordinals.
/// </summary>
internal static partial class MonthNames
{
    private static readonly ConcurrentDictionary<string, Dictionary<string, int>> ByLanguage = new(StringComparer.Ordinal);

    // What the framework's tables do not have.
    private static readonly (string Language, string Name, int Month)[] Others =
    [
        ("de", "Jänner", 1),
        ("de", "Feber", 2),
        ("de", "Mrz", 3),
        ("de", "Sept", 9),
        ("en", "Sept", 9),
        ("fr", "sept", 9),
        ("fr", "fév", 2),
    ];

    /// <summary>
    /// A text and its format with the month's name as two digits and the day without what makes it an ordinal; null when the text names no
    /// month of the language.
    /// </summary>
    /// <param name="text">The printed date, such as <c>1er déc. 2024</c>.</param>
    /// <param name="format">A format with MMM or MMMM.</param>
    /// <param name="language">Code of the language; null for English.</param>
    public static (string Text, string Format)? InDigits(string text, string format, string? language)
    {
        if (!format.Contains("MMM", StringComparison.Ordinal))
            return null;
        var names = ByLanguage.GetOrAdd(language is null or "" ? "en" : language, Names);
        foreach (Match word in Word().Matches(text))
            if (names.TryGetValue(Key(word.Groups["name"].Value), out var month))
                return (
                    Ordinal().Replace(text[..word.Index] + $"{month:00}" + text[(word.Index + word.Length)..], "${day} "),
                    DayDot().Replace(Name().Replace(format, "MM"), "${day} ")
                );
        return null;
    }

    private static Dictionary<string, int> Names(string language)
    {
        var months = (language == "en" ? CultureInfo.InvariantCulture : CultureInfo.GetCultureInfo(language)).DateTimeFormat;
        var names = new Dictionary<string, int>(StringComparer.Ordinal);
        for (var m = 1; m <= 12; m++)
            foreach (
                var list in new[]
                {
                    months.MonthNames,
                    months.MonthGenitiveNames,
                    months.AbbreviatedMonthNames,
                    months.AbbreviatedMonthGenitiveNames,
                }
            )
                names.TryAdd(Key(list[m - 1]), m);
        // The first three letters, where only one month has them.
        foreach (
            var three in names
                .Where(n => n.Key.Length > 3)
                .GroupBy(n => n.Key[..3])
                .Where(g => g.Select(n => n.Value).Distinct().Count() == 1)
                .ToList()
        )
            names.TryAdd(three.Key, three.First().Value);
        foreach (var (of, name, month) in Others)
            if (of == language)
                names.TryAdd(Key(name), month);
        return names;
    }

    private static string Key(string name) => TextCleaning.DropAccents(name.TrimEnd('.')).ToLowerInvariant();

    [GeneratedRegex(@"(?<name>[\p{L}\p{M}]{3,})\.?")]
    private static partial Regex Word();

    // “1er ”, “2nd ”, “5. ” at the beginning of a number of one or two digits.
    [GeneratedRegex(@"(?<![0-9])(?<day>[0-9]{1,2})(?:er|st|nd|rd|th|\.)\s*(?=\s|[0-9])")]
    private static partial Regex Ordinal();

    [GeneratedRegex(@"(?<day>d{1,2})\.\s*")]
    private static partial Regex DayDot();

    [GeneratedRegex("MMMM?")]
    private static partial Regex Name();
}
