using System.Collections.Concurrent;
using System.Text.RegularExpressions;

namespace ClearLexicon.Core.Fields;

/// <summary>
/// Patterns that people write, compiled so that no value can make them run away: .NET's non-backtracking engine takes
/// time linear in the value, but a pattern that repeats repetitions by number can still be wide; so counts inside
/// counts and the length of values are bounded. Measured: at most a few milliseconds a value. What that engine cannot express (look-around,
/// back-references) is refused with its reason.
/// </summary>
public static partial class SafePattern
{
    /// <summary>Longest value that is matched at all; a longer one matches nothing.</summary>
    public const int LongestValue = 2_000;

    /// <summary>Greatest product of counts inside one another; see <see cref="Width"/>.</summary>
    public const int Widest = 60;

    // Counts are multiplied no further than this.
    private const long MostWidth = 1_000_000_000;

    // A last resort that no pattern within the bounds above comes near.
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(1);

    private static readonly ConcurrentDictionary<(string, bool), Regex> Compiled = new();

    /// <summary>Compiles a pattern that must match the whole value.</summary>
    public static bool TryWhole(string pattern, out Regex? regex, out string? problem) =>
        TryCompile(pattern, whole: true, out regex, out problem);

    /// <summary>Compiles a pattern that may match anywhere in the value.</summary>
    public static bool TryAnywhere(string pattern, out Regex? regex, out string? problem) =>
        TryCompile(pattern, whole: false, out regex, out problem);

    /// <summary>Whether a value matches; null when that could not be told within the limit. Never throws.</summary>
    public static bool? Matches(Regex regex, string value)
    {
        if (value.Length > LongestValue)
            return false;
        try
        {
            return regex.IsMatch(value);
        }
        catch (RegexMatchTimeoutException)
        {
            return null;
        }
    }

    /// <summary>
    /// The first part of a value that matches, which is not empty; null when none does or it could not be told. Never throws.
    /// </summary>
    public static string? First(Regex regex, string value)
    {
        if (value.Length > LongestValue)
            return null;
        try
        {
            return regex.Match(value) is { Length: > 0 } match ? match.Value : null;
        }
        catch (RegexMatchTimeoutException)
        {
            return null;
        }
    }

    /// <summary>
    /// The greatest count of a group times the counts inside it, such as 450 for <c>(a{0,50}){0,9}</c>: the engine keeps that
    /// many places in mind at once, and its work grows with the square of it. Characters that may or may not be there, as in
    /// <c>.{0,200}a.{0,200}</c>, count for less.
    /// </summary>
    private static long Width(string pattern)
    {
        long widest = 1,
            open = 0;
        var inside = new Stack<long>();
        long here = 1;
        for (var i = 0; i < pattern.Length; i++)
        {
            var (last, group) = (1L, false);
            switch (pattern[i])
            {
                case '\\':
                    i++;
                    break;
                case '[':
                    while (++i < pattern.Length && pattern[i] != ']')
                        if (pattern[i] == '\\')
                            i++;
                    break;
                case '(':
                    inside.Push(here);
                    here = 1;
                    continue;
                case ')':
                    (last, group) = (here, true);
                    here = inside.TryPop(out var outer) ? outer : 1;
                    break;
            }
            if (Count().Match(pattern, Math.Min(i + 1, pattern.Length)) is { Success: true } count)
            {
                var least = int.Parse(count.Groups["least"].Value, System.Globalization.CultureInfo.InvariantCulture);
                var most = int.TryParse(count.Groups["most"].Value, out var given) ? given : least;
                last = Math.Min(MostWidth, last * Math.Max(1, most));
                open += most - least;
                i += count.Length;
                if (group)
                    widest = Math.Max(widest, last);
            }
            here = Math.Max(here, last);
        }
        // Two and a half characters that may or may not be there weigh as much as a group.
        return Math.Max(widest, open * 2 / 5);
    }

    private static bool TryCompile(string pattern, bool whole, out Regex? regex, out string? problem)
    {
        (regex, problem) = (null, null);
        if (Compiled.TryGetValue((pattern, whole), out regex))
            return true;
        if (pattern.Length > 500)
        {
            problem = "The pattern is longer than 500 characters.";
            return false;
        }
        if (Width(pattern) > Widest)
        {
            problem =
                $"The pattern “{pattern}” counts too far: its counted groups and open counts weigh {Width(pattern)}, and {Widest} is "
                + "the limit for checking that stays fast.";
            return false;
        }
        try
        {
            // The bare pattern first, so that `a)(b` is not made valid by the wrapping group; as it was written, so that positions are its
            // own.
            _ = new Regex(pattern, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant, Limit);
            var dialect = PatternDialect.Read(pattern);
            if (dialect.Problem is not null)
            {
                problem = dialect.Problem;
                return false;
            }
            regex = new Regex(
                whole ? $@"\A(?:{dialect.Net})\z" : dialect.Net,
                RegexOptions.NonBacktracking | RegexOptions.CultureInvariant,
                Limit
            );
            if (Compiled.Count > 2_000)
                Compiled.Clear();
            Compiled[(pattern, whole)] = regex;
            return true;
        }
        catch (RegexParseException e)
        {
            problem = $"The pattern “{pattern}” cannot be read at character {e.Offset + 1}: {Why(e.Error)}.";
            return false;
        }
        catch (RegexMatchTimeoutException)
        {
            problem = "The pattern takes too long to be read.";
            return false;
        }
        catch (NotSupportedException)
        {
            problem = $"The pattern “{pattern}” uses look-around or back-references, which could make checking hang.";
            return false;
        }
    }

    private static string Why(RegexParseError error) =>
        error switch
        {
            RegexParseError.UnterminatedBracket => "a [ is never closed",
            RegexParseError.InsufficientClosingParentheses => "a ( is never closed",
            RegexParseError.InsufficientOpeningParentheses => "a ) closes nothing",
            RegexParseError.QuantifierAfterNothing => "nothing stands before what says how often",
            RegexParseError.NestedQuantifiersNotParenthesized => "it says twice how often",
            RegexParseError.ReversedQuantifierRange => "it says “at least” more often than “at most”",
            RegexParseError.ReversedCharacterRange => "a range of characters ends before it begins",
            RegexParseError.UnescapedEndingBackslash => "a \\ stands at its end",
            RegexParseError.UnrecognizedEscape => "nothing is meant by this letter behind a \\",
            RegexParseError.InvalidUnicodePropertyEscape or RegexParseError.MalformedUnicodePropertyEscape =>
                "there is no such set of characters",
            // The parser's own name for the rest, as the words that it is made of.
            _ => string.Concat(error.ToString().Select((c, i) => i > 0 && char.IsUpper(c) ? $" {char.ToLowerInvariant(c)}" : $"{c}"))
                .ToLowerInvariant(),
        };

    [GeneratedRegex(@"\G\{(?<least>[0-9]{1,6})(?:,(?<most>[0-9]{0,6}))?\}", RegexOptions.CultureInvariant)]
    private static partial Regex Count();
}
