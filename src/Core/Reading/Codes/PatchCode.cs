namespace ClearLexicon.Core.Reading.Codes;

/// <summary>
/// Patch codes: four thick bars, two of them wide and two narrow, with narrow spaces between. The six orders that this allows are called
/// 1, 2, 3, 4, 6 and T. Widths: narrow 0.08 inch, wide 0.20 inch; bars at least 2 inches long.
/// </summary>
public static class PatchCode
{
    /// <summary>The kind of a patch code on a page.</summary>
    public const string Kind = "Patch code";

    /// <summary>Width of a narrow bar and of a space, in inches.</summary>
    public const double Narrow = 0.08;

    /// <summary>Width of a wide bar, in inches.</summary>
    public const double Wide = 0.20;

    // True for a wide bar, from the top (bars that run across) or from the left (bars that run down).
    private static readonly Dictionary<string, bool[]> Orders = new(StringComparer.Ordinal)
    {
        ["1"] = [true, false, false, true],
        ["2"] = [false, true, false, true],
        ["3"] = [true, false, true, false],
        ["4"] = [false, true, true, false],
        ["6"] = [false, false, true, true],
        ["T"] = [true, true, false, false],
    };

    /// <summary>Names of the six.</summary>
    public static IReadOnlyList<string> Names { get; } = [.. Orders.Keys];

    /// <summary>Which bars of a patch code are wide, from the top or the left.</summary>
    /// <exception cref="KeyNotFoundException">There is no such patch code.</exception>
    public static IReadOnlyList<bool> WideBars(string name) => Orders[name];

    /// <summary>The patch code whose bars and spaces have these widths, in any unit; null when none has.</summary>
    /// <param name="bars">Widths of the bars from the top or the left.</param>
    /// <param name="spaces">Widths of the spaces between them.</param>
    public static string? Read(IReadOnlyList<double> bars, IReadOnlyList<double> spaces)
    {
        if (bars.Count != 4 || spaces.Count != 3 || bars.Concat(spaces).Any(w => !(w > 0)))
            return null;
        var sorted = bars.Order().ToArray();
        var (narrow, wide) = ((sorted[0] + sorted[1]) / 2, (sorted[2] + sorted[3]) / 2);
        var unit = spaces.Average();
        // Ink spreads and light eats into bars, so that a narrow bar and a space may differ, but their sum does not.
        var fits =
            wide / narrow is > 1.7 and < 4
            && sorted[1] < 1.5 * sorted[0]
            && sorted[3] < 1.4 * sorted[2]
            && spaces.Max() < 1.6 * spaces.Min()
            && (narrow + unit) / (wide + unit) is > 0.42 and < 0.75
            && narrow / unit is > 0.4 and < 2.5;
        return fits ? Orders.First(o => o.Value.SequenceEqual(bars.Select(b => b > (narrow + wide) / 2))).Key : null;
    }
}
