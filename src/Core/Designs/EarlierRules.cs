using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;

namespace ClearLexicon.Core.Designs;

/// <summary>Carries rules of kinds that earlier designs were written with into the kinds there are now; the rest stays as it is.</summary>
public static class EarlierRules
{
    /// <summary>A design whose rules all have kinds of today.</summary>
    public static DocumentType Upgrade(DocumentType type) =>
        type.Rules.Any(r => RuleKinds.Find(r.Kind) is null) ? type with { Rules = [.. type.Rules.Select(Upgrade)] } : type;

    private static Rule Upgrade(Rule rule) =>
        rule.Kind switch
        {
            "date-not-after" => With(rule, "compare", ("first", rule["first"]), ("how", "at-most"), ("second", rule["second"])),
            "imo-check-digit" => With(rule, "check-digit", ("field", rule["field"]), ("scheme", "imo")),
            "one-filled-when" => With(rule, "filled", ("fields", rule["fields"]), ("how", "one")) with
            {
                When = Condition.When(rule["when"], Operator.Is, rule["is"]),
            },
            _ => rule,
        };

    private static Rule With(Rule rule, string kind, params (string, string)[] parameters) =>
        rule with
        {
            Kind = kind,
            Parameters = parameters.ToDictionary(p => p.Item1, p => p.Item2),
        };
}
