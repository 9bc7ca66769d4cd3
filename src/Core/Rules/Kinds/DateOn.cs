using System.Globalization;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>The days on which a date may fall.</summary>
public enum Day
{
    /// <summary>Monday to Friday.</summary>
    Working,

    /// <summary>Monday to Saturday.</summary>
    NotSunday,

    /// <summary>The first of a month.</summary>
    MonthBegins,

    /// <summary>The last of a month.</summary>
    MonthEnds,

    /// <summary>The first of January, April, July or October.</summary>
    QuarterBegins,

    /// <summary>The last of March, June, September or December.</summary>
    QuarterEnds,

    /// <summary>Monday to Friday, but none of <see cref="CheckContext.Closed"/>.</summary>
    Open,
}

/// <summary>A date falls on a working day, or begins or ends a month or quarter. Days of the Gregorian calendar.</summary>
public sealed class DateOn : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Date", FieldKinds.Days);
    private static readonly ChoiceBlank<Day> On = new(
        "on",
        "falls on",
        (Day.Working, "working-day", "Monday to Friday"),
        (Day.Open, "open-day", "a day on which the office is open"),
        (Day.NotSunday, "not-sunday", "Monday to Saturday"),
        (Day.MonthBegins, "month-begins", "the first day of a month"),
        (Day.MonthEnds, "month-ends", "the last day of a month"),
        (Day.QuarterBegins, "quarter-begins", "the first day of a quarter"),
        (Day.QuarterEnds, "quarter-ends", "the last day of a quarter")
    );

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "date-on";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A date is a working day, or begins or ends a month or quarter";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, On];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{Subject.LabelIn(rule, type)} falls on {On.Words(rule)}";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var on = On.Of(rule);
        var label = Subject.LabelIn(rule, scope.Type);
        return (record, now) =>
            record[at].IsGood && (!Falls(record[at].Date, on) || on == Day.Open && now.Closed.Contains(record[at].Date))
                ? rule.Found(new OnAnotherDay(label, Written(record[at].Date), on), Subject.Of(rule))
                : null;
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var right = Enumerable.Range(0, 366).Select(new DateOnly(2024, 1, 1).AddDays).First(d => Falls(d, On.Of(rule)));
        yield return (Subject.Of(rule), Written(right));
        yield return (Subject.Of(rule), Written(Enumerable.Range(1, 7).Select(right.AddDays).First(d => !Falls(d, On.Of(rule)))));
    }

    private static bool Falls(DateOnly date, Day on) =>
        on switch
        {
            Day.Working or Day.Open => date.DayOfWeek is not (DayOfWeek.Saturday or DayOfWeek.Sunday),
            Day.NotSunday => date.DayOfWeek != DayOfWeek.Sunday,
            Day.MonthBegins => date.Day == 1,
            Day.MonthEnds => date.Day == DateTime.DaysInMonth(date.Year, date.Month),
            Day.QuarterBegins => date is { Day: 1, Month: 1 or 4 or 7 or 10 },
            _ => date is { Day: 31, Month: 3 or 12 } or { Day: 30, Month: 6 or 9 },
        };

    private static string Written(DateOnly date) => date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
}

/// <summary>A date falls on another day than stated.</summary>
public sealed record OnAnotherDay(string Label, string Date, Day On) : ProblemKind("date-on")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label}: {Date} ist nicht {German[(int)On]}.",
            "fr" => $"{Label} : {Date} n’est pas {French[(int)On]}.",
            _ => $"{Label}: {Date} is not {English[(int)On]}.",
        };

    private static readonly string[] English =
    [
        "a day from Monday to Friday",
        "a day from Monday to Saturday",
        "the first day of a month",
        "the last day of a month",
        "the first day of a quarter",
        "the last day of a quarter",
        "a day on which the office is open",
    ];

    private static readonly string[] German =
    [
        "ein Tag von Montag bis Freitag",
        "ein Tag von Montag bis Samstag",
        "der erste Tag eines Monats",
        "der letzte Tag eines Monats",
        "der erste Tag eines Quartals",
        "der letzte Tag eines Quartals",
        "ein Tag, an dem das Amt geöffnet ist",
    ];

    private static readonly string[] French =
    [
        "un jour du lundi au vendredi",
        "un jour du lundi au samedi",
        "le premier jour d’un mois",
        "le dernier jour d’un mois",
        "le premier jour d’un trimestre",
        "le dernier jour d’un trimestre",
        "un jour d’ouverture du bureau",
    ];
}
