using System.Globalization;
using System.Text;

namespace ClearLexicon.Core.Fields;

/// <summary>
/// The one reading of numbers that people write: in rules, conditions, searches, tolerances, limits and cleaning. A number is kept with a
/// point and nothing else; what is typed otherwise is read when it can mean one thing only, and refused when it can mean two.
/// </summary>
public static class Numbers
{
    private const int Longest = 60;

    /// <summary>A number as it is kept: digits, a point, a minus in front; null for anything else.</summary>
    public static decimal? Kept(string? text) =>
        decimal.TryParse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
        // What stands behind a NUL would be left out.
        && !text!.Contains('\0', StringComparison.Ordinal)
            ? number
            : null;

    /// <summary>
    /// A number as somebody types it: <c>1,5</c>, <c>1.234,50</c>, <c>12 500</c>, <c>−3</c>. A point alone is the decimal point, as numbers
    /// are shown; a comma alone before three digits can be either sign.
    /// </summary>
    /// <param name="text">What was typed.</param>
    /// <param name="problem">Why it cannot be taken, with what to write instead; null when it can.</param>
    public static decimal? Typed(string text, out string? problem)
    {
        problem = null;
        var bare = text.Trim();
        if (Kept(bare) is { } kept)
            return kept;
        var (points, commas) = (bare.Count('.'), bare.Count(','));
        if (commas == 1 && points == 0 && Separated(bare, '.', ',') is { } whole && Separated(bare, ',', '.') is { } part)
        {
            problem = $"“{bare}” can be {Text(whole)} or {Text(part)}: write one of these.";
            return null;
        }
        var sign = points == 0 && commas == 1 || commas > 0 && bare.LastIndexOf(',') > bare.LastIndexOf('.') && commas == 1 ? ',' : '.';
        // Several points are thousands, and so are several commas.
        if (points > 1 && commas == 0)
            sign = ',';
        var number = Separated(bare, sign, sign == ',' ? '.' : ',');
        if (number is null)
            problem = $"“{bare}” is not a number.";
        return number;
    }

    /// <summary>A number as somebody types it; null when it is none, or could be two.</summary>
    public static decimal? Typed(string text) => Typed(text, out _);

    /// <summary>
    /// A number of a design that an earlier release kept as it was typed: as <see cref="Typed(string)"/> reads it, and where that can be
    /// two, with
    /// commas between thousands, as that release read it.
    /// </summary>
    public static decimal? Stored(string text) => Typed(text) ?? Separated(text.Trim(), '.', ',');

    /// <summary>What was typed as it is kept; unchanged when it is kept already, or cannot be taken.</summary>
    public static string Canonical(string text) =>
        Kept(text.Trim()) is not null ? text.Trim()
        : Typed(text) is { } number ? Text(number)
        : text;

    /// <summary>A number as it is kept and shown.</summary>
    public static string Text(decimal number) => number.ToString("0.#############################", CultureInfo.InvariantCulture);

    /// <summary>Decimal places that a number needs: 1.230 needs two.</summary>
    public static int Places(decimal number)
    {
        // Divided by one with all the zeros there are, a decimal loses those at its end.
        var bare = number / 1.000000000000000000000000000000000m;
        return bare.Scale;
    }

    /// <summary>
    /// A printed number whose decimal sign is known: thousands stand in groups of three, between points, commas, blanks or apostrophes; a
    /// minus stands before or behind it, or it stands in parentheses (as accounts write it).
    /// </summary>
    /// <param name="text">The text, without a currency.</param>
    /// <param name="decimalSign">The decimal sign.</param>
    /// <param name="thousands">The sign that may stand between thousands.</param>
    /// <returns>The number; null when the text is none.</returns>
    public static decimal? Separated(string text, char decimalSign, char thousands) =>
        Plain(text, decimalSign, thousands) is { } plain ? Kept(plain) : null;

    /// <summary>The like as a text with its decimal places as they were printed; null when it is none.</summary>
    public static string? Plain(string text, char decimalSign, char thousands)
    {
        var bare = text.Trim();
        if (bare.Length is 0 or > Longest)
            return null;
        var negative = false;
        if (bare[0] == '(' && bare[^1] == ')')
            (negative, bare) = (true, bare[1..^1].Trim());
        else if (IsMinus(bare[0]))
            (negative, bare) = (true, bare[1..].TrimStart());
        else if (bare[0] == '+')
            bare = bare[1..].TrimStart();
        else if (IsMinus(bare[^1]))
            (negative, bare) = (true, bare[..^1].TrimEnd());
        var number = new StringBuilder(bare.Length + 1);
        // Digits since the last separator of thousands; −1 before the first.
        var (group, separator, decimals, digits) = (-1, '\0', false, 0);
        foreach (var c in bare)
        {
            if (char.IsAsciiDigit(c))
            {
                if (!decimals && group >= 0)
                    group++;
                digits++;
                number.Append(c);
                continue;
            }
            if (decimals || group is >= 0 and not 3)
                return null;
            if (c == decimalSign)
            {
                decimals = true;
                number.Append('.');
                continue;
            }
            // One kind of separator in one number, behind one to three digits.
            var kind =
                char.IsWhiteSpace(c) ? ' '
                : c is '\'' or '’' ? '\''
                : c;
            if (
                kind != thousands && kind is not (' ' or '\'')
                || separator is not '\0' && separator != kind
                || group < 0 && digits is 0 or > 3
            )
                return null;
            (separator, group) = (kind, 0);
        }
        if (digits == 0 || group is >= 0 and not 3 && !decimals || separator != '\0' && number[0] == '0')
            return null;
        if (number[^1] == '.')
            return null;
        if (number[0] == '.')
            number.Insert(0, '0');
        return negative ? "-" + number : number.ToString();
    }

    private static bool IsMinus(char c) => c is '-' or '\u2212' or '\u2012' or '\u2013';
}
