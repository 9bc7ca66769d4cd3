using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules;

/// <summary>What rules with two limits share.</summary>
internal static class Within
{
    public static string? Finding(string least, string most, bool crossed) =>
        least.Length == 0 && most.Length == 0 ? "Write at least one limit."
        : least.Length > 0 && most.Length > 0 && crossed ? $"Nothing lies from {least} to {most}."
        : null;

    /// <summary>BoundaryValues of a count: whole numbers from 0 on.</summary>
    public static string? CountFinding(Rule rule)
    {
        foreach (var name in new[] { "least", "most" })
            if (rule[name].Length > 0 && Exact.Count(RuleKinds.Number(rule[name])) is not >= 0)
                return $"“{rule[name]}” is not a count; write a whole number from 0 on.";
        return Finding(rule["least"], rule["most"], RuleKinds.Number(rule["least"]) > RuleKinds.Number(rule["most"]));
    }

    public static string Words(string least, string most) =>
        least.Length == 0 ? $"at {most} or below"
        : most.Length == 0 ? $"at {least} or above"
        : $"from {least} to {most}";

    public static string Signs(string least, string most) =>
        least.Length == 0 ? $"≤ {most}"
        : most.Length == 0 ? $"≥ {least}"
        : $"{least} – {most}";
}
