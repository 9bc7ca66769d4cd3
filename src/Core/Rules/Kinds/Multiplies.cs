using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Factors multiply to a product within a tolerance, such as quantity × rate in each row of a table. Holds when any is missing.
/// </summary>
public sealed class Multiplies : IRuleKind
{
    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "multiplies";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Factors multiply to a product";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
    [
        new("factors", "Factors", ParameterKind.Fields, RuleKinds.Numbers, 2),
        new("product", "Product", ParameterKind.Field, RuleKinds.Numbers),
        RuleParameter.Number("tolerance", "Tolerance"),
    ];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{string.Join(" × ", rule.Keys("factors").Select(type.LabelOf))} = {type.LabelOf(rule["product"])}";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var factors = rule.Keys("factors").Select(scope.Type.OrdinalOf).ToArray();
        var at = scope.Type.OrdinalOf(rule["product"]);
        var tolerance = Math.Abs(RuleKinds.Number(rule["tolerance"]) ?? 0);
        var label = scope.Type.LabelOf(rule["product"]);
        var names = string.Join(" × ", rule.Keys("factors").Select(scope.Type.LabelOf));
        return (record, _) =>
        {
            if (!record[at].IsGood)
                return null;
            var product = 1m;
            foreach (var factor in factors)
            {
                if (!record[factor].IsGood)
                    return null;
                if (!Exact.TryMultiply(product, record[factor].Number, out product))
                    return rule.Found(Exact.Code, rule["product"], names);
            }
            return Exact.Distance(product, record[at].Number) <= tolerance
                ? null
                : rule.Found(Code, rule["product"], RuleKinds.Text(product), label, record[at].Text);
        };
    }
}
