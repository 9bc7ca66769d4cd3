using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>A text has a length within limits, counted in code points as JSON Schema counts.</summary>
public sealed class TextLength : IRuleKind
{
    private const int LongestExample = 2_000;

    private static readonly FieldBlank Subject = new("field", "Text", FieldKinds.Written);
    private static readonly NumberBlank Least = new("least", "from, characters");
    private static readonly NumberBlank Most = new("most", "to, characters");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "length";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A text has a length";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Least, Most];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{Subject.LabelIn(rule, type)} has {Within.Signs(Least, Most, rule)} characters";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => Within.CountFinding(Least, Most, rule);

    /// <inheritdoc/>
    public IEnumerable<Bound> Bounds(Rule rule, TypeFields type, DateOnly today) =>
        Bound.Between(Bound.Length(Subject.Of(rule)), Least.Of(rule), Most.Of(rule));

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var (least, most) = (Least.Of(rule) ?? 0, Most.Of(rule) ?? int.MaxValue);
        var found = rule.Found(new LengthNotWithin(Subject.LabelIn(rule, scope.Type), Within.Signs(Least, Most, rule)), Subject.Of(rule));
        return (record, _) =>
            record[at].IsGood && CodePoints.Count(record[at].Text) is var length && (length < least || length > most) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        var limits = new JsonObject();
        if (Least.Of(rule) is { } least)
            limits["minLength"] = (int)least;
        if (Most.Of(rule) is { } most)
            limits["maxLength"] = (int)most;
        return new JsonObject { ["properties"] = new JsonObject { [Subject.Of(rule)] = limits } };
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        foreach (var (border, outward) in new[] { (Least.Count(rule), -1), (Most.Count(rule), 1) })
            if (border is { } count)
                foreach (var length in new[] { count, count + outward })
                    if (length is > 0 and <= LongestExample)
                        yield return (Subject.Of(rule), new string('x', length));
    }
}

/// <summary>A text has more or fewer characters than stated.</summary>
public sealed record LengthNotWithin(string Label, string Limits) : ProblemKind("length")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss {Limits} Zeichen haben.",
            "fr" => $"{Label} doit avoir {Limits} caractères.",
            _ => $"{Label} must have {Limits} characters.",
        };
}
