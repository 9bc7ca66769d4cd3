using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>A text has a length within limits, counted in code points as JSON Schema counts.</summary>
public sealed class TextLength : IRuleKind
{
    private const int LongestExample = 2_000;

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "length";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A text has a length";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        RuleParameter.Field("Text", FieldKind.Text, FieldKind.Identifier),
        RuleParameter.Number("least", "from, characters"),
        RuleParameter.Number("most", "to, characters"),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{type.LabelOf(rule["field"])} has {Within.Signs(rule["least"], rule["most"])} characters";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => Within.CountFinding(rule);

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var (least, most) = (RuleKinds.Number(rule["least"]) ?? 0, RuleKinds.Number(rule["most"]) ?? int.MaxValue);
        var found = rule.Found("length", rule["field"], scope.Type.LabelOf(rule["field"]), Within.Signs(rule["least"], rule["most"]));
        return (record, _) =>
            record[at].IsGood && CodePoints.Count(record[at].Text) is var length && (length < least || length > most) ? found : null;
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        var limits = new JsonObject();
        if (RuleKinds.Number(rule["least"]) is { } least)
            limits["minLength"] = (int)least;
        if (RuleKinds.Number(rule["most"]) is { } most)
            limits["maxLength"] = (int)most;
        return new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = limits } };
    }

    /// <inheritdoc/>
    public IEnumerable<(string Field, string Text)> BoundaryValues(Rule rule, RuleScope scope)
    {
        foreach (var (border, outward) in new[] { (rule["least"], -1), (rule["most"], 1) })
            if (RuleKinds.Number(border) is { } number)
                foreach (var length in new[] { (int)number, (int)number + outward })
                    if (length is > 0 and <= LongestExample)
                        yield return (rule["field"], new string('x', length));
    }
}
