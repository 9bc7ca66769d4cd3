namespace ClearLexicon.Core.Fields;

/// <summary>Writes numbers of JSON (RFC 8259) without an exponent, exactly: nothing is rounded and nothing becomes 0 that is not.</summary>
public static class JsonNumber
{
    private const int MostDigits = 28;

    /// <summary>
    /// A number without exponent and without zeros at the end of its decimals: <c>1.20e1</c> is <c>12</c>. Null when it has more than 28
    /// digits so written, which a decimal could not hold exactly.
    /// </summary>
    /// <param name="raw">A number by JSON's grammar.</param>
    public static string? Plain(string raw)
    {
        var mark = raw.AsSpan().IndexOfAny('e', 'E');
        var exponent = 0;
        if (
            mark >= 0
            && (
                !int.TryParse(
                    raw.AsSpan(mark + 1),
                    System.Globalization.NumberStyles.AllowLeadingSign,
                    System.Globalization.CultureInfo.InvariantCulture,
                    out exponent
                )
                || Math.Abs(exponent) > 10_000
            )
        )
            return null;
        var mantissa = mark < 0 ? raw : raw[..mark];
        var negative = mantissa[0] == '-';
        if (negative)
            mantissa = mantissa[1..];
        var point = mantissa.IndexOf('.');
        var digits = point < 0 ? mantissa : string.Concat(mantissa.AsSpan(0, point), mantissa.AsSpan(point + 1));
        // Where the point stands among the digits.
        var at = (point < 0 ? digits.Length : point) + exponent;
        var zeros = digits.Length - digits.TrimStart('0').Length;
        (digits, at) = (digits[zeros..].TrimEnd('0'), at - zeros);
        if (digits.Length == 0)
            return "0";
        if (digits.Length > MostDigits || at > MostDigits || at < digits.Length - MostDigits)
            return null;
        var plain =
            at <= 0 ? "0." + new string('0', -at) + digits
            : at >= digits.Length ? digits + new string('0', at - digits.Length)
            : $"{digits.AsSpan(0, at)}.{digits.AsSpan(at)}";
        return negative ? "-" + plain : plain;
    }
}
