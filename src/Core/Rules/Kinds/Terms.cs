using System.Text.Json.Nodes;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Rules;

/// <summary>A term is reviewed, or lies within a branch of its vocabulary.</summary>
public sealed class TermIn : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "term-in";

    /// <inheritdoc/>
    public string Title => "A term is reviewed and lies within a branch";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Term", FieldKind.Term, FieldKind.Terms), new("branch", "within (empty: any reviewed term)", ParameterKind.OptionalText, [])];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => rule["branch"].Length == 0 ? $"{type.LabelOf(rule["field"])} is a reviewed term" : $"{type.LabelOf(rule["field"])} lies within {rule["branch"]}";

    /// <inheritdoc/>
    public Check? Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        if (scope.Vocabularies.GetValueOrDefault(scope.Type.Fields[at].Vocabulary ?? "") is not { } terms) return null;
        var branch = rule["branch"].Length == 0 ? -1 : terms.IndexOfAny(rule["branch"]);
        var label = scope.Type.LabelOf(rule["field"]);
        bool Holds(int term) => rule["branch"].Length == 0 ? term >= 0 && terms.Vocabulary.Terms[term].Status == TermStatus.Current : branch >= 0 && terms.IsWithin(term, branch);
        return (record, _) =>
        {
            if (!record[at].IsGood) return null;
            var good = true;
            if (record[at].Terms.Length == 0) good = Holds(record[at].Term);
            else foreach (var term in record[at].Terms) good &= Holds(term);
            return good ? null : rule.Found(rule["branch"].Length == 0 ? "term-not-reviewed" : "term-not-within", rule["field"], label, record[at].Text, rule["branch"]);
        };
    }
}

/// <summary>A table has so many rows, or a field so many terms.</summary>
public sealed class HowMany : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "how-many";

    /// <inheritdoc/>
    public string Title => "A table has so many rows, a field so many terms";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [RuleParameter.Field("Rows or terms of", FieldKind.Table, FieldKind.Terms), RuleParameter.Number("least", "from"), RuleParameter.Number("most", "to")];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) => $"{type.LabelOf(rule["field"])} has {Within.Signs(rule["least"], rule["most"])} {(type.Find(rule["field"])?.Kind == FieldKind.Table ? "rows" : "terms")}";

    /// <inheritdoc/>
    public string? Fault(Rule rule, TypeFields type) => Within.CountFault(rule);

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var at = scope.Type.OrdinalOf(rule["field"]);
        var (least, most) = (RuleKinds.Number(rule["least"]) ?? 0, RuleKinds.Number(rule["most"]) ?? int.MaxValue);
        var label = scope.Type.LabelOf(rule["field"]);
        return (record, _) =>
        {
            if (record[at].State == ValueState.Unreadable) return null;
            var count = record[at].Rows.Length + record[at].Terms.Length;
            return count < least || count > most ? rule.Found(Code, rule["field"], label, count.ToString(), Within.Signs(rule["least"], rule["most"])) : null;
        };
    }

    /// <inheritdoc/>
    public JsonObject? ToJsonSchema(Rule rule, RuleScope scope)
    {
        var limits = new JsonObject();
        if (RuleKinds.Number(rule["least"]) is { } least) limits["minItems"] = (int)least;
        if (RuleKinds.Number(rule["most"]) is { } most) limits["maxItems"] = (int)most;
        var said = new JsonObject { ["properties"] = new JsonObject { [rule["field"]] = limits } };
        if (RuleKinds.Number(rule["least"]) is > 0) said["required"] = new JsonArray(rule["field"]);
        return said;
    }
}
