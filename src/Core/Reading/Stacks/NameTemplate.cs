using System.Text;
using System.Text.RegularExpressions;

namespace ClearLexicon.Core.Reading.Stacks;

/// <summary>
/// Reads values out of file names and sub-folders. A template is text with field keys in braces: <c>{payer}/{*} {statement-number}.pdf</c>.
/// <c>{*}</c> stands for anything; text must stand as written, capitals aside; a slash divides folder and name.
/// </summary>
public static class NameTemplate
{
    /// <summary>Longest template, and longest path that is read, in characters.</summary>
    public const int Longest = 500;

    /// <summary>Most values of one template.</summary>
    public const int Most = 20;

    /// <summary>What is wrong with a template; null when it can be used.</summary>
    public static string? Finding(string template)
    {
        if (template.Length > Longest)
            return $"The pattern of names is longer than {Longest} characters.";
        var fields = Fields(template);
        return fields is null ? "The pattern of names has a brace that is not opened or not closed."
            : fields.Count > Most ? $"The pattern of names has more than {Most} values."
            : fields.Contains("") ? "In the pattern of names, write a field key or * between the braces."
            : fields.Where(f => f != "*").GroupBy(f => f).Any(g => g.Count() > 1) ? "In the pattern of names a field appears twice."
            : null;
    }

    /// <summary>The keys of the fields in a template in order, <c>*</c> included; null when its braces do not close.</summary>
    public static IReadOnlyList<string>? Fields(string template)
    {
        var fields = new List<string>();
        for (var at = 0; at < template.Length; at++)
        {
            if (template[at] == '}')
                return null;
            if (template[at] != '{')
                continue;
            var close = template.IndexOf('}', at);
            if (close < 0)
                return null;
            fields.Add(template[(at + 1)..close].Trim());
            at = close;
        }
        return fields;
    }

    /// <summary>The values that a path gives, by field key; none when it does not fit the template.</summary>
    /// <param name="template">The template.</param>
    /// <param name="path">Sub-folder and file name with slashes between. A template without a slash is held against the name alone.</param>
    public static IReadOnlyDictionary<string, string> Read(string template, string path)
    {
        var none = new Dictionary<string, string>();
        if (template.Length == 0 || path.Length > Longest || Finding(template) is not null)
            return none;
        var fields = Fields(template)!;
        var regex = new StringBuilder("^");
        var number = 0;
        for (var at = 0; at < template.Length; at++)
        {
            if (template[at] == '{')
            {
                // A value never holds a slash; the last one takes what is left.
                regex.Append(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"(?<v{number++}>[^/]{(fields[number - 1] == "*" ? "*" : "+")}?)"
                );
                at = template.IndexOf('}', at);
            }
            else
                regex.Append(Regex.Escape(template[at].ToString()));
        }
        regex.Append('$');
        var held = template.Contains('/', StringComparison.Ordinal) ? path : path[(path.LastIndexOf('/') + 1)..];
        var match = Regex.Match(
            held,
            regex.ToString(),
            RegexOptions.NonBacktracking | RegexOptions.IgnoreCase | RegexOptions.CultureInvariant,
            TimeSpan.FromSeconds(1)
        );
        if (!match.Success)
            return none;
        return fields
            .Select((f, i) => (Field: f, Text: match.Groups[$"v{i}"].Value.Trim()))
            .Where(v => v.Field != "*" && v.Text.Length > 0)
            .ToDictionary(v => v.Field, v => v.Text, StringComparer.Ordinal);
    }
}
