using System.Collections.Concurrent;
using System.Text.RegularExpressions;

namespace ClearLexicon.Core.Schemas;

/// <summary>
/// Patterns that people write, compiled so that no value can make them run away: .NET's non-backtracking engine takes
/// time linear in the value. What that engine cannot express (look-around, back-references) is refused with its reason.
/// </summary>
public static class SafePattern
{
    /// <summary>Longest value that is matched at all; a longer one matches nothing. Keeps one value far below 50 ms even for the widest pattern.</summary>
    public const int LongestValue = 10_000;

    private static readonly ConcurrentDictionary<(string, bool), Regex> Compiled = new();

    /// <summary>Compiles a pattern that must match the whole value.</summary>
    public static bool TryWhole(string pattern, out Regex? regex, out string? problem) => TryCompile(pattern, whole: true, out regex, out problem);

    /// <summary>Compiles a pattern that may match anywhere in the value.</summary>
    public static bool TryAnywhere(string pattern, out Regex? regex, out string? problem) => TryCompile(pattern, whole: false, out regex, out problem);

    private static bool TryCompile(string pattern, bool whole, out Regex? regex, out string? problem)
    {
        problem = null;
        if (Compiled.TryGetValue((pattern, whole), out regex)) return true;
        if (pattern.Length > 500) { problem = "The pattern is longer than 500 characters."; return false; }
        try
        {
            // The bare pattern first, so that `a)(b` is not made valid by the wrapping group.
            _ = new Regex(pattern, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant);
            regex = new Regex(whole ? $@"\A(?:{pattern})\z" : pattern, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant);
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
}
