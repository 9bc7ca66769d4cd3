namespace ClearLexicon.Core.Reading.Codes;

/// <summary>One element of a GS1 element string.</summary>
/// <param name="Identifier">Its application identifier, e.g. <c>01</c>.</param>
/// <param name="Text">What follows it.</param>
public sealed record CodeElement(string Identifier, string Text);

/// <summary>
/// GS1 element strings (GS1 General Specifications, chapter 3): application identifiers with data, of a fixed length or ended by the
/// character FNC1, which readers give as U+001D. Also their form for people: <c>(01)05901234123457(10)A7</c>.
/// </summary>
public static class ElementStrings
{
    private const char End = '\u001D';

    // Lengths of whole elements, identifier included, by its first two digits: these never need an end (figure 7.8.5-2).
    private static readonly Dictionary<string, int> Fixed = new(StringComparer.Ordinal)
    {
        ["00"] = 20,
        ["01"] = 16,
        ["02"] = 16,
        ["03"] = 16,
        ["04"] = 18,
        ["11"] = 8,
        ["12"] = 8,
        ["13"] = 8,
        ["14"] = 8,
        ["15"] = 8,
        ["16"] = 8,
        ["17"] = 8,
        ["18"] = 8,
        ["19"] = 8,
        ["20"] = 4,
        ["31"] = 10,
        ["32"] = 10,
        ["33"] = 10,
        ["34"] = 10,
        ["35"] = 10,
        ["36"] = 10,
        ["41"] = 16,
    };

    /// <summary>Divides an element string.</summary>
    /// <param name="text">What the code holds.</param>
    /// <returns>The elements, or what is wrong with the string, in one clause.</returns>
    public static (IReadOnlyList<CodeElement> Elements, string? Problem) Divide(string text)
    {
        var elements = new List<CodeElement>();
        if (text.StartsWith('('))
            return DivideForPeople(text);
        for (var at = 0; at < text.Length; )
        {
            if (text[at] == End)
            {
                at++;
                continue;
            }
            var digits = IdentifierLength(text.AsSpan(at));
            if (digits == 0 || at + digits > text.Length)
                return (elements, $"there is no application identifier at character {at + 1}");
            var identifier = text.Substring(at, digits);
            int to;
            if (Fixed.TryGetValue(identifier[..2], out var length))
            {
                to = at + length;
                if (to > text.Length || text.AsSpan(at, length).Contains(End))
                    return (elements, $"({identifier}) is too short");
            }
            else
            {
                to = text.IndexOf(End, at);
                to = to < 0 ? text.Length : to;
            }
            var element = new CodeElement(identifier, text[(at + digits)..to]);
            if (Problem(element) is { } problem)
                return (elements, problem);
            elements.Add(element);
            at = to;
        }
        return elements.Count == 0 ? (elements, "it is empty") : (elements, null);
    }

    private static (IReadOnlyList<CodeElement>, string?) DivideForPeople(string text)
    {
        var elements = new List<CodeElement>();
        for (var at = 0; at < text.Length; )
        {
            var close = text.IndexOf(')', at);
            if (text[at] != '(' || close < at + 2 || close - at - 1 != IdentifierLength(text.AsSpan(at + 1)))
                return (elements, $"there is no application identifier at character {at + 1}");
            var next = text.IndexOf('(', close);
            // A bracket that opens no identifier belongs to the data.
            while (
                next >= 0
                && IdentifierLength(text.AsSpan(next + 1)) is var n
                && (n == 0 || next + 1 + n >= text.Length || text[next + 1 + n] != ')')
            )
                next = text.IndexOf('(', next + 1);
            var to = next < 0 ? text.Length : next;
            var element = new CodeElement(text[(at + 1)..close], text[(close + 1)..to]);
            if (Problem(element) is { } problem)
                return (elements, problem);
            elements.Add(element);
            at = to;
        }
        return (elements, null);
    }

    // Two to four digits, told by the first two (figure 7.8.5-1 and the list of identifiers).
    private static int IdentifierLength(ReadOnlySpan<char> text)
    {
        if (text.Length < 2 || !char.IsAsciiDigit(text[0]) || !char.IsAsciiDigit(text[1]))
            return 0;
        var length = text[..2] switch
        {
            "23" or "24" or "25" or "40" or "41" or "42" or "71" => 3,
            "43" or "70" or "72" or "80" or "81" or "82" => 4,
            ['3', >= '1' and <= '6'] or "39" => 4,
            ['0', <= '4'] or ['1', _] or ['2', <= '2'] or "30" or "37" or ['9', _] => 2,
            _ => 0,
        };
        if (text.Length < length)
            return 0;
        for (var i = 2; i < length; i++)
            if (!char.IsAsciiDigit(text[i]))
                return 0;
        return length;
    }

    private static string? Problem(CodeElement element)
    {
        if (element.Text.Length == 0)
            return $"({element.Identifier}) is empty";
        var fixedLength = Fixed.TryGetValue(element.Identifier[..2], out var length);
        if (fixedLength && element.Text.Length != length - element.Identifier.Length)
            return $"({element.Identifier}) has {element.Text.Length} characters, not {length - element.Identifier.Length}";
        if (fixedLength && !element.Text.All(char.IsAsciiDigit))
            return $"({element.Identifier}) holds more than digits";
        return element.Identifier is "00" or "01" or "02" && !HasCheckDigit(element.Text)
            ? $"({element.Identifier}) {element.Text} has a wrong check digit"
            : null;
    }

    // Weights 3 and 1 from the right, the last digit brings the sum to a multiple of ten.
    private static bool HasCheckDigit(string digits)
    {
        var sum = 0;
        for (var i = 0; i < digits.Length; i++)
            sum += (digits[^(i + 1)] - '0') * (i % 2 == 0 ? 1 : 3);
        return sum % 10 == 0;
    }
}
