using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A number is a multiple of a step.</summary>
public sealed class MultipleOf : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Number", Fields.FieldKinds.Numbers);
    private static readonly NumberBlank Step = new("step", "a multiple of");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "multiple-of";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A number is a multiple of a step";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Step];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{Subject.LabelIn(rule, type)} is a multiple of {Step.Text(rule)}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => Step.Of(rule) is > 0 ? null : "a multiple of: write a number above 0.";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var step = Step.Of(rule)!.Value;
        var found = rule.Found(new NotAMultiple(Subject.LabelIn(rule, scope.Type), Step.Text(rule)), Subject.Of(rule));
        return (record, _) => record[at].IsGood && !(Exact.TryRemainder(record[at].Number, step, out var left) && left == 0) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope) =>
        Subject.In(rule, scope.Type)!.Kind.HasCurrency
            ? null
            : new JsonObject { ["properties"] = new JsonObject { [Subject.Of(rule)] = new JsonObject { ["multipleOf"] = Step.Of(rule) } } };

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        var step = Step.Of(rule)!.Value;
        foreach (var times in new[] { 3m, 3.5m })
            if (Exact.TryMultiply(step, times, out var value))
                yield return (Subject.Of(rule), Numbers.Text(value));
    }
}

/// <summary>A number is no multiple of the step.</summary>
public sealed record NotAMultiple(string Label, string Step) : ProblemKind("multiple-of")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss ein Vielfaches von {Step} sein.",
            "fr" => $"{Label} doit être un multiple de {Step}.",
            _ => $"{Label} must be a multiple of {Step}.",
        };
}
