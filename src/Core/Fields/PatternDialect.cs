using System.Text;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>
/// A pattern as people write it, put into words that mean the same to .NET's engine and to ECMA-262 (what JSON Schema names): digits are
/// 0–9, word characters are A–Z a–z 0–9 and _, a full stop is any character but an end of line, and a character is a code point.
/// </summary>
/// <param name="Net">For .NET's non-backtracking engine.</param>
/// <param name="Ecma">For ECMA-262 with its Unicode flag; null when it cannot say this.</param>
/// <param name="Problem">Why the pattern cannot be used, in one sentence; null when it can.</param>
public sealed record PatternDialect(string Net, string? Ecma, string? Problem)
{
    private const string Blank = @" \t\n\v\f\r\u00a0\u1680\u2000-\u200a\u2028\u2029\u202f\u205f\u3000\ufeff";
    private const string AnyNet = @"(?:[^\n\r\u2028\u2029\uD800-\uDFFF]|[\uD800-\uDBFF][\uDC00-\uDFFF])";
    private const string EcmaSyntax = @"^$\.*+?()[]{}|/";

    private sealed class Writer
    {
        public StringBuilder Net { get; } = new();

        public StringBuilder Ecma { get; } = new();

        public bool EcmaToo { get; set; } = true;

        public void Both(string text) => Each(text, text);

        public void Each(string net, string? ecma)
        {
            Net.Append(net);
            if (ecma is null)
                EcmaToo = false;
            else
                Ecma.Append(ecma);
        }
    }

    /// <summary>Reads a pattern. What neither engine knows is passed on, so that the engine's own finding names it.</summary>
    public static PatternDialect Read(string pattern)
    {
        if (!Vocabularies.CodePoints.AreSound(pattern.Replace('\0', ' ')))
            return Not("The pattern holds half of a character.");
        var writer = new Writer();
        for (var i = 0; i < pattern.Length; i++)
        {
            var c = pattern[i];
            switch (c)
            {
                case '\\' when i + 1 < pattern.Length:
                    Escape(pattern, ref i, writer);
                    break;
                case '[':
                    if (Class(pattern, ref i, writer) is { } problem)
                        return Not(problem);
                    break;
                case '.':
                    writer.Each(AnyNet, ".");
                    break;
                case '^':
                    writer.Each(@"\A", "^");
                    break;
                case '$':
                    writer.Each(@"\z", "$");
                    break;
                case '(' when i + 1 < pattern.Length && pattern[i + 1] == '?':
                    Group(pattern, ref i, writer);
                    break;
                case ']':
                    writer.Each("]", @"\]");
                    break;
                case '{' when !IsCount(pattern, i):
                    writer.Each(@"\{", @"\{");
                    break;
                case '{':
                    var end = pattern.IndexOf('}', i);
                    writer.Both(pattern[i..(end + 1)]);
                    i = end;
                    break;
                case '}':
                    writer.Each("}", @"\}");
                    break;
                case '/':
                    writer.Each("/", @"\/");
                    break;
                // A pair is one character, also to what repeats it.
                case var _ when char.IsHighSurrogate(c):
                    writer.Each($"(?:{pattern.AsSpan(i, 2)})", pattern.Substring(i, 2));
                    i++;
                    break;
                default:
                    writer.Both(c.ToString());
                    break;
            }
        }
        return new PatternDialect(writer.Net.ToString(), writer.EcmaToo ? writer.Ecma.ToString() : null, null);
    }

    private static PatternDialect Not(string problem) => new("", null, problem);

    private static bool IsCount(string pattern, int at)
    {
        var end = pattern.IndexOf('}', at);
        if (end < 0 || !char.IsAsciiDigit(pattern[at + 1]))
            return false;
        var commas = 0;
        for (var i = at + 1; i < end; i++)
            if (pattern[i] == ',')
                commas++;
            else if (!char.IsAsciiDigit(pattern[i]))
                return false;
        return commas <= 1;
    }

    private static void Escape(string pattern, ref int i, Writer writer)
    {
        var c = pattern[++i];
        switch (c)
        {
            case 'd':
                writer.Both("[0-9]");
                break;
            case 'D':
                writer.Both("[^0-9]");
                break;
            case 'w':
                writer.Both("[A-Za-z0-9_]");
                break;
            case 'W':
                writer.Both("[^A-Za-z0-9_]");
                break;
            case 's':
                writer.Each($"[{Blank}]", @"\s");
                break;
            case 'S':
                writer.Each($"[^{Blank}]", @"\S");
                break;
            case 'A':
                writer.Each(@"\A", "^");
                break;
            case 'z' or 'Z':
                writer.Each(@"\z", "$");
                break;
            case 'p' or 'P':
                Property(pattern, ref i, writer);
                break;
            case 'a':
                writer.Each(@"\a", @"\x07");
                break;
            case 'e':
                writer.Each(@"\e", @"\x1B");
                break;
            case 't' or 'n' or 'r' or 'f' or 'v':
                writer.Both($"\\{c}");
                break;
            case 'x' or 'u' or 'c':
                writer.Both($"\\{c}");
                break;
            // Word boundaries, references and whatever else .NET alone understands so.
            case var _ when char.IsAsciiLetterOrDigit(c):
                writer.Each($"\\{c}", null);
                break;
            case var _ when char.IsHighSurrogate(c):
                writer.Each($"(?:{pattern.AsSpan(i, 2)})", pattern.Substring(i, 2));
                i++;
                break;
            default:
                writer.Each($"\\{c}", EcmaSyntax.Contains(c) ? $"\\{c}" : c.ToString());
                break;
        }
    }

