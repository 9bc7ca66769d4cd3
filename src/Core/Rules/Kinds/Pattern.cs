using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A text matches a pattern as a whole. Patterns are checked in linear time, see <see cref="SafePattern"/>.</summary>
public sealed class Pattern : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "matches";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A text matches a pattern";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [RuleParameter.Field("Text", FieldKind.Text, FieldKind.Identifier), new("pattern", "pattern", ParameterKind.Pattern, [])];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} is {PatternPieces.InWords(rule["pattern"])}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => SafePattern.TryWhole(rule["pattern"], out _, out var problem) ? null : problem;

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var (matches, example) = FieldChecks.Matcher(rule["pattern"]);
        return (record, _) =>
            record[at].IsGood && !matches(record[at].Text)
                ? rule.Found("pattern", rule["field"], scope.Type.LabelOf(rule["field"]), record[at].Text, example)
                : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope) =>
        scope.Type.Find(rule["field"])!.Kind == FieldKind.Identifier || PatternDialect.Read(rule["pattern"]).Ecma is not { } ecma
            ? null
            : new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = new JsonObject { ["pattern"] = $"^(?:{ecma})$" } } };

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        if (PatternShape.Parse(rule["pattern"]) is not { } shape)
            yield break;
        yield return (rule["field"], shape.Example());
        yield return (rule["field"], shape.Example() + "0");
        yield return (rule["field"], shape.Example()[..^1]);
    }
}
