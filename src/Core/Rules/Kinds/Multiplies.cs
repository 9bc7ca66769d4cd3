using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// Factors multiply to a product within a tolerance, such as quantity × rate in each row of a table. Holds when any is missing.
/// </summary>
public sealed class Multiplies : IRuleKind
{
    private static readonly FieldsBlank Factors = new("factors", "Factors") { FieldKinds = Fields.FieldKinds.Numbers, Least = 2 };
    private static readonly FieldBlank Product = new("product", "Product", Fields.FieldKinds.Numbers);
    private static readonly NumberBlank Tolerance = new("tolerance", "Tolerance");

    /// <summary>Its code in stored rules.</summary>
    public const string Kind = "multiplies";

    /// <inheritdoc/>
    public string Code => Kind;

    /// <inheritdoc/>
    public string Title => "Factors multiply to a product";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } = [Factors, Product, Tolerance];

    /// <inheritdoc/>
    public string Sentence(Rule rule, TypeFields type) =>
        $"{string.Join(" × ", Factors.Of(rule).Select(type.LabelOf))} = {Product.LabelIn(rule, type)}";

    /// <inheritdoc/>
    public Check Compile(Rule rule, RuleScope scope)
    {
        var factors = Factors.Of(rule).Select(scope.Type.OrdinalOf).ToArray();
        var at = Product.At(rule, scope.Type);
        var tolerance = Math.Abs(Tolerance.Of(rule) ?? 0);
        var label = Product.LabelIn(rule, scope.Type);
        var names = string.Join(" × ", Factors.Of(rule).Select(scope.Type.LabelOf));
        return (record, _) =>
        {
            if (!record[at].IsGood)
                return null;
            var product = 1m;
            foreach (var factor in factors)
            {
                if (!record[factor].IsGood)
                    return null;
                if (record[factor].Currency is { } a && record[at].Currency is { } b && a != b)
                    return rule.Found(new CurrenciesDiffer(scope.Type.Fields[factor].Label, label), Product.Of(rule));
                if (!Exact.TryMultiply(product, record[factor].Number, out product))
                    return rule.Found(new TooLarge(names), Product.Of(rule));
            }
            return Exact.Distance(product, record[at].Number) <= tolerance
                ? null
                : rule.Found(new DoesNotMultiply(product, label, record[at].Text), Product.Of(rule));
        };
    }
}

/// <summary>Factors and their product disagree.</summary>
public sealed record DoesNotMultiply(decimal Product, string Label, string Stands) : ProblemKind("multiplies")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"Die Faktoren ergeben {Numbers.Text(Product)}, aber {Label} ist {Stands}.",
            "fr" => $"Les facteurs donnent {Numbers.Text(Product)}, mais {Label} est {Stands}.",
            _ => $"The factors give {Numbers.Text(Product)}, but {Label} is {Stands}.",
        };
}
