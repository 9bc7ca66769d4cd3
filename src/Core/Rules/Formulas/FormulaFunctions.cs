using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules.Formulas;

/// <summary>A function that formulas may call.</summary>
/// <param name="Name">Its name; case does not count.</param>
/// <param name="Least">Least number of arguments.</param>
/// <param name="Most">Most arguments.</param>
/// <param name="Means">What it gives, for the editor's help.</param>
public sealed record FormulaFunction(string Name, int Least, int Most, string Means);

/// <summary>The functions of formulas.</summary>
public static class FormulaFunctions
{
    /// <summary>All, in the order help lists them; Sum and Count take a table or its column.</summary>
    public static IReadOnlyList<FormulaFunction> All { get; } =
    [
        new("IsEmpty", 1, 1, "nothing is there"),
        new("IsFilled", 1, 1, "something is there"),
        new("If", 3, 3, "one of two values by a condition"),
        new("Sum", 1, 1, "sum of a table’s column"),
        new("Count", 1, 1, "rows of a table"),
        new("Abs", 1, 1, "number without its sign"),
        new("Round", 1, 2, "rounded to places"),
        new("Min", 2, 9, "least"),
        new("Max", 2, 9, "greatest"),
        new("Today", 0, 0, "the current date"),
        new("Year", 1, 1, "year of a date"),
        new("Month", 1, 1, "month of a date"),
        new("Day", 1, 1, "day of a date"),
        new("DaysBetween", 2, 2, "days from the first date to the second"),
        new("AddMonths", 2, 2, "date so many months later"),
        new("Length", 1, 1, "number of characters"),
        new("Upper", 1, 1, "capital letters"),
        new("Lower", 1, 1, "small letters"),
        new("Left", 2, 2, "first characters"),
        new("Contains", 2, 2, "text is in text"),
        new("BeginsWith", 2, 2, "text begins with text"),
    ];

    internal static string Finding(string name, int given) =>
        All.FirstOrDefault(f => f.Name.Equals(name, StringComparison.OrdinalIgnoreCase)) is { } known
            ? $"{known.Name} takes {(known.Least == known.Most ? known.Least.ToString() : $"{known.Least} to {known.Most}")} values, "
                + $"not {given}."
            : $"there is no function “{name}”; there are {string.Join(", ", All.Select(f => f.Name))}.";

    internal static Part? Make(string name, Part[] with)
    {
        if (
            All.FirstOrDefault(f => f.Name.Equals(name, StringComparison.OrdinalIgnoreCase)) is not { } known
            || with.Length < known.Least
            || with.Length > known.Most
        )
            return null;
        return known.Name switch
        {
            "IsEmpty" => (r, n) => FormulaValue.Of(with[0](r, n).Kind == FormulaKind.Empty),
            "IsFilled" => (r, n) => FormulaValue.Of(with[0](r, n).Kind != FormulaKind.Empty),
            "If" => FormulaCompiler.If(with[0], with[1], with[2]),
            "Today" => (_, n) => FormulaValue.Of(n.Today),
            "Abs" => One(with[0], FormulaKind.Number, v => FormulaValue.Of(Math.Abs(v.Number))),
            "Round" => One(
                with[0],
                FormulaKind.Number,
                v => FormulaValue.Of(Math.Round(v.Number, 0, MidpointRounding.AwayFromZero)),
                with.Length == 2 ? with[1] : null,
                (v, places) =>
                    places.Number is >= 0 and <= 20
                        ? FormulaValue.Of(Math.Round(v.Number, (int)places.Number, MidpointRounding.AwayFromZero))
                        : FormulaValue.Failed("it rounds to fewer than 0 or more than 20 places")
            ),
            "Min" => Extreme(with, -1),
            "Max" => Extreme(with, 1),
            "Year" => One(with[0], FormulaKind.Date, v => FormulaValue.Of((decimal)Date(v).Year)),
            "Month" => One(with[0], FormulaKind.Date, v => FormulaValue.Of((decimal)Date(v).Month)),
            "Day" => One(with[0], FormulaKind.Date, v => FormulaValue.Of((decimal)Date(v).Day)),
            "DaysBetween" => Two(with, FormulaKind.Date, FormulaKind.Date, (a, b) => FormulaValue.Of(b.Number - a.Number)),
            "AddMonths" => Two(with, FormulaKind.Date, FormulaKind.Number, (a, b) => AddMonths(a, b.Number)),
            "Length" => One(with[0], FormulaKind.Text, v => FormulaValue.Of((decimal)CodePoints.Count(v.Text))),
            "Upper" => One(with[0], FormulaKind.Text, v => FormulaValue.Of(v.Text.ToUpperInvariant())),
            "Lower" => One(with[0], FormulaKind.Text, v => FormulaValue.Of(v.Text.ToLowerInvariant())),
            "Left" => Two(
                with,
                FormulaKind.Text,
                FormulaKind.Number,
                (a, b) => FormulaValue.Of(CodePoints.First(a.Text, (int)Math.Clamp(b.Number, 0, a.Text.Length)))
            ),
            "Contains" => Two(
                with,
                FormulaKind.Text,
                FormulaKind.Text,
                (a, b) => FormulaValue.Of(a.Text.Contains(b.Text, StringComparison.OrdinalIgnoreCase))
            ),
            "BeginsWith" => Two(
                with,
                FormulaKind.Text,
                FormulaKind.Text,
                (a, b) => FormulaValue.Of(a.Text.StartsWith(b.Text, StringComparison.OrdinalIgnoreCase))
            ),
            _ => null,
        };
    }

