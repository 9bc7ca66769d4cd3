using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A text matches a pattern as a whole. Patterns are checked in linear time, see <see cref="SafePattern"/>.</summary>
public sealed class Pattern : IRuleKind
{
    private static readonly FieldBlank Subject = new("field", "Text", FieldKinds.Written);
    private static readonly TextBlank Form = new("pattern", "pattern", ParameterKind.Pattern);

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "matches";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A text matches a pattern";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Subject, Form];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{Subject.LabelIn(rule, type)} is {PatternPieces.InWords(Form.Of(rule))}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => SafePattern.TryWhole(Form.Of(rule), out _, out var problem) ? null : problem;

    /// <inheritdoc/>
    public IEnumerable<Bound> Bounds(Rule rule, TypeFields type, DateOnly today) =>
        Bound
            .OfPattern(Subject.Of(rule), Form.Of(rule))
            .Select(b => b with { Says = $"{Subject.LabelIn(rule, type)} matches {Form.Of(rule)}" });

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = Subject.At(rule, scope.Type);
        var (matches, example) = FieldChecks.Matcher(Form.Of(rule));
        return (record, _) =>
            record[at].IsGood && !matches(record[at].Text) ? rule.Found(new NotOfForm(record[at].Text, example), Subject.Of(rule)) : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope) =>
        Subject.In(rule, scope.Type) is not TextField || PatternDialect.Read(Form.Of(rule)).Ecma is not { } ecma
            ? null
            : new JsonObject { ["properties"] = new JsonObject { [Subject.Of(rule)] = new JsonObject { ["pattern"] = $"^(?:{ecma})$" } } };

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        if (PatternShape.Parse(Form.Of(rule)) is not { } shape)
            yield break;
        yield return (Subject.Of(rule), shape.Example());
        yield return (Subject.Of(rule), shape.Example() + "0");
        yield return (Subject.Of(rule), shape.Example()[..^1]);
    }
}

/// <summary>A text does not match its pattern, shown in words.</summary>
public sealed record NotOfForm(string Text, string Form) : ProblemKind("pattern")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"„{Text}“ hat nicht die Form {Form}.",
            "fr" => $"« {Text} » n’a pas la forme {Form}.",
            _ => $"“{Text}” does not have the form {Form}.",
        };
}
