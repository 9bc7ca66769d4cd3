using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>What rules with two limits share.</summary>
internal static class Within
{
    public static string? Finding(RuleParameter least, RuleParameter most, Rule rule, bool crossed) =>
        (least.Text(rule), most.Text(rule)) is var (from, to) && from.Length == 0 && to.Length == 0 ? "Write at least one limit."
        : from.Length > 0 && to.Length > 0 && crossed ? $"Nothing lies from {from} to {to}."
        : null;

    /// <summary>What is wrong with the limits of a count: whole numbers from 0 on.</summary>
    public static string? CountFinding(NumberBlank least, NumberBlank most, Rule rule)
    {
        foreach (var blank in new[] { least, most })
            if (blank.Text(rule).Length > 0 && blank.Count(rule) is not >= 0)
                return $"“{blank.Text(rule)}” is not a count; write a whole number from 0 on.";
        return Finding(least, most, rule, least.Of(rule) > most.Of(rule));
    }

    public static string Words(RuleParameter least, RuleParameter most, Rule rule) =>
        RangedField.InWords(least.Text(rule), most.Text(rule));

    public static string Signs(RuleParameter least, RuleParameter most, Rule rule) =>
        least.Text(rule).Length == 0 ? $"≤ {most.Text(rule)}"
        : most.Text(rule).Length == 0 ? $"≥ {least.Text(rule)}"
        : $"{least.Text(rule)} – {most.Text(rule)}";
}

/// <summary>A number or date lies outside its limits.</summary>
public sealed record NotWithin(string Label, string Limits) : ProblemKind("not-within")
{
    internal override string In(string language) =>
        language switch
        {
            "de" => $"{Label} muss in {Limits} liegen.",
            "fr" => $"{Label} doit être dans {Limits}.",
            _ => $"{Label} must be within {Limits}.",
        };
}
