namespace ClearLexicon.Core.Fields.CheckDigits;

/// <summary>
/// An organisation's own check digit: the digits before it weighted from the left, summed, and the remainder taken.
/// Described as <c>7 6 5 4 3 2 modulus 11</c>; the word <c>complement</c> takes modulus − remainder instead. Ten is written X.
/// </summary>
public static class HouseScheme
{
    /// <summary>Reads a description.</summary>
    /// <param name="text">Weights, the word modulus and a number, perhaps the word complement.</param>
    /// <param name="scheme">The scheme; null when it cannot be read.</param>
    /// <param name="problem">Why not, in one sentence.</param>
    public static bool TryParse(string text, out CheckScheme? scheme, out string? problem)
    {
        scheme = null;
        var words = text.Split([' ', ',', ':', ';'], StringSplitOptions.RemoveEmptyEntries);
        var at = Array.FindIndex(words, w => w.Equals("modulus", StringComparison.OrdinalIgnoreCase));
        var complement = words.Any(w => w.Equals("complement", StringComparison.OrdinalIgnoreCase));
        if (at < 1 || at + 1 >= words.Length || !int.TryParse(words[at + 1], out var modulus) || modulus is < 2 or > 11)
        {
            problem = "Write the weights, then modulus and a number from 2 to 11: 7 6 5 4 3 2 modulus 11.";
            return false;
        }
        var weights = new int[at];
        for (var i = 0; i < at; i++)
            if (!int.TryParse(words[i], out weights[i]) || weights[i] is < 0 or > 99)
            {
                problem = $"“{words[i]}” is not a weight from 0 to 99.";
                return false;
            }
        problem = null;
        var length = at + 1;
        // A change of d at weight w is noticed when w·d never is a multiple of the modulus for d from 1 to 9.
        var catches = weights.All(w => Enumerable.Range(1, 9).All(d => w * d % modulus != 0));
        scheme = new CheckScheme(
            CheckSchemes.House + " " + text.Trim(),
            "House number",
            $"Own scheme: {text.Trim()}",
            Example(),
            catches,
            Check
        );
        return true;

        int Expected(ReadOnlySpan<char> digits)
        {
            var remainder = Digits.Weighted(digits, weights) % modulus;
            return complement ? (modulus - remainder) % modulus : remainder;
        }

        CheckProblem? Check(string number)
        {
            if (number.Length > 0 && Digits.Only(number.AsSpan(0, number.Length - 1), number.Length - 1) is { } strange)
                return strange;
            return number.Length != length ? Digits.Length(length.ToString(), number.Length) : Digits.Last(number, Expected(number));
        }

        string Example()
        {
            var digits = string.Concat(Enumerable.Range(1, at).Select(i => (char)('0' + i % 10)));
            return digits + (Expected(digits) is 10 ? "X" : Expected(digits).ToString());
        }
    }
}
