namespace ClearLexicon.Core.Fields;

/// <summary>What one position of a fixed-length pattern takes.</summary>
public enum Expected : byte
{
    /// <summary>A digit 0–9.</summary>
    Digit,

    /// <summary>A letter A–Z.</summary>
    UpperLetter,

    /// <summary>A letter a–z.</summary>
    LowerLetter,

    /// <summary>Exactly one given character.</summary>
    Literal,
}

/// <summary>
/// A pattern of fixed length read position by position, such as <c>MH-\d{4}-\d{5}</c>. It tells which characters can only
/// be digits, so that look-alikes can be swapped there, and it is faster to match than the general engine.
/// </summary>
public sealed class PatternShape
{
    private readonly (Expected Kind, char Literal)[] _positions;

    private PatternShape((Expected, char)[] positions) => _positions = positions;

    /// <summary>Number of characters of every value that matches.</summary>
    public int Length => _positions.Length;

    /// <summary>What a position, counted from 0, takes.</summary>
    public Expected At(int position) => _positions[position].Kind;

    /// <summary>A value of this shape.</summary>
    public string Example()
    {
        int digits = 0,
            letters = 0;
        return string.Concat(
            _positions.Select(p =>
                p.Kind switch
                {
                    Expected.Digit => (char)('0' + ++digits % 10),
                    Expected.UpperLetter => (char)('A' + letters++ % 26),
                    Expected.LowerLetter => (char)('a' + letters++ % 26),
                    _ => p.Literal,
                }
            )
        );
    }

    /// <summary>Whether a whole value has this shape.</summary>
    public bool Matches(string value)
    {
        if (value.Length != _positions.Length)
            return false;
        for (var i = 0; i < value.Length; i++)
        {
            var (kind, literal) = _positions[i];
            var holds = kind switch
            {
                Expected.Digit => char.IsAsciiDigit(value[i]),
                Expected.UpperLetter => char.IsAsciiLetterUpper(value[i]),
                Expected.LowerLetter => char.IsAsciiLetterLower(value[i]),
                _ => value[i] == literal,
            };
            if (!holds)
                return false;
        }
        return true;
    }

    /// <summary>
    /// Reads a pattern; null when it is not of fixed length or uses more than literals, <c>\d</c>, <c>[0-9]</c>, <c>[A-Z]</c>, <c>[a-z]</c>
    /// and <c>{n}</c>.
    /// </summary>
    public static PatternShape? Parse(string? pattern)
    {
        if (string.IsNullOrEmpty(pattern))
            return null;
        var positions = new List<(Expected, char)>();
        // In .NET \d is any Unicode digit; values are compared with ASCII digits here, which is what identifiers mean.
        for (var i = 0; i < pattern.Length; )
        {
            (Expected, char) one;
            if (Starts(pattern, i, @"\d"))
            {
                one = (Expected.Digit, '\0');
                i += 2;
            }
            else if (Starts(pattern, i, "[0-9]"))
            {
                one = (Expected.Digit, '\0');
                i += 5;
            }
            else if (Starts(pattern, i, "[A-Z]"))
            {
                one = (Expected.UpperLetter, '\0');
                i += 5;
            }
            else if (Starts(pattern, i, "[a-z]"))
            {
                one = (Expected.LowerLetter, '\0');
                i += 5;
            }
            else if (pattern[i] == '\\' && i + 1 < pattern.Length && !char.IsLetterOrDigit(pattern[i + 1]))
            {
                one = (Expected.Literal, pattern[i + 1]);
                i += 2;
            }
            else if (char.IsLetterOrDigit(pattern[i]) || pattern[i] is '-' or '/' or ' ' or '_' or ':' or '#')
            {
                one = (Expected.Literal, pattern[i]);
                i++;
            }
            else
                return null;

            var times = 1;
            if (i < pattern.Length && pattern[i] == '{')
            {
                var end = pattern.IndexOf('}', i);
                if (end < 0 || !int.TryParse(pattern.AsSpan(i + 1, end - i - 1), out times) || times is < 1 or > 100)
                    return null;
                i = end + 1;
            }
            for (var n = 0; n < times; n++)
                positions.Add(one);
            if (positions.Count > 500)
                return null;
        }
        return new PatternShape([.. positions]);
    }

    private static bool Starts(string pattern, int at, string token) => string.CompareOrdinal(pattern, at, token, 0, token.Length) == 0;
}
