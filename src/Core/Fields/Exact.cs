namespace ClearLexicon.Core.Fields;

/// <summary>
/// Arithmetic whose overflow is an answer and not an exception. Decimals have 28–29 significant digits up to 7.9 × 10²⁸; dates run from
/// 0001-01-01 to 9999-12-31. What leaves these is told as the problem <c>too-large</c>.
/// </summary>
internal static class Exact
{
    /// <summary>Why something cannot be computed, as the end of a sentence.</summary>
    public const string TooLarge = "the number becomes too large";

    /// <summary>Adds; false, and 0, when the sum is too large.</summary>
    public static bool TryAdd(decimal a, decimal b, out decimal sum)
    {
        try
        {
            sum = a + b;
            return true;
        }
        catch (OverflowException)
        {
            sum = 0;
            return false;
        }
    }

    /// <summary>Multiplies; false, and 0, when the product is too large.</summary>
    public static bool TryMultiply(decimal a, decimal b, out decimal product)
    {
        try
        {
            product = a * b;
            return true;
        }
        catch (OverflowException)
        {
            product = 0;
            return false;
        }
    }

    /// <summary>Divides by something other than 0; false, and 0, when the quotient is too large.</summary>
    public static bool TryDivide(decimal a, decimal b, out decimal quotient)
    {
        try
        {
            quotient = a / b;
            return true;
        }
        catch (OverflowException)
        {
            quotient = 0;
            return false;
        }
    }

    /// <summary>The remainder of a division by something other than 0; false, and 0, when it cannot be told.</summary>
    public static bool TryRemainder(decimal a, decimal b, out decimal remainder)
    {
        try
        {
            remainder = a % b;
            return true;
        }
        catch (OverflowException)
        {
            remainder = 0;
            return false;
        }
    }

    /// <summary>The distance of two numbers; null when it is too large.</summary>
    public static decimal? Distance(decimal a, decimal b) => TryAdd(a, -b, out var d) ? Math.Abs(d) : null;

    /// <summary>A date some days later, or earlier; null when it leaves the calendar.</summary>
    public static DateOnly? AddDays(DateOnly date, int days)
    {
        var number = (long)date.DayNumber + days;
        return number >= 0 && number <= DateOnly.MaxValue.DayNumber ? DateOnly.FromDayNumber((int)number) : null;
    }

    /// <summary>
    /// A date some months later, or earlier, on the last day where the month is shorter; null when it leaves the calendar.
    /// </summary>
    public static DateOnly? AddMonths(DateOnly date, int months)
    {
        var month = date.Year * 12L + date.Month - 1 + months;
        return month is >= 12 and < 120_000 ? date.AddMonths(months) : null;
    }

    /// <summary>A number as a count; null when it is no whole number within ±1,000,000,000.</summary>
    public static int? Count(decimal? number) =>
        number is >= -1_000_000_000 and <= 1_000_000_000 && decimal.Truncate(number.Value) == number ? (int)number.Value : null;
}
