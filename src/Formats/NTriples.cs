using System.Globalization;
using System.Text;

namespace ClearLexicon.Formats;

/// <summary>One statement of an RDF graph.</summary>
/// <param name="Subject">Address of what it is about, or a blank node <c>_:x</c>.</param>
/// <param name="Predicate">Address of the property.</param>
/// <param name="Value">Address, blank node, or the literal's text.</param>
/// <param name="Language">Language of a literal (BCP 47); empty for a literal without one; null when the value is an address.</param>
public readonly record struct Triple(string Subject, string Predicate, string Value, string? Language);

/// <summary>Reads lines of N-Triples (W3C Recommendation “RDF 1.1 N-Triples”), each by itself, so that a broken one can be named.</summary>
public static class NTriples
{
    /// <summary>Reads one line.</summary>
    /// <param name="line">The line without its end.</param>
    /// <param name="triple">The statement; undefined when the line has none.</param>
    /// <returns>Null when the line is a statement, blank or a comment; otherwise why it is broken.</returns>
    public static string? Read(string line, out Triple? triple)
    {
        triple = null;
        var at = 0;
        Skip(line, ref at);
        if (at == line.Length || line[at] == '#')
            return null;
        if (Node(line, ref at) is not { } subject)
            return "its subject is not an address";
        Skip(line, ref at);
        if (Node(line, ref at) is not { } predicate)
            return "its property is not an address";
        Skip(line, ref at);
        string? value,
            language = null;
        if (at < line.Length && line[at] == '"')
        {
            value = Literal(line, ref at);
            if (value is null)
                return "its text is not closed";
            language = "";
            if (at < line.Length && line[at] == '@')
            {
                var start = ++at;
                while (at < line.Length && (char.IsAsciiLetterOrDigit(line[at]) || line[at] == '-'))
                    at++;
                language = line[start..at].ToLowerInvariant();
            }
            else if (at + 1 < line.Length && line[at] == '^')
            {
                at += 2;
                if (Node(line, ref at) is null)
                    return "its data type is not an address";
            }
        }
        else
            value = Node(line, ref at);
        if (value is null)
            return "its value is neither an address nor a text";
        Skip(line, ref at);
        if (at >= line.Length || line[at] != '.')
            return "it does not end with a full stop";
        triple = new Triple(subject, predicate, value, language);
        return null;
    }

    private static void Skip(string line, ref int at)
    {
        while (at < line.Length && line[at] is ' ' or '\t')
            at++;
    }

    private static string? Node(string line, ref int at)
    {
        if (at >= line.Length)
            return null;
        if (line[at] == '<')
        {
            var end = line.IndexOf('>', at);
            if (end < 0)
                return null;
            var address = line[(at + 1)..end];
            at = end + 1;
            return address.Length == 0 || address.Contains(' ') ? null
                : address.Contains('\\') ? Unescape(address)
                : address;
        }
        if (!line.AsSpan(at).StartsWith("_:"))
            return null;
        var start = at;
        while (at < line.Length && !char.IsWhiteSpace(line[at]))
            at++;
        return line[start..at];
    }

    private static string? Literal(string line, ref int at)
    {
        var start = ++at;
        var escaped = false;
        for (; at < line.Length; at++)
        {
            if (line[at] == '\\')
            {
                escaped = true;
                at++;
                continue;
            }
            if (line[at] != '"')
                continue;
            var text = line[start..at++];
            return escaped ? Unescape(text) : text;
        }
        return null;
    }

    private static string Unescape(string text)
    {
        var plain = new StringBuilder(text.Length);
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] != '\\' || i + 1 >= text.Length)
            {
                plain.Append(text[i]);
                continue;
            }
            var c = text[++i];
            var digits =
                c == 'u' ? 4
                : c == 'U' ? 8
                : 0;
            if (
                digits > 0
                && i + digits < text.Length + 0
                && int.TryParse(
                    text.AsSpan(i + 1, Math.Min(digits, text.Length - i - 1)),
                    NumberStyles.HexNumber,
                    CultureInfo.InvariantCulture,
                    out var code
                )
                && Rune.IsValid(code)
            )
            {
                plain.Append(new Rune(code).ToString());
                i += digits;
            }
            else
                plain.Append(
                    c switch
                    {
                        'n' => '\n',
                        'r' => '\r',
                        't' => '\t',
                        'b' => '\b',
                        'f' => '\f',
                        _ => c,
                    }
                );
        }
        return plain.ToString();
    }
}
