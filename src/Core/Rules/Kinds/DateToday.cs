using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>How a date stands to today, or to another date.</summary>
internal enum Stands
{
    NotFuture,
    NotPast,
    Past,
    Future,
    Near,
    NearOther,
}

/// <summary>A date stands to today, or to another date, as stated. Today is the date where the records are kept.</summary>
public sealed class DateToday : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Date", FieldKinds.Days);
    private static readonly ChoiceBlank<Stands> How = new(
        "how",
        "is",
        (Stands.NotFuture, "not-future", "not in the future"),
        (Stands.NotPast, "not-past", "not in the past"),
        (Stands.Past, "past", "in the past"),
        (Stands.Future, "future", "in the future"),
        (Stands.Near, "near", "within so many days of today"),
        (Stands.NearOther, "near-field", "within so many days of the other date")
    );
    private static readonly NumberBlank Days = new("days", "days");
    private static readonly FieldBlank Other = new("other", "other date", FieldKinds.Days) { Least = 0 };

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "date-today";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A date is near today or another date";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, How, Days, Other];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type)
    {
        var name = Subject.LabelIn(rule, type);
        return How.Of(rule) switch
        {
            Stands.Near => $"{name} is within {Days.Text(rule)} days of today",
            Stands.NearOther => $"{name} is within {Days.Text(rule)} days of {Other.LabelIn(rule, type)}",
            _ => $"{name} is {How.Words(rule)}",
        };
    }

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) =>
        How.Of(rule) is Stands.Near or Stands.NearOther && Days.Count(rule) is not >= 0
            ? "days: write how many days apart the dates may be."
        : How.Of(rule) == Stands.NearOther && Other.In(rule, type) is null ? "other date: choose a field."
        : null;

    /// <inheritdoc/>
    public IEnumerable<Bound> Bounds(Rule rule, TypeFields type, DateOnly today) =>
        How.Of(rule) switch
        {
            Stands.NotFuture => Bound.Between(Subject.Of(rule), null, today.DayNumber),
            Stands.Past => Bound.Between(Subject.Of(rule), null, today.DayNumber - 1),
            Stands.NotPast => Bound.Between(Subject.Of(rule), today.DayNumber, null),
            Stands.Future => Bound.Between(Subject.Of(rule), today.DayNumber + 1, null),
            _ => [],
        };

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var other = Other.At(rule, scope.Type);
        var how = How.Of(rule);
        var days = Days.Count(rule) ?? 0;
        var label = Subject.LabelIn(rule, scope.Type);
        var found = rule.Found(
            how switch
            {
                Stands.NotFuture => new InTheFuture(label),
                Stands.NotPast => new InThePast(label),
                Stands.Past => new NotInThePast(label),
                Stands.Future => new NotInTheFuture(label),
                Stands.Near => new NotNearToday(label, days),
                _ => new NotNearOther(label, days, Other.LabelIn(rule, scope.Type)),
            },
            Subject.Of(rule)
        );
        return (record, now) =>
        {
            if (!record[at].IsGood)
                return null;
            var date = record[at].Date;
            if (how == Stands.NearOther)
                return !record[other].IsGood || Math.Abs(date.DayNumber - record[other].Date.DayNumber) <= days ? null : found;
            var apart = date.DayNumber - now.Today.DayNumber;
            var holds = how switch
            {
                Stands.NotFuture => apart <= 0,
                Stands.NotPast => apart >= 0,
                Stands.Past => apart < 0,
                Stands.Future => apart > 0,
                _ => Math.Abs(apart) <= days,
            };
            return holds ? null : found;
        };
    }
}

/// <summary>A date lies after today.</summary>
public sealed record InTheFuture(string Label) : ProblemKind("date-not-future")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} liegt in der Zukunft.",
            "fr" => $"{Label} est dans le futur.",
            _ => $"{Label} is in the future.",
        };
}

/// <summary>A date lies before today.</summary>
public sealed record InThePast(string Label) : ProblemKind("date-not-past")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} liegt in der Vergangenheit.",
            "fr" => $"{Label} est dans le passé.",
            _ => $"{Label} is in the past.",
        };
}

/// <summary>A date does not lie before today.</summary>
public sealed record NotInThePast(string Label) : ProblemKind("date-past")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss in der Vergangenheit liegen.",
            "fr" => $"{Label} doit être dans le passé.",
            _ => $"{Label} must be in the past.",
        };
}

/// <summary>A date does not lie after today.</summary>
public sealed record NotInTheFuture(string Label) : ProblemKind("date-future")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss in der Zukunft liegen.",
            "fr" => $"{Label} doit être dans le futur.",
            _ => $"{Label} must be in the future.",
        };
}

/// <summary>A date lies further from today than so many days.</summary>
public sealed record NotNearToday(string Label, int Days) : ProblemKind("date-near")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss höchstens {Days} Tage von heute entfernt sein.",
            "fr" => $"{Label} doit être à {Days} jours au plus d’aujourd’hui.",
            _ => $"{Label} must be within {Days} days of today.",
        };
}

/// <summary>Two dates lie further apart than so many days.</summary>
public sealed record NotNearOther(string Label, int Days, string Other) : ProblemKind("date-near-field")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss höchstens {Days} Tage von {Other} entfernt sein.",
            "fr" => $"{Label} doit être à {Days} jours au plus de {Other}.",
            _ => $"{Label} must be within {Days} days of {Other}.",
        };
}
