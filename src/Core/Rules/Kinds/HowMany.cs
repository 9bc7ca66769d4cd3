using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A table has so many rows, or a field so many terms.</summary>
public sealed class HowMany : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Rows or terms of", FieldKinds.Counted);
    private static readonly NumberBlank Least = new("least", "from");
    private static readonly NumberBlank Most = new("most", "to");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "how-many";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A table has so many rows, a field so many terms";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Least, Most];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{Subject.LabelIn(rule, type)} has {Within.Signs(Least, Most, rule)} "
        + $"{(Subject.In(rule, type)?.Kind.HasRows == true ? "rows" : "terms")}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => Within.CountFinding(Least, Most, rule);

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var (least, most) = (Least.Of(rule) ?? 0, Most.Of(rule) ?? int.MaxValue);
        var label = Subject.LabelIn(rule, scope.Type);
        return (record, _) =>
        {
            if (record[at].State == ValueState.Unreadable)
                return null;
            var count = record[at].Rows.Length + record[at].Terms.Length;
            return count < least || count > most
                ? rule.Found(new WrongCount(label, count, Within.Signs(Least, Most, rule)), Subject.Of(rule))
                : null;
        };
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        var limits = new JsonObject();
        if (Least.Of(rule) is { } least)
            limits["minItems"] = (int)least;
        if (Most.Of(rule) is { } most)
            limits["maxItems"] = (int)most;
        var said = new JsonObject { ["properties"] = new JsonObject { [Subject.Of(rule)] = limits } };
        if (Least.Of(rule) is > 0)
            said["required"] = new JsonArray(Subject.Of(rule));
        return said;
    }
}

/// <summary>A table or field has more or fewer entries than stated.</summary>
public sealed record WrongCount(string Label, int Count, string Limits) : ProblemKind("how-many")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} hat {Count}, muss aber {Limits} haben.",
            "fr" => $"{Label} en a {Count}, mais doit en avoir {Limits}.",
            _ => $"{Label} has {Count}, but must have {Limits}.",
        };
}