    // General categories of one or two letters mean the same in both; names of blocks do not.
    private static void Property(string pattern, ref int i, Writer writer)
    {
        var end = i + 1 < pattern.Length && pattern[i + 1] == '{' ? pattern.IndexOf('}', i) : -1;
        if (end < 0)
        {
            writer.Each($"\\{pattern[i]}", null);
            return;
        }
        var whole = "\\" + pattern[i..(end + 1)];
        writer.Each(whole, end - i - 2 is 1 or 2 ? whole : null);
        i = end;
    }

    private static void Group(string pattern, ref int i, Writer writer)
    {
        var next = i + 2 < pattern.Length ? pattern[i + 2] : '\0';
        if (next == '#' && pattern.IndexOf(')', i) is > 0 and var end)
        {
            i = end;
            return;
        }
        if (next == ':')
        {
            writer.Both("(?:");
            i += 2;
            return;
        }
        // A name between < and > is the same in both; options, look-around and the rest are not.
        var named = next == '<' && i + 3 < pattern.Length && char.IsLetter(pattern[i + 3]) ? pattern.IndexOf('>', i) : -1;
        if (named > 0)
        {
            writer.Both(pattern[i..(named + 1)]);
            i = named;
            return;
        }
        writer.Each("(?", null);
        i++;
    }

    // From [ to its ]; i is left at the latter. An open one is passed on for the engine to name.
    private static string? Class(string pattern, ref int i, Writer writer)
    {
        var at = i + 1;
        var negated = at < pattern.Length && pattern[at] == '^';
        writer.Both(negated ? "[^" : "[");
        if (negated)
            at++;
        var first = true;
        var afterSet = false;
        for (; at < pattern.Length; at++, first = false)
        {
            var c = pattern[at];
            if (c == ']' && !first)
            {
                writer.Both("]");
                i = at;
                return null;
            }
            if (char.IsSurrogate(c))
                return "A character beyond U+FFFF cannot stand in brackets; write it as one of several, between bars.";
            var set = false;
            switch (c)
            {
                case '\\' when at + 1 < pattern.Length:
                    c = pattern[++at];
                    set = c is 'd' or 'D' or 'w' or 'W' or 's' or 'S' or 'p' or 'P';
                    switch (c)
                    {
                        case 'd':
                            writer.Both("0-9");
                            break;
                        case 'D':
                            writer.Each(@"\u0000-/:-\uFFFF", @"\D");
                            break;
                        case 'w':
                            writer.Both("A-Za-z0-9_");
                            break;
                        case 'W':
                            writer.Each(@"\u0000-/:-@\[-\^`{-\uFFFF", @"\W");
                            break;
                        case 's':
                            writer.Each(Blank, @"\s");
                            break;
                        case 'S':
                            writer.Each(@"\S", @"\S");
                            break;
                        case 'p' or 'P':
                            Property(pattern, ref at, writer);
                            break;
                        case 'b':
                            writer.Each(@"\b", @"\b");
                            break;
                        case 'a':
                            writer.Each(@"\a", @"\x07");
                            break;
                        case 'e':
                            writer.Each(@"\e", @"\x1B");
                            break;
                        case 't' or 'n' or 'r' or 'f' or 'v' or 'x' or 'u' or 'c':
                            writer.Both($"\\{c}");
                            break;
                        case var _ when char.IsAsciiLetterOrDigit(c):
                            writer.Each($"\\{c}", null);
                            break;
                        default:
                            writer.Each($"\\{c}", EcmaSyntax.Contains(c) || c == '-' ? $"\\{c}" : c.ToString());
                            break;
                    }
                    break;
                case '-' when at + 1 < pattern.Length && pattern[at + 1] == '[':
                    // One class without another is a form of .NET alone.
                    writer.Each("-", null);
                    break;
                // Behind a set a dash means itself.
                case '-' when afterSet:
                    writer.Both(@"\-");
                    break;
                case '[' or ']' or '(' or ')' or '{' or '}' or '|' or '/' or '^':
                    writer.Both($"\\{c}");
                    break;
                default:
                    writer.Both(c.ToString());
                    break;
            }
            afterSet = set;
        }
        i = pattern.Length - 1;
        return null;
    }
}
