using System.Collections.Concurrent;
using System.Text.RegularExpressions;

namespace ClearLexicon.Core.Schemas;

/// <summary>
/// Patterns that people write, compiled so that no value can make them run away: .NET's non-backtracking engine takes
/// time linear in the value, but a pattern that repeats repetitions by number can still be wide; so counts inside
/// counts and the length of values are bounded. Measured: at most a few milliseconds a value. What that engine cannot express (look-around, back-references) is
/// refused with its reason.
/// </summary>
public static partial class SafePattern
{
    /// <summary>Longest value that is matched at all; a longer one matches nothing.</summary>
    public const int LongestValue = 2_000;

    /// <summary>Greatest product of counts inside one another; see <see cref="Width"/>.</summary>
    public const int Widest = 200;

    // A last resort that no pattern within the bounds above comes near.
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(1);

    private static readonly ConcurrentDictionary<(string, bool), Regex> Compiled = new();

    /// <summary>Compiles a pattern that must match the whole value.</summary>
    public static bool TryWhole(string pattern, out Regex? regex, out string? problem) => TryCompile(pattern, whole: true, out regex, out problem);

    /// <summary>Compiles a pattern that may match anywhere in the value.</summary>
    public static bool TryAnywhere(string pattern, out Regex? regex, out string? problem) => TryCompile(pattern, whole: false, out regex, out problem);

    /// <summary>Whether a value matches; null when that could not be told within the limit. Never throws.</summary>
    public static bool? Matches(Regex regex, string value)
    {
        if (value.Length > LongestValue) return false;
        try { return regex.IsMatch(value); }
        catch (RegexMatchTimeoutException) { return null; }
    }

    /// <summary>
    /// The greatest product of counts that stand inside one another, such as 450 for <c>(a{0,50}){0,9}</c>: the engine keeps
    /// that many places in mind at once.
    /// </summary>
    private static long Width(string pattern)
    {
        long widest = 1;
        var inside = new Stack<long>();
        long here = 1;
        for (var i = 0; i < pattern.Length; i++)
        {
            var last = 1L;
            switch (pattern[i])
            {
                case '\\': i++; break;
                case '[':
                    while (++i < pattern.Length && pattern[i] != ']')
                        if (pattern[i] == '\\') i++;
                    break;
                case '(':
                    inside.Push(here);
                    here = 1;
                    continue;
                case ')':
                    last = here;
                    here = inside.TryPop(out var outer) ? outer : 1;
                    break;
            }
            if (Count().Match(pattern, Math.Min(i + 1, pattern.Length)) is { Success: true } count)
            {
                last *= Math.Max(1, int.Parse(count.Groups["most"].Value is { Length: > 0 } most ? most : count.Groups["least"].Value, System.Globalization.CultureInfo.InvariantCulture));
                i += count.Length;
            }
            here = Math.Max(here, last);
            widest = Math.Max(widest, here);
        }
        return widest;
    }

    private static bool TryCompile(string pattern, bool whole, out Regex? regex, out string? problem)
    {
        problem = null;
        if (Compiled.TryGetValue((pattern, whole), out regex)) return true;
        if (Width(pattern) > Widest) { problem = $"The pattern “{pattern}” counts repetitions inside repetitions up to {Width(pattern)}; {Widest} is the limit for checking that stays fast."; return false; }
        if (pattern.Length > 500) { problem = "The pattern is longer than 500 characters."; return false; }
        try
        {
            // The bare pattern first, so that `a)(b` is not made valid by the wrapping group.
            _ = new Regex(pattern, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant, Limit);
            regex = new Regex(whole ? $@"\A(?:{pattern})\z" : pattern, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant, Limit);
            if (Compiled.Count > 2_000) Compiled.Clear();
            Compiled[(pattern, whole)] = regex;
            return true;
        }
        catch (RegexParseException e)
        {
            problem = $"The pattern “{pattern}” cannot be read at character {e.Offset + 1}: {e.Error}.";
            return false;
        }
        catch (NotSupportedException)
        {
            problem = $"The pattern “{pattern}” looks around or refers back, which could make checking hang; write it without.";
            return false;
        }
    }

    [GeneratedRegex(@"\G\{(?<least>[0-9]{1,6})(?:,(?<most>[0-9]{0,6}))?\}", RegexOptions.CultureInvariant)]
    private static partial Regex Count();
}
