using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>A table has so many rows, or a field so many terms.</summary>
public sealed class HowMany : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "how-many";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "A table has so many rows, a field so many terms";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        RuleParameter.Field("Rows or terms of", FieldKind.Table, FieldKind.Terms),
        RuleParameter.Number("least", "from"),
        RuleParameter.Number("most", "to"),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{type.LabelOf(rule["field"])} has {Within.Signs(rule["least"], rule["most"])} {(type.Find(rule["field"])?.Kind == FieldKind.Table ? "rows" : "terms")}";

    /// <inheritdoc/>
    public string? Finding(Rule rule, TypeFields type) => Within.CountFinding(rule);

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var (least, most) = (RuleKinds.Number(rule["least"]) ?? 0, RuleKinds.Number(rule["most"]) ?? int.MaxValue);
        var label = scope.Type.LabelOf(rule["field"]);
        return (record, _) =>
        {
            if (record[at].State == ValueState.Unreadable)
                return null;
            var count = record[at].Rows.Length + record[at].Terms.Length;
            return count < least || count > most
                ? rule.Found(Code, rule["field"], label, count.ToString(), Within.Signs(rule["least"], rule["most"]))
                : null;
        };
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        var limits = new JsonObject();
        if (RuleKinds.Number(rule["least"]) is { } least)
            limits["minItems"] = (int)least;
        if (RuleKinds.Number(rule["most"]) is { } most)
            limits["maxItems"] = (int)most;
        var said = new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = limits } };
        if (RuleKinds.Number(rule["least"]) is > 0)
            said["required"] = new JsonArray(rule["field"]);
        return said;
    }
}