    private static FormulaValue AddMonths(in FormulaValue date, decimal months) =>
        Math.Abs(months) <= 120_000 && Exact.AddMonths(Date(date), (int)months) is { } later
            ? FormulaValue.Of(later)
            : FormulaValue.Failed("the date is outside the calendar");

    private static DateOnly Date(in FormulaValue value) => DateOnly.FromDayNumber((int)value.Number);

    private static Part One(
        Part with,
        FormulaKind kind,
        Func<FormulaValue, FormulaValue> give,
        Part? second = null,
        Func<FormulaValue, FormulaValue, FormulaValue>? giveTwo = null
    ) =>
        (r, n) =>
        {
            var value = with(r, n);
            if (value.Kind is FormulaKind.Empty or FormulaKind.Failed)
                return value;
            if (value.Kind != kind)
                return FormulaValue.Failed($"“{value.AsText}” is no {kind.ToString().ToLowerInvariant()}");
            return second is null ? give(value)
                : second(r, n) is { Kind: FormulaKind.Number } other ? giveTwo!(value, other)
                : FormulaValue.Failed("a number is missing");
        };

    private static Part Two(Part[] with, FormulaKind first, FormulaKind second, Func<FormulaValue, FormulaValue, FormulaValue> give) =>
        (r, n) =>
        {
            FormulaValue a = with[0](r, n),
                b = with[1](r, n);
            if (a.Kind is FormulaKind.Empty or FormulaKind.Failed)
                return a;
            if (b.Kind is FormulaKind.Empty or FormulaKind.Failed)
                return b;
            if (a.Kind != first || b.Kind != second)
                return FormulaValue.Failed(
                    $"“{a.AsText}” and “{b.AsText}” are not a {first.ToString().ToLowerInvariant()} and a "
                        + $"{second.ToString().ToLowerInvariant()}"
                );
            return give(a, b);
        };

    private static Part Extreme(Part[] with, int sign) =>
        (r, n) =>
        {
            FormulaValue? best = null;
            foreach (var part in with)
            {
                var value = part(r, n);
                if (value.Kind == FormulaKind.Failed)
                    return value;
                if (value.Kind == FormulaKind.Empty)
                    continue;
                if (best is { } b && b.Kind != value.Kind)
                    return FormulaValue.Failed("numbers and dates cannot be compared");
                if (best is null || value.Number.CompareTo(best.Value.Number) * sign > 0)
                    best = value;
            }
            return best ?? FormulaValue.Empty;
        };
}
